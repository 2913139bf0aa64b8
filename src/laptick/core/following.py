"""Following: the time-ordered walk of a take through the score's events.

A Viterbi search with a beam. A hypothesis says: the strike just heard belongs to this event, the
player's tempo is that. It is continued by each following strike that moves on (skipping some events and
leaving some strikes as extra), stays (the other hand, the rest of a chord), pauses, or goes back after a
gap. Hypotheses of one event and nearly one tempo are merged, the cheapest kept; those much worse than
the best, or beyond the beam's width, are dropped, so the work grows with the number of strikes alone.

Costs: ``hypotheses.py``; ways on: ``moves.py``.
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np

from laptick.core.hypotheses import (
    BACK,
    BACK_INSIDE,
    BEAM,
    BEAM_WIDTH,
    EXTRA,
    LEAP,
    LEAP_BY_TAPS,
    MISSING,
    MOST_EXTRA,
    ON,
    PAUSE,
    PAUSE_INSIDE,
    STOP,
    SURPRISE,
    TEMPO_BIN,
    WRONG_HAND,
    WRONG_PITCH,
    Beam,
    Floats,
    Ints,
    ScoreEvents,
    Walk,
)
from laptick.core.moves import backs, hovers, leaps, origins, starts, stays, steps
from laptick.core.ornaments import ornaments_of
from laptick.core.performance import Performance, Source, Task
from laptick.core.score import Hand


def _emission(task: Task, performance: Performance, events: ScoreEvents) -> tuple[Ints, Floats]:
    """A table (kinds of strike × events) of what it costs that a strike belongs to an event, and for
    every strike its kind."""
    if performance.source is Source.MIDI:
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
Path: TypeAlias = list[tuple[int, int, float]]


def follow(task: Task, performance: Performance, events: ScoreEvents, *, anywhere: bool = False) -> Path:
    """The best path over the strikes that belong somewhere. ``events``: the task's; ``anywhere``: it may begin at any
    bar."""
    kinds, table = _emission(task, performance, events)
    walk = Walk(
        task,
        task.quarter_s,
        performance,
        events,
        kinds,
        table,
        np.array([strike.played_s for strike in performance.strikes]),
        np.concatenate([[0.0], np.cumsum(MISSING * events.sizes)]),
        table + (events.sizes - 1)[None, :] * MISSING,
        _pauses(events),
        np.where(events.at_bar, BACK, BACK + BACK_INSIDE),
        np.append(np.diff(events.onsets), 0.0),
        float(np.diff(events.onsets).min()) if len(events.onsets) > 1 else 0.0,
        float(task.beat_quarters),
        LEAP + (LEAP_BY_TAPS if performance.source is not Source.MIDI else 0.0),
        anywhere,
        *ornaments_of(task, events, kinds, performance),
    )
    trilled = bool(walk.ornament_quarters.any())
    beams: list[Beam] = []
    for index in range(len(walk.times)):
        parts = starts(walk, index)
        before = origins(beams, index)
        if before is not None:
            parts += [
                part
                for part in (
                    stays(walk, index, before),
                    steps(walk, index, before),
                    hovers(walk, index, before) if trilled else None,
                )
                if part is not None
            ]
            if _surprised(walk, before, parts):
                parts += [part for part in (backs(walk, index, before), leaps(walk, index, before)) if part is not None]
        beams.append(_prune(walk, index, parts))
    return _trace(walk, beams)


def _pauses(events: ScoreEvents) -> Floats:
    """What a pause before each event costs. Before the last one it is as ordinary as at a bar line: nothing that
    follows could tell it from a strike left out and another that is too many."""
    costs = np.where(events.at_bar, PAUSE, PAUSE + PAUSE_INSIDE)
    costs[-1] = PAUSE
    return costs


def _surprised(walk: Walk, before: Beam, parts: list[Beam]) -> bool:
    """Are jumps worth looking for? At the end of a bar, and where no way on explains this strike well. Strikes of a
    chord that are still to come are no surprise."""
    best = int(np.argmin(before.cost))
    following = int(before.event[best]) + 1
    if following == len(walk.events.members) or walk.events.at_bar[following]:
        return True
    least = float((before.cost - _to_come(walk, before)).min()) + SURPRISE
    # The last part first: going on, which mostly explains it.
    return all(len(part) == 0 or float((part.cost - _to_come(walk, part)).min()) >= least for part in parts[::-1])


def _to_come(walk: Walk, beam: Beam) -> Floats:
    """What the strikes of a hypothesis' event that have not come yet were charged."""
    pending: Floats = MISSING * np.maximum(walk.events.sizes[beam.event] - beam.table[7], 0.0)
    return pending


def _prune(walk: Walk, index: int, parts: list[Beam]) -> Beam:
    """The cheapest of each event and tempo, within the beam."""
    every = Beam.join(parts).table
    if every.shape[1] == 0:
        return Beam(every)
    every = every[:, np.argsort(every[0], kind="stable")]
    every = every[:, : int(np.searchsorted(every[0], every[0, 0] + BEAM, side="right"))]
    bins = np.rint(np.log(every[2] / walk.quarter_s) / TEMPO_BIN)
    cheapest: dict[float, int] = {}
    for column, place in enumerate((every[1] * 1000 + bins).tolist()):
        cheapest.setdefault(place, column)
    kept = every[:, list(cheapest.values())[:BEAM_WIDTH]]
    origin = kept.copy()
    origin[4] = index
    origin[5] = np.arange(kept.shape[1])
    origin[6] = ON
    return Beam(kept, origin)


def _trace(walk: Walk, beams: list[Beam]) -> Path:
    best: tuple[float, int, int] | None = None
    last = len(beams) - 1
    for index in range(max(0, last - 3 * MOST_EXTRA), last + 1):
        beam = beams[index]
        if len(beam) == 0:
            continue
        left = np.minimum(walk.missed[-1] - walk.missed[beam.event + 1], 0.0 if walk.anywhere else STOP)
        total = beam.cost + (last - index) * EXTRA + left
        column = int(np.argmin(total))
        if best is None or total[column] < best[0]:
            best = (float(total[column]), index, column)
    if best is None:
        return []
    _, index, column = best
    path: Path = []
    while index >= 0:
        _, event, _, _, from_strike, from_column, how, _ = beams[index].table[:, column]
        path.append((index, int(event), float(how)))
        index, column = int(from_strike), int(from_column)
    return path[::-1]
