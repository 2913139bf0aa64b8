"""Small statistics without a statistics package: quantiles and one-sided lower bounds.

Source: normal quantiles from the standard library; chi-square quantiles by the approximation of
Wilson & Hilferty (Proc. Natl. Acad. Sci. 17, 1931), good to under 1 % from 3 degrees of freedom.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from statistics import NormalDist, median

_NORMAL = NormalDist()

#: Findings are named when the lower end of a two-sided interval of this coverage clears the limit.
INTERVAL = 0.90


def tail(looked_at: int) -> float:
    """The one-sided error allowed to each of ``looked_at`` figures (Bonferroni)."""
    return (1 - INTERVAL) / 2 / max(1, looked_at)


def normal_quantile(error: float) -> float:
    """How many standard deviations leave ``error`` above them."""
    return _NORMAL.inv_cdf(1 - error)


def chi_square_quantile(share: float, freedom: float) -> float:
    z = _NORMAL.inv_cdf(share)
    spread = 2 / (9 * freedom)
    return float(freedom * (1 - spread + z * math.sqrt(spread)) ** 3)


def sd_lower(sd: float, freedom: float, error: float) -> float:
    """Lower bound of a standard deviation measured with ``freedom`` degrees of freedom."""
    if freedom < 1:
        return 0.0
    return sd * math.sqrt(freedom / chi_square_quantile(1 - error, freedom))


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


def trimmed_mean(values: Sequence[float]) -> tuple[float, float]:
    """The mean without the lowest and highest fifth, and its standard error (Yuen, Biometrika 61, 1974, from memory):
    nearly as robust as a median, and surer."""
    ordered, count = sorted(values), len(values)
    cut = int(TRIM * count)
    kept = ordered[cut : count - cut]
    drawn_in = [min(max(value, kept[0]), kept[-1]) for value in ordered]
    return mean(kept), sd(drawn_in) / ((1 - 2 * TRIM) * math.sqrt(count))


def mean_and_error(values: Sequence[float], own_spread: float) -> tuple[float, float]:
    """The trimmed mean and its standard error, which is never less than ``own_spread`` (the spread of one value in an
    ordinary player) allows: a few values may lie close together by chance."""
    amount, error = trimmed_mean(values)
    return amount, max(error, own_spread / math.sqrt(len(values)))


def npvi(intervals: Sequence[float]) -> float:
    """Normalised pairwise variability index of successive intervals (Grabe & Low 2002): the mean of
    200·|a − b| / (a + b) over neighbours; 0 for fewer than two intervals."""
    pairs = list(itertools.pairwise(intervals))
    if not pairs:
        return 0.0
    return 100 * mean([abs(a - b) / ((a + b) / 2) for a, b in pairs])
