"""One take of the second performer, with a fault or without, and what the judge names in it."""

from __future__ import annotations

import zlib
from dataclasses import dataclass

import numpy as np

from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task

from .compose import task_by_chance
from .faults import FAULTS, Fault
from .player import begin, play

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
            return task, play(plan)
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
