"""Seams: the ways from one bar into the next, back at a repeat, and between beats where a hand moves; hardest first.

What a seam costs is what the hands have to do on arrival; each leads from where the hand that must move last played to
the first strike after it. A pair of bars that was met before costs less. Source: docs/difficulty.md (ours).
"""

from __future__ import annotations

import itertools
from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.kept import Kept
from laptick.core.base.units import Bpm, Quarters
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.together.costs import WEIGHTS, Item, Reason, Weights
from laptick.core.together.difficulty import USUAL_BPM, points_of, reasons_of
from laptick.core.together.joining import Joined, joined_bars, move_cost
from laptick.core.together.shifts import Manner, Shift, When, positions_of, shifts_of
from laptick.core.together.spans import OCTAVE, Span
from laptick.core.together.windows import Grip, grips_of


class Where(StrEnum):
    BAR_LINE = "bar-line"
    INSIDE = "inside"
    REPEAT = "repeat"


@dataclass(frozen=True, slots=True)
class Spot:
    """A place of the written piece."""

    measure_index: int
    offset_quarters: Quarters


@dataclass(frozen=True, slots=True)
class Seam:
    """``points`` from 0 to 100; ``reasons``, the weightiest first."""

    where: Where
    before: Spot
    to: Spot
    points: float
    reasons: tuple[Reason, ...]
    cost: float


def seams_of(score: Score, quarter_bpm: Bpm = USUAL_BPM, span: Span = OCTAVE, weights: Weights = WEIGHTS) -> list[Seam]:
    """Every seam in played order, each once, the hardest first."""
    return SEAMS.of(score, (quarter_bpm, span, weights), lambda: _seams(score, quarter_bpm, span, weights))


SEAMS: Kept[Score, tuple[Bpm, Span, Weights], list[Seam]] = Kept()


def _seams(score: Score, quarter_bpm: Bpm, span: Span, weights: Weights) -> list[Seam]:
    bars = joined_bars(score, quarter_bpm, span, weights)
    shifts = sorted((s for hand in HANDS for s in shifts_of(score, hand, span)), key=lambda s: s.to.ticks)
    by_bar: dict[int, list[Shift]] = {}
    for shift in shifts:
        by_bar.setdefault(shift.measure_index, []).append(shift)
    letters = [one.same_notes_as if one.same_notes_as is not None else i for i, one in enumerate(bar_likeness(score))]
    order = play_order(score).order
    met: set[tuple[int, int]] = set()
    seen: set[tuple[int, int]] = set()
    found: list[Seam] = []
    for here, after in itertools.pairwise(order):
        if (here, after) in seen:
            continue
        seen.add((here, after))
        if after == here + 1:
            seam = _at_bar_line(score, bars, by_bar.get(after, []), (here, after), weights)
        else:
            seam = _back(score, (here, after), quarter_bpm, span, weights)
        if seam is not None:
            pair = (letters[here], letters[after])
            known = weights.known_notes if pair in met else 1.0
            met.add(pair)
            found.append(_made(seam, known, weights))
    for index in dict.fromkeys(order):
        found += [_made(seam, 1.0, weights) for seam in _inside(score, bars[index], by_bar.get(index, []))]
    return sorted(found, key=lambda seam: (-seam.points, seam.to.measure_index, seam.to.offset_quarters))


@dataclass(frozen=True, slots=True)
class _Arrival:
    """A seam before it is weighed: ``items`` are what the hands have to do."""

    where: Where
    before: Spot
    to: Spot
    items: tuple[Item, ...]


def _made(arrival: _Arrival, known: float, weights: Weights) -> Seam:
    cost = max(0.0, known * sum(item.cost for item in arrival.items))
    points = points_of(cost, weights.seam_scale)
    return Seam(arrival.where, arrival.before, arrival.to, points, reasons_of(arrival.items), cost)


