"""Findings: which figures stand clear of their limit.

A finding is named only when the lower end of its 90 % interval, corrected for how many figures were
looked at, lies above the limit plus what the source cannot resolve. Repeats of a figure are pooled; a
figure on too few intervals is shown, never judged. Source: docs/trade.md 4 (“few notes deceive”).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from statistics import median

from laptick.core.base.kept import Kept
from laptick.core.base.statistics import mean, normal_quantile, robust_sd, sd, sd_lower, tail
from laptick.core.base.units import Quarters
from laptick.core.judging.figure_findings import (
    BENT,
    BENT_CODES,
    EFFECTIVE_SHARE,
    compensated,
    figure_findings,
    ratio_findings,
)
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure, place_of_onset
from laptick.core.judging.length_findings import late_entries, long_cut, long_rushed, rest_run_over
from laptick.core.judging.tempo_findings import began_as_asked, drift, off_tempo, rushed_units
from laptick.core.measuring.evenness import Figure, group_figures
from laptick.core.measuring.limits import (
    JUDGED_BARS,
    JUDGED_ENTRIES,
    JUDGED_INTERVALS,
    JUDGED_POINTS,
    SLIPS_FLOOR,
    TIMED_BARS,
    Limits,
)
from laptick.core.measuring.measured import CheckedTake, Hesitation, Measured
from laptick.core.measuring.ratios import RatioFigure, group_ratios
from laptick.core.rhythm.phrases import find_phrases
from laptick.core.score.score import Place, Score
from laptick.core.takes.task import Task


def find_findings(checked: CheckedTake, limits: Limits) -> list[Finding]:
    """All findings of a followed take, unranked; empty when it could not be followed."""
    measured = checked.measured
    if measured is None:
        return []
    figures, ratios = group_figures(measured.runs), group_ratios(measured.ratios)
    error = tail(_looked_at(checked, figures, ratios))
    uncertainty_s = checked.performance.knows.uncertainty_ms / 1000
    judging = Judging(measured, limits, checked.task, tuple(figures), error, uncertainty_s)

    found = [*_restarts(checked), *_hesitations(judging), *_slips(checked, limits)]
    if is_too_short(measured):
        return found
    bent = [finding for figure in ratios for finding in ratio_findings(judging, figure)]
    found += bent
    found += _of_equal_notes(judging, bent)
    found += long_rushed(judging)
    found = _without_consequences(found, checked.task)
    found += _spread(judging, already=any(f.code in UNEVEN_CODES or f in bent for f in found))
    found += [*_hands_apart(judging), *late_entries(judging), *long_cut(judging), *rest_run_over(judging)]
    moving = list(drift(judging))
    found += moving
    if not (moving and began_as_asked(judging)):
        found += off_tempo(judging, rushed_units(found))
    return _without_a_beat(judging, found)


def is_too_short(measured: Measured) -> bool:
    """Whether a take is of so few bars that nobody is blamed for its timing."""
    return len(measured.bar_tempos) < TIMED_BARS


def _of_equal_notes(judging: Judging, bent: list[Finding]) -> Iterator[Finding]:
    """What is found of runs of equal notes, each fault once. ``bent``: figures that are played as others."""
    late = [finding for figure in judging.figures for finding in compensated(judging, figure)]
    yield from late
    hurried = {(f.hand, f.interval_quarters) for f in late}
    triplets = {(f.hand, f.interval_quarters) for f in bent if f.code == FindingCode.TRIPLET_BENT}
    for figure in judging.figures:
        # What begins late and hurries is that, and neither rushed nor uneven besides; a triplet that is played as
        # another figure is that, and not uneven besides.
        if (figure.hand, figure.interval_quarters) not in hurried | triplets:
            yield from figure_findings(judging, figure)


def _looked_at(checked: CheckedTake, figures: list[Figure], ratios: list[RatioFigure]) -> int:
    """How many figures of this take are judged by an interval: those with enough to stand on."""
    measured, beat = checked.measured, checked.task.beat_quarters
    assert measured is not None
    enough = [figure for figure in figures if figure.intervals >= JUDGED_INTERVALS]
    short = [figure for figure in enough if figure.interval_quarters < beat]
    known = [entry for entry in measured.entries if entry.ran_over_ms is not None]
    sounded = [note for note in measured.long_notes if note.sounded_quarters is not None]
    return (
        len(enough)  # uneven
        + 2 * len(short)  # rushed or late and hurried, limping
        + sum(figure.intervals >= JUDGED_INTERVALS and figure.written in BENT for figure in ratios)
        + 2  # the spread round the beat, the tempo
        + (len(measured.bar_tempos) >= JUDGED_BARS)
        + (len(measured.asynchronies) >= JUDGED_POINTS)
        + (len(measured.entries) >= JUDGED_ENTRIES)
        + (len(measured.long_gaps) >= JUDGED_INTERVALS)
        + (len(known) >= JUDGED_ENTRIES)
        + (len(sounded) >= JUDGED_INTERVALS)
    )


def _without_consequences(found: list[Finding], task: Task) -> list[Finding]:
    """Who rushes short notes, or rushes on from long ones, makes the longer notes around them uneven: that is one
    fault, not two."""
    rushed = [
        f.interval_quarters for f in found if f.code == FindingCode.RUSHED_RUN and f.interval_quarters is not None
    ]
    if any(f.code == FindingCode.LONG_RUSHED for f in found):
        rushed.append(task.beat_quarters / 2)
    if not rushed:
        return found
    return [
        f
        for f in found
        if f.code != FindingCode.UNEVEN or f.interval_quarters is None or f.interval_quarters <= min(rushed)
    ]


#: Unevenly played strikes that on the whole lie further from the student's own beat than this share of it keep none.
#: (Of planted faults at three times their limits 13 of 61 takes that are unsteady throughout lie further, and 8 of 772
#: others: runs or long notes rushed, which are told as that.)
BEATLESS_SHARE = 0.2

#: What can be told of a take without a beat: which strikes are there, and whether the hands meet.
TOLD_WITHOUT_BEAT = frozenset(
    {FindingCode.RESTART, FindingCode.MISSING, FindingCode.EXTRA, FindingCode.WRONG_NOTES, FindingCode.HANDS_APART}
)


def _without_a_beat(judging: Judging, found: list[Finding]) -> list[Finding]:
    """Who gropes from note to note keeps no beat: that is one fault, and there is nothing to measure others against."""
    measured, task = judging.measured, judging.task
    share = off_beat_share(measured)
    worst = max(
        (f for f in found if f.code in UNEVEN_CODES or f.code in BENT_CODES), key=lambda f: f.ratio, default=None
    )
    # What plainly is another fault, as rushing, stays that.
    if worst is None or worst.code != FindingCode.UNEVEN or share <= BEATLESS_SHARE:
        return found
    place = task.place(task.expected[0])
    beatless = Finding(FindingCode.UNEVEN, place, share, BEATLESS_SHARE, "share", worst.sure, beatless=True)
    return [*(f for f in found if f.code in TOLD_WITHOUT_BEAT), beatless]


def off_beat_share(measured: Measured) -> float:
    """How far the strikes lie from the student's own beat, robustly, as a share of it."""
    return robust_sd([note.deviation_ms for note in measured.notes]) * measured.median_bpm / 60_000


