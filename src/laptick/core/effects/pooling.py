"""Do places of a kind lie beyond their limit? Asked of all of them, of halves of the passage, and of part of them.

Amounts are in limits: 1 is at the limit. A question is answered yes when the amount lies above the limit and stands
clear, by a margin, of what a player at nine tenths of it may show. The margins stand in place of a correction for many
looks: they are fitted to the clean takes of two performers (docs/operating-curve.md shows what they cost).

Source: partial pooling after Efron & Morris, J. American Statistical Association 70, 1975 (from memory); values drawn
in after Huber, Annals of Mathematical Statistics 35, 1964; the two-part mixture by its likelihood ratio, on a grid.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

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
    ``whole``, ``half``, ``part``: by how many SDs each question must be clear."""

    least: int
    ordinary: float
    whole: float = 1.3
    half: float = 1.6
    part: float = 1.6

    def times(self, factor: float) -> Margins:
        """The same, so many times as strict."""
        return replace(self, whole=factor * self.whole, half=factor * self.half, part=factor * self.part)


@dataclass(frozen=True)
class Amounts:
    """Of places of one kind, in order: their amounts in limits, how these err together, and what each weighs."""

    values: Floats
    covariance: Floats
    weights: Floats

    def __len__(self) -> int:
        return len(self.values)

    def of(self, rows: Sequence[int] | Ints) -> Amounts:
        at = np.asarray(rows, dtype=np.int64)
        return Amounts(self.values[at], self.covariance[np.ix_(at, at)], self.weights[at])


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
    middle = float(np.median(values))
    for _ in range(2):
        drawn = np.clip(values, middle - DRAWN_IN * own, middle + DRAWN_IN * own)
        middle = float(weights @ drawn)
    effective = 1 / float(weights @ weights)
    known = float(weights @ amounts.covariance @ weights) + ordinary**2 / effective
    seen = float(weights @ (drawn - middle) ** 2) / max(effective - 1, 0.5)
    share = KNOWN_PLACES / (KNOWN_PLACES + count)
    return middle, float(np.sqrt(share * known + (1 - share) * max(seen, 0.25 * known)))


def ask(amounts: Amounts, margins: Margins) -> Answer | None:
    """The clearest answer of all questions, or ``None`` when every place may be within its limit."""
    found = [answer for answer in questions(amounts, margins) if answer is not None]
    return max(found, key=lambda one: one.clear, default=None)


def questions(amounts: Amounts, margins: Margins) -> list[Answer | None]:
    count = len(amounts)
    if count < margins.least:
        return []
    asked = [beyond(amounts, range(count), margins.ordinary, margins.whole)]
    if count >= max(6, 2 * margins.least):
        middle = count // 2
        asked += [
            beyond(amounts, rows, margins.ordinary, margins.half) for rows in (range(middle), range(middle, count))
        ]
    if count >= 5:
        asked.append(in_part(amounts, margins))
    return asked


def beyond(amounts: Amounts, rows: Sequence[int], ordinary: float, margin: float) -> Answer | None:
    amount, error = pooled(amounts.of(rows), ordinary)
    clear = (amount - NULL) / error / margin
    return Answer(tuple(rows), amount, error, clear) if amount > 1 and clear > 1 else None


# -- a fault in part of the places ---------------------------------------------------------------------

_GOOD = np.linspace(-0.6, 1.0, 9)
_BAD = np.linspace(0.0, 3.0, 21)
_SHARES = np.array([0.25, 1 / 3, 0.42, 0.5, 0.58, 2 / 3])
#: A value that is neither, and how broad such values lie.
_STRAY, _STRAY_SD = 0.05, 2.0

#: Fewer affected places than this are no habit.
LEAST_AFFECTED = 3


def _normal(values: Floats, centre: Floats, sd: Floats) -> Floats:
    return np.exp(-0.5 * ((values - centre) / sd) ** 2) / (sd * 2.5066282746)


def in_part(amounts: Amounts, margins: Margins) -> Answer | None:
    """Is there a share of the places that lies beyond the limit, the rest not?"""
    values = amounts.values
    variances = np.diag(amounts.covariance)
    total = amounts.covariance.sum() - variances.sum()
    count = len(values)
    common = max(0.0, float(total) / (count * (count - 1)))
    sd = np.sqrt(np.maximum(variances - common, 1e-6) + margins.ordinary**2)
    good = _normal(values[None, :], _GOOD[:, None], sd[None, :])
    bad = _normal(values[None, :], _BAD[:, None], sd[None, :])
    stray = _STRAY * _normal(values, np.full(count, 0.5), np.full(count, _STRAY_SD))
    mixed = (1 - _STRAY) * (
        (1 - _SHARES)[:, None, None, None] * good[None, :, None, :]
        + _SHARES[:, None, None, None] * bad[None, None, :, :]
    ) + stray
    likely = np.log(mixed).sum(axis=3)
    at = np.unravel_index(int(np.argmax(likely)), likely.shape)
    share, low, high = _SHARES[at[0]], _GOOD[at[1]], _BAD[at[2]]
    null = likely[:, :, _BAD <= NULL + 1e-9].max()
    root = np.sqrt(max(0.0, 2 * float(likely[at] - null)))
    affected = _affected(values, sd, float(share), float(low), float(high))
    # What all places err by together counts against it.
    own = float(np.sqrt((sd[list(affected)] ** 2).sum())) / max(1, len(affected)) if affected else 1.0
    root *= own / np.sqrt(own**2 + common)
    if high <= 1 or len(affected) < LEAST_AFFECTED or root <= margins.part:
        return None
    return Answer(affected, float(high), float(np.hypot(own, np.sqrt(common))), root / margins.part, True)


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
