"""Following: the time-ordered walk of a take through the score's events.

A Viterbi search with a beam. A hypothesis says: the strike just heard belongs to this event, the
player's tempo is that. It is continued by each following strike that moves on (skipping some events and
leaving some strikes as extra), stays (the other hand, the rest of a chord), pauses, or goes back after a
gap. Hypotheses of one event and nearly one tempo are merged, the cheapest kept; those much worse than
the best, or beyond the beam's width, are dropped, so the work grows with the number of strikes alone.

Costs are negative log likelihoods up to a constant, in units of half a squared standard deviation; ours,
measured in docs/checking.md.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.performance import Performance, Source, Task
from laptick.core.score import Hand

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

EXTRA = 3.2  # a strike that belongs to nothing
MISSING = 2.4  # a written strike that was not played
WRONG_HAND = 5.0  # a tap on the other zone than the event asks for
WRONG_PITCH = 3.0  # a key that the event does not ask for
PAUSE, PAUSE_INSIDE = 4.5, 1.5  # the beat stops; more when not at a bar line
BACK, BACK_INSIDE = 6.0, 3.0  # going back after a gap; more when not to a bar line
BACK_GAP_BEATS = 0.6  # how much longer than written that gap is
STOP = 8.0  # ending before the end, or beginning off the click, at the most
BEAM = 12.0  # hypotheses this much worse than the best are dropped …
BEAM_WIDTH = 48  # … and those beyond this many

# Spread of a played interval round the carried tempo: a floor and a share, added as variances.
INTERVAL_FLOOR_S, INTERVAL_SHARE = 0.030, 0.13
STAY_S = 0.075  # spread of strikes written together
STAY_MOST_S = 0.32
START_BEATS = 0.35  # spread of the first strike round the click, in beats
TEMPO_GAIN = 0.30  # how far one beat of playing moves the carried tempo
TEMPO_PRIOR = 0.30  # spread of the log tempo round the assigned one
TEMPO_STARTS = (1.0, 0.72, 1.38, 0.5, 2.0)
TEMPO_BIN = 0.06  # hypotheses whose log tempos share a bin are merged
MOST_EXTRA, MOST_SKIPPED = 3, 6  # in a row, without a jump


@dataclass(frozen=True)
class ScoreEvents:
    """The written instants of a task: ``members[e]`` are indices into ``task.expected``."""

    onsets: Floats  # quarters
    members: list[list[int]]
    sizes: Floats
    at_bar: NDArray[np.bool_]


def score_events(task: Task) -> ScoreEvents:
    members: list[list[int]] = []
    onsets: list[float] = []
    at_bar: list[bool] = []
    last = None
    for index, expected in enumerate(task.expected):
        if expected.onset_quarters != last:
            last = expected.onset_quarters
            members.append([])
            onsets.append(float(last))
            at_bar.append(expected.offset_quarters == 0)
        members[-1].append(index)
    sizes = np.array([len(m) for m in members], dtype=float)
    return ScoreEvents(np.array(onsets), members, sizes, np.array(at_bar))


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


class _Beam:
    """Hypotheses that end with one strike, one a column of ``table``: cost, event, seconds per quarter,
    reference time, the strike and column it continues (−1: begun here), whether it went back.

    One array, because a beam is cut and joined some thousand times a take.
    """

    __slots__ = ("as_origin", "table")

    def __init__(self, table: Floats, as_origin: Floats | None = None) -> None:
        self.table = table
        #: The same hypotheses as what later strikes continue: their ``from_`` rows name themselves.
        self.as_origin = table if as_origin is None else as_origin

    @staticmethod
    def of(
        cost: Floats,
        event: Ints,
        quarter_s: Floats,
        reference_s: Floats | float,
        from_strike: Floats | int,
        from_row: Floats | int,
        jumped: float,
    ) -> _Beam:
        table = np.empty((7, len(cost)))
        for row, values in enumerate((cost, event, quarter_s, reference_s, from_strike, from_row, jumped)):
            table[row] = values
        return _Beam(table)

    @staticmethod
    def join(parts: list[_Beam]) -> _Beam:
        return _Beam(np.concatenate([part.table for part in parts], axis=1)) if parts else _Beam(np.empty((7, 0)))

    def take(self, columns: Ints | NDArray[np.bool_]) -> _Beam:
        return _Beam(self.table[:, columns])

    def __len__(self) -> int:
        return int(self.table.shape[1])

    @property
    def cost(self) -> Floats:
        row: Floats = self.table[0]
        return row

    @property
    def event(self) -> Ints:
        row: Ints = self.table[1].astype(np.int64)
        return row

    @property
    def quarter_s(self) -> Floats:
        row: Floats = self.table[2]
        return row

    @property
    def reference_s(self) -> Floats:
        row: Floats = self.table[3]
        return row

    @property
    def from_strike(self) -> Ints:
        row: Ints = self.table[4].astype(np.int64)
        return row


@dataclass(frozen=True)
class _Walk:
    """What stays the same while the strikes go by."""

    task: Task
    performance: Performance
    events: ScoreEvents
    kinds: Ints
    emission: Floats
    times: Floats
    missed: Floats  # missed[e]: what leaving out all events before e costs
    arrival: Floats  # emission, and the other strikes of the event taken as missing until they come
    pause: Floats
    back: Floats
    following: Floats  # quarters to the next event
    shortest: float  # the smallest of these
    beat_quarters: float


def follow(task: Task, performance: Performance) -> list[tuple[int, int, bool]]:
    """The best path: (strike index, event index, went back) for every strike that belongs somewhere."""
    events = score_events(task)
    kinds, table = _emission(task, performance, events)
    walk = _Walk(
        task,
        performance,
        events,
        kinds,
        table,
        np.array([strike.played_s for strike in performance.strikes]),
        np.concatenate([[0.0], np.cumsum(MISSING * events.sizes)]),
        table + (events.sizes - 1)[None, :] * MISSING,
        np.where(events.at_bar, PAUSE, PAUSE + PAUSE_INSIDE),
        np.where(events.at_bar, BACK, BACK + BACK_INSIDE),
        np.append(np.diff(events.onsets), 0.0),
        float(np.diff(events.onsets).min()) if len(events.onsets) > 1 else 0.0,
        float(task.beat_quarters),
    )
    beams: list[_Beam] = []
    for index in range(len(walk.times)):
        parts = _starts(walk, index)
        origins = _origins(beams, index)
        if origins is not None:
            parts += [
                part
                for part in (_stays(walk, index, origins), _steps(walk, index, origins), _backs(walk, index, origins))
                if part is not None
            ]
        beams.append(_prune(walk, index, parts))
    return _trace(walk, beams)


def _starts(walk: _Walk, index: int) -> list[_Beam]:
    """Hypotheses that begin with this strike, everything before it extra."""
    if index > 2 * MOST_EXTRA:
        return []
    events, task = walk.events, walk.task
    high = min(len(events.members), MOST_SKIPPED + 1)
    ratios = np.array(TEMPO_STARTS)
    event = np.repeat(np.arange(high), len(ratios))
    ratio = np.tile(ratios, high)
    cost = index * EXTRA + walk.missed[event] + (np.log(ratio) / TEMPO_PRIOR) ** 2 / 2
    cost = cost + (events.sizes[event] - 1) * MISSING
    first_beat_s = walk.performance.first_beat_s
    if first_beat_s is not None:
        asked = first_beat_s + events.onsets[event] * task.quarter_s
        off = (walk.times[index] - asked) / (START_BEATS * walk.beat_quarters * task.quarter_s)
        cost = cost + np.minimum(off**2 / 2, STOP)
    cost = cost + walk.emission[walk.kinds[index], event]
    return [_Beam.of(cost, event, task.quarter_s * ratio, walk.times[index], -1, -1, 0.0)]


def _origins(beams: list[_Beam], index: int) -> _Beam | None:
    """Hypotheses of the last few strikes, charged for the strikes between; their ``from_`` columns name
    themselves."""
    tables = []
    for back in range(1, min(MOST_EXTRA, index) + 1):
        table = beams[index - back].as_origin
        if back > 1:
            table = table.copy()
            table[0] += (back - 1) * EXTRA
        tables.append(table)
    joined = np.concatenate(tables, axis=1) if tables else np.empty((7, 0))
    if joined.shape[1] == 0:
        return None
    return _Beam(joined[:, joined[0] <= joined[0].min() + BEAM])


def _stays(walk: _Walk, index: int, origins: _Beam) -> _Beam | None:
    """The other hand of the same instant, or another note of the chord."""
    if walk.times[index] - walk.times[index - 1] > STAY_MOST_S:
        return None
    from_strike, event = origins.from_strike, origins.event
    rows = np.flatnonzero(
        (walk.times[index] - walk.times[from_strike] <= STAY_MOST_S)
        & (walk.kinds[from_strike] != walk.kinds[index])
        & (walk.events.sizes[event] > 1)
    )
    if rows.size == 0:
        return None
    kept, event = origins.take(rows), event[rows]
    gap = walk.times[index] - kept.reference_s
    kept.table[0] += (gap / STAY_S) ** 2 / 2 - MISSING + walk.emission[walk.kinds[index], event]
    kept.table[3] = (kept.reference_s + walk.times[index]) / 2
    return kept


_AHEAD = np.arange(1, MOST_SKIPPED + 1)


def _steps(walk: _Walk, index: int, origins: _Beam) -> _Beam | None:
    """On to one of the next events, in tempo or after a pause."""
    events, event = walk.events, origins.event
    target = (event[:, None] + _AHEAD).ravel()
    rows = np.repeat(np.arange(len(event)), MOST_SKIPPED)
    inside = target < len(events.members)
    target, rows = target[inside], rows[inside]
    if rows.size == 0:
        return None
    base = (
        origins.cost[rows]
        + walk.missed[target]
        - walk.missed[event[rows] + 1]
        + walk.arrival[walk.kinds[index], target]
    )
    near = base <= origins.cost.min() + BEAM
    target, rows, base = target[near], rows[near], base[near]
    kept = origins.take(rows)
    quarters = events.onsets[target] - events.onsets[event[rows]]
    carried = kept.quarter_s
    expected = carried * quarters
    gap = walk.times[index] - kept.reference_s
    z = np.abs(gap - expected) / np.sqrt(INTERVAL_FLOOR_S**2 + (INTERVAL_SHARE * expected) ** 2)
    cost = np.where(z < 3, z**2 / 2, 3 * z - 4.5)
    pause = walk.pause[target]
    paused = (gap > expected) & (cost > pause)
    gain = TEMPO_GAIN * np.minimum(1.0, quarters / walk.beat_quarters)
    ratio = np.minimum(np.maximum(gap / expected, 0.6), 1.6)
    moved = np.where(paused, carried, carried * (1 + gain * (ratio - 1)))
    kept.table[0] = base + np.where(paused, pause, cost)
    kept.table[1] = target
    kept.table[2] = np.minimum(np.maximum(moved, walk.task.quarter_s * 0.4), walk.task.quarter_s * 2.6)
    kept.table[3] = walk.times[index]
    return kept


def _backs(walk: _Walk, index: int, origins: _Beam) -> _Beam | None:
    """After a gap clearly longer than written, any earlier event, or the same again."""
    silence = walk.times[index] - walk.times[index - 1]
    shortest = origins.quarter_s.min() * (walk.shortest + BACK_GAP_BEATS * walk.beat_quarters)
    if silence <= shortest:
        return None
    affordable = origins.take(origins.cost <= origins.cost.min() + BEAM - BACK)
    event = affordable.event
    written = affordable.quarter_s * (walk.following[event] + BACK_GAP_BEATS * walk.beat_quarters)
    free = np.flatnonzero(walk.times[index] - affordable.reference_s > written)
    if free.size == 0:
        return None
    # The few cheapest suffice: what follows a jump depends on the hypothesis only through its tempo.
    parts = []
    for row in free[np.argsort(affordable.cost[free], kind="stable")[:2]]:
        target = np.arange(event[row] + 1)
        cost = affordable.cost[row] + walk.back[target] + walk.arrival[walk.kinds[index], target]
        _, _, quarter_s, _, from_strike, from_row, _ = affordable.table[:, row]
        parts.append(
            _Beam.of(cost, target, np.full(len(target), quarter_s), walk.times[index], from_strike, from_row, 1.0)
        )
    return _Beam.join(parts)


def _prune(walk: _Walk, index: int, parts: list[_Beam]) -> _Beam:
    """The cheapest of each event and tempo, within the beam."""
    every = _Beam.join(parts).table
    if every.shape[1] == 0:
        return _Beam(every)
    every = every[:, np.argsort(every[0], kind="stable")]
    every = every[:, : int(np.searchsorted(every[0], every[0, 0] + BEAM, side="right"))]
    bins = np.round(np.log(every[2] / walk.task.quarter_s) / TEMPO_BIN)
    _, first = np.unique(every[1] * 1000 + bins, return_index=True)
    first.sort()
    kept = every[:, first[:BEAM_WIDTH]]
    origin = kept.copy()
    origin[4] = index
    origin[5] = np.arange(kept.shape[1])
    origin[6] = 0.0
    return _Beam(kept, origin)


def _trace(walk: _Walk, beams: list[_Beam]) -> list[tuple[int, int, bool]]:
    best: tuple[float, int, int] | None = None
    last = len(beams) - 1
    for index in range(max(0, last - 3 * MOST_EXTRA), last + 1):
        beam = beams[index]
        if len(beam) == 0:
            continue
        left = np.minimum(walk.missed[-1] - walk.missed[beam.event + 1], STOP)
        total = beam.cost + (last - index) * EXTRA + left
        column = int(np.argmin(total))
        if best is None or total[column] < best[0]:
            best = (float(total[column]), index, column)
    if best is None:
        return []
    _, index, column = best
    path: list[tuple[int, int, bool]] = []
    while index >= 0:
        _, event, _, _, from_strike, from_column, jumped = beams[index].table[:, column]
        path.append((index, int(event), bool(jumped)))
        index, column = int(from_strike), int(from_column)
    return path[::-1]
