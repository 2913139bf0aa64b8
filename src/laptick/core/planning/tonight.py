"""Tonight: at most three things to practise, of all studies on the go, in about the minutes that are agreed.

The study that lay longest comes first, then the next; a second thing of the same study comes when every study has one.
What does not fit into the minutes is left for tomorrow, but one thing there is always. Source: docs/trade.md 3.3, 3.6
and 5 (common practice); how long a try takes between its end and the next start is measured on our own screens.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from laptick.core.base.units import Quarters, Seconds
from laptick.core.practice.ladder.gates import RungState
from laptick.core.practice.ladder.stages import Ladder, Rung, Stage
from laptick.core.practice.ladder.standing import for_today

MOST_THINGS = 3

#: A thing is tried about so often; so long passes between two tries.
TRIES, BETWEEN_S = 3, 4.5

#: What is only heard, said or lined up takes about so long for each bar, and this besides.
A_BAR_S, LOOKING_S = 4.0, 30.0

#: By what a parent hears that it is done.
DONE_SOUNDS: Mapping[Stage, str] = {
    Stage.HEAR: "It was listened to once, all the way, with a finger on the notes.",
    Stage.COUNT: "Every count is said aloud, with the click, without a stop.",
    Stage.RIGHT: "The right hand plays at one pace, without a stop.",
    Stage.LEFT: "The left hand plays at one pace, without a stop.",
    Stage.LAP: "Both knees tap at one pace, and nobody waits for anybody.",
    Stage.LINE_UP: "It is said, note by note, what goes down together.",
    Stage.JOIN: "Both hands play slowly, at one pace, and nothing waits at a bar line.",
    Stage.SEAMS: "Over the join and back, without a halt.",
    Stage.TEMPO: "At its tempo, and as steady as when it was slow.",
    Stage.FINISH: "From the first note to the last, without a stop.",
}


@dataclass(frozen=True)
class Going:
    """A study on the go. ``key``: its number; ``bars``: the length of every written one; ``bpm``: of the next try, by
    rung; ``idle_days``: since it was practised, ``None``: never."""

    key: int
    bars: Sequence[Quarters]
    ladder: Ladder
    states: Mapping[str, RungState]
    bpm: Mapping[str, int]
    idle_days: int | None = None


@dataclass(frozen=True)
class Thing:
    """A rung to be practised. ``study``: the number of its study."""

    study: int
    rung: Rung
    minutes: int


def things_for(going: Sequence[Going], day: int, minutes: int | None, most: int = MOST_THINGS) -> list[Thing]:
    """At most ``most``, a study's after one another; ``minutes``: as agreed, ``None``: as many as it takes."""
    first = sorted(going, key=lambda one: math.inf if one.idle_days is None else one.idle_days, reverse=True)
    rungs = [(one, for_today(one.ladder, one.states, day)) for one in first]
    left = math.inf if minutes is None else minutes
    found: list[tuple[int, int, Thing]] = []
    for turn in range(most):
        for place, (one, open_rungs) in enumerate(rungs):
            if turn >= len(open_rungs) or len(found) >= most:
                continue
            thing = Thing(one.key, open_rungs[turn], minutes_of(one, open_rungs[turn]))
            if found and thing.minutes > left:
                continue
            left -= thing.minutes
            found.append((place, turn, thing))
    return [thing for _, _, thing in sorted(found, key=lambda one: one[:2])]


def minutes_of(going: Going, rung: Rung) -> int:
    """About how long a rung is practised in an evening: whole minutes, one at least."""
    if rung.activity is None:
        return max(1, round((LOOKING_S + A_BAR_S * len(rung.bars)) / 60))
    return max(1, round(TRIES * try_s(going.bars, rung, going.bpm.get(rung.key, rung.tempos[0])) / 60))


def try_s(bars: Sequence[Quarters], rung: Rung, bpm: float) -> Seconds:
    """One try: a bar of count-in, the bars as many times round as they go, and what passes until the next.
    ``bars``: the length of every written one."""
    own = bars[rung.first : rung.last + 1]
    quarter_s = 60 / bpm / float(rung.beat_quarters)
    return float(rung.rounds * sum(own) + own[0]) * quarter_s + BETWEEN_S
