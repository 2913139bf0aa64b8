"""How to count: choices in layers, systems with their words, the playing order, how a file is read."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from laptick.api.schemas.common import Compound, Density, Kind, Level, Schema
from laptick.core.base.units import LengthNaming
from laptick.core.counting.choices import RestWords
from laptick.core.counting.word_tables import System

Name = str
#: A limit that a studio sets: milliseconds, beats a minute or a share; each has a narrower range of its own.
Limit = Annotated[float, Field(ge=0, le=100_000)]
HandKey = Literal["right", "left", "both"]
BeatKey = Literal["quarter", "half", "eighth", "dotted-quarter", "bar"]


class ChoiceLayer(Schema):
    """One layer; what is left out is taken from the layer below. ``words``: entry → its words."""

    system: System | None = None
    density: Density | None = None
    compound: Compound | None = None
    beat: BeatKey | None = None
    grouping: str | None = Field(default=None, max_length=60)
    words: dict[str, Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=16)]] | None = Field(
        default=None, max_length=60
    )
    rests: RestWords | None = None


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
    levels: dict[Level, ChoiceLayer] = Field(default={}, max_length=len(Level))
    length_names: LengthNaming = LengthNaming.AMERICAN
    limits: dict[Level, Annotated[dict[str, Limit], Field(max_length=60)]] = Field(default={}, max_length=len(Level))
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
