"""The playing order, phrases and the reading of a file as they are sent and taken."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from laptick.api.schemas.common import Schema


class ProblemPublic(Schema):
    measure: str
    text: str


class BeatPublic(Schema):
    """A beat of a bar: quarters from its start as a fraction, and what it is called."""

    offset: str
    words: str


class BarLikenessPublic(Schema):
    """What an earlier bar has in common with this one."""

    number: str
    place_text: str
    letter: str
    beats: list[BeatPublic]
    begins_line: bool
    same_rhythm_as: str | None
    same_notes_as: str | None
    almost: str | None
    difference: str


class PhraseStart(Schema):
    """Where a phrase begins: a bar's name and quarters from its start as a fraction."""

    measure: str = Field(max_length=40)
    offset: str = Field(max_length=20)


class PhrasePublic(Schema):
    """``same_notes_as``, ``same_rhythm_as``: number of an earlier phrase."""

    number: int
    letter: str
    start: PhraseStart
    start_text: str
    end_text: str
    same_rhythm_as: int | None
    same_notes_as: int | None


class RhythmPublic(Schema):
    """A rhythm of one hand: how it is counted, and where it stands."""

    hand: Literal["right", "left"]
    said: str
    measures: list[str]


class RoadmapPublic(Schema):
    """``order``: bars by name as played. ``is_own``: the teacher's own order, not that of the signs."""

    bars: list[BarLikenessPublic]
    rhythms: list[RhythmPublic]
    phrases: list[PhrasePublic]
    phrases_reason: str
    phrases_are_own: bool
    order: list[str]
    by_signs: list[str]
    is_own: bool
    is_plain: bool
    problems: list[ProblemPublic]


class RoadmapUpdate(Schema):
    """``None``: back to the order of the signs."""

    order: list[Annotated[str, Field(max_length=40)]] | None = Field(max_length=20_000)


class PartPublic(Schema):
    id: str
    name: str
    staves: int
    is_read: bool


class ReadingPublic(Schema):
    parts: list[PartPublic]
    staff_hands: dict[str, Literal["right", "left"]]
    note_hands: dict[str, Literal["right", "left"]]
    split_pitch: int | None
    line_starts: list[str]
    phrase_starts: list[PhraseStart]
    grid: str
    grids: list[str]
    is_midi: bool


class ReadingUpdate(Schema):
    """How the file is read; parts by id, empty: by rule."""

    parts: list[Annotated[str, Field(max_length=60)]] = Field(default=[], max_length=8)
    staff_hands: dict[str, Literal["right", "left"]] = Field(default={}, max_length=64)
    note_hands: dict[str, Literal["right", "left"]] = Field(default={}, max_length=20_000)
    split_pitch: int | None = Field(default=None, ge=0, le=127)
    grid: str = Field(default="sixteenths", max_length=40)
    line_starts: list[Annotated[str, Field(max_length=40)]] = Field(default=[], max_length=4000)
    phrase_starts: list[PhraseStart] = Field(default=[], max_length=4000)
