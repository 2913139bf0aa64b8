"""A finding: a figure that stands clear of its limit; and the take under judgement that it is found in."""

from __future__ import annotations

from dataclasses import dataclass
from statistics import NormalDist

from laptick.core.base.statistics import normal_quantile
from laptick.core.base.units import Quarters, Seconds
from laptick.core.measuring.evenness import Figure
from laptick.core.measuring.limits import Limits
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.ratios import Parts
from laptick.core.score.score import Hand, Place
from laptick.core.takes.task import Task


@dataclass(frozen=True, slots=True)
class Finding:
    """``amount`` and ``limit`` share a unit, named in ``unit``: share, ms or count. ``hand``, ``interval_quarters`` say
    which figure, ``reads_as`` what it has turned into, ``until`` where bars left out end; ``beatless``: so uneven that
    there is no beat; ``sure``: how probably the limit is truly passed."""

    code: str
    place: Place
    amount: float
    limit: float
    unit: str
    sure: float
    hand: Hand | None = None
    interval_quarters: Quarters | None = None
    positive: bool = True
    reads_as: Parts | None = None
    until: Place | None = None
    beatless: bool = False

    @property
    def ratio(self) -> float:
        """How many times the limit."""
        return self.amount / self.limit if self.limit else self.amount + 1


def how_sure(amount: float, limit: float, error_of_amount: float) -> float:
    if error_of_amount <= 0:
        return 1.0
    return round(NormalDist().cdf((amount - limit) / error_of_amount), 3)


def place_of_onset(task: Task, onset: Quarters) -> Place:
    return task.score.place_at(task.measures[0].start_quarters + onset)


@dataclass(frozen=True)
class Judging:
    """A take under judgement, as every finding sees it. ``figures``: its runs of equal notes by hand and length;
    ``error``: what one figure's interval may leave out, corrected for how many are looked at; ``uncertainty_s``: how
    exactly the source knows a strike."""

    measured: Measured
    limits: Limits
    task: Task
    figures: tuple[Figure, ...]
    error: float
    uncertainty_s: Seconds

    @property
    def beat_ms(self) -> float:
        return 60_000 / self.measured.median_bpm

    def clears(self, amount: float, amount_error: float, limit: float) -> bool:
        """Does the lower end of an amount's interval lie above its limit?"""
        return amount - normal_quantile(self.error) * amount_error > limit

    def place_of(self, onset: Quarters) -> Place:
        return place_of_onset(self.task, onset)
