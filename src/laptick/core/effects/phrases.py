"""How the phrases of a take are shaped: which beats are regularly played more broadly, and how its end is.

Phrases of two, three or four bars may end a little before or after a bar line, over one beat or more; the first beat of
a bar may be stressed; the last bar may be broad. Of all of these the take itself shows which there are: the shape that
explains most is taken, then the next, while they explain enough. Source: matching pursuit (Mallat & Zhang, IEEE Trans.
Signal Processing 41, 1993, from memory) with a Bayesian price for each shape.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.effects.columns import gone_by_each
from laptick.core.effects.noise import Floats, Strikes

#: From where to where, in quarters.
Spans = Sequence[tuple[float, float]]

#: Bars of a phrase; by how many beats its end lies before the bar line; over how many beats it is broad.
GROUPS, SHIFTS, WIDTHS = (2, 3, 4), (0.0, 0.5, 1.0, 1.5, 2.0), (1.0, 1.5, 2.0, 2.5)

#: Beats that a broad end is longer than its last bar, or how long it is without one.
ENDS_WITH_BAR, ENDS = (0.0, 1.0, 2.0), (1.0, 2.0)

#: SD of how much broader, as a share; a shape is taken when it explains so much more (log of the evidence).
BROAD_SD, TAKEN = 0.12, 1.5

#: Of one group (phrases, first beats, ends) so many shapes at most.
MOST = {"phrase": 2, "first": 1, "end": 1}


@dataclass(frozen=True)
class Shape:
    """Spans that are played at a pace of their own."""

    group: str
    spans: tuple[tuple[float, float], ...]


def broad(strikes: Strikes, spans: Spans) -> Floats:
    """Seconds of the clock gone by inside spans, at every strike."""
    ends = np.asarray(spans, dtype=np.float64).reshape(-1, 2)
    if (ends[1:, 0] < ends[:-1, 1]).any():
        summed: Floats = gone_by_each(strikes, spans).sum(axis=1)
        return summed
    edges = np.interp(ends.ravel(), strikes.onset, strikes.clock_s)
    inside = np.zeros(len(edges))
    inside[1::2] = edges[1::2] - edges[::2]
    gained: Floats = np.interp(strikes.clock_s, edges, np.cumsum(inside))
    return gained


#: Up to so many strikes by spans all shapes are reckoned at once; beyond, shape by shape, the work stays linear.
AT_ONCE = 150_000


def broad_each(strikes: Strikes, shapes: Sequence[Shape]) -> Floats:
    """The same for every shape, a column each."""
    counts = [len(shape.spans) for shape in shapes]
    if sum(counts) * len(strikes) > AT_ONCE:
        return np.column_stack([broad(strikes, shape.spans) for shape in shapes])
    each = gone_by_each(strikes, [span for shape in shapes for span in shape.spans])
    summed: Floats = np.add.reduceat(each, np.cumsum([0, *counts[:-1]]), axis=1)
    return summed


def possible(bars: Sequence[float], beat: float) -> Iterator[Shape]:
    """Every shape a take of these bars may have (``bars``: where they begin, and the last one's end)."""
    count = len(bars) - 1
    for group in GROUPS:
        if count < 2 * group:
            continue
        for shift in SHIFTS:
            for width in WIDTHS:
                ends = [bar - shift * beat for bar in bars[group::group]]
                yield Shape("phrase", tuple((end - width * beat, end) for end in ends))
    if count >= 4:
        yield Shape("first", tuple((bar, bar + beat) for bar in bars[:-1]))
    last = bars[-1] - bars[-2]
    for length in [*(beats * beat for beats in ENDS), *(last + beats * beat for beats in ENDS_WITH_BAR)]:
        if count >= 4:
            yield Shape("end", ((bars[-1] - length, bars[-1]),))


def find_shapes(shapes: Sequence[Shape], columns: Floats, left: Floats, played_s: Floats) -> list[Shape]:
    """The shapes that a take shows. ``columns``: seconds gained by each shape at every row; ``left``: the weight of
    what nothing else explains (the inverse covariance with all else taken out)."""
    found: list[Shape] = []
    weighed = left @ columns
    gained = columns.T @ weighed
    told = weighed.T @ played_s
    free = dict(MOST)
    for _ in range(sum(MOST.values())):
        size = np.diag(gained)
        worth = 0.5 * told**2 / (size + 1 / BROAD_SD**2) - 0.5 * np.log1p(BROAD_SD**2 * np.maximum(size, 0.0))
        worth = np.where([free[s.group] > 0 for s in shapes], worth, -np.inf)
        # Who hurries at the end of a phrase has a fault, not a phrase.
        worth = np.where((told > 0) | np.array([s.group == "first" for s in shapes]), worth, -np.inf)
        best = int(np.argmax(worth))
        if worth[best] < TAKEN:
            break
        found.append(shapes[best])
        free[shapes[best].group] -= 1
        beside, own = gained[:, best].copy(), size[best] + 1 / BROAD_SD**2
        told = told - beside * (told[best] / own)
        gained = gained - np.outer(beside, beside) / own
    return found
