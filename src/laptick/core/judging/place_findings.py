"""Findings of places: what lies beyond its limit at the places of a kind – runs, entries, landings, long notes, rests,
where both hands strike – over the passage, in a half of it, or in part of them.

Of each kind the places are asked by hand and length; one hand never excuses the other. The questions and their margins
are those of ``effects``.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import median

from laptick.core.base.statistics import mean, robust_sd, sd
from laptick.core.base.units import Quarters, Seconds
from laptick.core.effects.beyond import Beyond
from laptick.core.effects.places import Kind, Spot
from laptick.core.effects.pooling import NULL, Answer, Margins, apart, ask, in_part
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure
from laptick.core.measuring.evenness import Figure, Run
from laptick.core.measuring.limits import JUDGED_ENTRIES, JUDGED_INTERVALS, JUDGED_POINTS
from laptick.core.measuring.long_notes import LongNote
from laptick.core.measuring.ratios import Ratio, RatioFigure
from laptick.core.score.score import Hand

#: What lies beyond at the places of a kind, as a finding.
CODES: dict[Kind, tuple[FindingCode, str]] = {
    Kind.RUN: (FindingCode.RUSHED_RUN, "share"),
    Kind.ENTRY: (FindingCode.LATE_ENTRY, "ms"),
    Kind.LANDING: (FindingCode.LATE_LANDING, "ms"),
    Kind.GAP: (FindingCode.LONG_RUSHED, "share"),
    Kind.BEGINNING: (FindingCode.LATE_THEN_COMPENSATED, "ms"),
}

#: Key-ups: the SD of one, in limits, in an ordinary player (an estimate), and the margins.
OVER = Margins(JUDGED_ENTRIES, 0.3, whole=1.6, half=1.9, part=1.9)
CUT = Margins(JUDGED_INTERVALS, 0.3, whole=1.6, half=1.9, part=1.9)
#: A key-up is known to this much of its limit.
KEY_UP_SD = 0.05

#: In part of the places only, notes let go early are a break of habit when the others are held: up to this many limits.
HELD = 0.5


def place_findings(judging: Judging, kind: Kind) -> Iterator[Finding]:
    """What the regression finds of one kind."""
    for found in judging.asked.beyond:
        if found.kind is kind:
            yield _finding(judging, found)


def _finding(judging: Judging, found: Beyond) -> Finding:
    code, unit = CODES[found.kind]
    times = 1000 if unit == "ms" else 1
    worst = found.spots[0]
    interval = found.interval_quarters
    if found.kind is Kind.BEGINNING and len({spot.interval_quarters for spot in found.spots}) == 1:
        interval = worst.interval_quarters
    return Finding(
        code,
        judging.place_of(shown_at(worst)),
        times * found.amount,
        times * found.limit,
        unit,
        how_sure(found.amount, found.limit, found.error),
        hand=found.hand,
        interval_quarters=interval,
        in_part=found.answer.in_part,
        long_runs=found.long_runs,
        waits=found.waits and found.kind is Kind.RUN,
    )


def shown_at(spot: Spot) -> Quarters:
    """Where a place is shown: a run and a gap where they begin, an entry and a landing at their strike."""
    return spot.end_quarters if spot.kind in (Kind.ENTRY, Kind.LANDING) else spot.start_quarters


#: (hand, onset of a landing) → how late it is.
Late = dict[tuple[Hand | None, Quarters], Seconds]


def late_landings(judging: Judging) -> Late:
    """The landings that are told to be late."""
    return {
        (spot.hand, spot.end_quarters): found.amount
        for found in judging.asked.beyond
        if found.kind is Kind.LANDING
        for spot in found.spots
    }


def landed(figures: Sequence[Figure], late: Late) -> list[Figure]:
    """The figures as they would be with their landings on time."""
    return [
        Figure(figure.hand, figure.interval_quarters, [_landed_run(run, late) for run in figure.runs])
        for figure in figures
    ]


def _landed_run(run: Run, late: Late) -> Run:
    amount = late.get((run.hand, run.strikes[-1].onset_quarters), 0.0)
    last_s = run.seconds[-1]
    if not 0 < amount < last_s:
        return run
    ratios = (*run.ratios[:-1], run.ratios[-1] * (last_s - amount) / last_s)
    return replace(run, ratios=ratios, seconds=(*run.seconds[:-1], last_s - amount))


def late_entries(judging: Judging) -> Late:
    """The entries that are told to be late, those after which the beat goes along left out."""
    return {
        (spot.hand, spot.end_quarters): found.amount
        for found in judging.asked.beyond
        if found.kind is Kind.ENTRY and not found.carries
        for spot in found.spots
    }


def entered(figures: Sequence[Figure], late: Late) -> list[Figure]:
    """The figures as they would be with their entries on time: who comes in late and is back makes the first interval
    of a run shorter."""
    return [
        Figure(figure.hand, figure.interval_quarters, [_entered_run(run, late) for run in figure.runs])
        for figure in figures
    ]


def _entered_run(run: Run, late: Late) -> Run:
    amount = late.get((run.hand, run.strikes[0].onset_quarters), 0.0)
    first_s = run.seconds[0]
    if amount <= 0:
        return run
    ratios = (run.ratios[0] * (first_s + amount) / first_s, *run.ratios[1:])
    return replace(run, ratios=ratios, seconds=(first_s + amount, *run.seconds[1:]))


#: So many repeats of a figure tell by themselves how it goes.
ENOUGH_REPEATS = 3


def without_landings(figure: RatioFigure, figures: Sequence[Figure]) -> RatioFigure:
    """The repeats that no landing of a run ends, where these are enough: a landing may be late by itself."""
    ends = {(run.hand, run.strikes[-1].onset_quarters) for one in figures for run in one.runs}
    inside = tuple(r for r in figure.ratios if (r.hand, r.onset_quarters + r.length_quarters) not in ends)
    return replace(figure, ratios=inside) if len(inside) >= ENOUGH_REPEATS else figure


def ratios_landed(figures: Sequence[RatioFigure], late: Late) -> list[RatioFigure]:
    """The same of figures that are ratios."""

    def put(ratio: Ratio) -> Ratio:
        amount = late.get((ratio.hand, ratio.onset_quarters + ratio.length_quarters), 0.0)
        if not 0 < amount < ratio.seconds[-1]:
            return ratio
        return replace(ratio, seconds=(*ratio.seconds[:-1], ratio.seconds[-1] - amount))

    return [replace(figure, ratios=tuple(put(ratio) for ratio in figure.ratios)) for figure in figures]


@dataclass(frozen=True, slots=True)
class _KeyUp:
    """One key-up too early, or too late: ``value`` in ms."""

    value: float
    onset_quarters: Quarters
    hand: Hand | None


def long_cut(judging: Judging) -> Iterator[Finding]:
    """Long notes let go early, by hand and written length; notes written to be short are not among them. Notes of a
    pulse may be detached as the player likes: of these only a break of that habit is told."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    if limits.cut_share_of_beat >= 1:
        return
    quarter_ms = judging.beat_ms / float(task.beat_quarters)
    groups: dict[tuple[Hand | None, Quarters, bool], list[LongNote]] = {}
    longer: dict[Hand | None, list[LongNote]] = {}
    for note in measured.long_notes:
        if note.sounded_quarters is not None and not note.shortened:
            groups.setdefault((note.hand, note.written_quarters, note.is_held), []).append(note)
            if note.is_held:
                longer.setdefault(note.hand, []).append(note)
    limit = limits.cut_ms(judging.beat_ms)

    def cut(notes: Sequence[LongNote]) -> list[_KeyUp]:
        return [
            _KeyUp(
                quarter_ms * (float(note.written_quarters) - (note.sounded_quarters or 0.0)),
                note.onset_quarters,
                note.hand,
            )
            for note in notes
        ]

    found = [_key_ups(judging, FindingCode.LONG_CUT, cut(notes), limit, CUT) for notes in longer.values()]
    for (_, _, is_held), notes in groups.items():
        if is_held:
            found.append(_key_ups(judging, FindingCode.LONG_CUT, cut(notes), limit, CUT))
        else:
            found.append(_habit_broken(judging, cut(notes), limit))
    yield from _clearest_by_hand(found)


