"""Findings of lengths and entries: long notes rushed or cut, sound running into rests, entries after rests late.

The rule is that of ``findings.py``; ``error`` is what one figure's interval may leave out.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from statistics import median

from laptick.core.checking import Measured
from laptick.core.finding import Finding, how_sure, place_of_onset
from laptick.core.limits import JUDGED_ENTRIES, JUDGED_INTERVALS, Limits
from laptick.core.performance import Task
from laptick.core.statistics import normal_quantile, robust_sd, trimmed_mean
from laptick.core.units import Seconds


def late_entries(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Entries after rests late by more than strikes may lie round the beat, on the whole over the passage."""
    late = [entry.entry_ms for entry in measured.entries]
    if len(late) < JUDGED_ENTRIES:
        return
    limit = limits.spread_ms(60_000 / measured.median_bpm) + measured.notes[0].uncertainty_ms
    amount, late_spread = trimmed_mean(late)
    # Not surer than the player's own strikes allow: a few entries may lie close together by chance.
    entering = {(entry.hand, entry.onset_quarters) for entry in measured.entries}
    own = robust_sd(
        [
            note.deviation_ms
            for note in measured.notes
            if (note.expected.hand, note.expected.onset_quarters) not in entering
        ]
    )
    late_error = max(late_spread, own / math.sqrt(len(late)))
    if amount - normal_quantile(error) * late_error > limit:
        worst = max(measured.entries, key=lambda entry: entry.entry_ms)
        yield Finding(
            "late-entry",
            place_of_onset(task, worst.onset_quarters),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, late_error),
            hand=worst.hand,
        )


def long_rushed(
    measured: Measured, limits: Limits, task: Task, error: float, uncertainty_s: Seconds
) -> Iterator[Finding]:
    """The strike after long notes comes early, against the pace of the shorter notes around them."""
    gaps = measured.long_gaps
    if len(gaps) < JUDGED_INTERVALS:
        return
    gap_s = median(gap.seconds for gap in gaps)
    limit = limits.evenness(1000 * gap_s) + 1.414 * uncertainty_s / gap_s
    early = [1 - gap.pace for gap in gaps]
    amount, early_spread = trimmed_mean(early)
    own = SKILL * limits.evenness(1000 * gap_s)
    early_error = max(early_spread, own / math.sqrt(len(early)))
    if amount - normal_quantile(error) * early_error > limit:
        worst = min(gaps, key=lambda gap: gap.pace)
        first = next(e for e in task.expected if float(e.onset_quarters) == worst.onset_quarters)
        yield Finding(
            "long-rushed",
            task.place(first),
            amount,
            limit,
            "share",
            how_sure(amount, limit, early_error),
            hand=first.hand,
        )


#: The spread of one figure in a player at 60 % of the limit, as a share of the limit.
SKILL = 0.6


def long_cut(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Long notes let go early, on the whole over each hand's; notes written to be short are not among them."""
    if limits.cut_share_of_beat >= 1:
        return
    beat_ms = 60_000 / measured.median_bpm
    limit = limits.cut_ms(beat_ms)
    quarter_ms = beat_ms / float(task.beat_quarters)
    for hand in {note.hand for note in measured.long_notes}:
        notes = [
            note
            for note in measured.long_notes
            if note.hand is hand and note.sounded_quarters is not None and not note.shortened
        ]
        if len(notes) < JUDGED_INTERVALS:
            continue
        cut = [quarter_ms * (float(note.written_quarters) - (note.sounded_quarters or 0.0)) for note in notes]
        amount, cut_spread = trimmed_mean(cut)
        cut_error = max(cut_spread, OWN_RELEASE * limit / math.sqrt(len(cut)))
        if amount - normal_quantile(error) * cut_error > limit:
            worst = notes[cut.index(max(cut))]
            yield Finding(
                "long-cut",
                place_of_onset(task, worst.onset_quarters),
                amount,
                limit,
                "ms",
                how_sure(amount, limit, cut_error),
                hand=hand,
            )


#: The spread of one key-up, as a share of its limit, in an ordinary player (an estimate).
OWN_RELEASE = 0.3


def rest_run_over(measured: Measured, limits: Limits, task: Task, error: float) -> Iterator[Finding]:
    """Sound runs on into rests, on the whole over the passage."""
    over = [(entry.ran_over_ms, entry) for entry in measured.entries if entry.ran_over_ms is not None]
    if len(over) < JUDGED_ENTRIES:
        return
    limit = limits.over_ms(60_000 / measured.median_bpm)
    values = [late for late, _ in over]
    amount, over_spread = trimmed_mean(values)
    over_error = max(over_spread, OWN_RELEASE * limit / math.sqrt(len(values)))
    if amount - normal_quantile(error) * over_error > limit:
        worst = max(over, key=lambda one: one[0])[1]
        yield Finding(
            "rest-run-over",
            place_of_onset(task, worst.rest_quarters),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, over_error),
            hand=worst.hand,
        )
