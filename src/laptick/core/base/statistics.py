"""Small statistics without a statistics package: means, spreads, medians, and the nPVI."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from statistics import median


def rms(values: Sequence[float]) -> float:
    """Root mean square; 0 of nothing."""
    return math.sqrt(math.fsum(value * value for value in values) / len(values)) if values else 0.0


def mean(values: Sequence[float]) -> float:
    return math.fsum(values) / len(values)


def sd(values: Sequence[float]) -> float:
    """Sample standard deviation; 0 for a single value."""
    if len(values) < 2:
        return 0.0
    middle = mean(values)
    return math.sqrt(math.fsum((value - middle) ** 2 for value in values) / (len(values) - 1))


def robust_sd(values: Sequence[float]) -> float:
    """Standard deviation of a normal bulk by the median absolute deviation."""
    if not values:
        return 0.0
    middle = median(values)
    return 1.4826 * median(abs(value - middle) for value in values)


def weighted_median(weighted: Iterable[tuple[float, float]]) -> float:
    """Of (value, weight) pairs the lowest value at which half the weight is reached; ValueError when there is none."""
    ordered = sorted(weighted)
    if not ordered:
        raise ValueError("no values")
    half, total = sum(weight for _, weight in ordered) / 2, 0.0
    for value, weight in ordered:
        total += weight
        if total >= half:
            return value
    return ordered[-1][0]  # rounding kept the sum below its own half


#: Share of the values left out at each end of a trimmed mean.
TRIM = 0.2


def npvi(intervals: Sequence[float]) -> float:
    """Normalised pairwise variability index of successive intervals (Grabe & Low 2002): the mean of
    200·|a − b| / (a + b) over neighbours; 0 for fewer than two intervals."""
    pairs = list(itertools.pairwise(intervals))
    if not pairs:
        return 0.0
    return 100 * mean([abs(a - b) / ((a + b) / 2) for a, b in pairs])
