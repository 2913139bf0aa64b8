"""Score ↔ performance: which played strike is which written one.

Three steps. ``following.follow`` walks the strikes in time order over the score's events and finds the stretches of
playing, pauses, restarts and leaps. Then strikes are paired with written strikes hand by hand (or pitch by pitch)
inside each stretch, order kept, by a second dynamic program over the followed times. Where strikes are left over on
both sides, the pairing is done once more over the beat fitted to what was found: a strike far from its place drags
the followed times with it, but not the beat. No step takes "the nearest note". Where the order of the keys alone
explains a take far better than its times do, it decides (``keys_in_order``).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.alignment import align, interpolated
from laptick.core.following import follow
from laptick.core.hypotheses import HOVERS, LEAPT, ON, STAY_MOST_S, WENT_BACK, Floats, ScoreEvents, score_events
from laptick.core.keys_in_order import pair_in_order
from laptick.core.ornaments import grace_strikes
from laptick.core.performance import Expected, Performance, Strike, Task
from laptick.core.score import Hand
from laptick.core.statistics import mean
from laptick.core.timing import Event, fit_beat
from laptick.core.units import Quarters


@dataclass(frozen=True, slots=True)
class Match:
    """A written strike (index into ``task.expected``) and the played one (index into strikes)."""

    expected_index: int
    strike_index: int
    segment: int


@dataclass(frozen=True, slots=True)
class Restart:
    """The player went back: when the new start was played and which written strike it began with. ``repeat``: as
    the score's repeat sign says, though the order asked for does not."""

    played_s: float
    expected_index: int
    repeat: bool = False


@dataclass(frozen=True, slots=True)
class Skip:
    """Bars left out: the written strikes from ``from_index`` up to ``expected_index``, where playing went on.
    ``repeat``: they were a repeat not taken."""

    played_s: float
    from_index: int
    expected_index: int
    repeat: bool


@dataclass(frozen=True)
class Matching:
    """``matches`` hold every written strike at most once (after a restart, its last playing);
    ``repeats`` are strikes of stretches that were played again later: neither extra nor measured;
    ``wrong`` pairs a missing written strike with the key or side struck in its stead; ``skipped`` are the written
    strikes of bars left out, which are not missing besides; ``ornaments`` are strikes of written grace notes and
    ornaments."""

    matches: tuple[Match, ...]
    missing: tuple[int, ...]
    extra: tuple[int, ...]
    repeats: tuple[int, ...]
    restarts: tuple[Restart, ...]
    wrong: tuple[tuple[int, int], ...]
    last_event_quarters: float
    skips: tuple[Skip, ...] = ()
    skipped: tuple[int, ...] = ()
    ornaments: tuple[int, ...] = ()


# -- strikes to written strikes -------------------------------------------------------------------


def match(task: Task, performance: Performance, *, anywhere: bool = False) -> Matching:
    """Every written strike matched, missing or skipped, every played one matched, repeated, an ornament's or extra.
    ``anywhere``: the playing may begin at any bar."""
    events = score_events(task)
    path = follow(task, performance, events, anywhere=anywhere)
    segments: list[list[tuple[int, int]]] = []
    restarts: list[Restart] = []
    skips: list[Skip] = []
    before = -1
    trilled = frozenset(strike_index for strike_index, _, how in path if how == HOVERS)
    for strike_index, event, how in path:
        if how == HOVERS:
            continue
        if how != ON or not segments:
            segments.append([])
            played_s, first = performance.strikes[strike_index].played_s, events.members[event][0]
            if how == WENT_BACK:
                restarts.append(Restart(played_s, first, _is_repeat_sign(task, events, before, event)))
            elif how == LEAPT:
                left_out = events.members[before + 1][0]
                skips.append(Skip(played_s, left_out, first, _was_there_before(task, left_out, first)))
        segments[-1].append((strike_index, event))
        before = event

    found = _paired(segments, task, performance, events, trilled, None)
    if found.left_over_on_both_sides(task, performance):
        again = _paired(segments, task, performance, events, trilled, _beat_of(found, task, performance))
        if len(again.final) >= len(found.final):
            found = again
    _take_turns(found, task, performance, events, trilled)
    last = max((event for _, event in segments[-1]), default=0) if segments else 0
    followed = _matching(task, performance, events, found, restarts, skips, trilled, last)
    return followed if anywhere else _in_order(task, performance, events, followed) or followed


