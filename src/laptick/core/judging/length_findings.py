"""Findings of lengths and entries: long notes rushed or cut, sound running into rests, entries after rests late.

Each is one judgement: do values of one kind, one a long note or rest, lie on the whole beyond a limit? The rule is that
of ``findings.py``; ``error`` is what one figure's interval may leave out.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median

from laptick.core.base.statistics import mean_and_error, normal_quantile, robust_sd
from laptick.core.base.units import Quarters, Seconds
from laptick.core.judging.finding import Finding, how_sure, place_of_onset
from laptick.core.measuring.limits import JUDGED_ENTRIES, JUDGED_INTERVALS, ORDINARY_SHARE, Limits
from laptick.core.measuring.measured import Measured
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task

#: The spread of one key-up, as a share of its limit, in an ordinary player (an estimate).
OWN_RELEASE = 0.3


@dataclass(frozen=True, slots=True)
class Amount:
    """One long note's or rest's value, and where it is shown when it is the worst of them."""

    value: float
    onset_quarters: Quarters
    hand: Hand | None


def _on_the_whole(
    code: str, amounts: list[Amount], at_least: int, unit: str, limit: float, own: float, task: Task, error: float
) -> Iterator[Finding]:
    """The finding, when the mean of ``at_least`` or more amounts stands clear of ``limit``; ``own`` is the spread of
    one in an ordinary player."""
    if len(amounts) < at_least:
        return
    amount, amount_error = mean_and_error([one.value for one in amounts], own)
    if amount - normal_quantile(error) * amount_error > limit:
        worst = max(amounts, key=lambda one: one.value)
        place = place_of_onset(task, worst.onset_quarters)
        yield Finding(code, place, amount, limit, unit, how_sure(amount, limit, amount_error), hand=worst.hand)


def late_entries(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Entries after rests late by more than strikes may lie round the beat, on the whole over the passage."""
    late = [Amount(entry.entry_ms, entry.onset_quarters, entry.hand) for entry in measured.entries]
    limit = limits.spread_ms(60_000 / measured.median_bpm) + measured.notes[0].uncertainty_ms
    # Not surer than the player's own strikes allow.
    entering = {(entry.hand, entry.onset_quarters) for entry in measured.entries}
    others = [n.deviation_ms for n in measured.notes if (n.expected.hand, n.expected.onset_quarters) not in entering]
    yield from _on_the_whole("late-entry", late, JUDGED_ENTRIES, "ms", limit, robust_sd(others), task, error)


def long_rushed(
    measured: Measured, limits: Limits, task: Task, error: float, uncertainty_s: Seconds
) -> Iterator[Finding]:
    """The strike after long notes comes early, against the pace of the shorter notes around them."""
    if not measured.long_gaps:
        return
    gap_s = median(gap.seconds for gap in measured.long_gaps)
    evenness = limits.evenness(1000 * gap_s)
    first = {float(e.onset_quarters): e for e in reversed(task.expected)}
    begins = [first[gap.onset_quarters] for gap in measured.long_gaps]
    early = [
        Amount(1 - gap.pace, begin.onset_quarters, begin.hand)
        for gap, begin in zip(measured.long_gaps, begins, strict=True)
    ]
    limit = evenness + 1.414 * uncertainty_s / gap_s
    yield from _on_the_whole(
        "long-rushed", early, JUDGED_INTERVALS, "share", limit, ORDINARY_SHARE * evenness, task, error
    )


def long_cut(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Long notes let go early, on the whole over each hand's; notes written to be short are not among them."""
    if limits.cut_share_of_beat >= 1:
        return
    beat_ms = 60_000 / measured.median_bpm
    limit = limits.cut_ms(beat_ms)
    quarter_ms = beat_ms / float(task.beat_quarters)
    for hand in {note.hand for note in measured.long_notes}:
        cut = [
            Amount(quarter_ms * (float(note.written_quarters) - note.sounded_quarters), note.onset_quarters, hand)
            for note in measured.long_notes
            if note.hand is hand and note.sounded_quarters is not None and not note.shortened
        ]
        yield from _on_the_whole("long-cut", cut, JUDGED_INTERVALS, "ms", limit, OWN_RELEASE * limit, task, error)


def rest_run_over(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Sound runs on into rests, on the whole over the passage."""
    over = [
        Amount(entry.ran_over_ms, entry.rest_quarters, entry.hand)
        for entry in measured.entries
        if entry.ran_over_ms is not None
    ]
    limit = limits.over_ms(60_000 / measured.median_bpm)
    yield from _on_the_whole("rest-run-over", over, JUDGED_ENTRIES, "ms", limit, OWN_RELEASE * limit, task, error)
