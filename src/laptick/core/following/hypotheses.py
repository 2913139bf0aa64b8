"""The follower's hypotheses: what they hold, what they cost, and what of a take stays the same for all of them.

Costs are negative log likelihoods up to a constant, in units of half a squared standard deviation; ours, measured in
docs/checking.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple, TypeAlias

from laptick.core.base.units import Seconds
from laptick.core.following.score_events import Floats, ScoreEvents

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
BEAM, NARROW = 12.0, 6.0  # hypotheses this much worse than the best are dropped …
BEAM_WIDTH, NARROW_WIDTH = 48, 8  # … and those beyond this many; narrow, where every strike is in its place

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


#: How a hypothesis came to its event: on from before, back, over bars left out; or it stays there with an ornament.
ON, WENT_BACK, LEAPT, HOVERS = range(4)


#: How a strike came to its event: (strike index, event, ``ON`` …, the same of the strike before it). Linked, so that
#: what no hypothesis continues any more is forgotten, and a long take takes no more room than a short one.
Path: TypeAlias = "tuple[int, int, int, Path | None]"


class Hypothesis(NamedTuple):
    """The last strike of ``path`` belongs to its event, and the player's tempo is that. ``reference_s``: when the event
    began; ``strikes``: how many it has by then.

    Plain numbers, because a beam mostly holds some ten of them: too few for arrays to be worth their calls.
    """

    cost: float
    event: int
    quarter_s: Seconds
    reference_s: Seconds
    strikes: int
    path: Path


#: Hypotheses that end with one strike, the cheapest first.
Beam: TypeAlias = list[Hypothesis]


@dataclass(frozen=True)
class Walk:
    """What stays the same while the strikes go by; lists by event, but for the arrays that jumps look through."""

    quarter_s: Seconds  # as assigned
    first_beat_s: Seconds | None  # when the click fell on the passage's first instant
    events: ScoreEvents
    onsets: list[float]  # quarters
    sizes: list[int]  # how many strikes
    at_bar: list[bool]  # does it begin a bar? The end, one more, does.
    times: list[Seconds]  # by strike
    kinds: list[int]  # by strike
    emission: Sequence[list[float]]  # by kind
    missed: list[float]  # missed[e]: what leaving out all events before e costs
    arrival: Floats  # by kind: emission, and the other strikes of the event taken as missing until they come
    reaching: Sequence[list[float]]  # by kind: arrival and what is missed before
    pause: list[float]
    back: Floats
    following: list[float]  # quarters to the next event
    beat_quarters: float
    leap: float
    anywhere: bool  # may it begin at any bar?
    ornament_quarters: list[float]  # how long an ornament there goes on (0: none); by kind,
    ornamental: list[list[bool]]  # whether a strike may be part of it
    beam: float = BEAM
    width: int = BEAM_WIDTH
    most_extra: int = MOST_EXTRA
    extras: list[float] | None = None  # what leaving out all strikes before each costs, where not all cost the same

    def left_out(self, first: int, count: int) -> float:
        """What it costs that so many strikes belong to nothing."""
        return count * EXTRA if self.extras is None else self.extras[first + count] - self.extras[first]