def rest_run_over(judging: Judging) -> Iterator[Finding]:
    """Sound runs on into rests, by hand; both hands together where each has too few."""
    measured = judging.measured
    limit = judging.limits.over_ms(judging.beat_ms)
    over = [
        _KeyUp(entry.ran_over_ms, entry.rest_quarters, entry.hand)
        for entry in measured.entries
        if entry.ran_over_ms is not None
    ]
    hands = dict.fromkeys(one.hand for one in over)
    found = [
        _key_ups(judging, FindingCode.REST_RUN_OVER, [one for one in over if one.hand is hand], limit, OVER)
        for hand in hands
    ]
    if not any(found):
        found = [_key_ups(judging, FindingCode.REST_RUN_OVER, over, limit, OVER)]
    yield from _clearest_by_hand(found)


def _key_ups(
    judging: Judging, code: FindingCode, values: Sequence[_KeyUp], limit: float, margins: Margins
) -> tuple[float, Finding] | None:
    amounts = apart([one.value / limit for one in values], [KEY_UP_SD] * len(values))
    answer = ask(amounts, margins.times(judging.strictness))
    return None if answer is None else (answer.clear, _key_up_finding(judging, code, values, limit, answer))


def _key_up_finding(
    judging: Judging, code: FindingCode, values: Sequence[_KeyUp], limit: float, answer: Answer
) -> Finding:
    worst = max((values[i] for i in answer.rows), key=lambda one: one.value)
    amount, error = limit * answer.amount, limit * answer.error
    return Finding(
        code,
        judging.place_of(worst.onset_quarters),
        amount,
        limit,
        "ms",
        how_sure(amount, limit, error),
        hand=worst.hand,
        in_part=answer.in_part,
    )


