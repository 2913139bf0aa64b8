"""How the tempo of a take moved as a whole, apart from how its phrases go: at one pace, along a slope, or in a step.

The change that this take made is judged, not a tendency behind it: the tempo's own wander counts for little here.
Phrase ends may be broader by the bar group; each run that is rushed may have its own pace. Source: generalised least
squares as in ``regression``.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from laptick.core.effects.noise import Floats, integrated
from laptick.core.effects.phrases import Spans, broad, find_shapes, possible
from laptick.core.effects.places import Kind, Spot
from laptick.core.effects.pooling import NULL
from laptick.core.effects.regression import Take

#: A slow wander counts this share of the tempo's limit.
WANDER_SHARE, WANDER_BEATS = 0.10, 8.0

#: Strikes are taken together to at most so many, so that the work does not grow with the length.
MOST_ROWS = 160

#: Added to the error of a slope and a step, in limits: what a model of phrases does not know.
ADDED = 0.15

#: By how many SDs a change must be clear; a step is looked for at many bars.
SLOPE_MARGIN, STEP_MARGIN, PACE_MARGIN = 1.6, 1.9, 1.6

#: A step must explain so much more than a slope (twice the log of the evidence).
STEP_PRICE = 4.0

#: A step leaves so many bars on either side.
STEP_BARS = 3
MOST_STEPS = 48

PACE_SD, CHANGE_SD, SHAPE_SD, APART_SD_S, STOP_SD_S = 0.5, 0.3, 0.15, 0.2, 5.0
#: While the phrases are sought: the player's scale, and a slow wander.
ORDINARY, PHRASE_WANDER = 0.6, 0.3


@dataclass(frozen=True)
class Change:
    """``share``: how much faster the end is than the beginning (negative: slower); ``bar``: the index of the bar from
    which a step holds, ``None`` for a slope; ``clear``: by how many of its margins it is clear."""

    share: float
    error: float
    bar: int | None
    clear: float


@dataclass(frozen=True)
class Moved:
    """``pace``: seconds a clock's second lasted, and its ``pace_error``; ``change``: the clearest change, slope or
    step."""

    pace: float
    pace_error: float
    change: Change | None


def how_it_moved(take: Take, bars: Sequence[float], apart: Sequence[tuple[Spans, float]], scale: float) -> Moved:
    """``bars``: where bars begin, and the last one's end; ``apart``: spans that may have a pace of their own, and by
    how much (SD); ``scale``: the player's, as a share of the limit; ``limit``: of a change."""
    strikes, together = take.strikes, _together(len(take.strikes))
    limit = take.scale.limits.drift_share
    base, base_sd = _base(take, apart)
    length = float(strikes.clock_s[-1] - strikes.clock_s[0])
    part = (strikes.clock_s - strikes.clock_s[0]) / length
    count = len(bars) - 1
    # From the middle of the first bar to that of the last the change is the whole less a bar.
    slope = -length * (part**2 - part) / 2 * count / max(1, count - 1)
    at = _step_bars(count)
    steps = [-np.maximum(0.0, strikes.clock_s - np.interp(bars[b], strikes.onset, strikes.clock_s)) for b in at]
    columns = together @ np.column_stack([base, slope, *steps, strikes.played_s])
    inverse = np.linalg.inv(_covariance(take, together, scale, WANDER_SHARE))
    products = columns.T @ (inverse @ columns)
    first = base.shape[1]
    plain = first - len(apart)
    pace, pace_error = _solved(products, list(range(plain)), base_sd[:plain], 1)
    best: tuple[float, Change] | None = None
    for column, bar, margin in [
        (first, None, SLOPE_MARGIN),
        *((first + 1 + i, b, STEP_MARGIN) for i, b in enumerate(at)),
    ]:
        share, own_error = _solved(products, [*range(first), column], np.append(base_sd, CHANGE_SD), first)
        error = float(np.hypot(own_error, ADDED * limit))
        change = Change(share, error, bar, (abs(share) - NULL * limit) / error / margin)
        # What explains the take better is what it was; a step may be at many bars.
        explains = (share / own_error) ** 2 - (STEP_PRICE if bar is not None else 0.0)
        if best is None or explains > best[0]:
            best = explains, change
    named = best[1] if best and abs(best[1].share) > limit and best[1].clear > 1 else None
    return Moved(pace, pace_error, named)


