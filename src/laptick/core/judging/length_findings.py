"""Findings of lengths and entries: long notes rushed or cut, sound running into rests, entries after rests late.

Each is one judgement: do values of one kind, one a long note or rest, lie on the whole beyond a limit? The rule is that
of ``findings.py``; ``error`` is what one figure's interval may leave out.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from statistics import median

from laptick.core.base.statistics import mean_and_error, robust_sd
from laptick.core.base.units import Quarters
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.limits import JUDGED_ENTRIES, JUDGED_INTERVALS, ORDINARY_SHARE
from laptick.core.score.score import Hand

#: The spread of one key-up, as a share of its limit, in an ordinary player (an estimate).
OWN_RELEASE = 0.3


@dataclass(frozen=True, slots=True)
class Amount:
    """One long note's or rest's value, and where it is shown when it is the worst of them."""

    value: float
    onset_quarters: Quarters
    hand: Hand | None


@dataclass(frozen=True, slots=True)
class _Kind:
    """What amounts of one kind are called and held against; ``own``: the spread of one in an ordinary player."""

    code: FindingCode
    unit: str
    at_least: int
    limit: float
    own: float


def _on_the_whole(judging: Judging, kind: _Kind, amounts: list[Amount]) -> Iterator[Finding]:
    """The finding, when the mean of enough amounts stands clear of their limit."""
    if len(amounts) < kind.at_least:
        return
    amount, amount_error = mean_and_error([one.value for one in amounts], kind.own)
    if judging.clears(amount, amount_error, kind.limit):
        worst = max(amounts, key=lambda one: one.value)
        sure = how_sure(amount, kind.limit, amount_error)
        yield Finding(
            kind.code, judging.place_of(worst.onset_quarters), amount, kind.limit, kind.unit, sure, hand=worst.hand
        )


def late_entries(judging: Judging) -> Iterator[Finding]:
    """Entries after rests late by more than strikes may lie round the beat, on the whole over the passage."""
    measured, limits = judging.measured, judging.limits
    late = [Amount(entry.entry_ms, entry.onset_quarters, entry.hand) for entry in measured.entries]
    limit = limits.spread_ms(judging.beat_ms) + measured.notes[0].uncertainty_ms
    # Not surer than the player's own strikes allow.
    entering = {(entry.hand, entry.onset_quarters) for entry in measured.entries}
    others = [n.deviation_ms for n in measured.notes if (n.expected.hand, n.expected.onset_quarters) not in entering]
    yield from _on_the_whole(
        judging, _Kind(FindingCode.LATE_ENTRY, "ms", JUDGED_ENTRIES, limit, robust_sd(others)), late
    )


def long_rushed(judging: Judging) -> Iterator[Finding]:
    """The strike after long notes comes early, against the pace of the shorter notes around them."""
    measured, limits, task = judging.measured, judging.limits, judging.task
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
    limit = evenness + 1.414 * judging.uncertainty_s / gap_s
    yield from _on_the_whole(
        judging, _Kind(FindingCode.LONG_RUSHED, "share", JUDGED_INTERVALS, limit, ORDINARY_SHARE * evenness), early
    )


def long_cut(judging: Judging) -> Iterator[Finding]:
    """Long notes let go early, on the whole over each hand's; notes written to be short are not among them."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    if limits.cut_share_of_beat >= 1:
        return
    beat_ms = judging.beat_ms
    limit = limits.cut_ms(beat_ms)
    quarter_ms = beat_ms / float(task.beat_quarters)
    for hand in dict.fromkeys(note.hand for note in measured.long_notes):
        cut = [
            Amount(quarter_ms * (float(note.written_quarters) - note.sounded_quarters), note.onset_quarters, hand)
            for note in measured.long_notes
            if note.hand is hand and note.sounded_quarters is not None and not note.shortened
        ]
        yield from _on_the_whole(
            judging, _Kind(FindingCode.LONG_CUT, "ms", JUDGED_INTERVALS, limit, OWN_RELEASE * limit), cut
        )


def rest_run_over(judging: Judging) -> Iterator[Finding]:
    """Sound runs on into rests, on the whole over the passage."""
    measured, limits = judging.measured, judging.limits
    over = [
        Amount(entry.ran_over_ms, entry.rest_quarters, entry.hand)
        for entry in measured.entries
        if entry.ran_over_ms is not None
    ]
    limit = limits.over_ms(judging.beat_ms)
    yield from _on_the_whole(
        judging, _Kind(FindingCode.REST_RUN_OVER, "ms", JUDGED_ENTRIES, limit, OWN_RELEASE * limit), over
    )