def _habit_broken(judging: Judging, values: Sequence[_KeyUp], limit: float) -> tuple[float, Finding] | None:
    """Some are let go early where the others are held."""
    if len(values) < JUDGED_INTERVALS:
        return None
    shares = [one.value / limit for one in values]
    answer = in_part(apart(shares, [KEY_UP_SD] * len(values)), CUT)
    if answer is None:
        return None
    others = [share for i, share in enumerate(shares) if i not in answer.rows]
    if len(others) < len(answer.rows) / 2 or median(others) > HELD:
        return None
    return answer.clear, _key_up_finding(judging, FindingCode.LONG_CUT, values, limit, answer)


def _clearest_by_hand(found: Sequence[tuple[float, Finding] | None]) -> Iterator[Finding]:
    best: dict[Hand | None, tuple[float, Finding]] = {}
    for one in found:
        if one is not None and (one[1].hand not in best or best[one[1].hand][0] < one[0]):
            best[one[1].hand] = one
    yield from (finding for _, finding in best.values())


def _explained(judging: Judging, onset: Quarters) -> bool:
    """Are the hands apart there for what is told of one of them: a run that it rushes alone, a late entry, a late
    landing?"""
    return any(
        spot.start_quarters < onset <= spot.end_quarters
        if found.kind is Kind.RUN
        else onset == spot.end_quarters and found.kind in (Kind.ENTRY, Kind.LANDING)
        for found in judging.asked.beyond
        if found.hand is not None and (found.alone or found.kind is not Kind.RUN)
        for spot in found.spots
    )


#: By how many SDs of their mean hands must be apart, clear of what a faultless player's are; and how many times as
#: clear, at most, of who plays less steadily: a hand that is late is no unsteady one.
APART_MARGIN, APART_WARIEST = 2.15, 1.25


def hands_apart(judging: Judging) -> Iterator[Finding]:
    """Where both hands strike they do not land together."""
    measured, limits = judging.measured, judging.limits
    points = [point for point in measured.asynchronies if not _explained(judging, point.onset_quarters)]
    gaps = [abs(point.gap_ms) for point in points]
    if len(gaps) < JUDGED_POINTS:
        return
    limit = limits.hands_apart_ms + 1414 * judging.uncertainty_s
    amount = median(gaps)
    gap_error = 1.2533 * max(robust_sd(gaps), 0.5 * sd(gaps)) / math.sqrt(len(gaps))
    margin = APART_MARGIN * min(judging.strictness, APART_WARIEST)
    if amount > limit and amount - NULL * limit > margin * gap_error:
        worst = max(points, key=lambda point: abs(point.gap_ms))
        signed = mean([point.gap_ms for point in points])
        yield Finding(
            FindingCode.HANDS_APART,
            judging.place_of(worst.onset_quarters),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, gap_error),
            positive=signed > 0,
        )
