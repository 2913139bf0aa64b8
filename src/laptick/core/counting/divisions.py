"""How the beats of a bar are divided: which of a beat's parts must be said so that everything that
happens in it has a place.

A beat is said complete in its own division, holds included (docs/trade.md 2.3): every instant inside it asks
for the coarsest division that holds it. Instants of different divisions together (three against two)
ask for all of them; tuplets that reach over beats ask for their own places only, the beats being kept;
what is finer than the words go makes the next smaller unit the counted one.

Everything here is in ticks, measured from the start of the nominal bar. Source: common practice.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache

from laptick.core.counting.counted_beats import BarBeats, CountedBeat, halved
from laptick.core.counting.word_tables import COMPOUND_ENTRIES, SIMPLE_ENTRIES
from laptick.core.score.hand_line import to_ticks

#: A beat that needs a smaller counted unit.
FINER: tuple[int, ...] = ()

_MOST_HALVINGS = 6


@dataclass(frozen=True, slots=True)
class TickBeat:
    """A counted beat in ticks."""

    start: int
    length: int
    number: str
    is_compound: bool


@dataclass
class BarPlan:
    """How one bar will be said.

    ``grids[i]``: the numbers of equal parts in which beat ``i`` is said, all of them complete.
    ``places[i]``: further places of beat ``i`` (ticks from its start). ``leads``: beat → over how many
    beats a triplet reaches from there; ``covered``: the beats after it that it reaches over.
    """

    beats: tuple[TickBeat, ...]
    grids: list[tuple[int, ...]]
    places: list[tuple[int, ...]]
    is_finer: bool = False
    leads: dict[int, int] = field(default_factory=dict)
    covered: set[int] = field(default_factory=set)
    #: Triplets over several beats are possible, if the strikes on the beats between are another hand's.
    is_doubtful: bool = False

    def finest_part(self) -> int | None:
        """Ticks of the finest native division used (triplets are not native to a simple beat)."""
        parts = [
            beat.length // grid[0]
            for index, (beat, grid) in enumerate(zip(self.beats, self.grids, strict=True))
            if self.is_native(index) and grid[0] > 1
        ]
        return min(parts, default=None)

    def is_native(self, index: int) -> bool:
        """Whether a beat is said in one division of its own kind, and may be made denser."""
        grid = self.grids[index]
        if len(grid) != 1 or self.places[index] or index in self.leads or index in self.covered:
            return False
        return grid[0] in (_NATIVE_COMPOUND if self.beats[index].is_compound else _NATIVE_SIMPLE)

    def densified(self, part: int) -> BarPlan:
        """Every native beat in the finest native division whose parts are not shorter than ``part``."""
        grids = list(self.grids)
        for index, beat in enumerate(self.beats):
            if self.is_native(index):
                natives = _NATIVE_COMPOUND if beat.is_compound else _NATIVE_SIMPLE
                fitting = max(d for d in natives if d == 1 or beat.length >= part * d)
                grids[index] = (max(fitting, grids[index][0]),)
        return replace(self, grids=grids)


#: Divisions of a beat's own kind; the others stay as they are under the denser ways of saying.
_NATIVE_SIMPLE = (1, 2, 4)
_NATIVE_COMPOUND = (1, 3, 6)


def _tick_beats(beats: tuple[CountedBeat, ...], per_quarter: int) -> tuple[TickBeat, ...]:
    return tuple(
        TickBeat(to_ticks(b.start, per_quarter), to_ticks(b.length, per_quarter), b.number, b.is_compound)
        for b in beats
    )


@lru_cache(maxsize=32768)
def plan_bar(
    bar_beats: BarBeats,
    per_quarter: int,
    positions: tuple[int, ...],
    known_leads: frozenset[int] = frozenset(),
) -> BarPlan:
    """The plan of a bar whose events lie at ``positions`` (nominal ticks, in order). Equal bars share one
    plan, which nobody changes. ``known_leads``: beats from which one hand alone plays a triplet over two
    beats, so that strikes on the beats between belong to the other hand."""
    beats = bar_beats.beats
    for halvings in range(_MOST_HALVINGS + 1):
        plan = _try_plan(_tick_beats(beats, per_quarter), positions, known_leads, is_last=halvings == _MOST_HALVINGS)
        if plan is not None:
            plan.is_finer = halvings > 0
            return plan
        beats = halved(beats)
    raise AssertionError("the last try takes every place as it is")


def _try_plan(
    beats: tuple[TickBeat, ...], positions: tuple[int, ...], known_leads: frozenset[int], *, is_last: bool
) -> BarPlan | None:
    inside: list[tuple[int, ...]] = []
    cursor = 0
    for beat in beats:
        end = beat.start + beat.length
        here = []
        while cursor < len(positions) and positions[cursor] < end:
            if positions[cursor] >= beat.start:
                here.append(positions[cursor] - beat.start)
            cursor += 1
        inside.append(tuple(here))
    plan = BarPlan(beats, [], [()] * len(beats))
    _find_leads(plan, inside, known_leads)
    for index, (beat, ticks) in enumerate(zip(beats, inside, strict=True)):
        if index in plan.leads or index in plan.covered:
            plan.grids.append((1,))
            continue
        grids = _grids(ticks, beat.length, beat.is_compound)
        if grids is FINER:
            if not is_last:
                return None
            grids = (1,)
            plan.places[index] = tuple(tick for tick in ticks if tick)
        elif not _is_complete(grids, ticks, inside[index + 1] if index + 1 < len(inside) else (0,)):
            plan.places[index] = tuple(tick for tick in ticks if tick)
            grids = (1,)
        plan.grids.append(grids)
    return plan


@lru_cache(maxsize=8192)
def _grids(ticks: tuple[int, ...], length: int, is_compound: bool) -> tuple[int, ...]:
    """The divisions that hold all of ``ticks``: one native to the words if possible, else several."""
    entries = COMPOUND_ENTRIES if is_compound else SIMPLE_ENTRIES
    parts = [Fraction(tick, length) for tick in ticks if tick]
    for division in entries:
        if all(division % part.denominator == 0 for part in parts):
            return (division,)
    grids = set()
    for part in parts:
        known = next((division for division in entries if division % part.denominator == 0), None)
        if known is None:
            odd = part.denominator
            while odd % 2 == 0:
                odd //= 2
            if odd <= 3 or odd != part.denominator or (is_compound and odd % 3 == 0):
                return FINER
            known = odd
        grids.add(known)
    return tuple(sorted(g for g in grids if not any(other != g and other % g == 0 for other in grids)))


def _is_complete(grids: tuple[int, ...], ticks: tuple[int, ...], following: tuple[int, ...]) -> bool:
    """Odd tuplets are said complete when they fill their beat: begun on it, ended with it, and with more
    than one strike inside. Otherwise they reach over beats, and only their own places are said."""
    if grids[-1] < 5 or grids[-1] % 2 == 0:
        return True
    return 0 in ticks and 0 in following and len(ticks) > 2


#: Triplets may reach over this many beats; the longer reach is tried first.
_REACHES = (4, 2)


def _find_leads(plan: BarPlan, inside: list[tuple[int, ...]], known: frozenset[int]) -> None:
    """Triplets of three equal notes over two or four simple beats."""
    beats = plan.beats
    if not any(
        tick and 3 * tick % beat.length == 0 for beat, ticks in zip(beats, inside, strict=True) for tick in ticks
    ):
        return
    index = 0
    while index < len(beats) - 1:
        reach = next((k for k in _REACHES if _leads(beats, inside, index, k, index in known)), 0)
        if not reach and any(_leads(beats, inside, index, k, True) for k in _REACHES):
            plan.is_doubtful = True
        if reach:
            plan.leads[index] = reach
            plan.covered.update(range(index + 1, index + reach))
        index += max(1, reach)


def _leads(beats: tuple[TickBeat, ...], inside: list[tuple[int, ...]], index: int, reach: int, is_known: bool) -> bool:
    """Whether the stretch is begun, and holds its thirds and nothing else. The beats inside it are not
    begun, unless the triplet is known; one third alone must lie in a beat that is not begun, so that it
    is no triplet of its own."""
    stretch = beats[index : index + reach]
    length = beats[index].length
    if len(stretch) < reach or any(b.is_compound or b.length != length for b in stretch):
        return False
    if length * reach % 3 or not inside[index] or inside[index][0] != 0:
        return False
    thirds = {length * reach // 3, 2 * length * reach // 3}
    found, on_beats = set(), set()
    for step in range(reach):
        for tick in inside[index + step]:
            place = step * length + tick
            if place in thirds:
                found.add(place)
            elif tick == 0:
                on_beats.add(step)
            else:
                return False
    if on_beats != {0} and not is_known:
        return False
    return found == thirds or (reach == 2 and found == {max(thirds)})


def named_division(plan: BarPlan, index: int) -> tuple[int, ...] | None:
    """What a beat's division is for announcing changes: its grids; ``None`` for an undivided beat."""
    if index in plan.covered:
        return None
    if index in plan.leads:
        return (-plan.leads[index],)
    if plan.places[index]:
        return (0,)
    return None if plan.grids[index] == (1,) else plan.grids[index]
