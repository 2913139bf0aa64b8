"""The beat ruler as it is sent."""

from __future__ import annotations

from laptick.api.schemas.common import Schema


class TickPublic(Schema):
    """``depth`` 0 at the bar, one more for every weaker level of the meter."""

    offset_quarters: float
    depth: int


class StrikePublic(Schema):
    """Where in its bar something is struck, exactly and in words."""

    offset: str
    words: str


class MeasurePublic(Schema):
    """``cue``: what is called there, empty for nothing; ``chords``: the symbols that stand in it."""

    number: str
    pass_number: int
    line: int
    bar_in_line: int
    signature: str
    start_quarters: float
    length_quarters: float
    letter: str
    ticks: list[TickPublic]
    cue: str
    chords: list[str]


class SpanPublic(Schema):
    onset_quarters: float
    length_quarters: float
    is_clap: bool = False


class RulerPublic(Schema):
    """Everything drawn of a piece but its counts. Positions are quarters from the start of the piece."""

    measures: list[MeasurePublic]
    right: list[SpanPublic]
    left: list[SpanPublic]
    together: list[float]