def _at_bar_line(
    score: Score, bars: Sequence[Sequence[Joined]], shifts: Sequence[Shift], way: tuple[int, int], weights: Weights
) -> _Arrival | None:
    here, after = way
    # A bar in which everything is held on is no stop on the way.
    here = next((index for index in range(here, -1, -1) if bars[index]), here)
    if not bars[here] or not bars[after]:
        return None
    first = bars[after][0]
    arriving = [one for one in bars[after] if one.beat == first.beat]
    items = [item for one in arriving if one is first or _begins(one, shifts) for item in one.motion]
    moving = [shift for shift in shifts if any(shift.to.ticks == one.event.ticks for one in arriving)]
    last = bars[here][-1].event
    if score.measures[after].line != score.measures[here].line:
        items.append(Item(Reason.LINE_JUMP, weights.line_jump))
    before = min((_spot_of(score, s.before) for s in moving), key=_key, default=None)
    if before is None or _key(before) > _key(Spot(here, last.offset_quarters)):
        before = Spot(here, last.offset_quarters)
    return _Arrival(Where.BAR_LINE, before, Spot(after, first.event.offset_quarters), tuple(items))


def _begins(one: Joined, shifts: Sequence[Shift]) -> bool:
    return any(shift.to.ticks == one.event.ticks for shift in shifts)


def _inside(score: Score, bar: Sequence[Joined], shifts: Sequence[Shift]) -> Iterator[_Arrival]:
    for one in bar:
        moving = [shift for shift in shifts if shift.to.ticks == one.event.ticks]
        if moving and one is not bar[0] and one.beat != bar[0].beat:
            before = min((_spot_of(score, shift.before) for shift in moving), key=_key)
            to = Spot(one.event.measure_index, one.event.offset_quarters)
            yield _Arrival(Where.INSIDE, before, to, one.motion)


def _back(score: Score, way: tuple[int, int], quarter_bpm: Bpm, span: Span, weights: Weights) -> _Arrival | None:
    """From the end of a repeat to where it goes on: each hand from where it stands to where it must be."""
    here, after = way
    ways: list[tuple[Hand, Shift]] = []
    start = score.measures[after].start_quarters
    lasts, firsts = [], []
    for hand in HANDS:
        grips, positions = grips_of(score, hand), positions_of(score, hand, span)
        last = bisect_right(grips, here, key=lambda grip: grip.measure_index) - 1
        first = bisect_left(grips, after, key=lambda grip: grip.measure_index)
        if last < 0 or first == len(grips):
            continue
        before, to = grips[last], grips[first]
        lasts.append(before.onset_quarters)
        firsts.append(to.onset_quarters)
        stands, goes = (
            positions[bisect_right(positions, grip.index, key=lambda position: position.first) - 1]
            for grip in (before, to)
        )
        if goes.low != stands.low:
            time = score.measures[here].end_quarters - before.end_quarters + to.onset_quarters - start
            time = max(Quarters(0), time)
            shift = Shift(
                hand, after, to.onset_quarters - start, goes.low - stands.low, time, When.BETWEEN_NOTES, Manner.MOVE,
                before, to,
            )  # fmt: skip
            ways.append((hand, shift))
    if not lasts:
        return None
    at_once = weights.at_once if len(firsts) == 2 and firsts[0] == firsts[1] else 1.0
    items = [move_cost(shift, at_once, quarter_bpm, weights) for _, shift in ways]
    if len(ways) == 2:
        items.append(Item(Reason.BOTH_CHANGE, weights.both_shift))
    moving = [shift.before.onset_quarters for _, shift in ways] or [max(lasts)]
    return _Arrival(Where.REPEAT, _spot(score, min(moving)), _spot(score, min(firsts)), tuple(items))


def _spot(score: Score, onset_quarters: Quarters) -> Spot:
    measure = score.measure_at(onset_quarters)
    return Spot(measure.index, onset_quarters - measure.start_quarters)


def _spot_of(score: Score, grip: Grip) -> Spot:
    return Spot(grip.measure_index, grip.onset_quarters - score.measures[grip.measure_index].start_quarters)


def _key(spot: Spot) -> tuple[int, Quarters]:
    return spot.measure_index, spot.offset_quarters