UNEVEN_CODES = frozenset(
    {
        FindingCode.RUSHED_RUN,
        FindingCode.LIMPING,
        FindingCode.UNEVEN,
        FindingCode.LATE_THEN_COMPENSATED,
        FindingCode.LONG_RUSHED,
    }
)


def _restarts(checked: CheckedTake) -> Iterator[Finding]:
    restarts = [restart for restart in checked.matching.restarts if not restart.repeat]
    if restarts:
        place = checked.task.place(checked.task.expected[restarts[0].expected_index])
        yield Finding(FindingCode.RESTART, place, len(restarts), 0, "count", 1.0)


def _hesitations(judging: Judging) -> Iterator[Finding]:
    measured, limits, task = judging.measured, judging.limits, judging.task
    if not measured.hesitations:
        return
    spread_ms = gap_spread_ms(measured)
    margin = normal_quantile(tail(measured.gaps)) * spread_ms
    for stop in measured.hesitations:
        if _broadens(judging, stop):
            continue
        beat_ms = 1000 * float(task.beat_quarters) * measured.fit.quarter_s_at(float(stop.before.onset_quarters))
        limit = limits.hesitation_ms(beat_ms)
        if stop.excess_ms - margin > limit:
            yield Finding(
                FindingCode.HESITATION,
                task.place(stop.expected),
                stop.excess_ms,
                limit,
                "ms",
                how_sure(stop.excess_ms, limit, spread_ms),
            )


#: Where the last beats of a phrase are played this much broader, a break among or after them belongs to it.
BROADER, BROADER_BEATS = 1.12, 2


def _broadens(judging: Judging, stop: Hesitation) -> bool:
    """Does a stop belong to a phrase that is played to its end more and more broadly? Who halts is sudden: before the
    stop the beat was as ever, and after it is again. A stop before the next phrase belongs to it when the last beats
    before were broad; one inside the last beats, when what follows up to the next phrase is."""
    measured, task = judging.measured, judging.task
    origin, beat = float(task.measures[0].start_quarters), float(task.beat_quarters)
    onset, reach = float(stop.expected.onset_quarters), BROADER_BEATS * beat
    following = min((float(at) - origin for at in _phrase_starts(task) if float(at) - origin >= onset), default=None)
    if following is None:
        following = float(task.length_quarters)
    if following - onset > reach:
        return False
    low, high = (onset - reach, onset) if following == onset else (onset, following)
    events = measured.fit.events
    gaps = [
        (before, here)
        for before, here in itertools.pairwise(events)
        if low - 1e-9 <= before.onset_quarters
        and here.onset_quarters <= high + 1e-9
        and here.segment == before.segment
        and not (following == onset and here.onset_quarters > onset - 1e-9)
    ]
    quarters = sum(here.onset_quarters - before.onset_quarters for before, here in gaps)
    if quarters < beat / 2:
        return False
    pace = sum(here.played_s - before.played_s for before, here in gaps) / quarters
    return pace > BROADER * measured.fit.quarter_s_at(onset - reach)