def _solved(products: Floats, at: list[int], sd: Floats, which: int) -> tuple[float, float]:
    covariance = np.linalg.inv(products[np.ix_(at, at)] + np.diag(1 / sd**2))
    return float(covariance[which] @ products[at, -1]), float(np.sqrt(covariance[which, which]))


def _together(count: int) -> Floats:
    """Rows that take neighbouring strikes together, each the mean of its own."""
    size = -(-count // MOST_ROWS)
    rows = -(-count // size)
    together = np.zeros((rows, count))
    together[np.arange(count) // size, np.arange(count)] = 1.0
    together /= together.sum(axis=1, keepdims=True)
    return together


def _step_bars(count: int) -> list[int]:
    inside = list(range(STEP_BARS, count - STEP_BARS + 1))
    return inside[:: -(-len(inside) // MOST_STEPS)] if inside else []


def _base(take: Take, apart: Sequence[tuple[Spans, float]]) -> tuple[Floats, Floats]:
    """Begin, pace, hands apart, stops, phrases, and spans that may have a pace of their own."""
    strikes = take.strikes
    columns: list[Floats] = [np.ones(len(strikes)), strikes.clock_s]
    sds = [100.0, PACE_SD]
    if strikes.hand.any() and not strikes.hand.all():
        columns.append(strikes.hand.astype(np.float64) - 0.5)
        sds.append(APART_SD_S)
    for step in take.steps:
        if strikes.onset[0] < step <= strikes.onset[-1]:
            columns.append((strikes.onset >= step - 1e-6).astype(np.float64))
            sds.append(STOP_SD_S)
    for shape in take.phrases:
        columns.append(broad(strikes, shape.spans))
        sds.append(SHAPE_SD)
    for spans, sd in apart:
        columns.append(broad(strikes, spans))
        sds.append(sd)
    return np.column_stack(columns), np.array(sds)


def with_phrases(take: Take, bars: Sequence[float], apart: Sequence[tuple[Spans, float]]) -> Take:
    """The take with the shapes of its phrases."""
    shapes = list(possible(bars, float(take.scale.beat_quarters)))
    if not shapes:
        return take
    strikes, together = take.strikes, _together(len(take.strikes))
    inverse = np.linalg.inv(_covariance(take, together, ORDINARY, PHRASE_WANDER))
    base, sd = _base(take, apart)
    base = together @ base
    weighed = inverse @ base
    left = inverse - weighed @ np.linalg.solve(base.T @ weighed + np.diag(1 / sd**2), weighed.T)
    columns = together @ np.column_stack([broad(strikes, shape.spans) for shape in shapes])
    return replace(
        take,
        phrases=tuple(find_shapes(shapes, columns, np.asarray(left, dtype=np.float64), together @ strikes.played_s)),
    )


def _covariance(take: Take, together: Floats, scale: float, wander: float) -> Floats:
    strikes = take.strikes
    clock = together @ strikes.clock_s
    variance = (scale * strikes.spread_s) ** 2 + take.scale.uncertainty_s**2 / 2
    slow = integrated(clock, wander * take.scale.limits.tempo_share, WANDER_BEATS * take.scale.beat_s)
    covariance: Floats = slow + (together * variance) @ together.T + 1e-10 * np.eye(len(clock))
    return covariance


def classes(spots: Sequence[Spot]) -> list[tuple[Spans, float]]:
    """Runs of each length, and long gaps, with what each kind may differ in pace: its limit."""
    groups: dict[tuple[Kind, object], list[Spot]] = {}
    for spot in spots:
        if spot.kind in (Kind.RUN, Kind.GAP):
            key = (spot.kind, spot.interval_quarters if spot.kind is Kind.RUN else None)
            groups.setdefault(key, []).append(spot)
    return [
        (united([(float(s.start_quarters), float(s.end_quarters)) for s in group]), group[0].limit)
        for group in groups.values()
    ]


def united(spans: Spans) -> list[tuple[float, float]]:
    """The same stretches with those that overlap made one, in order."""
    joined: list[tuple[float, float]] = []
    for low, high in sorted(spans):
        if joined and low < joined[-1][1]:
            low, high = joined[-1][0], max(high, joined.pop()[1])
        joined.append((low, high))
    return joined
