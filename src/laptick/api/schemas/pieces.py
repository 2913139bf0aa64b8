"""Pieces, the ruler, counts and schedules."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from laptick.api.schemas.choices import PieceChoices
from laptick.api.schemas.common import Compound, Density, Kind, Level, Schema, UtcTime
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.counting.word_tables import System


class RungProgress(Schema):
    key: str
    title: str
    what: str
    takes: int
    clean_in_a_row: int
    clean_needed: int
    state: Literal["untouched", "begun", "steady"]


class PieceShort(Schema):
    """A piece on the shelf."""

    id: int
    title: str
    composer: str
    signature: str
    bars: int
    level: Level
    target_bpm: float
    beat_quarters: str
    beat_name: str
    hands: list[str]
    takes: int
    rungs: list[RungProgress]
    rhythm: list[list[float]]


class NoticePublic(Schema):
    kind: Literal["unused", "changed", "guessed"]
    text: str
    measure: str | None
    staff: int | None
    times: int


class TickPublic(Schema):
    """``depth`` 0 at the bar, one more for every weaker level of the meter."""

    offset_quarters: float
    depth: int


class MeasurePublic(Schema):
    number: str
    pass_number: int
    line: int
    bar_in_line: int
    signature: str
    start_quarters: float
    length_quarters: float
    letter: str
    ticks: list[TickPublic]


class SpanPublic(Schema):
    onset_quarters: float
    length_quarters: float


class RulerPublic(Schema):
    """Everything drawn of a piece but its counts. Positions are quarters from the start of the piece."""

    measures: list[MeasurePublic]
    right: list[SpanPublic]
    left: list[SpanPublic]
    together: list[float]


class PiecePublic(Schema):
    id: int
    title: str
    composer: str
    filename: str
    level: Level
    target_bpm: float
    start_bpm: int
    beat_quarters: str
    beat_name: str
    hands: list[str]
    created_at: UtcTime
    notices: list[NoticePublic]
    ruler: RulerPublic
    is_played_as_written: bool
    is_entered: bool
    rungs: list[RungProgress]
    metronome_marks: list[int]


class PieceAdded(PiecePublic):
    """``same_file_as``: an earlier piece on the shelf that came from the same file."""

    same_file_as: int | None


class PieceUpdate(Schema):
    level: Level | None = None
    target_bpm: float | None = Field(default=None, ge=MIN_BPM, le=MAX_BPM)


class CountPublic(Schema):
    """``measure`` and ``offset`` (a fraction) name the place as choices do; ``is_changed``: the word is a
    teacher's own for just this place."""

    measure: str
    offset: str
    is_changed: bool
    onset_quarters: float
    say: str
    kind: Kind
    is_beat: bool


class SyncopationPublic(Schema):
    onset_quarters: float
    silent_quarters: float
    hand: str
    strength: int
    name: str
    place_text: str
    taught: bool


class RestPublic(Schema):
    """A written silence of a hand: what is said in it, where the hand comes in again (``None``: not any more), and
    what it is good for."""

    onset_quarters: float
    hand: str
    length_name: str
    say: str
    entry_text: str | None
    good_for: str
    place_text: str


class ChangePublic(Schema):
    onset_quarters: float
    before: str
    after: str
    place_text: str


class CellPublic(Schema):
    """A rhythm to be seen as one thing."""

    onset_quarters: float
    end_quarters: float
    hand: str
    name: str
    units: str
    place_text: str


class TrapPublic(Schema):
    onset_quarters: float
    text: str
    place_text: str


class WorthPublic(Schema):
    """What a length is worth in a time signature, in counts (a fraction)."""

    signature: str
    length: str
    counts: str


class SignatureChoices(Schema):
    """The beats and groupings in which bars of one time signature can be counted; ``has_units``: also in units."""

    signature: str
    has_units: bool
    beats: list[str]
    groupings: list[str]


class ReasonsPublic(Schema):
    """Why the piece is counted so, one sentence a choice; empty where there is nothing to choose."""

    system: str
    density: str
    compound: str
    beat: str
    grouping: str


class CountsPublic(Schema):
    """``beats`` and ``groupings``: those in which at least one bar of the piece can be counted."""

    hand: Literal["right", "left", "both"]
    system: System
    density: Density
    compound: Compound
    reasons: ReasonsPublic
    beats: list[str]
    grouping: str
    groupings: list[str]
    signatures: list[SignatureChoices]
    counts: list[CountPublic]
    count_in: list[str]
    syncopations: list[SyncopationPublic]
    cells: list[CellPublic]
    rests: list[RestPublic]
    changes: list[ChangePublic]
    traps: list[TrapPublic]
    worth: list[WorthPublic]


class CountedAnew(Schema):
    """The choices as they are stored now, and the counts by them."""

    choices: PieceChoices
    counts: CountsPublic


class NotationPublic(Schema):
    """The score engraved with the counts under its notes, as SVG."""

    svg: str
