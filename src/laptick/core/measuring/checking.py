"""Checking a take: from a task and a performance to figures.

``check_take`` matches, fits the student's own beat and measures; it judges nothing (``findings`` does).
A take that cannot be followed has no figures, only the place where it was lost.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise
from operator import itemgetter
from statistics import median

from laptick.core.base.statistics import mean
from laptick.core.base.units import Quarters, Seconds, seconds_per_quarter_to_bpm
from laptick.core.following.matching import Matching, match
from laptick.core.following.own_beat import BeatFit, PlayedInstant, fit_beat
from laptick.core.following.pairing import bar_starts, played_events
from laptick.core.measuring.evenness import HandStrike, asynchronies_of, connected, find_runs
from laptick.core.measuring.limits import FOLLOWED_LEAST, FOLLOWED_SHARE, SURE_SHARE
from laptick.core.measuring.long_notes import find_long_notes, long_gaps
from laptick.core.measuring.measured import BarTempo, CheckedTake, Hesitation, Measured, MeasuredNote, drift_line
from laptick.core.measuring.played_bends import (
    NO_BENDS,
    Bends,
    bent_events,
    find_bends,
    held_events,
    measure_bends,
)
from laptick.core.measuring.ratios import beats_of, find_ratios
from laptick.core.measuring.rest_entries import find_entries
from laptick.core.measuring.stop_causes import causes_of
from laptick.core.measuring.touch import measure_touch
from laptick.core.measuring.true_stops import events_passed
from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Expected, Task

#: Stored with every verdict: raise it when a figure or a judgement changes.
CHECKER_VERSION = "15"


def check_take(task: Task, performance: Performance) -> CheckedTake:
    """Matches and measures a take. Never raises for how badly it was played."""
    matching = match(task, performance)
    if len(matching.matches) < FOLLOWED_LEAST:
        return CheckedTake(task, performance, matching, None, Fraction(0))
    measured = _measure(task, performance, matching)
    if measured is None:
        return CheckedTake(task, performance, matching, None, Fraction(0))
    lost_at = _lost_at(task, performance, matching, measured)
    return CheckedTake(task, performance, matching, None if lost_at is not None else measured, lost_at)


def _lost_at(task: Task, performance: Performance, matching: Matching, measured: Measured) -> Quarters | None:
    """Where the take was lost, or ``None`` when it can be followed: enough of what was asked for (up to
    where it ended) and of what was played is matched and lies near a beat, and the beat is not stopped
    at every other strike; or nearly all is there in its order, by the keys or hand by hand."""
    beat_ms = 1000 * float(task.beat_quarters) * measured.fit.quarter_s_at(0.0)
    left_out = set(matching.skipped)
    asked = [
        e
        for i, e in enumerate(task.expected)
        if float(e.onset_quarters) <= matching.last_event_quarters and i not in left_out
    ]
    near = [n for n in measured.notes if abs(n.deviation_ms) < max(0.25 * beat_ms, 130)]
    stops = len(measured.fit.stops)
    kept = len(near) - 2 * stops
    played = len(performance.strikes) - len(matching.repeats) - len(matching.ornaments)
    reached = len(asked) / len(task.expected)
    enough = kept >= FOLLOWED_SHARE * len(asked) and kept >= FOLLOWED_SHARE * played
    sure = (task.asks_pitches or matching.by_order) and len(matching.matches) >= SURE_SHARE * max(len(asked), played)
    if (enough or sure) and reached >= 0.25:
        return None
    return _first_missing(task, matching, task.expected[-1] if reached >= 0.25 else asked[-1])


def _first_missing(task: Task, matching: Matching, otherwise: Expected) -> Quarters:
    missing = {*matching.missing}
    first = next((expected for index, expected in enumerate(task.expected) if index in missing), otherwise)
    return first.onset_quarters


def lost(checked: CheckedTake) -> CheckedTake:
    """The same take, which could be followed but is something else than was asked for: it has no figures."""
    if not checked.followed:
        return checked
    where = _first_missing(checked.task, checked.matching, checked.task.expected[-1])
    return replace(checked, measured=None, lost_at=where)


def _measure(task: Task, performance: Performance, matching: Matching) -> Measured | None:
    events = played_events(task, performance, matching.matches)
    if len(events) < 3 or events[0].onset_quarters == events[-1].onset_quarters:
        return None
    bends = find_bends(task)
    bent = bent_events(bends, events)
    if not bent:
        bends = replace(bends, spans=())
    beat, held = float(task.beat_quarters), held_events(bends, events)
    fit = _fit(task, events, held, bent, frozenset())
    went_on = events_passed(fit, _by_hand(task, performance, matching), beat)
    if went_on:
        fit = _fit(task, events, held, bent, went_on)
    expected_at = {event.onset_quarters: fit.expected_s[i] for i, event in enumerate(events)}
    click_s = _click(task, performance)
    notes = tuple(
        _measured(performance, task.expected[m.expected_index], m.strike_index, expected_at, click_s)
        for m in matching.matches
    )
    breaks = _breaks(fit)
    lines = tuple(_line(hand, notes, [*breaks, *_missed(task, matching, hand)], bends) for hand in _hands(task))
    bar_tempos = _bar_tempos(task, fit, bends)
    if not bar_tempos:
        return None
    key_ups = _key_ups(task, performance, matching)
    sides = {line[0].hand: line for line in lines if line}
    told = performance.heard is None or performance.heard.tells_hands
    asynchronies = asynchronies_of(sides[Hand.RIGHT], sides[Hand.LEFT]) if told and set(HANDS) <= sides.keys() else []
    return Measured(
        notes,
        fit,
        median(tempo.opening_bpm for tempo in bar_tempos),
        _drift(bar_tempos),
        bar_tempos,
        tuple(run for line in lines for run in find_runs(line, fit.quarter_s_at)),
        tuple(asynchronies),
        _hesitations(task, fit, bends),
        len(events) - 1,
        lines,
        tuple(ratio for line in lines for ratio in find_ratios(line, beats_of(task))),
        tuple(find_entries(task, lines, fit, key_ups)),
        tuple(find_long_notes(task, lines, fit, key_ups, performance.pedal_down)),
        tuple(long_gaps(task, fit, lambda low, high: bends.touches(low, high) or bends.waits_between(low, high))),
        tuple(measure_bends(bends, fit)),
        measure_touch(task, performance, matching, fit),
        bends,
    )


def _fit(
    task: Task, events: Sequence[PlayedInstant], held: frozenset[int], bent: frozenset[int], went_on: frozenset[int]
) -> BeatFit:
    """The student's own beat, which is even where what is written is followed: the beat of the opening tempo that it
    comes to, and of that the one that was played."""
    paces, starts, beat = task.paces, bar_starts(task), float(task.beat_quarters)
    if paces.is_one:
        return fit_beat(events, starts, beat, held=held, bent=bent, went_on=went_on)
    due = [replace(event, onset_quarters=paces.due_quarters(event.onset_quarters)) for event in events]
    due_starts = [paces.due_quarters(start) for start in starts]
    fit = fit_beat(due, due_starts, beat, held=held, bent=bent, went_on=went_on)
    quarter_s = (
        seconds / paces.mean_between(start, end)
        for seconds, (start, end) in zip(fit.quarter_s, pairwise(starts), strict=True)
    )
    return replace(fit, events=tuple(events), quarter_s=tuple(quarter_s), bar_starts=tuple(map(float, starts)))


def _by_hand(
    task: Task, performance: Performance, matching: Matching
) -> dict[Hand | None, list[tuple[float, Seconds]]]:
    """Of each hand its strikes in order, a chord at its mean time: (onset, played)."""
    gathered: dict[Hand | None, dict[float, list[Seconds]]] = {}
    for matched in matching.matches:
        expected = task.expected[matched.expected_index]
        line = gathered.setdefault(expected.hand, {})
        line.setdefault(float(expected.onset_quarters), []).append(performance.strikes[matched.strike_index].played_s)
    return {hand: [(onset, mean(times)) for onset, times in sorted(line.items())] for hand, line in gathered.items()}


def _key_ups(task: Task, performance: Performance, matching: Matching) -> dict[tuple[Hand | None, Quarters], Seconds]:
    """The last key-up of what was struck at each written instant, hand by hand, where the source knows it."""
    ups: dict[tuple[Hand | None, Quarters], Seconds] = {}
    for matched in matching.matches:
        expected = task.expected[matched.expected_index]
        last = matching.last_of_ornament.get(matched.expected_index, matched.strike_index)
        released_s = performance.strikes[last].released_s
        if released_s is not None:
            key = (expected.hand, expected.onset_quarters)
            ups[key] = max(ups.get(key, released_s), released_s)
    return ups


def _hands(task: Task) -> list[Hand | None]:
    present = {expected.hand for expected in task.expected}
    return [hand for hand in (*HANDS, None) if hand in present]


def _measured(
    performance: Performance,
    expected: Expected,
    strike_index: int,
    expected_at: Mapping[float, Seconds],
    click_s: Callable[[Quarters], Seconds] | None,
) -> MeasuredNote:
    strike = performance.strikes[strike_index]
    played_s = strike.played_s
    return MeasuredNote(
        expected,
        played_s,
        expected_at[float(expected.onset_quarters)],
        None if click_s is None else 1000 * (played_s - click_s(expected.onset_quarters)),
        performance.knows.uncertainty_ms,
        strike.is_apart,
    )


def _click(task: Task, performance: Performance) -> Callable[[Quarters], Seconds] | None:
    """When the click fell at an instant of the passage; ``None`` where the take shares no clock with it."""
    if not performance.shares_clock:
        return None
    first_beat_s, bpm = performance.first_beat_s, performance.click_bpm
    assert first_beat_s is not None
    assert bpm is not None
    clock = task.clock(bpm)
    return lambda onset: first_beat_s + clock(onset)


def _breaks(fit: BeatFit) -> list[float]:
    """Where the playing stops, or goes on from elsewhere: nothing is measured across it."""
    stops = sorted(fit.events[stop.index].onset_quarters for stop in fit.stops)
    restarts = [
        here.onset_quarters
        for before, here in zip(fit.events, fit.events[1:], strict=False)
        if here.segment != before.segment
    ]
    return stops + restarts


def _missed(task: Task, matching: Matching, hand: Hand | None) -> set[float]:
    """Where a hand left a strike out."""
    return {float(task.expected[i].onset_quarters) for i in matching.missing if task.expected[i].hand is hand}


def _line(
    hand: Hand | None, notes: Sequence[MeasuredNote], cuts: Sequence[float], bends: Bends
) -> tuple[HandStrike, ...]:
    """One hand's strikes in order; a chord is one strike at its mean time. ``cuts``: where the line is broken."""
    gathered: dict[Quarters, list[MeasuredNote]] = {}
    for note in notes:
        if note.expected.hand is hand:
            gathered.setdefault(note.expected.onset_quarters, []).append(note)
    line: list[HandStrike] = []
    previous: float | None = None
    bent = bool(bends.spans or bends.holds or bends.lifts)
    for here, onset, group in sorted(
        ((float(onset), onset, group) for onset, group in gathered.items()), key=itemgetter(0)
    ):
        broken = (
            previous is None
            or any(previous < at <= here for at in cuts)
            or (bent and (bends.touches(previous, here) or bends.waits_between(previous, here)))
        )
        previous = here
        line.append(
            HandStrike(
                hand,
                onset,
                mean([note.played_s for note in group]),
                group[0].expected_s,
                group[0].expected.until_next_quarters,
                broken,
                None if broken else connected(line[-1], onset),
                all(note.is_apart for note in group),
            )
        )
    return tuple(line)


