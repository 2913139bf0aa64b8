"""What counting gives: counts, changes of division, and what each bar was counted by."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.units import LengthNaming, Quarters
from laptick.core.counting.choices import BOTH, Resolved
from laptick.core.counting.counted_beats import BarBeats
from laptick.core.counting.divisions import BarPlan
from laptick.core.score.score import Hand, Measure


class Kind(StrEnum):
    STRIKE = "strike"
    HOLD = "hold"
    REST = "rest"


@dataclass(frozen=True, slots=True)
class Count:
    """One said count. ``offset_quarters`` is from the start of the written bar."""

    offset_quarters: Quarters
    say: str
    kind: Kind
    is_beat: bool


@dataclass(frozen=True, slots=True)
class Change:
    """A change of division, announced at its beat; ``is_unit``: of the counted unit instead (see ``unit_changes``)."""

    measure_index: int
    offset_quarters: Quarters
    before: str
    after: str
    is_unit: bool = False


@dataclass(frozen=True)
class CountedBar:
    """What a bar was counted by: choices, beats, plan (``None`` where nothing divides beats)."""

    measure: Measure
    resolved: Resolved
    beats: BarBeats
    plan: BarPlan


@dataclass(frozen=True)
class LineCount:
    """The counts of one line, bar by bar, its changes of division, what each bar was counted by, and what lengths are
    called."""

    bars: tuple[tuple[Count, ...], ...]
    changes: tuple[Change, ...]
    by: tuple[CountedBar, ...]
    naming: LengthNaming = LengthNaming.AMERICAN


#: A count on its way: ticks from the start of the written bar, word, kind, is a beat.
RawCount = tuple[int, str, Kind, bool]


def hand_key(hand: Hand | None) -> str:
    return hand.value if hand else BOTH


#: How a count is written on one line of text.
SHOWN: dict[Kind, str] = {Kind.STRIKE: "{}", Kind.HOLD: "({})", Kind.REST: "[{}]"}


def shown(count: Count) -> str:
    """A count on one line of text: a hold in round brackets, a rest in square ones."""
    return SHOWN[count.kind].format(count.say)
