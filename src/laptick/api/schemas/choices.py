"""How to count: choices in layers, systems with their words, the playing order, how a file is read."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from laptick.api.schemas.common import Compound, Density, Kind, Level, Schema
from laptick.core.base.units import LengthNaming
from laptick.core.counting.word_tables import System

Name = str
HandKey = Literal["right", "left", "both"]
BeatKey = Literal["quarter", "half", "eighth", "dotted-quarter", "bar"]


class ChoiceLayer(Schema):
    """One layer; what is left out is taken from the layer below. ``words``: entry → its words."""

    system: System | None = None
    density: Density | None = None
    compound: Compound | None = None
    beat: BeatKey | None = None
    grouping: str | None = Field(default=None, max_length=60)
    words: dict[str, list[str]] | None = Field(default=None, max_length=60)


class SyllableChoice(Schema):
    measure: str = Field(max_length=20)
    offset: str = Field(max_length=20)
    hand: HandKey = "both"
    say: str = Field(min_length=1, max_length=16)


class PieceChoices(Schema):
    piece: ChoiceLayer = ChoiceLayer()
    hands: dict[HandKey, ChoiceLayer] = Field(default={}, max_length=3)
    bars: dict[str, ChoiceLayer] = Field(default={}, max_length=4000)
    syllables: list[SyllableChoice] = Field(default=[], max_length=4000)


class StudioChoices(Schema):
    """``limits``: level → limit → value, those that differ from the usual ones; shares as fractions of 1.
    ``voice_language``: in which the counting voice speaks what is not recorded."""

    studio: ChoiceLayer = ChoiceLayer()
    levels: dict[Level, ChoiceLayer] = Field(default={})
    length_names: LengthNaming = LengthNaming.AMERICAN
    limits: dict[Level, dict[str, float]] = Field(default={}, max_length=len(Level))
    voice_language: str = Field(default="en", max_length=12)


class LimitPublic(Schema):
    """A limit and what it usually is at each level."""

    name: str
    words: str
    unit: Literal["%", "ms"]
    low: float
    high: float
    usual: dict[Level, float]


class WordEntry(Schema):
    """What is said for one thing, and other ways that are in use."""

    name: str
    meaning: str
    words: list[str]
    variants: list[list[str]]


class SystemPublic(Schema):
    key: System
    words: str
    entries: list[WordEntry]


class ExampleCount(Schema):
    say: str
    kind: Kind


class ExampleBar(Schema):
    """One bar of the example, counted."""

    signature: str
    counts: list[ExampleCount]


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

    order: list[str] | None = Field(max_length=20_000)


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

    parts: list[str] = Field(default=[], max_length=8)
    staff_hands: dict[str, Literal["right", "left"]] = Field(default={}, max_length=64)
    note_hands: dict[str, Literal["right", "left"]] = Field(default={}, max_length=20_000)
    split_pitch: int | None = Field(default=None, ge=0, le=127)
    grid: str = Field(default="sixteenths", max_length=40)
    line_starts: list[str] = Field(default=[], max_length=4000)
    phrase_starts: list[PhraseStart] = Field(default=[], max_length=4000)
