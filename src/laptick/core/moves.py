"""How a hypothesis goes on with the next strike: begin, stay, step, go back, leap.

Every move takes the strike's index and the hypotheses it may continue, and gives new ones, each with its cost. Costs:
``hypotheses.py``.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from laptick.core.hypotheses import (
    BACK,
    BACK_GAP_BEATS,
    BACK_IN_TEMPO,
    BEAM,
    EXTRA,
    FURTHER,
    HOVER,
    HOVERS,
    INTERVAL_FLOOR_S,
    INTERVAL_SHARE,
    LEAPT,
    MISSING,
    MOST_EXTRA,
    MOST_SKIPPED,
    START_BEATS,
    STAY_MOST_S,
    STAY_S,
    STOP,
    TEMPO_GAIN,
    TEMPO_PRIOR,
    TEMPO_STARTS,
    WENT_BACK,
    Beam,
    Floats,
    Ints,
    Walk,
)


def starts(walk: Walk, index: int) -> list[Beam]:
    """Hypotheses that begin with this strike, everything before it extra."""
    if index > 2 * MOST_EXTRA:
        return []
    events = walk.events
    if walk.anywhere:
        begins, left_out = events.bar_begins, np.zeros(len(events.bar_begins))
    else:
        begins = np.arange(min(len(events.members), MOST_SKIPPED + 1))
        left_out = walk.missed[begins]
    ratios = np.array(TEMPO_STARTS)
    event, ratio = np.repeat(begins, len(ratios)), np.tile(ratios, len(begins))
    cost = index * EXTRA + np.repeat(left_out, len(ratios)) + (np.log(ratio) / TEMPO_PRIOR) ** 2 / 2
    cost = cost + (events.sizes[event] - 1) * MISSING
    first_beat_s = walk.performance.first_beat_s
    if first_beat_s is not None and not walk.anywhere:
        asked = first_beat_s + events.onsets[event] * walk.quarter_s
        off = (walk.times[index] - asked) / (START_BEATS * walk.beat_quarters * walk.quarter_s)
        cost = cost + np.minimum(off**2 / 2, STOP)
    cost = cost + walk.emission[walk.kinds[index], event]
    return [Beam.of(cost, event, walk.quarter_s * ratio, walk.times[index], -1, -1, 0.0)]


def origins(beams: list[Beam], index: int) -> Beam | None:
    """Hypotheses of the last few strikes, charged for the strikes between; their ``from_`` columns name
    themselves."""
    tables = []
    for back in range(1, min(MOST_EXTRA, index) + 1):
        table = beams[index - back].as_origin
        if back > 1:
            table = table.copy()
            table[0] += (back - 1) * EXTRA
        tables.append(table)
    joined = np.concatenate(tables, axis=1) if tables else np.empty((8, 0))
    if joined.shape[1] == 0:
        return None
    return Beam(joined[:, joined[0] <= joined[0].min() + BEAM])


def stays(walk: Walk, index: int, origins: Beam) -> Beam | None:
    """The other hand of the same instant, or another note of the chord."""
    if walk.times[index] - walk.times[index - 1] > STAY_MOST_S:
        return None
    from_strike, event = origins.from_strike, origins.event
    rows = np.flatnonzero(
        (walk.times[index] - walk.times[from_strike] <= STAY_MOST_S)
        & (walk.kinds[from_strike] != walk.kinds[index])
        & (origins.table[7] < walk.events.sizes[event])
    )
    if rows.size == 0:
        return None
    kept, event = origins.take(rows), event[rows]
    gap = walk.times[index] - kept.reference_s
    kept.table[0] += (gap / STAY_S) ** 2 / 2 - MISSING + walk.emission[walk.kinds[index], event]
    kept.table[3] = (kept.reference_s + walk.times[index]) / 2
    kept.table[7] += 1
    return kept


_AHEAD = np.arange(1, MOST_SKIPPED + 1)


def steps(walk: Walk, index: int, origins: Beam) -> Beam | None:
    """On to one of the next events, in tempo or after a pause."""
    events, event = walk.events, origins.event
    left = len(events.members) - int(event.min()) - 1  # no hypothesis has more events before it
    if left <= 0:
        return None
    ahead = event[:, None] + _AHEAD[:left]
    reach = np.minimum(ahead, len(events.members) - 1)
    costs = (origins.cost - walk.missed[event + 1])[:, None] + (
        walk.missed[reach] + walk.arrival[walk.kinds[index], reach]
    )
    if int(event.max()) + MOST_SKIPPED >= len(events.members):
        costs[ahead != reach] = np.inf
    rows, column = np.nonzero(costs <= costs.min() + BEAM)
    base, target = costs[rows, column], ahead[rows, column]
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
    kept.table[2] = np.minimum(np.maximum(moved, walk.quarter_s * 0.4), walk.quarter_s * 2.6)
    kept.table[3] = walk.times[index]
    kept.table[7] = 1.0
    return kept


def hovers(walk: Walk, index: int, origins: Beam) -> Beam | None:
    """A further strike of a written ornament: the hypothesis stays where it is, its time too."""
    event = origins.event
    lasts_s = walk.ornament_quarters[event] * origins.quarter_s
    within = (walk.times[index] - origins.reference_s < lasts_s) & walk.ornamental[walk.kinds[index], event]
    rows = np.flatnonzero(within)
    if rows.size == 0:
        return None
    kept = origins.take(rows)
    kept.table[0] += HOVER
    kept.table[6] = HOVERS
    return kept


#: So many of the cheapest hypotheses jump: what follows a jump depends on the hypothesis only through its tempo.
_JUMPING = 2


def backs(walk: Walk, index: int, origins: Beam) -> Beam | None:
    """After a gap clearly longer than written, any earlier event, or the same again; without a gap, from the end of
    a bar to the beginning of an earlier one."""
    events = walk.events
    affordable = origins.take(origins.cost <= origins.cost.min() + BEAM - BACK)
    event = affordable.event
    written = affordable.quarter_s * (walk.following[event] + BACK_GAP_BEATS * walk.beat_quarters)
    waited = walk.times[index] - affordable.reference_s > written
    parts = []
    for row in _cheapest(affordable, waited):
        target = np.arange(event[row] + 1)
        parts.append(_jump(walk, index, affordable, row, target, walk.back[target], WENT_BACK))
    at_end = ~waited & (np.append(events.at_bar, True)[event + 1])
    for row in _cheapest(affordable, at_end):
        target = events.bar_begins[events.bar_begins <= event[row]]
        parts.append(_jump(walk, index, affordable, row, target, BACK_IN_TEMPO, WENT_BACK))
    return Beam.join(parts) if parts else None


def leaps(walk: Walk, index: int, origins: Beam) -> Beam | None:
    """On to the beginning of a bar further ahead than steps reach: bars left out, a repeat not taken."""
    affordable = origins.take(origins.cost <= origins.cost.min() + BEAM - walk.leap)
    parts = []
    for row in _cheapest(affordable, np.ones(len(affordable), dtype=bool)):
        begins = walk.events.bar_begins
        target = begins[begins > affordable.event[row] + MOST_SKIPPED]
        if target.size:
            parts.append(_jump(walk, index, affordable, row, target, walk.leap, LEAPT))
    return Beam.join(parts) if parts else None


def _cheapest(beam: Beam, wanted: NDArray[np.bool_]) -> Ints:
    rows = np.flatnonzero(wanted)
    return rows[np.argsort(beam.cost[rows], kind="stable")[:_JUMPING]]


def _jump(walk: Walk, index: int, origins: Beam, row: int, target: Ints, cost: Floats | float, how: float) -> Beam:
    """One hypothesis at every target, dearer the more bars lie between."""
    bars = np.abs(walk.events.bar[target] - walk.events.bar[origins.event[row]])
    total = origins.cost[row] + cost + FURTHER * np.log2(1 + bars) + walk.arrival[walk.kinds[index], target]
    _, _, quarter_s, _, from_strike, from_row, _, _ = origins.table[:, row]
    return Beam.of(total, target, np.full(len(target), quarter_s), walk.times[index], from_strike, from_row, how)
