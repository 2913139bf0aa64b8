"""Score ↔ performance: which played strike is which written one.

Two dynamic programs. ``following.follow`` walks the strikes in time order over the score's events and
finds the stretches of playing, pauses and restarts. ``match`` then pairs strikes with written strikes
hand by hand (or pitch by pitch) inside each stretch, order kept, by a second program over the followed
times. No step takes "the nearest note".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from laptick.core.following import STAY_MOST_S, ScoreEvents, follow, score_events
from laptick.core.performance import Expected, Performance, Strike, Task
from laptick.core.score import Hand

_BAND_S = 0.8  # no strike is matched further than this from where it is asked


@dataclass(frozen=True, slots=True)
class Match:
    """A written strike (index into ``task.expected``) and the played one (index into strikes)."""

    expected_index: int
    strike_index: int
    segment: int


@dataclass(frozen=True, slots=True)
class Restart:
    """The player went back: when the new start was played and which written strike it began with."""

    played_s: float
    expected_index: int


@dataclass(frozen=True)
class Matching:
    """``matches`` hold every written strike at most once (after a restart, its last playing);
    ``repeats`` are strikes of stretches that were played again later: neither extra nor measured;
    ``wrong`` pairs a missing written strike with the key or side struck in its stead."""

    matches: tuple[Match, ...]
    missing: tuple[int, ...]
    extra: tuple[int, ...]
    repeats: tuple[int, ...]
    restarts: tuple[Restart, ...]
    wrong: tuple[tuple[int, int], ...]
    last_event_quarters: float


# -- strikes to written strikes -------------------------------------------------------------------


def match(task: Task, performance: Performance) -> Matching:
    """Every written strike matched or missing, every played one matched, repeated or extra."""
    path = follow(task, performance)
    events = score_events(task)
    segments: list[list[tuple[int, int]]] = []
    restarts: list[Restart] = []
    for strike_index, event, jumped in path:
        if jumped or not segments:
            segments.append([])
            if jumped:
                played_s = performance.strikes[strike_index].played_s
                restarts.append(Restart(played_s, events.members[event][0]))
        segments[-1].append((strike_index, event))

    final: dict[int, Match] = {}
    used: set[int] = set()
    repeats: set[int] = set()
    for number, segment in enumerate(segments):
        for matched in _assign(number, segment, task, performance, events, used):
            earlier = final.get(matched.expected_index)
            if earlier is not None:
                repeats.add(earlier.strike_index)
            final[matched.expected_index] = matched
            used.add(matched.strike_index)
    taken = {matched.strike_index for matched in final.values()} | repeats
    extra = [index for index in range(len(performance.strikes)) if index not in taken]
    missing = [index for index in range(len(task.expected)) if index not in final]
    wrong = _wrong_keys(missing, extra, final, task, performance)
    last = max((event for _, event in segments[-1]), default=0) if segments else 0
    return Matching(
        tuple(sorted(final.values(), key=lambda m: m.expected_index)),
        tuple(index for index in missing if index not in {w for w, _ in wrong}),
        tuple(index for index in extra if index not in {x for _, x in wrong}),
        tuple(sorted(repeats)),
        tuple(restarts),
        tuple(wrong),
        float(events.onsets[last]) if segments else 0.0,
    )


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
) -> list[Match]:
    """Written strikes of one stretch of playing matched line by line, order kept."""
    by_event: dict[int, list[float]] = {}
    for strike_index, event in segment:
        by_event.setdefault(event, []).append(performance.strikes[strike_index].played_s)
    anchors = sorted(by_event)
    anchor_onsets = events.onsets[anchors]
    anchor_times = np.array([float(np.mean(by_event[event])) for event in anchors])
    first_s = min(times[0] for times in by_event.values()) - STAY_MOST_S
    last_s = max(times[-1] for times in by_event.values()) + STAY_MOST_S
    covered = range(anchors[0], anchors[-1] + 1)
    asked_s = np.interp(events.onsets[anchors[0] : anchors[-1] + 1], anchor_onsets, anchor_times)

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
    result: list[Match] = []
    for line in lines.values():
        sample = task.expected[line[0][0]]
        played = [(i, performance.strikes[i].played_s) for i in free if _belongs(sample, performance.strikes[i])]
        result += [Match(e, s, number) for e, s in _align(line, played)]
    return result


def _align(line: list[tuple[int, float]], played: list[tuple[int, float]]) -> list[tuple[int, int]]:
    """Order-preserving matching of asked and played times: the sum of distances in tolerances, each
    unmatched side costing half a tolerance. A pair further apart than its tolerance is never matched.

    Row ``i`` of the program holds the best cost after ``i`` asked strikes for the played ones that lie
    within ``_BAND_S`` of them, so the work grows with the length of the line, not with its square.
    """
    if not line or not played:
        return []
    tolerance = _tolerances([time for _, time in line])
    low, values = 0, [0.0]
    lows, choices = [], []
    for i, (_, asked) in enumerate(line):
        next_low = low
        while next_low < len(played) and played[next_low][1] < asked - _BAND_S:
            next_low += 1
        high = next_low
        while high < len(played) and played[high][1] <= asked + _BAND_S:
            high += 1
        while low + len(values) <= high:  # played strikes further on: extra so far
            values.append(values[-1] + 0.5)
        row = [values[next_low - low] + 0.5]
        moves = [0]
        for j in range(next_low, high):
            distance = abs(played[j][1] - asked) / tolerance[i]
            pair = values[j - low] + distance if distance <= 1 else float("inf")
            skip_asked, skip_played = values[j + 1 - low] + 0.5, row[-1] + 0.5
            best = min(pair, skip_asked, skip_played)
            row.append(best)
            moves.append(2 if best == pair else (0 if best == skip_asked else 1))
        low, values = next_low, row
        lows.append(low)
        choices.append(moves)
    pairs: list[tuple[int, int]] = []
    i, j = len(line), low + len(values) - 1
    while i > 0:
        inside = j - lows[i - 1]
        move = choices[i - 1][inside] if 0 <= inside < len(choices[i - 1]) else (1 if inside >= 0 else 0)
        if move == 2:
            pairs.append((line[i - 1][0], played[j - 1][0]))
            i, j = i - 1, j - 1
        elif move == 1:
            j -= 1
        else:
            i -= 1
    return pairs[::-1]


def _tolerances(times: list[float]) -> list[float]:
    """How far a strike may lie from where it is asked: 0.7 of the smaller gap to its neighbours in the
    line, between 0.12 and 0.6 s."""
    result = []
    for i, time in enumerate(times):
        gaps = [abs(other - time) for other in (*times[max(0, i - 1) : i], *times[i + 1 : i + 2])]
        result.append(min(0.6, max(0.12, 0.7 * min(gaps, default=0.6))))
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
    return [(e, s) for e, s in _align(asked, played) if abs(dict(asked)[e] - dict(played)[s]) < 0.2]
