"""A finding: a figure that stands clear of its limit; and the take under judgement that it is found in."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum
from statistics import NormalDist

from laptick.core.base.units import Quarters, Seconds
from laptick.core.effects.beyond import Asked, wary, wary_of_unsteady
from laptick.core.measuring.evenness import Figure
from laptick.core.measuring.limits import Limits
from laptick.core.measuring.measured import Measured
from laptick.core.measuring.ratios import Parts
from laptick.core.score.score import Hand, Place
from laptick.core.takes.task import Task


class FindingCode(StrEnum):
    """What can be found in a take; in the order in which what is better than last time is said."""

    RESTART = "restart"
    HESITATION = "hesitation"
    MISSING = "missing"
    WRONG_NOTES = "wrong-notes"
    EXTRA = "extra"
    RUSHED_RUN = "rushed-run"
    LIMPING = "limping"
    DOT_FLATTENED = "dot-flattened"
    TRIPLET_BENT = "triplet-bent"
    DUPLET = "duplet"
    LATE_ENTRY = "late-entry"
    LATE_LANDING = "late-landing"
    UNEVEN = "uneven"
    LATE_THEN_COMPENSATED = "late-then-compensated"
    LONG_RUSHED = "long-rushed"
    LONG_CUT = "long-cut"
    REST_RUN_OVER = "rest-run-over"
    HANDS_APART = "hands-apart"
    DRIFT = "drift"
    OFF_TEMPO = "off-tempo"


@dataclass(frozen=True, slots=True)
class FindingFacts:
    """``rank``: what blocks a rung first has the lowest. ``mark``: what is written beside the place on the ruler;
    ``better``: what is said when a finding of the last take is not there any more."""

    rank: int
    mark: str
    better: str


#: Common practice, no source.
FINDING_FACTS: dict[FindingCode, FindingFacts] = {
    FindingCode.RESTART: FindingFacts(0, "back to here", "Better than last time: you did not go back."),
    FindingCode.HESITATION: FindingFacts(0, "the beat stops", "Better than last time: the beat did not stop."),
    FindingCode.MISSING: FindingFacts(1, "left out here", "Better than last time: nothing was left out."),
    FindingCode.WRONG_NOTES: FindingFacts(1, "another one here", "Better than last time: the right keys."),
    FindingCode.EXTRA: FindingFacts(1, "too many here", "Better than last time: no strike too many."),
    FindingCode.RUSHED_RUN: FindingFacts(2, "rushed here", "Better than last time: the short notes kept their time."),
    FindingCode.LIMPING: FindingFacts(2, "long-short here", "Better than last time: the pairs are even."),
    FindingCode.DOT_FLATTENED: FindingFacts(
        2, "dot too short here", "Better than last time: the dotted notes have their length."
    ),
    FindingCode.TRIPLET_BENT: FindingFacts(2, "bent here", "Better than last time: the triplets are even."),
    FindingCode.DUPLET: FindingFacts(2, "two equal here", "Better than last time: long and short keep their lengths."),
    FindingCode.LATE_ENTRY: FindingFacts(2, "late here", "Better than last time: you come in on time after the rests."),
    FindingCode.LATE_LANDING: FindingFacts(2, "lands late here", "Better than last time: you land on the beat."),
    FindingCode.UNEVEN: FindingFacts(2, "uneven here", "Better than last time: the beat is steadier."),
    FindingCode.LATE_THEN_COMPENSATED: FindingFacts(
        2, "begins late here", "Better than last time: the runs begin on time."
    ),
    FindingCode.LONG_RUSHED: FindingFacts(
        2, "left too soon here", "Better than last time: the long notes have their time."
    ),
    FindingCode.LONG_CUT: FindingFacts(
        2, "let go early here", "Better than last time: the long notes sound to their end."
    ),
    FindingCode.REST_RUN_OVER: FindingFacts(2, "holds through here", "Better than last time: the rests are silent."),
    FindingCode.HANDS_APART: FindingFacts(2, "furthest apart here", "Better than last time: your hands meet."),
    FindingCode.DRIFT: FindingFacts(2, "the tempo moves", "Better than last time: the tempo stayed where it was."),
    FindingCode.OFF_TEMPO: FindingFacts(3, "other tempo from here", "Better than last time: the right tempo."),
}


@dataclass(frozen=True, slots=True)
class Finding:
    """``amount`` and ``limit`` share a unit, named in ``unit``: share, ms or count. ``hand``, ``interval_quarters`` say
    which figure, ``reads_as`` what it has turned into, ``until`` where bars left out end; ``beatless``: so uneven that
    there is no beat; ``in_part``: at some of the places, ``long_runs``: in the long runs only;
    ``waits``: and then waits for the beat; ``is_step``: all at once, from the place on;
    ``sure``: how probably the limit is truly passed."""

    code: FindingCode
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
    in_part: bool = False
    long_runs: bool = False
    waits: bool = False
    is_step: bool = False

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
    ``uncertainty_s``: how exactly the source knows a strike; ``asked``: what lies beyond its limit, place by place;
    ``part_factor``: how many times as clear what is found at some places only must be."""

    measured: Measured
    limits: Limits
    task: Task
    figures: tuple[Figure, ...]
    uncertainty_s: Seconds
    asked: Asked = field(default_factory=Asked)
    part_factor: float = 1.0

    @property
    def strictness(self) -> float:
        """How many times as clear a finding must be: it grows with any unsteadiness, for who plays unsteadily shows
        anything somewhere."""
        return wary_of_unsteady(self.asked.player)

    @property
    def wariness(self) -> float:
        """The same of what a take shows at some places, or moves by on the whole: it grows where bars are few, too."""
        return wary(self.asked.player, self.task)

    @property
    def beat_ms(self) -> float:
        return 60_000 / self.measured.median_bpm

    def place_of(self, onset: Quarters) -> Place:
        return place_of_onset(self.task, onset)
