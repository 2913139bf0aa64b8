"""How a hypothesis goes on with the next strike: begin, stay, step, go back, leap.

Every move takes the strike's index and the hypotheses it may continue, and gives new ones, each with its cost. Costs:
``hypotheses.py``.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from operator import attrgetter

import numpy as np

from laptick.core.following.hypotheses import (
    BACK,
    BACK_GAP_BEATS,
    BACK_IN_TEMPO,
    EXTRA,
    FURTHER,
    HOVER,
    HOVERS,
    INTERVAL_FLOOR_S,
    INTERVAL_SHARE,
    LEAPT,
    MISSING,
    MOST_SKIPPED,
    ON,
    START_BEATS,
    STAY_MOST_S,
    STAY_S,
    STOP,
    TEMPO_GAIN,
    TEMPO_PRIOR,
    TEMPO_STARTS,
    WENT_BACK,
    Beam,
    Hypothesis,
    Walk,
)
from laptick.core.following.score_events import Floats, Ints

#: What each assumed tempo costs to begin with.
_STARTS = tuple((ratio, (math.log(ratio) / TEMPO_PRIOR) ** 2 / 2) for ratio in TEMPO_STARTS)


def starts(walk: Walk, index: int) -> Beam:
    """Hypotheses that begin with this strike, everything before it extra."""
    if index > 2 * walk.most_extra:
        return []
    events, at_s, kind = walk.events, walk.times[index], walk.kinds[index]
    first_beat_s = None if walk.anywhere else walk.first_beat_s
    begun: Beam = []
    begins = events.bar_begins.tolist() if walk.anywhere else range(min(len(walk.onsets), MOST_SKIPPED + 1))
    for event in begins:
        cost = walk.left_out(0, index) + (walk.sizes[event] - 1) * MISSING + walk.emission[kind][event]
        # Who may begin anywhere begins with what is struck first: what is not it was left out of the bars before.
        cost += walk.left_out(0, index) * MISSING / EXTRA if walk.anywhere else walk.missed[event]
        if first_beat_s is not None:
            asked_s = first_beat_s + walk.onsets[event] * walk.quarter_s
            off = (at_s - asked_s) / (START_BEATS * walk.beat_quarters * walk.quarter_s)
            cost += min(off * off / 2, STOP)
        path = (index, event, ON, None)
        for ratio, unlikely in _STARTS:
            begun.append(Hypothesis(cost + unlikely, event, walk.quarter_s * ratio, at_s, 1, path))
    return begun


def origins(walk: Walk, index: int, beams: list[Beam]) -> Beam:
    """Hypotheses of the last few strikes, charged for the strikes between."""
    recent = reversed(beams[-walk.most_extra :])
    near = [(walk.left_out(index - back, back), beam) for back, beam in enumerate(recent) if beam]
    if not near:
        return []
    most = min(beam[0].cost + charge for charge, beam in near) + walk.beam
    return [
        Hypothesis(one.cost + charge, *one[1:]) if charge else one
        for charge, beam in near
        for one in beam
        if one.cost + charge <= most
    ]


def stays(walk: Walk, index: int, origins: Beam) -> Beam:
    """The other hand of the same instant, or another note of the chord."""
    at_s, kind, kinds, times = walk.times[index], walk.kinds[index], walk.kinds, walk.times
    if at_s - times[index - 1] > STAY_MOST_S:
        return []
    emission, stayed = walk.emission[kind], []
    for cost, event, quarter_s, reference_s, strikes, path in origins:
        before = path[0]
        if strikes < walk.sizes[event] and kinds[before] != kind and at_s - times[before] <= STAY_MOST_S:
            gap = (at_s - reference_s) / STAY_S
            cost += gap * gap / 2 - MISSING + emission[event]
            middle_s = (reference_s + at_s) / 2
            stayed.append(Hypothesis(cost, event, quarter_s, middle_s, strikes + 1, (index, event, ON, path)))
    return stayed


def steps(walk: Walk, index: int, origins: Beam) -> Beam:
    """On to one of the next events, in tempo or after a pause."""
    missed, onsets, pauses, full_gain_quarters = walk.missed, walk.onsets, walk.pause, walk.beat_quarters
    reaching, at_s = walk.reaching[walk.kinds[index]], walk.times[index]
    fastest_s, slowest_s, beam = walk.quarter_s * 0.4, walk.quarter_s * 2.6, walk.beam
    stepped: Beam = []
    most = math.inf  # what costs more is out of the beam
    for so_far, event, carried_s, reference_s, _, path in origins:
        following, gap = event + 1, at_s - reference_s
        so_far -= missed[following]
        for target, further in enumerate(reaching[following : following + MOST_SKIPPED], following):
            cost = so_far + further
            if cost > most:
                continue
            quarters = onsets[target] - onsets[event]
            expected = carried_s * quarters
            share = INTERVAL_SHARE * expected
            z = abs(gap - expected) / math.sqrt(_FLOOR_SQUARED + share * share)
            unlikely = z * z / 2 if z < 3 else 3 * z - 4.5
            if gap > expected and unlikely > pauses[target]:
                cost, quarter_s = cost + pauses[target], carried_s
            else:
                gain = TEMPO_GAIN * quarters / full_gain_quarters if quarters < full_gain_quarters else TEMPO_GAIN
                pace = gap / expected
                pace = 0.6 if pace < 0.6 else 1.6 if pace > 1.6 else pace
                cost, quarter_s = cost + unlikely, carried_s * (1 + gain * (pace - 1))
            if cost <= most:
                if cost + beam < most:
                    most = cost + beam
                quarter_s = fastest_s if quarter_s < fastest_s else slowest_s if quarter_s > slowest_s else quarter_s
                stepped.append(Hypothesis(cost, target, quarter_s, at_s, 1, (index, target, ON, path)))
    return stepped


_FLOOR_SQUARED = INTERVAL_FLOOR_S * INTERVAL_FLOOR_S


def hovers(walk: Walk, index: int, origins: Beam) -> Beam:
    """A further strike of a written ornament: the hypothesis stays where it is, its time too."""
    at_s, may_be = walk.times[index], walk.ornamental[walk.kinds[index]]
    return [
        one._replace(cost=one.cost + HOVER, path=(index, one.event, HOVERS, one.path))
        for one in origins
        if may_be[one.event] and at_s - one.reference_s < walk.ornament_quarters[one.event] * one.quarter_s
    ]


#: So many of the cheapest hypotheses jump: what follows a jump depends on the hypothesis only through its tempo.
_JUMPING = 2


def backs(walk: Walk, index: int, origins: Beam, most: float) -> Beam:
    """After a gap clearly longer than written, any earlier event, or the same again; without a gap, from the end of
    a bar to the beginning of an earlier one. ``most``: what costs more is out of the beam."""
    at_s, waiting, ending = walk.times[index], [], []
    for one in _affordable(walk, origins, BACK, most):
        written = one.quarter_s * (walk.following[one.event] + BACK_GAP_BEATS * walk.beat_quarters)
        if at_s - one.reference_s > written:
            waiting.append(one)
        elif walk.at_bar[one.event + 1] and one.cost + BACK_IN_TEMPO <= most:
            ending.append(one)
    found: Beam = []
    for one in _cheapest(waiting):
        target = np.arange(one.event + 1)
        found += _jump(walk, index, one, _Jumps(target, walk.back[target], WENT_BACK, most))
    for one in _cheapest(ending):
        begins = walk.events.bar_begins
        found += _jump(walk, index, one, _Jumps(begins[begins <= one.event], BACK_IN_TEMPO, WENT_BACK, most))
    return found


def leaps(walk: Walk, index: int, origins: Beam, most: float) -> Beam:
    """On to the beginning of a bar further ahead than steps reach: bars left out, a repeat not taken. ``most``: as for
    going back."""
    found: Beam = []
    for one in _cheapest(_affordable(walk, origins, walk.leap, most)):
        begins = walk.events.bar_begins
        found += _jump(walk, index, one, _Jumps(begins[begins > one.event + MOST_SKIPPED], walk.leap, LEAPT, most))
    return found


def _affordable(walk: Walk, origins: Beam, cost: float, most: float) -> Beam:
    """Those that are within the beam even after a move of this cost, and no dearer than ``most``."""
    within = min(one.cost for one in origins) + walk.beam - cost
    return [one for one in origins if one.cost <= within and one.cost + cost <= most]


def _cheapest(beam: Beam) -> Beam:
    return sorted(beam, key=attrgetter("cost"))[:_JUMPING]


@dataclass(frozen=True)
class _Jumps:
    """Where a hypothesis may jump to, what each jump costs, and how it is told; none dearer than ``most``."""

    target: Ints
    cost: Floats | float
    how: int
    most: float


def _jump(walk: Walk, index: int, one: Hypothesis, jumps: _Jumps) -> Beam:
    """One hypothesis at every target, dearer the more bars lie between."""
    target, how = jumps.target, jumps.how
    if not target.size:
        return []
    bar, at_s = walk.events.bar, walk.times[index]
    bars = np.abs(bar[target] - bar[one.event])
    total = one.cost + jumps.cost + FURTHER * np.log2(1 + bars) + walk.arrival[walk.kinds[index], target]
    within = np.flatnonzero(total <= min(jumps.most, total.min() + walk.beam))
    return [
        Hypothesis(cost, event, one.quarter_s, at_s, 1, (index, event, how, one.path))
        for cost, event in zip(total[within].tolist(), target[within].tolist(), strict=True)
    ]