def _bar_tempos(task: Task, fit: BeatFit, bends: Bends) -> tuple[BarTempo, ...]:
    """Fitted tempo of every bar in which something was struck and no bend is written, if any is left. The last bar
    counts only when something is struck after its start: one held strike has no length."""
    tempos = []
    onsets = [event.onset_quarters for event in fit.events]
    for index, (measure, quarter_s) in enumerate(zip(task.measures, fit.quarter_s, strict=True)):
        start, end = fit.bar_starts[index], fit.bar_starts[index + 1]
        inside = bisect_left(onsets, end) - bisect_left(onsets, start)
        is_open = index == len(task.measures) - 1 and inside < 2 and len(task.measures) > 1
        if inside and quarter_s == quarter_s and quarter_s > 0 and not is_open and not bends.touches(start, end):
            bpm = seconds_per_quarter_to_bpm(quarter_s, task.beat_quarters)
            tempos.append(BarTempo(measure.index, measure.pass_number, bpm, task.paces.mean_between(start, end)))
    return tuple(tempos) if tempos or not bends.spans else _bar_tempos(task, fit, NO_BENDS)


def _drift(tempos: Sequence[BarTempo]) -> float:
    """Change from the first to the last bar along the fitted slope, as a share; + is faster."""
    slope, start, bars = drift_line(tempos)
    return slope * (bars - 1) / start if bars > 1 and start > 0 else 0.0


def _hesitations(task: Task, fit: BeatFit, bends: Bends) -> tuple[Hesitation, ...]:
    """Every stop of the beat, with what of the score lies in the gap. A breath at the end of a phrase is none."""
    if not fit.stops:
        return ()
    by_onset: dict[float, Expected] = {}
    for expected in task.expected:
        by_onset.setdefault(float(expected.onset_quarters), expected)
    found = []
    for stop in fit.stops:
        onset, earlier = fit.events[stop.index].onset_quarters, fit.events[stop.index - 1].onset_quarters
        here, before = by_onset[onset], by_onset[earlier]
        beat_s = float(task.beat_quarters) * fit.quarter_s_at(float(before.onset_quarters))
        excess_beats = stop.excess_s / beat_s
        if bends.lifts_between(earlier, onset) and excess_beats <= LIFT_BEATS:
            continue
        found.append(Hesitation(here, before, 1000 * stop.excess_s, excess_beats, causes_of(task, before, here)))
    return tuple(found)


#: Between two phrases the hand may lift: up to this much longer than written is no stop.
LIFT_BEATS = 0.75
