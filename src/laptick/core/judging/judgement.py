"""From a task and a performance to everything that is said of a take: one call for the command line and the server."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from laptick.core.base.units import Quarters
from laptick.core.judging.finding import Finding, Judging
from laptick.core.judging.findings import look_at
from laptick.core.judging.other_passage import Passage, other_passage
from laptick.core.judging.praising import Praise, praise_of
from laptick.core.judging.tempo_findings import broadens
from laptick.core.judging.verdict import Verdict, give_verdict
from laptick.core.measuring.checking import check_take, lost
from laptick.core.measuring.joining import Cost, joining_costs
from laptick.core.measuring.limits import Limits
from laptick.core.measuring.measured import CheckedTake
from laptick.core.measuring.recovery import Recovery, find_recoveries
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task


@dataclass(frozen=True)
class Judgement:
    """``passage``: the bars that a take which could not be followed seems to be; ``costs``: what each hand lost by
    joining, against its take alone; ``slowings``: where what looks like a stop is a phrase that broadens."""

    checked: CheckedTake
    findings: tuple[Finding, ...]
    verdict: Verdict
    limits: Limits
    passage: Passage | None
    recoveries: tuple[Recovery, ...]
    costs: tuple[Cost, ...]
    slowings: frozenset[Quarters] = frozenset()


def judge_take(
    task: Task,
    performance: Performance,
    limits: Limits,
    *,
    whole: Callable[[], Task] | None = None,
    previous_codes: frozenset[str] | None = None,
    back_to_one_hand: bool = False,
    alone: tuple[tuple[Hand, CheckedTake], ...] = (),
) -> Judgement:
    """Follows, measures and judges a take.

    ``whole`` makes the task over all bars of the score, asked for only when the take could not be followed; ``alone``:
    earlier takes of one hand.
    """
    checked = check_take(task, performance)
    passage = None if whole is None else other_passage(checked, whole)
    if passage is not None:
        checked = lost(checked)
    found, judging = look_at(checked, limits)
    findings = tuple(found)
    verdict = give_verdict(
        checked,
        list(findings),
        previous_codes,
        back_to_one_hand=back_to_one_hand,
        elsewhere=passage.words if passage else None,
        praise=praise_of(judging) if judging else Praise(),
    )
    costs = tuple(cost for hand, earlier in alone for cost in joining_costs(earlier, checked, hand))
    recoveries = tuple(_recoveries(checked, limits))
    return Judgement(checked, findings, verdict, limits, passage, recoveries, costs, _slowings(judging))


def _slowings(judging: Judging | None) -> frozenset[Quarters]:
    stops = judging.measured.hesitations if judging else ()
    return frozenset(stop.expected.onset_quarters for stop in stops if judging and broadens(judging, stop))


def _recoveries(checked: CheckedTake, limits: Limits) -> list[Recovery]:
    measured, matching, task = checked.measured, checked.matching, checked.task
    if measured is None:
        return []
    onset = [expected.onset_quarters for expected in task.expected]
    slips: list[tuple[str, Quarters]] = [("hesitation", stop.expected.onset_quarters) for stop in measured.hesitations]
    slips += [("restart", onset[restart.expected_index]) for restart in matching.restarts if not restart.repeat]
    slips += [("skip", onset[skip.expected_index]) for skip in matching.skips if not skip.repeat]
    slips += [("missing", onset[index]) for index in matching.missing if index < len(onset)]
    slips += [("wrong-notes", onset[index]) for index, _ in matching.wrong]
    limit_ms = limits.spread_ms(60_000 / measured.median_bpm) + measured.notes[0].uncertainty_ms
    last = matching.last_event_quarters
    return find_recoveries(
        [(slip, at) for slip, at in slips if float(at) <= last], measured.fit, task.beat_quarters, limit_ms
    )
