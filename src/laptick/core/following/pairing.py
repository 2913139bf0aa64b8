"""Strikes paired with written strikes, inside the stretches of playing that were followed.

Hand by hand (on keys: pitch by pitch), order kept, by a dynamic program over the times where each was asked for; never
“the nearest note”. What is left over on both sides then takes its turn. Source: ours, measured in docs/checking.md.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.statistics import mean
from laptick.core.base.units import Quarters
from laptick.core.following.hypotheses import STAY_MOST_S
from laptick.core.following.own_beat import PlayedInstant, fit_beat
from laptick.core.following.score_events import Floats, ScoreEvents
from laptick.core.following.time_alignment import align, interpolated
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Strike
from laptick.core.takes.task import Expected, Task


@dataclass(frozen=True, slots=True)
class Match:
    """A written strike (index into ``task.expected``) and the played one (index into strikes)."""

    expected_index: int
    strike_index: int
    segment: int


@dataclass
class Pairing:
    """Matches so far: by written strike the last playing, and the strikes of earlier playings."""

    final: dict[int, Match]
    repeats: set[int]

    def left_over_on_both_sides(self, task: Task, performance: Performance) -> bool:
        """Could left-over strikes be written ones out of place? Keys tell that themselves."""
        if task.asks_pitches:
            return False
        taken = len(self.final) + len(self.repeats)
        return len(self.final) < len(task.expected) and taken < len(performance.strikes)


@dataclass(frozen=True)
class Followed:
    """What was asked for and what was played, with the way through it: ``segments`` are stretches of playing, each
    (strike, event) in order; ``trilled``: strikes of trills, which belong to no written strike of their own."""

    task: Task
    performance: Performance
    events: ScoreEvents
    segments: list[list[tuple[int, int]]]
    trilled: frozenset[int] = frozenset()


def paired(followed: Followed, beat: dict[int, tuple[Floats, Floats]] | None) -> Pairing:
    """All stretches of playing paired; a written strike played again keeps its last playing. ``beat``: onsets and
    times by stretch to pair over, instead of the followed ones."""
    found = Pairing({}, set())
    used: set[int] = set(followed.trilled)
    for number in range(len(followed.segments)):
        for matched in _assign(followed, number, used, (beat or {}).get(number)):
            earlier = found.final.get(matched.expected_index)
            if earlier is not None:
                found.repeats.add(earlier.strike_index)
            found.final[matched.expected_index] = matched
            used.add(matched.strike_index)
    return found


def beat_of(found: Pairing, task: Task, performance: Performance) -> dict[int, tuple[Floats, Floats]]:
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


def played_events(task: Task, performance: Performance, matches: Sequence[Match]) -> list[PlayedInstant]:
    """The written instants that were struck, each at the mean time of its strikes."""
    gathered: dict[Quarters, list[tuple[float, int]]] = {}
    for matched in matches:
        onset = task.expected[matched.expected_index].onset_quarters
        gathered.setdefault(onset, []).append((performance.strikes[matched.strike_index].played_s, matched.segment))
    return [
        PlayedInstant(
            float(onset), mean([time for time, _ in played]), len(played), max(segment for _, segment in played)
        )
        for onset, played in sorted(gathered.items())
    ]


def _belongs(expected: Expected, strike: Strike) -> bool:
    if expected.pitch is not None and strike.pitch is not None:
        return expected.pitch == strike.pitch
    return expected.hand is None or strike.hand is None or expected.hand == strike.hand


def _assign(followed: Followed, number: int, used: set[int], beat: tuple[Floats, Floats] | None) -> list[Match]:
    """Written strikes of one stretch of playing matched line by line, order kept."""
    task, performance, events = followed.task, followed.performance, followed.events
    by_event: dict[int, list[float]] = {}
    for strike_index, event in followed.segments[number]:
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


#: A tap this many beats from its place is no longer that strike: a key tells which it is, a side does not.
TURN_BEATS = 0.75

#: Between two matched instants no more strikes than this are looked through.
MOST_BETWEEN = 24


def take_turns(found: Pairing, followed: Followed) -> None:
    """Pairs what is missing with what is left over of its key, or its side, between the strikes matched before it and
    after it, when there is as much of the one as of the other: in its turn it is that note, however late it comes."""
    task, performance = followed.task, followed.performance
    taken = {matched.strike_index for matched in found.final.values()} | found.repeats | followed.trilled
    if len(found.final) == len(task.expected) or len(taken) == len(performance.strikes):
        return
    by_keys = task.asks_pitches
    for line in [followed.events.members] if by_keys else _sides(task):
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
                if len(own) != len(gap) or not (by_keys or _in_reach(gap, own, (before, after), followed)):
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


def _in_reach(gap: list[int], taps: list[int], around: tuple[list[Match], list[Match]], followed: Followed) -> bool:
    """Are taps near where the strikes of a gap are asked for, between the tap before and the one after?"""
    before, after = around
    task, performance = followed.task, followed.performance
    if not before or not after:
        return False
    first_s, last_s = (performance.strikes[m[0].strike_index].played_s for m in (before, after))
    first, last = (float(task.expected[m[0].expected_index].onset_quarters) for m in (before, after))
    rate = (last_s - first_s) / (last - first)
    most_s = TURN_BEATS * float(task.beat_quarters) * task.quarter_s
    asked_s = (first_s + (float(task.expected[index].onset_quarters) - first) * rate for index in gap)
    return all(abs(performance.strikes[i].played_s - at) <= most_s for i, at in zip(taps, asked_s, strict=True))
