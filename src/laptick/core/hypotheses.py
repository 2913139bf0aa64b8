"""The follower's hypotheses: what they hold, what they cost, and what of a take stays the same for all of them.

Costs are negative log likelihoods up to a constant, in units of half a squared standard deviation; ours, measured in
docs/checking.md.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.performance import Performance, Task

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

EXTRA = 3.2  # a strike that belongs to nothing
MISSING = 2.4  # a written strike that was not played
WRONG_HAND = 5.0  # a tap on the other zone than the event asks for
WRONG_PITCH = 3.0  # a key that the event does not ask for
PAUSE, PAUSE_INSIDE = 4.5, 1.5  # the beat stops; more when not at a bar line
BACK, BACK_INSIDE = 6.0, 3.0  # going back after a gap; more when not to a bar line
BACK_GAP_BEATS = 0.6  # how much longer than written that gap is
BACK_IN_TEMPO = 9.0  # going back from the end of a bar without a gap
LEAP = 7.0  # going on from a bar further on than a few missing strikes explain
LEAP_BY_TAPS = 4.0  # … more where there are no keys to tell the bars apart
HOVER = 0.3  # a strike that is part of a written ornament
SURPRISE = 1.5  # a strike that costs less going on gives no reason to look for a jump
FURTHER = 0.9  # each doubling of the bars gone back or left out
STOP = 8.0  # ending before the end, or beginning off the click, at the most
BEAM = 12.0  # hypotheses this much worse than the best are dropped …
BEAM_WIDTH = 160  # … and those beyond this many

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
    bar: Ints  # which bar of the passage, in played order
    bar_begins: Ints  # the first event of every bar in which something is struck


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
    bar = np.array([task.expected[m[0]].measure_index for m in members]) - task.measures[0].index
    begins = np.flatnonzero(np.diff(bar, prepend=-1))
    return ScoreEvents(np.array(onsets), members, sizes, np.array(at_bar), bar, begins)


#: How a hypothesis came to its event: on from before, back, over bars left out; or it stays there with an ornament.
ON, WENT_BACK, LEAPT, HOVERS = 0.0, 1.0, 2.0, 3.0


class Beam:
    """Hypotheses that end with one strike, one a column of ``table``: cost, event, seconds per quarter, reference
    time, the strike and column it continues (−1: begun here), how it came here (``ON`` …), and how many strikes its
    event has by then.

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
        how: float,
    ) -> Beam:
        table = np.empty((8, len(cost)))
        for row, values in enumerate((cost, event, quarter_s, reference_s, from_strike, from_row, how, 1.0)):
            table[row] = values
        return Beam(table)

    @staticmethod
    def join(parts: list[Beam]) -> Beam:
        return Beam(np.concatenate([part.table for part in parts], axis=1)) if parts else Beam(np.empty((8, 0)))

    def take(self, columns: Ints | NDArray[np.bool_]) -> Beam:
        return Beam(self.table[:, columns])

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
class Walk:
    """What stays the same while the strikes go by."""

    task: Task
    quarter_s: float  # as assigned
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
    leap: float
    anywhere: bool  # may it begin at any bar?
    ornament_quarters: Floats  # by event, how long an ornament there goes on (0: none); by kind and event,
    ornamental: NDArray[np.bool_]  # whether a strike may be part of it
