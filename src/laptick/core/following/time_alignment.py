"""Asked and played times of one line, paired in order: the second dynamic program of ``matching``.

Times are seconds. Source: sequence alignment by dynamic programming, common practice; tolerances are ours.
"""

from __future__ import annotations

import numpy as np

from laptick.core.following.score_events import Floats

#: No strike is matched further than this from where it is asked.
BAND_S = 0.8


def interpolated(at: Floats, onsets: Floats, times: Floats) -> Floats:
    """Times between known ones, and beyond them at the tempo of the nearest two."""
    result = np.interp(at, onsets, times)
    if len(onsets) > 1:
        before, after = at < onsets[0], at > onsets[-1]
        result[before] = times[0] - (onsets[0] - at[before]) * (times[1] - times[0]) / (onsets[1] - onsets[0])
        result[after] = times[-1] + (at[after] - onsets[-1]) * (times[-1] - times[-2]) / (onsets[-1] - onsets[-2])
    return result


def align(line: list[tuple[int, float]], played: list[tuple[int, float]]) -> list[tuple[int, int]]:
    """Order-preserving matching of asked and played times: the sum of distances in tolerances, each
    unmatched side costing half a tolerance. A pair further apart than its tolerance is never matched.

    Row ``i`` of the program holds the best cost after ``i`` asked strikes for the played ones that lie
    within ``BAND_S`` of them, so the work grows with the length of the line, not with its square.
    """
    if not line or not played:
        return []
    tolerance = _tolerances([time for _, time in line])
    low, values = 0, [0.0]
    lows, choices = [], []
    for i, (_, asked) in enumerate(line):
        next_low = low
        while next_low < len(played) and played[next_low][1] < asked - BAND_S:
            next_low += 1
        high = next_low
        while high < len(played) and played[high][1] <= asked + BAND_S:
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
