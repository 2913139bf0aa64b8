"""Do places of a kind lie beyond their limit? Asked of all of them, of each half of the passage and of its last third,
and of part of them.

Amounts are in limits: 1 is at the limit. A question is answered yes when the amount lies above the limit and stands
clear, by a margin, of what a player at nine tenths of it may show. The margins stand in place of a correction for many
looks: they are fitted to the clean takes of two performers (docs/operating-curve.md shows what they cost).

Source: partial pooling after Efron & Morris, J. American Statistical Association 70, 1975 (from memory); values drawn
in after Huber, Annals of Mathematical Statistics 35, 1964; the two-part mixture by its likelihood ratio, on a grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from statistics import median

import numpy as np

from laptick.core.effects.noise import Floats, Ints

#: What a faultless player may show, in limits.
NULL = 0.9

#: Places so many SDs from the middle are drawn in to there.
DRAWN_IN = 2.0

#: The ordinary spread of one place counts as so many seen places.
KNOWN_PLACES = 6.0


@dataclass(frozen=True)
class Margins:
    """``least``: places that are judged together; ``ordinary``: the SD of one place in an ordinary player, in limits;
    ``whole``, ``half``, ``part``: by how many SDs each question must be clear; ``affected``: fewer places than this are
    no part of them; ``alone``: a place that weighs so much is judged by itself; ``whole_most``: what is asked of all
    places is asked at most so many times as strictly."""

    least: int
    ordinary: float
    whole: float = 1.3
    half: float = 1.6
    part: float = 1.6
    affected: int = 3
    alone: float = float("inf")
    whole_most: float = float("inf")

    def times(self, factor: float) -> Margins:
        """The same, so many times as strict."""
        whole = min(factor, self.whole_most) * self.whole
        return replace(self, whole=whole, half=factor * self.half, part=factor * self.part)

    def in_part_times(self, factor: float) -> Margins:
        """The same, so many times as strict of what is not everywhere."""
        return replace(self, half=factor * self.half, part=factor * self.part)


@dataclass(frozen=True)
class Amounts:
    """Of places of one kind, in order: their amounts in limits, how these err together, and what each weighs."""

    values: Floats
    covariance: Floats
    weights: Floats

    def __len__(self) -> int:
        return len(self.values)

    @property
    def common(self) -> float:
        """The variance of what all err by together: how any two of them vary with each other, in the mean."""
        count = len(self)
        return float(self.covariance.sum() - np.trace(self.covariance)) / (count * (count - 1)) if count > 1 else 0.0

    def of(self, rows: Sequence[int] | Ints) -> Amounts:
        at = np.asarray(rows, dtype=np.int64)
        return Amounts(self.values[at], self.covariance[np.ix_(at, at)], self.weights[at])

    def together(self, groups: Sequence[Sequence[int]]) -> Amounts:
        """Places that are one and the same moment taken together, each group the mean of its own."""
        if all(len(group) == 1 for group in groups):
            return self.of([group[0] for group in groups])
        means = np.zeros((len(groups), len(self)))
        for row, group in enumerate(groups):
            means[row, list(group)] = 1 / len(group)
        return Amounts(means @ self.values, means @ self.covariance @ means.T, means @ self.weights)


@dataclass(frozen=True)
class Answer:
    """What of some places lies beyond the limit: ``rows`` which were asked, ``amount`` in limits, its ``error``;
    ``clear``: by how many of its margins it is clear of the null; ``in_part``: in part of the places only."""

    rows: tuple[int, ...]
    amount: float
    error: float
    clear: float
    in_part: bool = False


def pooled(amounts: Amounts, ordinary: float) -> tuple[float, float]:
    """The mean amount and its standard error."""
    values, count = amounts.values, len(amounts)
    own = np.sqrt(np.diag(amounts.covariance) + ordinary**2)
    weights = amounts.weights / amounts.weights.sum()
    middle = median(values.tolist())
    for _ in range(2):
        drawn = np.clip(values, middle - DRAWN_IN * own, middle + DRAWN_IN * own)
        middle = float(weights @ drawn)
    effective = 1 / float(weights @ weights)
    whole = float(weights @ amounts.covariance @ weights)
    # What all err by together no spread of the places shows.
    together = min(max(0.0, amounts.common), whole)
    known = whole - together + ordinary**2 / effective
    seen = float(weights @ (drawn - middle) ** 2) / max(effective - 1, 0.5)
    share = KNOWN_PLACES / (KNOWN_PLACES + count)
    return middle, float(np.sqrt(together + share * known + (1 - share) * max(seen, 0.25 * known)))


def ask(amounts: Amounts, margins: Margins) -> Answer | None:
    """The clearest answer of all questions, or ``None`` when every place may be within its limit."""
    found = [answer for answer in questions(amounts, margins) if answer is not None]
    return max(found, key=lambda one: one.clear, default=None)


def questions(amounts: Amounts, margins: Margins) -> list[Answer | None]:
    count = len(amounts)
    if not count or amounts.values.max() <= NULL:
        return []
    if count < margins.least and amounts.weights.max() < margins.alone:
        return []
    asked = [beyond(amounts, range(count), margins.ordinary, margins.whole)]
    if count >= max(6, 2 * margins.least):
        middle, late = count // 2, count - count // 3
        stretches = (range(middle), range(middle, count), range(late, count))
        asked += [
            beyond(amounts, rows, margins.ordinary, margins.half) for rows in stretches if len(rows) >= margins.least
        ]
    if count >= margins.affected + 2:
        asked.append(in_part(amounts, margins))
    return asked


def beyond(amounts: Amounts, rows: Sequence[int], ordinary: float, margin: float) -> Answer | None:
    some = amounts.of(rows)
    if some.values.max() <= 1:
        return None
    amount, error = pooled(some, ordinary)
    clear = (amount - NULL) / error / margin
    return Answer(tuple(rows), amount, error, clear) if amount > 1 and clear > 1 else None


# -- a fault in part of the places ---------------------------------------------------------------------

_GOOD = np.linspace(-0.9, 1.0, 8)
_BAD = np.linspace(0.3, 3.0, 19)
_SHARES = np.array([0.25, 0.38, 0.5, 0.64])
#: A value that is neither, and how broad such values lie; none counts as farther out than so many of these.
_STRAY, _STRAY_SD, _FARTHEST_SDS = 0.05, 2.0, 30.0

#: Places that differ by no more than this, in limits, are no two kinds of places.
ALIKE = 1.0

#: Fewer than this share of the places are no part of them, but chance.
LEAST_PART = 0.15


def _normal(values: Floats, centre: Floats, sd: Floats) -> Floats:
    return np.exp(-0.5 * ((values - centre) / sd) ** 2) / (sd * 2.5066282746)


def in_part(amounts: Amounts, margins: Margins) -> Answer | None:
    """Is there a share of the places that lies beyond the limit, the rest not? What all places err by together may
    have put that share there, but not so far from the rest."""
    values = amounts.values
    count = len(values)
    if np.count_nonzero(values > NULL) < margins.affected:
        return None
    variances = np.diag(amounts.covariance)
    common = max(0.0, amounts.common)
    sd = np.sqrt(np.maximum(variances - common, 1e-6) + margins.ordinary**2)
    good = _normal(values[None, :], _GOOD[:, None], sd[None, :])
    bad = _normal(values[None, :], _BAD[:, None], sd[None, :])
    # However far out a place lies, it is a stray one: it must not make everything else impossible.
    far = np.clip(values, 0.5 - _FARTHEST_SDS * _STRAY_SD, 0.5 + _FARTHEST_SDS * _STRAY_SD)
    stray = _STRAY * _normal(far, np.full(count, 0.5), np.full(count, _STRAY_SD))
    mixed = (1 - _STRAY) * (
        (1 - _SHARES)[:, None, None, None] * good[None, :, None, :]
        + _SHARES[:, None, None, None] * bad[None, None, :, :]
    ) + stray
    likely = np.log(mixed).sum(axis=3)
    at = np.unravel_index(int(np.argmax(likely)), likely.shape)
    share, low, high = _SHARES[at[0]], _GOOD[at[1]], _BAD[at[2]]
    within = _root(likely, at, likely[:, :, _BAD <= NULL + 1e-9])
    alike = _root(likely, at, likely[:, _BAD[None, :] - _GOOD[:, None] <= ALIKE + 1e-9])
    affected = _affected(values, sd, float(share), float(low), float(high))
    own = float(np.sqrt((sd[list(affected)] ** 2).sum())) / max(1, len(affected)) if affected else 1.0
    root = max(within * own / np.sqrt(own**2 + common), min(within, alike))
    if high <= 1 or len(affected) < max(margins.affected, LEAST_PART * count) or root <= margins.part:
        return None
    return Answer(affected, float(high), float(np.hypot(own, np.sqrt(common))), root / margins.part, True)


def _root(likely: Floats, at: tuple[np.intp, ...], null: Floats) -> float:
    """Of the likelihood ratio against what is left."""
    return float(np.sqrt(max(0.0, 2 * float(likely[at] - null.max()))))


def _affected(values: Floats, sd: Floats, share: float, low: float, high: float) -> tuple[int, ...]:
    bad = share * _normal(values, np.full(len(values), high), sd)
    good = (1 - share) * _normal(values, np.full(len(values), low), sd)
    return tuple(int(i) for i in np.flatnonzero((bad > good) & (values > (low + high) / 2)))


def apart(values: Sequence[float], sds: Sequence[float], weights: Sequence[float] | None = None) -> Amounts:
    """Amounts that err each by itself."""
    count = len(values)
    return Amounts(
        np.asarray(values, dtype=np.float64),
        np.diag(np.square(np.asarray(sds, dtype=np.float64))),
        np.ones(count) if weights is None else np.asarray(weights, dtype=np.float64),
    )
