"""Which places of a take lie beyond their limit: each kind's are asked by hand, by length and by length of run.

A run of four intervals and more is a long one: short ones may be even and hide it. The number of questions is kept
small by asking only what a teacher would name; the margins of ``MARGINS`` carry what they cost.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import median

import numpy as np

from laptick.core.base.units import Quarters
from laptick.core.effects.columns import NEAR, WAYS, own_inside
from laptick.core.effects.common import Take
from laptick.core.effects.meetings import MEETING_SD_S, late_at_places_only
from laptick.core.effects.noise import Strikes
from laptick.core.effects.phrases import Shape
from laptick.core.effects.places import LONG_RUN, Kind, Scale, Spot, find_spots
from laptick.core.effects.pooling import Amounts, Answer, Margins, ask
from laptick.core.effects.regression import Estimates, estimate
from laptick.core.effects.taking import HandStrikeKey, as_take
from laptick.core.effects.tempo import Moved, classes, how_it_moved, with_phrases
from laptick.core.measuring.limits import JUDGED_BARS
from laptick.core.measuring.measured import Measured
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task

#: Fewer strikes than this tell nothing.
LEAST_STRIKES = 8

#: At most so many rushed places are given a pace of their own.
MOST_FREE, FREE_SD = 60, 0.5

#: Who plays so far beyond the limit's spread shows anything somewhere: more is asked of every answer.
UNSTEADY = 1.1

#: Who plays less steadily than this (as a share of the limit) lies nearer to all her limits: by how much more is asked
#: of what is found, and how much at most.
STEADY, WARY, WARIEST = 0.46, 7.0, 2.1
#: … and how much more for every bar that a passage has too few: played round and round, it errs alike every time.
ENOUGH_BARS, WARY_BAR = 4, 0.2

#: What is found beside another fault that could look like it must be so many times as clear.
BESIDE = 1.5

#: The way of a run after which the beat is back at once.
OWN_INSIDE = WAYS[Kind.RUN].index(own_inside)

#: Fitted to clean takes of the second performer, other ones than those of docs/operating-curve.md.
MARGINS: dict[Kind, Margins] = {
    Kind.RUN: Margins(2, 0.15, whole=1.32, half=1.5, part=1.1, affected=2, alone=16),
    Kind.ENTRY: Margins(3, 0.3, whole=1.3, half=2.0, part=1.65),
    Kind.LANDING: Margins(4, 0.25, whole=1.9, half=1.95, part=1.65),
    # Who leaves every long note too soon is taken for less steady than she is: there hardly more is asked.
    Kind.GAP: Margins(4, 0.3, whole=1.38, half=1.65, part=1.43, whole_most=1.45),
    Kind.BEGINNING: Margins(3, 0.25, whole=0.95, half=1.15, part=1.15),
}


@dataclass(frozen=True)
class Beyond:
    """Places of a kind that lie beyond their limit. ``hand``: whose, where it is one hand's; ``interval_quarters``:
    whose length, where it is one's; ``long_runs``: the long runs alone; ``spots``: those that do, the worst first;
    ``amount``, ``error`` and ``limit`` in the kind's unit; ``waits``: who
    rushes waits at the end until the beat is there; ``alone``: the
    hand does it alone; ``carries``: the beat waits for who is late."""

    kind: Kind
    hand: Hand | None
    interval_quarters: Quarters | None
    long_runs: bool
    answer: Answer
    spots: tuple[Spot, ...]
    amount: float
    error: float
    limit: float
    waits: bool
    alone: bool
    carries: bool


@dataclass(frozen=True)
class Asked:
    """``beyond``: what lies beyond its limit; ``moved``: how the tempo went, ``None`` on too few bars; ``player``:
    how much the strikes spread, as a share of the limit; ``phrases``: where it goes broader by the phrases."""

    beyond: tuple[Beyond, ...] = ()
    moved: Moved | None = None
    player: float = 0.0
    phrases: tuple[Shape, ...] = ()


@dataclass(frozen=True, slots=True)
class _Question:
    rows: tuple[int, ...]
    hand: Hand | None = None
    interval_quarters: Quarters | None = None
    long_runs: bool = False


def ask_all(task: Task, measured: Measured, scale: Scale, left_out: Collection[HandStrikeKey] = ()) -> Asked:
    """What of a take lies beyond, the clearest answer of each kind, hand and length, and how its tempo moved."""
    spots = find_spots(task, measured, scale)
    take = as_take(task, measured, scale, left_out)
    if len(take.strikes) < LEAST_STRIKES:
        return Asked()
    bars = [*(float(task.bar_start(bar)) for bar in task.measures), float(task.length_quarters)]
    own_paces = classes(spots)
    take = with_phrases(take, bars, own_paces)
    if late_at_places_only(take, spots):
        take = replace(take, together_sd_s=MEETING_SD_S)
    estimates, player = estimate(take, spots)
    wariness = wary(player, task)
    beyond = tuple(found for one in estimates for found in _of_kind(one, wariness, scale.part_factor))
    if any(one.kind in (Kind.RUN, Kind.GAP) for one in beyond):
        # Where the beat goes along a late strike is a gap or a run that is too short elsewhere: that is told.
        beyond = tuple(one for one in beyond if not one.carries)
    beyond = _short_or_long(_rushed_or_begun_late(beyond))
    if len(measured.bar_tempos) < JUDGED_BARS:
        return Asked(beyond, None, player, take.phrases)
    # A hand that rushes alone and is back after it tells nothing of the tempo meanwhile.
    alone = [spot for one in beyond if one.kind is Kind.RUN and one.alone for spot in one.spots]
    if alone:
        take = replace(take, strikes=_without(take, alone))
    moved = how_it_moved(take, bars, own_paces, player)
    # What is rushed in part of the passage makes that part faster: it is asked again with each of these free.
    rushed = [spot for one in beyond if one.kind in (Kind.RUN, Kind.GAP) for spot in one.spots]
    if moved.change is not None and rushed:
        free = [([(float(spot.start_quarters), float(spot.end_quarters))], FREE_SD) for spot in rushed[:MOST_FREE]]
        again = how_it_moved(take, bars, [*own_paces, *free], player)
        moved = again if again.change is None or again.change.clear < BESIDE else moved
    return Asked(beyond, moved, player, take.phrases)


def wary(player: float, task: Task) -> float:
    """How many times as clear an answer must be, for how steadily is played and of how many bars."""
    return wary_of_few(task) * wary_of_unsteady(player)


def wary_of_unsteady(player: float) -> float:
    """How many times as clear, for how steadily is played."""
    return max(1.0, min(WARIEST, 1 + WARY * (player - STEADY)), player / UNSTEADY)


def wary_of_few(task: Task) -> float:
    """How many times as clear, for of how few bars a passage is."""
    return 1 + WARY_BAR * max(0, ENOUGH_BARS - len({bar.number for bar in task.measures}))


def _rushed_or_begun_late(beyond: tuple[Beyond, ...]) -> tuple[Beyond, ...]:
    """A hand that rushes its runs is behind at their beginnings against where it is then: what is plainly the clearer
    of the two it is."""
    rushes = {one.hand: one.answer.clear for one in beyond if one.kind is Kind.RUN}
    return tuple(
        one for one in beyond if one.kind is not Kind.BEGINNING or BESIDE * one.answer.clear > rushes.get(one.hand, 0.0)
    )


def _short_or_long(beyond: tuple[Beyond, ...]) -> tuple[Beyond, ...]:
    """Short notes and long ones are too short against each other: beside the clearer the other must be plain."""
    clearest = max(
        (one for one in beyond if one.kind in (Kind.RUN, Kind.GAP)), key=lambda one: one.answer.clear, default=None
    )
    return tuple(
        one
        for one in beyond
        if one.kind not in (Kind.RUN, Kind.GAP)
        or clearest is None
        or one.kind is clearest.kind
        or one.answer.clear >= BESIDE
    )


def _without(take: Take, runs: Sequence[Spot]) -> Strikes:
    """The strikes but for those of a hand inside these runs, and where they land."""
    strikes = take.strikes
    kept = np.ones(len(strikes), dtype=bool)
    for run in runs:
        inside = (strikes.onset > float(run.start_quarters)) & (strikes.onset <= float(run.end_quarters) + NEAR)
        kept &= ~(inside & (strikes.hand == take.hands.index(run.hand)))
    return strikes.of(np.flatnonzero(kept)) if np.count_nonzero(kept) >= LEAST_STRIKES else strikes


def _of_kind(estimates: Estimates, wariness: float, part_factor: float) -> Iterator[Beyond]:
    margins = MARGINS[estimates.kind].times(wariness).in_part_times(part_factor)
    limits = np.array([spot.limit for spot in estimates.spots])
    amounts = Amounts(
        estimates.values / limits,
        estimates.covariance / np.outer(limits, limits),
        np.array([float(spot.intervals) for spot in estimates.spots]),
    )
    best: dict[tuple[Hand | None, Quarters | None], Beyond] = {}
    for question in _questions(estimates.kind, estimates.spots):
        moments = _moments(estimates, question)
        answer = ask(amounts.together(moments), margins)
        if answer is None:
            continue
        rows = [row for i in answer.rows for row in moments[i]]
        limit = median(limits[rows].tolist())
        found = Beyond(
            estimates.kind,
            question.hand,
            question.interval_quarters,
            question.long_runs,
            answer,
            tuple(estimates.spots[i] for i in sorted(rows, key=lambda i: -amounts.values[i])),
            answer.amount * limit,
            answer.error * limit,
            limit,
            sum(estimates.ways[i] == OWN_INSIDE for i in rows) > len(rows) / 2,
            sum(estimates.ways[i] > 0 for i in rows) > len(rows) / 2,
            estimates.kind in (Kind.ENTRY, Kind.LANDING) and any(estimates.ways[i] for i in rows),
        )
        key = (question.hand, question.interval_quarters)
        if key not in best or best[key].answer.clear < answer.clear:
            best[key] = found
    by_hand = [one for one in best.values() if one.hand is not None]
    if estimates.kind is Kind.RUN:
        yield from best.values()
    elif by_hand:
        yield from by_hand
    elif best:
        yield max(best.values(), key=lambda one: one.answer.clear)


def _moments(estimates: Estimates, question: _Question) -> list[list[int]]:
    """The rows of a question, those that strike at one moment together: both hands after a rest are late once."""
    if estimates.kind in (Kind.RUN, Kind.GAP) or question.hand is not None:
        return [[row] for row in question.rows]
    moments: dict[Quarters, list[int]] = {}
    for row in question.rows:
        moments.setdefault(estimates.spots[row].end_quarters, []).append(row)
    return list(moments.values())


def _questions(kind: Kind, spots: Sequence[Spot]) -> Iterator[_Question]:
    every = tuple(range(len(spots)))
    if kind is Kind.RUN:
        for interval in dict.fromkeys(spot.interval_quarters for spot in spots):
            rows = tuple(i for i in every if spots[i].interval_quarters == interval)
            yield _Question(rows, spots[0].hand, interval)
            long = tuple(i for i in rows if spots[i].intervals >= LONG_RUN)
            if 0 < len(long) < len(rows):
                yield _Question(long, spots[0].hand, interval, long_runs=True)
                yield _Question(tuple(i for i in rows if i not in long), spots[0].hand, interval)
    elif kind is Kind.GAP:
        yield _Question(every)
        lengths = dict.fromkeys(spot.interval_quarters for spot in spots)
        if len(lengths) > 1:
            for interval in lengths:
                yield _Question(tuple(i for i in every if spots[i].interval_quarters == interval), None, interval)
    else:
        hands = dict.fromkeys(spot.hand for spot in spots)
        for hand in hands:
            yield _Question(tuple(i for i in every if spots[i].hand is hand), hand)
        if len(hands) > 1:
            yield _Question(every)
