"""How the tempo of a take moved as a whole, apart from how its phrases go: at one pace, along a slope, or in a step.

The change that this take made is judged, not a tendency behind it: the tempo's own wander counts for little here.
Phrase ends may be broader by the bar group; each run that is rushed may have its own pace. Source: generalised least
squares as in ``regression``.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from laptick.core.effects.columns import gone_by_each
from laptick.core.effects.common import Take, everywhere
from laptick.core.effects.inverses import inverse
from laptick.core.effects.noise import Floats, integrated
from laptick.core.effects.phrases import Spans, broad, broad_each, find_shapes, possible
from laptick.core.effects.places import Kind, Spot
from laptick.core.effects.pooling import NULL

#: A slow wander counts this share of the tempo's limit.
WANDER_SHARE, WANDER_BEATS = 0.10, 8.0

#: Strikes are taken together to at most so many, so that the work does not grow with the length.
MOST_ROWS = 160

#: Added to the error of a slope and a step, in limits: what a model of phrases does not know of one bar.
ADDED_BAR = 1.2

#: By how many SDs a change must be clear; a step is looked for at many bars.
SLOPE_MARGIN, STEP_MARGIN = 1.32, 1.7

#: A step must explain so much more than a slope (twice the log of the evidence).
STEP_PRICE = 4.0

#: What one kind of place does by itself must explain so much more than a change of tempo.
THEIRS_PRICE = 18.0
#: Fewer places of a kind than this show no change of their own.
LEAST_SPANS = 4

#: Of changes that explain a take nearly as well, with so much of the best one's evidence, the plain one is told:
#: half of a slope looks like a step of half its height.
NEARLY = 0.6

#: A step leaves so many bars on either side.
STEP_BARS = 3
MOST_STEPS = 48

#: Prior SD of a change.
CHANGE_SD = 0.3
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
    count = len(bars) - 1
    slope = _slope(take, count)
    at = _step_bars(count)
    steps = [-np.maximum(0.0, strikes.clock_s - np.interp(bars[b], strikes.onset, strikes.clock_s)) for b in at]
    own = [column for spans, _ in apart for column in _changing(take, spans)]
    columns = together @ np.column_stack([base, slope, *steps, *own, strikes.played_s])
    weighed = inverse(_covariance(take, together, scale, WANDER_SHARE)) @ columns
    products = columns.T @ weighed
    first = base.shape[1]
    shared = first - len(apart)
    pace, pace_error = _solved(products, list(range(shared)), base_sd[:shared], 1)
    changes: list[tuple[float, Change]] = []
    amounts, errors = _each_added(products, base_sd)
    kinds = [(None, SLOPE_MARGIN), *((b, STEP_MARGIN) for b in at)]
    for (bar, margin), share, own_error in zip(kinds, amounts.tolist(), errors.tolist(), strict=False):
        error = float(np.hypot(own_error, ADDED_BAR / count * limit))
        change = Change(share, error, bar, (abs(share) - NULL * limit) / error / margin)
        # What explains the take better is what it was; a step may be at many bars.
        changes.append(((share / own_error) ** 2 - (STEP_PRICE if bar is not None else 0.0), change))
    # What only the runs of one length, or the long notes, do more and more is theirs, and not the tempo's.
    theirs = float(((amounts / errors) ** 2)[len(kinds) :].max(initial=0.0)) - THEIRS_PRICE
    enough = max(theirs, NEARLY * max((explains for explains, _ in changes), default=0.0))
    plain = [one for one in changes if one[0] > enough and abs(one[1].share) > limit and one[1].clear > 1]
    named = max(plain, key=lambda one: one[0])[1] if plain else None
    return Moved(pace, pace_error, named)


def _slope(take: Take, bars: int) -> Floats:
    """Seconds gained at every strike by one who ends so many times as fast as she began, from the middle of the first
    bar to that of the last: the whole less a bar."""
    clock = take.strikes.clock_s
    length = float(clock[-1] - clock[0])
    part = (clock - clock[0]) / length
    gained: Floats = -length * (part**2 - part) / 2 * bars / max(1, bars - 1)
    return gained


def _solved(products: Floats, at: list[int], sd: Floats, which: int) -> tuple[float, float]:
    covariance = np.linalg.inv(products[np.ix_(at, at)] + np.diag(1 / sd**2))
    return float(covariance[which] @ products[at, -1]), float(np.sqrt(covariance[which, which]))


def _each_added(products: Floats, base_sd: Floats) -> tuple[Floats, Floats]:
    """(amount, error) of every further column, each by itself beside the base. The last column of the products are the
    times."""
    first = len(base_sd)
    base = products[:first, :first] + np.diag(1 / base_sd**2)
    beside = products[:first, first:]
    explained = np.linalg.solve(base, beside)
    own = np.diag(products)[first:-1] + 1 / CHANGE_SD**2 - np.einsum("ij,ij->j", beside, explained)[:-1]
    amounts: Floats = (products[first:-1, -1] - explained[:, :-1].T @ products[:first, -1]) / own
    return amounts, np.sqrt(1 / own)


def _changing(take: Take, spans: Spans) -> Iterator[Floats]:
    """Seconds gained inside spans that go faster and faster, and inside those from one of them on."""
    if len(spans) < LEAST_SPANS:
        return
    strikes = take.strikes
    each = gone_by_each(strikes, spans)
    places = np.linspace(-0.5, 0.5, len(spans))
    yield -each @ places
    for i in {len(spans) // 3, len(spans) // 2, 2 * len(spans) // 3}:
        yield -each[:, i:].sum(axis=1)


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
    """What pulls at every strike, and spans that may have a pace of their own."""
    columns, sds = everywhere(take, take.strikes)
    columns += [broad(take.strikes, spans) for spans, _ in apart]
    return np.column_stack(columns), np.array([*sds, *(sd for _, sd in apart)])


def with_phrases(take: Take, bars: Sequence[float], apart: Sequence[tuple[Spans, float]]) -> Take:
    """The take with the shapes of its phrases."""
    shapes = list(possible(bars, float(take.scale.beat_quarters)))
    if not shapes:
        return take
    strikes, together = take.strikes, _together(len(take.strikes))
    weight = inverse(_covariance(take, together, ORDINARY, PHRASE_WANDER))
    base, sd = _base(take, apart)
    # Who slows down on the whole has no broader phrases by that.
    base, sd = together @ np.column_stack([base, _slope(take, len(bars) - 1)]), np.append(sd, CHANGE_SD)
    weighed = weight @ base
    left = weight - weighed @ np.linalg.solve(base.T @ weighed + np.diag(1 / sd**2), weighed.T)
    columns = together @ broad_each(strikes, shapes)
    return replace(
        take,
        phrases=tuple(find_shapes(shapes, columns, np.asarray(left, dtype=np.float64), together @ strikes.played_s)),
    )


def _covariance(take: Take, together: Floats, scale: float, wander: float) -> Floats:
    strikes = take.strikes
    clock = together @ strikes.clock_s
    variance = (scale * strikes.spread_s) ** 2 + strikes.unsure_s**2 / 2
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
