"""Counts as they are sent."""

from __future__ import annotations

from typing import Literal

from laptick.api.schemas.choices import PieceChoices
from laptick.api.schemas.common import Compound, Density, Kind, Schema
from laptick.core.counting.choices import RestWords
from laptick.core.counting.word_tables import System


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


class UnitChangePublic(Schema):
    """From this bar on another note is counted."""

    onset_quarters: float
    text: str
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
    rests: str


class CountsPublic(Schema):
    """``beats`` and ``groupings``: those in which at least one bar of the piece can be counted."""

    hand: Literal["right", "left", "both"]
    system: System
    rest_words: RestWords
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
    units: list[UnitChangePublic]
    traps: list[TrapPublic]
    worth: list[WorthPublic]


class CountedAnew(Schema):
    """The choices as they are stored now, and the counts by them."""

    choices: PieceChoices
    counts: CountsPublic