def _phrase_starts(task: Task) -> frozenset[Quarters]:
    def starts() -> frozenset[Quarters]:
        return frozenset(phrase.start_quarters for phrase in find_phrases(task.score).phrases)

    return PHRASE_STARTS.of(task.score, None, starts)


PHRASE_STARTS: Kept[Score, None, frozenset[Quarters]] = Kept()


def gap_spread_ms(measured: Measured) -> float:
    """How much one gap between events varies by itself: the robust spread of differences between
    neighbouring residuals."""
    residuals = [e.played_s - x for e, x in zip(measured.fit.events, measured.fit.expected_s, strict=True)]
    stops = {stop.index for stop in measured.fit.stops}
    steps = [b - a for i, (a, b) in enumerate(itertools.pairwise(residuals), 1) if i not in stops]
    return max(4.0, 1000 * robust_sd(steps))


def _slips(checked: CheckedTake, limits: Limits) -> Iterator[Finding]:
    task, matching = checked.task, checked.matching
    asked = len(task.expected)
    kinds = (
        (FindingCode.MISSING, [task.expected[i].onset_quarters for i in matching.missing]),
        (FindingCode.WRONG_NOTES, [task.expected[i].onset_quarters for i, _ in matching.wrong]),
        (FindingCode.EXTRA, [_onset_at(checked, i) for i in matching.extra]),
    )
    for code, onsets in kinds:
        limit = max(SLIPS_FLOOR - 1, limits.slips_share * asked)
        if len(onsets) > limit:
            yield Finding(code, _densest(task, onsets), len(onsets), limit, "count", 1.0)
    for skip in matching.skips:
        if not skip.repeat:
            first, landing = task.expected[skip.from_index], task.expected[skip.expected_index]
            count = sum(skip.from_index <= index < skip.expected_index for index in matching.skipped)
            limit = max(SLIPS_FLOOR - 1, limits.slips_share * asked)
            yield Finding(FindingCode.MISSING, task.place(first), count, limit, "count", 1.0, until=task.place(landing))


def _onset_at(checked: CheckedTake, strike_index: int) -> Quarters:
    """Where in the score an extra strike fell: the written instant last reached before it."""
    assert checked.measured is not None
    played_s = checked.performance.strikes[strike_index].played_s
    onset = checked.task.expected[0].onset_quarters
    for note in checked.measured.notes:
        if note.played_s > played_s:
            break
        onset = note.expected.onset_quarters
    return onset


def _densest(task: Task, onsets: list[Quarters]) -> Place:
    """The first place of the bar that holds most of these instants."""
    by_bar: dict[str, list[Place]] = {}
    for place in (place_of_onset(task, onset) for onset in sorted(onsets)):
        by_bar.setdefault(place.measure, []).append(place)
    return max(by_bar.values(), key=len)[0]


#: A spread by the median of distances tells about as much as this share of the strikes would by their squares.
MEDIAN_EFFICIENCY = 0.37


def _spread(judging: Judging, *, already: bool) -> Iterator[Finding]:
    """The spread of all strikes round the student's own beat, by the median of distances: a few far ones, as where a
    phrase breathes, are not what playing off the beat is."""
    measured, limits, task = judging.measured, judging.limits, judging.task
    deviations = [note.deviation_ms for note in measured.notes]
    strikes = EFFECTIVE_SHARE * (len(measured.fit.events) - len(measured.fit.stops)) - len(measured.bar_tempos)
    freedom = MEDIAN_EFFICIENCY * strikes
    if already or freedom < LEAST_FREEDOM:
        return
    beat_ms = judging.beat_ms
    limit = limits.spread_ms(beat_ms) + measured.notes[0].uncertainty_ms
    amount = robust_sd(deviations)
    if sd_lower(amount, freedom, judging.error) > limit:
        worst = max(measured.notes, key=lambda note: abs(note.deviation_ms))
        yield Finding(
            FindingCode.UNEVEN,
            task.place(worst.expected),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, amount / math.sqrt(2 * freedom)),
        )


#: Fewer degrees of freedom than this tell nothing of a spread.
LEAST_FREEDOM = 3


def _hands_apart(judging: Judging) -> Iterator[Finding]:
    measured, limits = judging.measured, judging.limits
    gaps = [abs(point.gap_ms) for point in measured.asynchronies]
    if len(gaps) < JUDGED_POINTS:
        return
    limit = limits.hands_apart_ms + 1414 * judging.uncertainty_s
    amount = median(gaps)
    gap_error = 1.2533 * max(robust_sd(gaps), 0.5 * sd(gaps)) / math.sqrt(len(gaps))
    if judging.clears(amount, gap_error, limit):
        worst = max(measured.asynchronies, key=lambda point: abs(point.gap_ms))
        signed = mean([point.gap_ms for point in measured.asynchronies])
        yield Finding(
            FindingCode.HANDS_APART,
            judging.place_of(worst.onset_quarters),
            amount,
            limit,
            "ms",
            how_sure(amount, limit, gap_error),
            positive=signed > 0,
        )
