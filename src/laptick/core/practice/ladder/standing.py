"""Where a student stands on a ladder: the rung that is next, what is for today, which bars are known, what a take
counts for, and what a rung that will not go leads to.

Pure functions of a ladder and what its rungs have come to. Source: docs/trade.md 3.3 (a ladder a child would climb;
when joined hands fray).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.activity import Activity
from laptick.core.base.units import Bpm, nearest_mark
from laptick.core.practice.ladder.gates import TRIES_A_DAY, RungState
from laptick.core.practice.ladder.stages import AT_TEMPO, JOINED, Ladder, Rung, Stage
from laptick.core.score.within import Within

#: So many rungs for today, all of one group.
MOST_TODAY = 3

States = Mapping[str, RungState]

_UNTRIED = RungState()


class BarState(StrEnum):
    """Of a bar with both hands: nothing yet, something of it, or known."""

    UNTOUCHED = "untouched"
    BEGUN = "begun"
    KNOWN = "known"


@dataclass(frozen=True, slots=True)
class BarStanding:
    """``elsewhere``: it is known because the same was learnt in another bar."""

    state: BarState
    elsewhere: bool = False


@dataclass(frozen=True, slots=True)
class Played:
    """What a take was of: bars by index, what was done, with which hands (right, left or both); ``within``: only that
    spot of the bars."""

    first: int
    last: int
    activity: Activity
    hands: str
    within: Within | None = None


def next_rung(ladder: Ladder, states: States, day: int) -> Rung | None:
    """The lowest rung that is not passed and may be tried today; ``None``: enough for today, or all is done."""
    return next((rung for rung in ladder.rungs if _is_open(rung, states, day)), None)


def _is_open(rung: Rung, states: States, day: int) -> bool:
    state = states.get(rung.key, _UNTRIED)
    return not state.is_passed and not state.is_enough_on(day) and not _waits(rung, state, day)


def _waits(rung: Rung, state: RungState, day: int) -> bool:
    """Clean today and to be clean on another day."""
    return rung.stage is Stage.TEMPO and day in state.clean_days


def for_today(ladder: Ladder, states: States, day: int) -> list[Rung]:
    """At most three rungs, all in the group of the next one."""
    first = next_rung(ladder, states, day)
    if first is None:
        return []
    above = ladder.rungs[ladder.rungs.index(first) :]
    own = [rung for rung in above if rung.group == first.group and _is_open(rung, states, day)]
    return own[:MOST_TODAY]


def bar_standings(ladder: Ladder, states: States) -> list[BarStanding]:
    """Every written bar of the piece, by what was passed and tried over it, or over one that holds the same."""
    known, known_here, begun = set[int](), set[int](), set[int]()
    is_joined = any(rung.stage in JOINED and rung.hands == "both" for rung in ladder.rungs)
    for rung in ladder.rungs:
        state = states.get(rung.key, _UNTRIED)
        if state.is_passed and rung.activity is Activity.PLAY and (rung.hands == "both" or not is_joined):
            known |= {ladder.same_as[bar] for bar in rung.bars}
            known_here |= set(rung.bars)
        elif state.is_passed or state.tries:
            begun |= {ladder.same_as[bar] for bar in rung.bars}
    found = []
    for bar, same in enumerate(ladder.same_as):
        if same in known:
            found.append(BarStanding(BarState.KNOWN, bar not in known_here))
        else:
            found.append(BarStanding(BarState.BEGUN if same in begun else BarState.UNTOUCHED))
    return found


def start_tempo(ladder: Ladder, rung: Rung, fastest: Mapping[str, Bpm]) -> int:
    """Where a rung that nobody tried begins: its first tempo, and both hands not above what one of them was clean at
    over these bars. ``fastest``: the fastest clean tempo by rung."""
    usual = rung.tempos[0]
    if rung.hands != "both" or rung.activity is not Activity.PLAY:
        return usual
    over = ladder.content(rung)
    limits = [usual, *(bpm for hand in (Stage.RIGHT, Stage.LEFT) if (bpm := _clean_at(ladder, hand, over, fastest)))]
    return nearest_mark(min(limits))


def _clean_at(ladder: Ladder, hand: Stage, over: frozenset[int], fastest: Mapping[str, Bpm]) -> Bpm | None:
    """The fastest clean tempo of a hand alone over some of the bars; the slower, where they differ."""
    own = (rung for rung, content in ladder.alone[hand] if rung.key in fastest and over & content)
    return min((fastest[rung.key] for rung in own), default=None)


# -- what a take counts for ------------------------------------------------------------------------------


def rung_of(ladder: Ladder, played: Played) -> Rung | None:
    """The rung that asks for just this; of several the lowest, and none that is joined in another way."""
    for rung in ladder.rungs:
        if (
            rung.way is None
            and rung.activity is played.activity
            and (rung.first, rung.last, rung.hands, rung.within)
            == (played.first, played.last, played.hands, played.within)
        ):
            return rung
    return None


#: What a clean take of an activity shows to be known, besides what goes by word.
_SHOWN: Mapping[Activity, frozenset[Stage]] = {
    Activity.COUNT: frozenset({Stage.COUNT}),
    Activity.LAP: frozenset({Stage.COUNT, Stage.LAP}),
    Activity.PLAY: frozenset({Stage.HEAR, Stage.COUNT, Stage.LAP, Stage.LINE_UP, Stage.JOIN, Stage.SEAMS}),
}


def ticked_by(ladder: Ladder, played: Played, tried: Rung | None, states: States) -> list[Rung]:
    """The rungs below that a clean take shows to be known: over bars that hold what was played, by hands that played
    it, and no further up the ladder than what was tried."""
    below = ladder.rungs if tried is None else ladder.rungs[: ladder.rungs.index(tried)]
    return [
        rung
        for rung in below
        if rung is not tried
        and rung.way is None
        and not states.get(rung.key, _UNTRIED).is_passed
        and _holds(ladder, played, rung)
        and (tried is not None or rung.last - rung.first <= played.last - played.first)
        and _shows(played, rung)
    ]


def _holds(ladder: Ladder, played: Played, rung: Rung) -> bool:
    """Was all that the rung is of played, there or where the same stands? A spot counts for what lies in it."""
    if played.within is None:
        known = {ladder.same_as[bar] for bar in range(played.first, played.last + 1)}
        return all(ladder.same_as[bar] in known for bar in rung.bars)
    if rung.within is None:
        inner = range(played.first + (played.within.from_quarters > 0), played.last)
        return all(bar in inner for bar in rung.bars)
    begins = (played.first, played.within.from_quarters) <= (rung.first, rung.within.from_quarters)
    return begins and (rung.last, rung.within.to_quarters) <= (played.last, played.within.to_quarters)


def _shows(played: Played, rung: Rung) -> bool:
    if rung.stage is Stage.HEAR:
        return True
    if rung.stage in (Stage.RIGHT, Stage.LEFT):
        return played.activity is Activity.PLAY and played.hands in (rung.hands, "both")
    return rung.stage in _SHOWN[played.activity] and played.hands == rung.hands


# -- a rung that will not go -----------------------------------------------------------------------------


def leads_to(ladder: Ladder, rung: Rung, states: States, day: int) -> Rung | None:
    """Where to go from a rung that had its tries for today: something smaller, by school; ``None``: enough for today.

    *Back*: to the hands alone, then the lap. *Never back*: to smaller pieces with both hands, then the lap. Always to
    fewer bars or a stage further down, with tries left today, so that it comes to an end.
    """
    open_ones = [
        one
        for one in ladder.rungs
        if one is not rung
        and one.activity is not None
        and one.activity is not Activity.COUNT
        and rung.first <= one.first
        and one.last <= rung.last
        and states.get(one.key, _UNTRIED).tries_on(day) < TRIES_A_DAY
        and _is_smaller(one, rung)
    ]
    if not open_ones:
        return None
    goes_back = ladder.school["fray"] == "back"
    return min(open_ones, key=lambda one: (_order(one, goes_back), states.get(one.key, _UNTRIED).tries_on(day)))


def _is_smaller(one: Rung, rung: Rung) -> bool:
    if one.last - one.first < rung.last - rung.first:
        return _rank(one.stage) <= _rank(rung.stage)
    return _rank(one.stage) < _rank(rung.stage)


def _rank(stage: Stage) -> int:
    """How far up a stage is; a seam is joined like any other piece."""
    return list(Stage).index(Stage.JOIN if stage is Stage.SEAMS else stage)


def _order(one: Rung, goes_back: bool) -> tuple[int, int]:
    """Alone before joined, or joined before alone; of joined ones the seam first, then the largest."""
    is_joined = one.stage in JOINED and one.stage not in AT_TEMPO
    size = one.last - one.first
    if one.stage in AT_TEMPO:
        return 3, -size
    if is_joined:
        return (1 if goes_back else 0), (-1000 if one.stage is Stage.SEAMS else -size)
    return (2 if one.stage is Stage.LAP else 0 if goes_back else 1), -size
