"""Findings: what of a take stands clear of its limit.

A finding is named only when it lies beyond the limit plus what the source cannot resolve, and stands clear, by a
margin of its standard errors, of what a faultless player may show. The margins are fitted to clean takes
(docs/operating-curve.md). Repeats of a figure are pooled; on too few a figure is shown, never judged. Each fault is
told once: what follows from another is not told besides. Source: docs/trade.md 4 (“few notes deceive”).
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Collection, Iterator
from dataclasses import replace

from laptick.core.base.statistics import robust_sd
from laptick.core.base.units import Quarters
from laptick.core.effects.beyond import BESIDE, ask_all
from laptick.core.effects.places import Kind, Scale
from laptick.core.effects.pooling import NULL
from laptick.core.judging.figure_findings import (
    BENT_CODES,
    EFFECTIVE_SHARE,
    limit_of,
    limping_findings,
    off_pairs,
    ratio_findings,
    uneven_findings,
    uneven_together,
    without_phrases,
)
from laptick.core.judging.finding import Finding, FindingCode, Judging, how_sure, place_of_onset
from laptick.core.judging.place_findings import (
    entered,
    hands_apart,
    landed,
    late_entries,
    late_landings,
    long_cut,
    place_findings,
    ratios_landed,
    rest_run_over,
    without_landings,
)
from laptick.core.judging.tempo_findings import began_as_asked, drift, hesitations, off_tempo, rushed_units
from laptick.core.measuring.evenness import Figure, group_figures
from laptick.core.measuring.limits import (
    JUDGED_INTERVALS,
    SLIPS_FLOOR,
    TIMED_BARS,
    Limits,
)
from laptick.core.measuring.measured import CheckedTake, Measured
from laptick.core.measuring.ratios import RatioFigure, group_ratios
from laptick.core.score.score import Hand, Place
from laptick.core.takes.task import Task


def find_findings(checked: CheckedTake, limits: Limits) -> list[Finding]:
    """All findings of a followed take, unranked; empty when it could not be followed."""
    return look_at(checked, limits)[0]


def look_at(checked: CheckedTake, limits: Limits) -> tuple[list[Finding], Judging | None]:
    """The same, with the take as it was judged; ``None`` when it was not, or is too short."""
    measured = checked.measured
    if measured is None:
        return [], None
    figures, ratios = group_figures(measured.runs), group_ratios(measured.ratios)
    uncertainty_s = checked.performance.knows.uncertainty_ms / 1000
    part_factor = PART_FACTOR[checked.performance.knows.pitch]
    judging = Judging(measured, limits, checked.task, tuple(figures), uncertainty_s, part_factor=part_factor)
    found = [*_restarts(checked), *_slips(checked, limits)]
    if is_too_short(measured):
        halts = [stop for stop in hesitations(judging, {}) if stop.amount >= HALT_BEATS * judging.beat_ms]
        return [*found, *halts], None
    inside = [without_landings(figure, judging.figures) for figure in ratios]
    bent = [finding for figure in inside for finding in ratio_findings(judging, figure)]
    shaped = _shaped(judging, bent)
    scale = Scale(limits, checked.task.beat_quarters, 60 / measured.median_bpm, uncertainty_s, part_factor)
    judging = replace(judging, asked=ask_all(checked.task, measured, scale, _told_nothing(judging, ratios, shaped)))
    late, entries = late_landings(judging), late_entries(judging)
    phrases = judging.asked.phrases
    if late or entries or phrases or judging.strictness > 1:
        # Who lands late makes the last interval of a run longer, who enters late the first one shorter: that is one
        # fault, not two.
        on_time = entered(landed(judging.figures, late), entries)
        judging = replace(judging, figures=tuple(without_phrases(figure, phrases) for figure in on_time))
    if late or entries or judging.strictness > 1 or inside != ratios:
        bent = [finding for figure in ratios_landed(ratios, late) for finding in ratio_findings(judging, figure)]
        shaped = _shaped(judging, bent)
    equal = list(_of_equal_notes(judging, shaped))
    found += [*hesitations(judging, _waited_at(judging, equal)), *bent, *equal]
    found += place_findings(judging, Kind.GAP)
    found = _without_consequences(found, checked.task)
    apart = list(hands_apart(judging))
    found = [*_without_the_late_hand(found, apart), *apart]
    found += [*place_findings(judging, Kind.ENTRY), *place_findings(judging, Kind.LANDING)]
    found = _with_spread(judging, found)
    found += [*long_cut(judging), *rest_run_over(judging)]
    moving = list(drift(judging))
    found += moving
    if not (moving and began_as_asked(judging)):
        off = off_tempo(judging, rushed_units(found))
        found += [one for one in off if one.positive or not checked.task.slower_passes]
    return _without_a_beat(judging, _without_doubtful(judging, found)), judging


#: How many times as clear what is found at some places only must be, by whether the source knows keys. Of taps less is
#: to be found, so that who taps well is blamed less.
PART_FACTOR = {True: 1.0, False: 1.45}

#: What the regression asks of each kind of place, as it is told.
TOLD: dict[Kind, FindingCode] = {
    Kind.RUN: FindingCode.RUSHED_RUN,
    Kind.GAP: FindingCode.LONG_RUSHED,
    Kind.ENTRY: FindingCode.LATE_ENTRY,
    Kind.LANDING: FindingCode.LATE_LANDING,
    Kind.BEGINNING: FindingCode.LATE_THEN_COMPENSATED,
}


def _without_doubtful(judging: Judging, found: list[Finding]) -> list[Finding]:
    """Beside another fault, which moves what is round it too, what is barely clear of its limit is not told."""
    clear: dict[FindingCode, float] = {}
    for one in judging.asked.beyond:
        clear[TOLD[one.kind]] = max(clear.get(TOLD[one.kind], 0.0), one.answer.clear)
    if judging.asked.moved is not None and judging.asked.moved.change is not None:
        clear[FindingCode.DRIFT] = judging.asked.moved.change.clear
    surest = max((f.code for f in found), key=lambda code: clear.get(code, math.inf), default=None)
    return [f for f in found if f.code is surest or clear.get(f.code, math.inf) >= BESIDE]


#: In a take too short to tell a stop from a run that hurries, only one of so many beats is told.
HALT_BEATS = 0.75


def _shaped(judging: Judging, bent: list[Finding]) -> list[Finding]:
    """Figures that are played as others, and pairs that limp: what they do inside a beat is no matter of the beat."""
    named = {(f.hand, f.interval_quarters) for f in bent}
    limping = [
        finding
        for figure in judging.figures
        if (figure.hand, figure.interval_quarters) not in named
        for finding in limping_findings(judging, figure)
    ]
    return [*bent, *limping]


def _told_nothing(
    judging: Judging, ratios: list[RatioFigure], shaped: list[Finding]
) -> set[tuple[Hand | None, Quarters]]:
    """The strikes inside figures that are played otherwise than written."""
    inside: set[tuple[Hand | None, Quarters]] = set()
    for finding in shaped:
        if finding.code == FindingCode.LIMPING:
            for figure in judging.figures:
                if (figure.hand, figure.interval_quarters) == (finding.hand, finding.interval_quarters):
                    inside |= {(s.hand, s.onset_quarters) for run in figure.runs for s in off_pairs(run)}
            continue
        for ratio_figure in ratios:
            unit = ratio_figure.length_quarters / sum(ratio_figure.written)
            if (ratio_figure.hand, unit) == (finding.hand, finding.interval_quarters):
                for ratio in ratio_figure.ratios:
                    at = ratio.onset_quarters
                    for part in ratio.written[:-1]:
                        at += part * unit
                        inside.add((ratio.hand, at))
    return inside


#: A wait after a rushed run is at most so many times as long as the run was early.
WAITS = 2.0


def _waited_at(judging: Judging, equal: list[Finding]) -> dict[float, float]:
    """Where runs that are rushed end, land, and where their hand strikes next: a wait there belongs to them; how many
    milliseconds it may last."""
    rushed = {(f.hand, f.interval_quarters): f.amount for f in equal if f.code == FindingCode.RUSHED_RUN}
    lines = {line[0].hand: [strike.onset_quarters for strike in line] for line in judging.measured.lines if line}
    waits: dict[float, float] = {}
    for figure in judging.figures:
        share = rushed.get((figure.hand, figure.interval_quarters))
        for run in figure.runs if share is not None else ():
            last, line = run.strikes[-1].onset_quarters, lines.get(run.hand, [])
            next_one = line[bisect_right(line, last) :][:1]
            early_ms = 1000 * (share or 0) * len(run.ratios) * run.fitted_s
            for onset in (last, last + figure.interval_quarters, *next_one):
                waits[float(onset)] = max(waits.get(float(onset), 0.0), WAITS * early_ms)
    return waits


def is_too_short(measured: Measured) -> bool:
    """Whether a take is of so few bars that nobody is blamed for its timing."""
    return len(measured.bar_tempos) < TIMED_BARS


def _of_equal_notes(judging: Judging, shaped: list[Finding]) -> Iterator[Finding]:
    """What is found of runs of equal notes, each fault once. ``shaped``: figures that are played as others, or limp."""
    late = list(place_findings(judging, Kind.BEGINNING))
    yield from late
    hurried = {f.hand for f in late}
    told = {(f.hand, f.interval_quarters) for f in shaped if f.code in BENT_CODES}
    # Who hurries and waits makes the last interval of a run long: that is no limping.
    waiting: set[tuple[Hand | None, Quarters | None]] = set()
    # What begins late and hurries is that, and neither rushed nor uneven besides; a triplet that is played as another
    # figure is that, and not uneven besides.
    for f in place_findings(judging, Kind.RUN):
        # Of who is unsteady: runs that are more uneven in themselves than they are fast are that; and so are a few that
        # go faster than the rest.
        cv = _cv_of(judging, f)
        player = judging.asked.player
        if player > LEAST_SPREAD and cv > max(f.amount, f.limit):
            continue
        if player > UNSURE and f.in_part and cv > UNEVEN_RUNS * f.limit:
            continue
        if f.hand not in hurried and (f.hand, f.interval_quarters) not in told:
            told.add((f.hand, f.interval_quarters))
            waiting |= {(f.hand, f.interval_quarters)} if f.waits else set()
            yield f
    for f in shaped:
        if f.code == FindingCode.LIMPING and (f.hand, f.interval_quarters) not in waiting:
            told.add((f.hand, f.interval_quarters))
            if f.hand not in hurried:
                yield f
    for figure in judging.figures:
        if figure.hand not in hurried and (figure.hand, figure.interval_quarters) not in told:
            yield from uneven_findings(judging, figure)


def _figures_of(judging: Judging, finding: Finding) -> list[Figure]:
    """The runs of the hand and length that a finding is of."""
    key = (finding.hand, finding.interval_quarters)
    return [figure for figure in judging.figures if (figure.hand, figure.interval_quarters) == key]


def _cv_of(judging: Judging, rushed: Finding) -> float:
    """How uneven the runs of a finding are in themselves, their waits at the end left out."""
    figures = _figures_of(judging, rushed)
    if rushed.waits:
        figures = [Figure(one.hand, one.interval_quarters, [run.without_last() for run in one.runs]) for one in figures]
    return max((figure.robust_cv() for figure in figures), default=0.0)


def _late_hand(apart: Finding) -> Hand:
    return Hand.RIGHT if apart.positive else Hand.LEFT


def _without_the_late_hand(found: list[Finding], apart: list[Finding]) -> list[Finding]:
    """A hand that is late wherever both strike is uneven by that, and bends its figures: one fault, not two."""
    if not apart:
        return found
    late, ratio = _late_hand(apart[0]), apart[0].ratio
    by_that = {FindingCode.UNEVEN, FindingCode.LIMPING, *BENT_CODES}
    return [f for f in found if not (f.code in by_that and f.hand is late and f.ratio < LATE_HAND * ratio)]


#: A hand is uneven by being late up to this many times what it is late by, each in its own limits.
LATE_HAND = 1.3


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


#: What puts strikes off the beat by itself.
OFF_THE_BEAT = UNEVEN_CODES | BENT_CODES | {FindingCode.HANDS_APART, FindingCode.LATE_ENTRY, FindingCode.LATE_LANDING}


def _restarts(checked: CheckedTake) -> Iterator[Finding]:
    restarts = [restart for restart in checked.matching.restarts if not restart.repeat]
    if restarts:
        place = checked.task.place(checked.task.expected[restarts[0].expected_index])
        yield Finding(FindingCode.RESTART, place, len(restarts), 0, "count", 1.0)


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


def _with_spread(judging: Judging, found: list[Finding]) -> list[Finding]:
    """The findings, with the spread of all strikes round the student's own beat among them where that is a fault by
    itself: as the regression has it, apart from phrases and from what happens at places of a kind. What puts strikes
    off the beat further than they spread explains it; who is unsteady beyond doubt shows the rest by chance."""
    measured, player = judging.measured, judging.asked.player
    freedom = MEDIAN_EFFICIENCY * EFFECTIVE_SHARE * (len(measured.fit.events) - len(measured.fit.stops))
    if freedom < LEAST_FREEDOM:
        return found
    error = player / math.sqrt(2 * freedom)
    others = [f for f in found if f.code in OFF_THE_BEAT]
    uneven_by = max((f.ratio for f in others if f.code == FindingCode.UNEVEN), default=0.0)
    bent = {(f.hand, f.interval_quarters) for f in others if f.code in BENT_CODES or _is_rushed(judging, f)}
    late = {_late_hand(f) for f in others if f.code == FindingCode.HANDS_APART}
    bent |= {(figure.hand, figure.interval_quarters) for figure in judging.figures if figure.hand in late}
    explained = player <= UNSTEADY_AT_ALL and any(f.code in SHAPED_CODES for f in others)
    if not explained and is_unsteady(judging, bent):
        everywhere = [f for figure in judging.figures for f in uneven_findings(judging, figure)]
        everywhere = everywhere or list(uneven_together(judging, judging.figures))
        if everywhere:
            return [*(f for f in found if f not in others), *everywhere]
    if uneven_by:
        return [f for f in found if f not in others or not _by_chance(f, uneven_by, player)]
    if player < THROUGHOUT and any(player < BEYOND_DOUBT or _is_beyond(f, player) for f in others):
        return found
    if player <= LEAST_SPREAD or player - NULL <= SPREAD_MARGIN * error:
        return found
    limit = judging.limits.spread_ms(judging.beat_ms) + measured.notes[0].uncertainty_ms
    worst = max(measured.notes, key=lambda note: abs(note.deviation_ms))
    sure = how_sure(player * limit, limit, error * limit)
    uneven = Finding(FindingCode.UNEVEN, judging.task.place(worst.expected), player * limit, limit, "ms", sure)
    return [*(f for f in found if f not in others), uneven]


def _is_rushed(judging: Judging, finding: Finding) -> bool:
    """Are runs faster, throughout, than they are uneven in themselves?"""
    plain = finding.code == FindingCode.RUSHED_RUN and not finding.in_part
    return plain and finding.amount > _cv_of(judging, finding)


#: Of who spreads so far, runs that are so many times as uneven as they may be are that, when only some go faster.
UNSURE, UNEVEN_RUNS = 0.75, 1.5

#: Of who keeps to the beat so well, figures that are played as others are that, and no unsteadiness in whatever is
#: played.
UNSTEADY_AT_ALL = 0.5
SHAPED_CODES = frozenset({FindingCode.LIMPING, *BENT_CODES})
#: Notes of every length spread so many times as far as they may, the short ones all, most of all others.
UNSTEADY_TIMES, UNSTEADY_PART = 1.15, 0.75


def is_unsteady(judging: Judging, bent: Collection[tuple[Hand | None, Quarters | None]]) -> bool:
    """Is the playing uneven in itself in whatever it plays? Who rushes, limps or lands late is so at some lengths only,
    and evenly. ``bent``: figures that tell nothing of that: played as others, plainly rushed, or of a late hand."""
    judged = [
        figure
        for figure in judging.figures
        if figure.intervals >= JUDGED_INTERVALS and (figure.hand, figure.interval_quarters) not in bent
    ]
    beyond = {id(figure): figure.robust_cv() / limit_of(judging, figure) for figure in judged}
    short = [beyond[id(figure)] for figure in judged if figure.interval_quarters < judging.task.beat_quarters]
    far = sum(figure.intervals for figure in judged if beyond[id(figure)] > UNSTEADY_TIMES)
    enough = far > UNSTEADY_PART * sum(figure.intervals for figure in judged)
    return len(judged) > 1 and bool(short) and min(short) > UNSTEADY_TIMES and enough


#: A spread is told from so many times its limit on (a good player's recording has 1.02 at the advanced level).
LEAST_SPREAD = 1.1

#: Who spreads so far beyond the limit is unsteady, but for what is further out; and so far, throughout.
BEYOND_DOUBT, THROUGHOUT = 1.1, 1.25


def _by_chance(finding: Finding, uneven_by: float, player: float) -> bool:
    """Is a finding what uneven playing shows at some places anyway?"""
    if finding.code == FindingCode.UNEVEN:
        return False
    if player > THROUGHOUT:
        return True
    if player > BEYOND_DOUBT:
        return not _is_beyond(finding, player)
    return finding.in_part and finding.ratio < uneven_by


def _is_beyond(finding: Finding, player: float) -> bool:
    """Is a finding further out than a player spreads, and not at some places only?"""
    return finding.ratio > player and not finding.in_part


#: By how many SDs a spread must be clear of a faultless one.
SPREAD_MARGIN = 0.55

#: Fewer degrees of freedom than this tell nothing of a spread.
LEAST_FREEDOM = 3
