"""The cost of joining: the same hand alone and together – what evenness, lengths and strengths lost.

Compares what two takes of one hand have in common: the figures of equal notes (pooled coefficient of variation), the
spread round the student's own beat, long notes' sounded share, and the spread of strengths. Nothing is judged: the
teacher reads which hand pays for the joining. Source: docs/trade.md 4.12 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from statistics import median

from laptick.core.base.statistics import mean, sd
from laptick.core.base.units import Quarters
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.limits import JUDGED_INTERVALS
from laptick.core.measuring.measured import CheckedTake, Measured
from laptick.core.score.score import Hand


@dataclass(frozen=True, slots=True)
class Cost:
    """One figure of one hand, alone and together. ``unit``: ``share``, ``ms`` or ``velocity``; more is worse, but for
    ``sounded``."""

    hand: Hand
    what: str
    unit: str
    alone: float
    together: float


def joining_costs(alone: CheckedTake, together: CheckedTake, hand: Hand) -> list[Cost]:
    """What the hand's playing lost, figure by figure, where both takes have enough of it."""
    first, second = alone.measured, together.measured
    if first is None or second is None:
        return []
    both = _lengths(first, hand) & _lengths(second, hand)
    pairs: list[tuple[str, str, float | None, float | None]] = [
        ("evenness", "share", _evenness(first, hand, both), _evenness(second, hand, both)),
        ("round the beat", "ms", _spread_ms(first, hand), _spread_ms(second, hand)),
        ("sounded", "share", _sounded(first, hand), _sounded(second, hand)),
        ("strengths", "velocity", _strengths(alone, hand), _strengths(together, hand)),
    ]
    return [Cost(hand, what, unit, a, b) for what, unit, a, b in pairs if a is not None and b is not None]


def _lengths(measured: Measured, hand: Hand) -> set[Quarters]:
    """The lengths whose runs have enough intervals."""
    figures = group_figures(measured.runs)
    return {f.interval_quarters for f in figures if f.hand is hand and f.intervals >= JUDGED_INTERVALS}


def _evenness(measured: Measured, hand: Hand, lengths: set[Quarters]) -> float | None:
    figures = [f for f in group_figures(measured.runs) if f.hand is hand and f.interval_quarters in lengths]
    freedom = sum(figure.freedom for figure in figures)
    if not freedom:
        return None
    return float((sum(f.pooled_cv() ** 2 * f.freedom for f in figures) / freedom) ** 0.5)


def _spread_ms(measured: Measured, hand: Hand) -> float | None:
    deviations = [note.deviation_ms for note in measured.notes if note.expected.hand is hand]
    return sd(deviations) if len(deviations) > JUDGED_INTERVALS else None


def _sounded(measured: Measured, hand: Hand) -> float | None:
    shares = [
        note.sounded_quarters / float(note.written_quarters)
        for note in measured.long_notes
        if note.hand is hand and note.sounded_quarters is not None and not note.shortened
    ]
    return median(shares) if len(shares) >= 2 else None


def _strengths(checked: CheckedTake, hand: Hand) -> float | None:
    values = [
        float(velocity)
        for m in checked.matching.matches
        if checked.task.expected[m.expected_index].hand is hand
        and (velocity := checked.performance.strikes[m.strike_index].velocity) is not None
    ]
    return sd(values) if len(values) > JUDGED_INTERVALS and mean(values) > 0 else None
