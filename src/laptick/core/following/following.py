"""Following: the time-ordered walk of a take through the score's events.

A Viterbi search with a beam. A hypothesis says: the strike just heard belongs to this event, the
player's tempo is that. It is continued by each following strike that moves on (skipping some events and
leaving some strikes as extra), stays (the other hand, the rest of a chord), pauses, or goes back after a
gap. Hypotheses of one event and nearly one tempo are merged, the cheapest kept; those much worse than
the best, or beyond the beam's width, are dropped, so the work grows with the number of strikes alone.

Costs: ``hypotheses.py``; ways on: ``moves.py``.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise
from operator import attrgetter, itemgetter
from typing import TypeAlias

import numpy as np

from laptick.core.following.hypotheses import (
    BACK,
    BACK_INSIDE,
    LEAP,
    LEAP_BY_TAPS,
    MISSING,
    NARROW,
    NARROW_WIDTH,
    ON,
    PAUSE,
    PAUSE_INSIDE,
    STOP,
    SURPRISE,
    TEMPO_BIN,
    WRONG_HAND,
    WRONG_PITCH,
    Beam,
    Hypothesis,
    Path,
    Walk,
)
from laptick.core.following.ornaments import ornaments_of
from laptick.core.following.score_events import Floats, Ints, ScoreEvents
from laptick.core.following.transitions import backs, hovers, leaps, origins, starts, stays, steps
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task


def _emission(task: Task, performance: Performance, events: ScoreEvents) -> tuple[Ints, Floats]:
    """A table (kinds of strike × events) of what it costs that a strike belongs to an event, and for
    every strike its kind."""
    if performance.knows.pitch:
        kinds = sorted({strike.pitch or 0 for strike in performance.strikes})
        table = np.full((len(kinds), len(events.members)), WRONG_PITCH)
        row = {pitch: index for index, pitch in enumerate(kinds)}
        for column, members in enumerate(events.members):
            for index in members:
                pitch = task.expected[index].pitch
                if pitch is None:
                    table[:, column] = 0.0
                elif pitch in row:
                    table[row[pitch], column] = 0.0
        return np.array([row[strike.pitch or 0] for strike in performance.strikes]), table
    hands: list[Hand | None] = [Hand.RIGHT, Hand.LEFT, None]
    table = np.full((3, len(events.members)), WRONG_HAND)
    table[2] = 0.0
    for column, members in enumerate(events.members):
        for index in members:
            hand = task.expected[index].hand
            if hand is None:
                table[:, column] = 0.0
            else:
                table[hands.index(hand), column] = 0.0
    return np.array([hands.index(strike.hand) for strike in performance.strikes]), table


#: (strike index, event index, how it came there: ``ON``, ``WENT_BACK``, ``LEAPT``, ``HOVERS``)
Way: TypeAlias = list[tuple[int, int, int]]


def follow(task: Task, performance: Performance, events: ScoreEvents, *, anywhere: bool = False) -> Way:
    """The best way over the strikes that belong somewhere. ``events``: the task's; ``anywhere``: it may begin at any
    bar."""
    kinds, table = _emission(task, performance, events)
    arrival = table + (events.sizes - 1)[None, :] * MISSING
    missed = np.concatenate([[0.0], np.cumsum(MISSING * events.sizes)])
    ornament_quarters, ornamental = ornaments_of(task, events, kinds, performance)
    walk = Walk(
        quarter_s=task.quarter_s,
        first_beat_s=performance.first_beat_s,
        events=events,
        onsets=events.onsets.tolist(),
        sizes=[len(members) for members in events.members],
        at_bar=[*events.at_bar.tolist(), True],
        times=[strike.played_s for strike in performance.strikes],
        kinds=kinds.tolist(),
        emission=table.tolist(),
        missed=missed.tolist(),
        arrival=arrival,
        reaching=(missed[:-1] + arrival).tolist(),
        pause=pauses_of(events).tolist(),
        back=np.where(events.at_bar, BACK, BACK + BACK_INSIDE),
        following=[*np.diff(events.onsets).tolist(), 0.0],
        beat_quarters=float(task.beat_quarters),
        leap=LEAP + (LEAP_BY_TAPS if not performance.knows.pitch else 0.0),
        anywhere=anywhere,
        ornament_quarters=ornament_quarters.tolist(),
        ornamental=ornamental.tolist(),
    )
    trilled = bool(ornament_quarters.any())
    # Most strikes of most takes are in their places: what few hypotheses explain without any slip needs no more.
    if len(walk.times) == sum(walk.sizes):
        due = [event for event, size in enumerate(walk.sizes) for _ in range(size)]
        way = walked(replace(walk, beam=NARROW, width=NARROW_WIDTH), trilled=trilled, due=due)
        if _is_whole(walk, way):
            return way
    return walked(walk, trilled=trilled)


def _is_whole(walk: Walk, way: Way) -> bool:
    """Is every strike a written one, and every written one struck, one after the other?"""
    if len(way) != len(walk.times) or len(way) != sum(walk.sizes):
        return False
    return all(how == ON for _, _, how in way) and all(
        after in (before, before + 1) for (_, before, _), (_, after, _) in pairwise(way)
    )


def walked(walk: Walk, *, trilled: bool = False, due: Sequence[int] | None = None) -> Way:
    """The cheapest way of a walk, which may end a few strikes before the last. ``due``: the event of each strike where
    none is left out or too many; nothing is found when the strikes go elsewhere."""
    beams: list[Beam] = []
    for index in range(len(walk.times)):
        parts = [starts(walk, index)]
        before = origins(walk, index, beams)
        if before:
            parts += [stays(walk, index, before), steps(walk, index, before)]
            if trilled:
                parts.append(hovers(walk, index, before))
            if _surprised(walk, before, parts):
                most = min((one.cost for part in parts for one in part), default=math.inf) + walk.beam
                parts += [backs(walk, index, before, most), leaps(walk, index, before, most)]
        beams = [*beams[-3 * walk.most_extra :], _prune(walk, parts)]
        if due is not None and all(abs(one.event - due[index]) > 1 for one in beams[-1]):
            return []
    return _best_way(walk, beams)


def pauses_of(events: ScoreEvents) -> Floats:
    """What a pause before each event costs. Before the last one it is as ordinary as at a bar line: nothing that
    follows could tell it from a strike left out and another that is too many."""
    costs = np.where(events.at_bar, PAUSE, PAUSE + PAUSE_INSIDE)
    costs[-1] = PAUSE
    return costs


def _surprised(walk: Walk, before: Beam, parts: list[Beam]) -> bool:
    """Are jumps worth looking for? At the end of a bar, and where no way on explains this strike well. Strikes of a
    chord that are still to come are no surprise."""
    if walk.at_bar[min(before, key=attrgetter("cost")).event + 1]:
        return True
    least = min(_settled(walk, one) for one in before) + SURPRISE
    # The last part first: going on, which mostly explains it.
    return not any(_settled(walk, one) < least for part in reversed(parts) for one in part)


def _settled(walk: Walk, one: Hypothesis) -> float:
    """The cost without what the strikes of the event that have not come yet were charged."""
    return one.cost - MISSING * (walk.sizes[one.event] - one.strikes)


def _prune(walk: Walk, parts: list[Beam]) -> Beam:
    """The cheapest of each event and tempo, within the beam."""
    every = [one for part in parts for one in part]
    if not every:
        return []
    most = min(every, key=attrgetter("cost")).cost + walk.beam
    cheapest: dict[tuple[int, int], Hypothesis] = {}
    for one in sorted((one for one in every if one.cost <= most), key=attrgetter("cost")):
        tempo = round(math.log(one.quarter_s / walk.quarter_s) / TEMPO_BIN)
        cheapest.setdefault((one.event, tempo), one)
        if len(cheapest) == walk.width:
            break
    return list(cheapest.values())


def _best_way(walk: Walk, beams: list[Beam]) -> Way:
    """The cheapest way to the end, with what it left out there."""
    most_left, count = 0.0 if walk.anywhere else STOP, len(walk.times)
    ends = [
        (
            one.cost + walk.left_out(count - back, back) + min(walk.missed[-1] - walk.missed[one.event + 1], most_left),
            one,
        )
        for back, beam in reversed(list(enumerate(reversed(beams))))
        for one in beam
    ]
    if not ends:
        return []
    path: Path | None = min(ends, key=itemgetter(0))[1].path
    way: Way = []
    while path is not None:
        index, event, how, path = path
        way.append((index, event, how))
    return way[::-1]
