"""The tables of the trade as they are sent: what can be chosen or said, each key with its words."""

from __future__ import annotations

from typing import Literal

from laptick.api.schemas.common import Compound, Density, Level, Schema, Status
from laptick.core.base.activity import Activity
from laptick.core.base.units import LengthNaming
from laptick.core.counting.choices import RestWords
from laptick.core.counting.word_tables import System
from laptick.core.judging.finding import FindingCode
from laptick.core.takes.take_state import TakeState


class LevelWords(Schema):
    key: Level
    words: str


class DensityWords(Schema):
    key: Density
    words: str


class CompoundWords(Schema):
    key: Compound
    words: str


class SystemWords(Schema):
    key: System
    words: str


class RestSchool(Schema):
    key: RestWords
    words: str


class NamingWords(Schema):
    """What a studio calls lengths. ``lengths``: parts of a whole note → its name; ``beats``: what bars can be counted
    in; ``grids``: to what a MIDI file is quantised."""

    key: LengthNaming
    words: str
    lengths: dict[Literal["1", "2", "4", "8", "16"], str]
    beats: dict[Literal["quarter", "half", "eighth", "dotted-quarter", "bar"], str]
    grids: dict[str, str]


class StatusWords(Schema):
    key: Status
    words: str


class StateWords(Schema):
    key: TakeState
    words: str


class ActivityPublic(Schema):
    """``name``: in the middle of a sentence."""

    key: Activity
    title: str
    name: str
    what: str


class FindingWords(Schema):
    """``mark``: what is written beside its place on the ruler."""

    code: FindingCode
    mark: str


class TradePublic(Schema):
    levels: list[LevelWords]
    densities: list[DensityWords]
    compounds: list[CompoundWords]
    systems: list[SystemWords]
    rests: list[RestSchool]
    namings: list[NamingWords]
    statuses: list[StatusWords]
    states: list[StateWords]
    activities: list[ActivityPublic]
    findings: list[FindingWords]