def _matching(
    task: Task,
    performance: Performance,
    events: ScoreEvents,
    found: _Pairing,
    restarts: list[Restart],
    skips: list[Skip],
    trilled: frozenset[int],
    last: int,
) -> Matching:
    """What was found, with what is left over on both sides told apart."""
    taken = {matched.strike_index for matched in found.final.values()} | found.repeats | trilled
    extra = [index for index in range(len(performance.strikes)) if index not in taken]
    ornaments = trilled | grace_strikes(task, performance, {e: m.strike_index for e, m in found.final.items()}, extra)
    extra = [index for index in extra if index not in ornaments]
    jumped = {i for skip in skips for i in range(skip.from_index, skip.expected_index) if i not in found.final}
    missing = [index for index in range(len(task.expected)) if index not in found.final and index not in jumped]
    wrong = _wrong_keys(missing, extra, found.final, task, performance)
    instead_of, struck = {index for index, _ in wrong}, {index for _, index in wrong}
    return Matching(
        tuple(sorted(found.final.values(), key=lambda m: m.expected_index)),
        tuple(index for index in missing if index not in instead_of),
        tuple(index for index in extra if index not in struck),
        tuple(sorted(found.repeats)),
        tuple(restarts),
        tuple(wrong),
        float(events.onsets[last]) if found.final else 0.0,
        tuple(skips),
        tuple(sorted(jumped)),
        tuple(sorted(ornaments)),
    )


#: The order of keys alone is asked when the times leave this many strikes unexplained or taken for another playing; it
#: is believed when it leaves at most half of them, and at most this share of the strikes (never more than this many).
ASK_ORDER, ORDER_SHARE, ORDER_MOST = 3, 0.1, 40


