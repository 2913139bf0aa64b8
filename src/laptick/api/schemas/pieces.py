"""Pieces, the ruler, counts and schedules."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from laptick.api.schemas.common import Level, Schema, UtcTime
from laptick.api.schemas.counts import CountsPublic
from laptick.api.schemas.ruler import RulerPublic
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.practice.ladder.standing import BarState


class PieceShort(Schema):
    """A piece on the shelf. ``unit_name``: the half of the tempo's beat, where a bar's own beats are unequal groups of
    it (5/8, 7/8) and the tempo's beat is none of them. ``rhythm``: the strikes of the right and the left hand in its
    first bars, as shares of them; ``unread``: why the score can no longer be read; ``difficulty``: how hard it is to
    join, of 100 (of one hand nothing); ``is_beyond``: whether that is more than its level; ``passed`` of its ``rungs``,
    ``next_words``: the lowest that is not; ``bar_states``: how far every written bar is with both hands."""

    id: int
    title: str
    composer: str
    signature: str
    bars: int
    level: Level
    target_bpm: float
    beat_quarters: str
    beat_name: str
    unit_name: str | None
    hands: list[str]
    takes: int
    rungs: int
    passed: int
    next_words: str | None
    bar_states: list[BarState]
    rhythm: list[list[float]]
    bar_starts: list[float]
    unread: str | None
    difficulty: float | None
    is_beyond: bool
    is_drill: bool


class NoticePublic(Schema):
    kind: Literal["unused", "changed", "guessed"]
    text: str
    measure: str | None
    staff: int | None
    times: int


class MeetingPublic(Schema):
    """Where both hands strike the same note at once."""

    onset_quarters: float
    place_text: str
    right: str
    left: str
    same_key: bool


class DrillMade(Schema):
    """What a drill was made by."""

    kind: str
    title: str
    options: dict[str, str]


class PiecePublic(Schema):
    """``drill``: what it was made by, of a drill; ``meetings``: where the hands meet, of a ratio scale."""

    id: int
    title: str
    composer: str
    filename: str
    level: Level
    target_bpm: float
    start_bpm: int
    beat_quarters: str
    beat_name: str
    unit_name: str | None
    hands: list[str]
    created_at: UtcTime
    notices: list[NoticePublic]
    ruler: RulerPublic
    is_played_as_written: bool
    is_entered: bool
    drill: DrillMade | None
    meetings: list[MeetingPublic]
    metronome_marks: list[int]


class PieceAdded(PiecePublic):
    """``same_file_as``: an earlier piece on the shelf that came from the same file."""

    same_file_as: int | None


class PieceUpdate(Schema):
    level: Level | None = None
    target_bpm: float | None = Field(default=None, ge=MIN_BPM, le=MAX_BPM)


class PiecePage(Schema):
    """``next``: to be asked for as ``after`` for more; ``None``: that is all."""

    items: list[PieceShort]
    next: int | None


class NotationRowPublic(Schema):
    svg: str


class NotationPublic(Schema):
    """The score engraved line by line. ``shares``: the height of every line by its width; ``items``: the notes and
    rests on each, where the page is to be pointed at; ``rows``: the drawings of some, from the ``first`` on."""

    shares: list[float]
    items: list[list[str]]
    first: int
    rows: list[NotationRowPublic]


class DrillChoice(Schema):
    value: str
    words: str


class DrillWith(Schema):
    """An option, by key, with a value."""

    key: str
    value: str


class DrillOption(Schema):
    """``usual``: where it is left out; ``choices``: empty for words of one's own, and for a piece (``of_piece``);
    ``is_needed``: it must be there; ``is_list``: several values, with commas between them; ``only_with``: it counts
    only where another option has a value; ``is_extra``: seldom chosen; ``picks``: bars of the
    piece, or strikes of them."""

    key: str
    words: str
    usual: str
    choices: list[DrillChoice]
    of_piece: bool
    is_needed: bool
    is_list: bool
    only_with: DrillWith | None
    is_extra: bool
    picks: Literal["", "bars", "strikes"]


class DrillKind(Schema):
    """``trains``: what it is for."""

    key: str
    title: str
    trains: str
    options: list[DrillOption]


class DrillCreate(Schema):
    kind: str = Field(max_length=20)
    options: dict[str, Annotated[str, Field(max_length=1000)]] = Field(default={}, max_length=20)


class DrillPublic(Schema):
    """``bars``: how many it has; the ruler and its counts may be of the first of them only."""

    title: str
    bars: int
    sentence: str
    meetings: list[MeetingPublic]
    roots: list[str]
    ruler: RulerPublic
    counts: CountsPublic
