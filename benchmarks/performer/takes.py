"""One take of the second performer, with a fault or without, and what the judge names in it."""

from __future__ import annotations

import itertools
import zlib
from collections import defaultdict
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import JUDGED_INTERVALS, LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task

from .compose import task_by_chance
from .faults import FAULTS, Fault
from .player import Plan, begin, play

#: With a fault the rest of the playing lies where a level's skill is said to lie.
SHARE = 0.6

#: A piece may have no room for a fault: so many are tried.
TRIES = 60


@dataclass(frozen=True)
class Case:
    """``fault``: its number, or ``None`` for a clean take at ``share`` of the limits; ``times`` its limit."""

    fault: int | None
    where: str
    times: float
    level: Level
    source: Source
    seed: int
    share: float = SHARE

    @property
    def what(self) -> Fault | None:
        return None if self.fault is None else FAULTS[self.fault]


def made(case: Case) -> tuple[Task, Performance] | None:
    """The task and the take; ``None`` when no piece had room for the fault."""
    plan = _planned(case)
    return None if plan is None else (plan.task, play(plan))


def _planned(case: Case) -> Plan | None:
    fault = case.what
    name = f"{case.fault} {case.where} {case.level} {case.source} {case.seed} {case.share}"
    for turn in range(TRIES):
        # The same piece and the same playing at every strength: what is found more is found for the strength.
        rng = np.random.default_rng([zlib.crc32(name.encode()), turn])
        need = fault.needs if fault else "any"
        if fault is None and case.seed % 2:
            need = "every"
        trills = fault is None and case.seed % 5 == 0
        task = task_by_chance(rng, need, on_keys=case.source is Source.MIDI, trills=trills)
        plan = begin(task, LIMITS[case.level], case.source, rng, case.share, fault.free if fault else "")
        if fault is None or fault.plant(plan, case.times, case.where):
            return plan
    return None


def named(case: Case) -> tuple[str, ...] | None:
    """The codes of all findings of a take; ``("not followed",)`` when it could not be."""
    take = made(case)
    return None if take is None else codes_of(*take, case.level)


def codes_of(task: Task, performance: Performance, level: Level) -> tuple[str, ...]:
    """The codes of all findings of a take; ``("not followed",)`` when it could not be."""
    checked = check_take(task, performance)
    if not checked.followed:
        return ("not followed",)
    return tuple(sorted({str(finding.code) for finding in find_findings(checked, LIMITS[level])}))


def off_tempo_as_played(case: Case) -> float:
    """How far a take lies from the tempo asked for, from its first strike to its last, in limits: as a clock has it."""
    take = made(case)
    assert take is not None
    task, performance = take
    times = [strike.played_s for strike in performance.strikes]
    onsets = [expected.onset_quarters for expected in task.expected]
    asked_s = float(onsets[-1] - onsets[0]) * task.quarter_s
    return abs(asked_s / (max(times) - min(times)) - 1) / LIMITS[case.level].tempo_share


def drift_as_played(case: Case) -> float:
    """How much the tempo changes from the first bar to the last, in limits, as a stopwatch at every bar line has it: a
    straight line through the lengths of the bars that end on a strike."""
    plan = _planned(case)
    assert plan is not None
    task, struck = plan.task, defaultdict(list)
    for (_, onset), played_s in _struck(plan).items():
        struck[onset].append(played_s)
    starts = [bar.start_quarters - task.measures[0].start_quarters for bar in task.measures]
    at = [(i, float(np.mean(struck[start]))) for i, start in enumerate(starts) if start in struck]
    paces = [
        ((i + j) / 2, float(starts[j] - starts[i]) / (there - here)) for (i, here), (j, there) in itertools.pairwise(at)
    ]
    if len(paces) < 3:
        return 0.0
    middles, rates = np.array(paces).T
    slope, level = np.polyfit(middles, rates, 1)
    return float(abs(slope) * (len(starts) - 1) / (level + slope / 2)) / LIMITS[case.level].drift_share


def uneven_as_played(case: Case) -> float:
    """How uneven the worst of its equal short notes are, in limits, as a stopwatch has it: by hand and length the SD of
    the intervals over their mean."""
    plan = _planned(case)
    assert plan is not None
    task, played = plan.task, _struck(plan)
    found: dict[tuple[Hand | None, Fraction], list[float]] = defaultdict(list)
    for hand in plan.hands:
        ends = plan.ends(hand)
        for here, there in itertools.pairwise(plan.line(hand)):
            if there - here < task.beat_quarters and ends.get(here, here) >= there:
                found[hand, there - here].append(played[hand, there] - played[hand, here])
    worst = 0.0
    for (_, length), seconds in found.items():
        if len(seconds) >= JUDGED_INTERVALS:
            worst = max(worst, float(np.std(seconds) / np.mean(seconds)) / plan.run_limit(length))
    return worst


def _struck(plan: Plan) -> dict[tuple[Hand | None, Fraction], float]:
    """When each hand strikes at each instant."""
    return {
        (hand, onset): plan.at(onset) + plan.moved_s.get((hand, onset), 0.0)
        for hand in plan.hands
        for onset in plan.line(hand)
    }