def _in_order(task: Task, performance: Performance, events: ScoreEvents, followed: Matching) -> Matching | None:
    """The matching by the order of keys, where that explains the take far better than its times do."""
    slips = len(followed.missing) + len(followed.extra) + len(followed.wrong)
    slips += len(followed.skipped) + len(followed.repeats)
    if task.expected[0].pitch is None or slips < ASK_ORDER:
        return None
    most = min(slips // 2, round(ORDER_SHARE * len(task.expected)), ORDER_MOST)
    ordered = pair_in_order(task, performance, events, most)
    if ordered is None:
        return None
    found = _Pairing({index: Match(index, strike, 0) for index, strike in ordered.items()}, set())
    last = max((e for e, members in enumerate(events.members) if any(i in ordered for i in members)), default=0)
    return _matching(task, performance, events, found, [], [], frozenset(), last)


#: A tap this many beats from its place is no longer that strike: a key tells which it is, a side does not.
TURN_BEATS = 0.75

#: Between two matched instants no more strikes than this are looked through.
MOST_BETWEEN = 24


def _take_turns(
    found: _Pairing, task: Task, performance: Performance, events: ScoreEvents, trilled: frozenset[int]
) -> None:
    """Pairs what is missing with what is left over of its key, or its side, between the strikes matched before it and
    after it, when there is as much of the one as of the other: in its turn it is that note, however late it comes."""
    taken = {matched.strike_index for matched in found.final.values()} | found.repeats | trilled
    if len(found.final) == len(task.expected) or len(taken) == len(performance.strikes):
        return
    by_keys = task.expected[0].pitch is not None
    for line in [events.members] if by_keys else _sides(task):
        for before, missing, after in _gaps(line, found.final):
            if len({matched.segment for matched in (*before, *after)}) != 1:
                continue
            low = max((matched.strike_index for matched in before), default=-1)
            high = min((matched.strike_index for matched in after), default=len(performance.strikes))
            if high - low > MOST_BETWEEN:
                continue
            lines: dict[int | None, list[int]] = {}
            for index in missing:
                lines.setdefault(task.expected[index].pitch, []).append(index)
            for gap in lines.values():
                sample = task.expected[gap[0]]
                free = (i for i in range(low + 1, high) if i not in taken)
                own = [i for i in free if _belongs(sample, performance.strikes[i])]
                if len(own) != len(gap) or not (by_keys or _in_reach(gap, own, before, after, task, performance)):
                    continue
                for index, strike in zip(gap, own, strict=True):
                    found.final[index] = Match(index, strike, (before or after)[0].segment)
                taken.update(own)


def _sides(task: Task) -> list[list[list[int]]]:
    """The written strikes of each hand, each an instant of its own."""
    sides: dict[Hand | None, list[list[int]]] = {}
    for index, expected in enumerate(task.expected):
        sides.setdefault(expected.hand, []).append([index])
    return list(sides.values())


def _gaps(line: list[list[int]], final: dict[int, Match]) -> Iterator[tuple[list[Match], list[int], list[Match]]]:
    """Of neighbouring instants with something missing: what is matched at the instant before, what is missing, and what
    is matched at the instant after. An instant of which a part is matched stands for itself."""
    known = [[final[index] for index in members if index in final] for members in line]
    before: list[Match] = []
    missing: list[int] = []
    for at, members in enumerate(line):
        lacking = [index for index in members if index not in final]
        if known[at]:
            if missing:
                yield before, missing, known[at]
            if lacking:
                yield before, lacking, next((known[i] for i in range(at + 1, len(known)) if known[i]), [])
            before, missing = known[at], []
        else:
            missing += lacking
    if missing:
        yield before, missing, []


def _in_reach(
    gap: list[int], taps: list[int], before: list[Match], after: list[Match], task: Task, performance: Performance
) -> bool:
    """Are taps near where the strikes of a gap are asked for, between the tap before and the one after?"""
    if not before or not after:
        return False
    first_s, last_s = (performance.strikes[m[0].strike_index].played_s for m in (before, after))
    first, last = (float(task.expected[m[0].expected_index].onset_quarters) for m in (before, after))
    rate = (last_s - first_s) / (last - first)
    most_s = TURN_BEATS * float(task.beat_quarters) * task.quarter_s
    asked_s = (first_s + (float(task.expected[index].onset_quarters) - first) * rate for index in gap)
    return all(abs(performance.strikes[i].played_s - at) <= most_s for i, at in zip(taps, asked_s, strict=True))


def _is_repeat_sign(task: Task, events: ScoreEvents, left: int, target: int) -> bool:
    """Does the jump follow a repeat sign: from the end of its bar to the bar where the repeat begins?"""
    bars = task.measures
    here, there = bars[int(events.bar[left])], bars[int(events.bar[target])]
    at_end = left + 1 == len(events.members) or events.bar[left + 1] != events.bar[left]
    begins = there.signs.forward or there.written_start_quarters == 0
    return bool(at_end and here.signs.backward and begins and events.at_bar[target])


def _was_there_before(task: Task, left_out: int, landing: int) -> bool:
    """Was a bar of those left out to be played a further time?"""
    first, last = task.expected[left_out].measure_index, task.expected[landing].measure_index
    return any(task.score.measures[index].pass_number > 1 for index in range(first, last))


@dataclass
class _Pairing:
    """Matches so far: by written strike the last playing, and the strikes of earlier playings."""

    final: dict[int, Match]
    repeats: set[int]

    def left_over_on_both_sides(self, task: Task, performance: Performance) -> bool:
        """Could left-over strikes be written ones out of place? Keys tell that themselves."""
        if task.expected[0].pitch is not None:
            return False
        taken = len(self.final) + len(self.repeats)
        return len(self.final) < len(task.expected) and taken < len(performance.strikes)


def _paired(
    segments: list[list[tuple[int, int]]],
    task: Task,
    performance: Performance,
    events: ScoreEvents,
    trilled: frozenset[int],
    beat: dict[int, tuple[Floats, Floats]] | None,
) -> _Pairing:
    """All stretches of playing paired; a written strike played again keeps its last playing. ``beat``: onsets and
    times by stretch to pair over, instead of the followed ones."""
    found = _Pairing({}, set())
    used: set[int] = set(trilled)
    for number, segment in enumerate(segments):
        for matched in _assign(number, segment, task, performance, events, used, (beat or {}).get(number)):
            earlier = found.final.get(matched.expected_index)
            if earlier is not None:
                found.repeats.add(earlier.strike_index)
            found.final[matched.expected_index] = matched
            used.add(matched.strike_index)
    return found


def _beat_of(found: _Pairing, task: Task, performance: Performance) -> dict[int, tuple[Floats, Floats]]:
    """By stretch: the onsets found there and where they lie on the beat fitted to all that was found."""
    played = played_events(task, performance, tuple(found.final.values()))
    if len(played) < 3:
        return {}
    fit = fit_beat(played, bar_starts(task), float(task.beat_quarters))
    by_segment: dict[int, tuple[list[float], list[float]]] = {}
    for event, beat_s in zip(fit.events, fit.expected_s, strict=True):
        onsets, times = by_segment.setdefault(event.segment, ([], []))
        onsets.append(event.onset_quarters)
        times.append(beat_s)
    return {number: (np.array(onsets), np.array(times)) for number, (onsets, times) in by_segment.items()}


def bar_starts(task: Task) -> list[float]:
    """The bars' first instants, and the end of the passage."""
    return [*(float(task.bar_start(m)) for m in task.measures), float(task.length_quarters)]


def played_events(task: Task, performance: Performance, matches: Sequence[Match]) -> list[Event]:
    """The written instants that were struck, each at the mean time of its strikes."""
    gathered: dict[Quarters, list[tuple[float, int]]] = {}
    for matched in matches:
        onset = task.expected[matched.expected_index].onset_quarters
        gathered.setdefault(onset, []).append((performance.strikes[matched.strike_index].played_s, matched.segment))
    return [
        Event(float(onset), mean([time for time, _ in played]), len(played), max(segment for _, segment in played))
        for onset, played in sorted(gathered.items())
    ]


def _belongs(expected: Expected, strike: Strike) -> bool:
    if expected.pitch is not None and strike.pitch is not None:
        return expected.pitch == strike.pitch
    return expected.hand is None or strike.hand is None or expected.hand == strike.hand


def _assign(
    number: int,
    segment: list[tuple[int, int]],
    task: Task,
    performance: Performance,
    events: ScoreEvents,
    used: set[int],
    beat: tuple[Floats, Floats] | None,
) -> list[Match]:
    """Written strikes of one stretch of playing matched line by line, order kept."""
    by_event: dict[int, list[float]] = {}
    for strike_index, event in segment:
        by_event.setdefault(event, []).append(performance.strikes[strike_index].played_s)
    anchors = sorted(by_event)
    anchor_onsets = events.onsets[anchors]
    anchor_times = np.array([mean(by_event[event]) for event in anchors])
    first_s = min(times[0] for times in by_event.values()) - STAY_MOST_S
    last_s = max(times[-1] for times in by_event.values()) + STAY_MOST_S
    covered = range(anchors[0], anchors[-1] + 1)
    if beat is not None and len(beat[0]) > 1:
        anchor_onsets, anchor_times = beat
    asked_s = interpolated(events.onsets[anchors[0] : anchors[-1] + 1], anchor_onsets, anchor_times)

    lines: dict[Hand | int | None, list[tuple[int, float]]] = {}
    for event, time in zip(covered, asked_s, strict=True):
        for index in events.members[event]:
            expected = task.expected[index]
            key = expected.pitch if expected.pitch is not None else expected.hand
            lines.setdefault(key, []).append((index, float(time)))
    free = [
        index
        for index, strike in enumerate(performance.strikes)
        if index not in used and first_s <= strike.played_s <= last_s
    ]
    by_key: dict[int | None, list[int]] = {}
    for index in free:
        by_key.setdefault(performance.strikes[index].pitch, []).append(index)
    result: list[Match] = []
    for line in lines.values():
        sample = task.expected[line[0][0]]
        # On keys only the strikes of that key can belong.
        near = free if sample.pitch is None or None in by_key else by_key.get(sample.pitch, [])
        played = [(i, performance.strikes[i].played_s) for i in near if _belongs(sample, performance.strikes[i])]
        result += [Match(e, s, number) for e, s in align(line, played)]
    return result


def _wrong_keys(
    missing: list[int], extra: list[int], final: dict[int, Match], task: Task, performance: Performance
) -> list[tuple[int, int]]:
    """Pairs a missing strike with an extra one (another key, the other side) where it was asked."""
    if not missing or not extra or len(final) < 2:
        return []
    known = sorted(final.values(), key=lambda m: m.expected_index)
    onsets = np.array([float(task.expected[m.expected_index].onset_quarters) for m in known])
    times = np.array([performance.strikes[m.strike_index].played_s for m in known])
    asked = [(index, float(np.interp(float(task.expected[index].onset_quarters), onsets, times))) for index in missing]
    played = [(index, performance.strikes[index].played_s) for index in extra]
    asked_s, played_s = dict(asked), dict(played)
    return [(e, s) for e, s in align(asked, played) if abs(asked_s[e] - played_s[s]) < 0.2]
