"""Which strike is which written one by the order inside each hand alone.

One hand that rushes a long run by itself lands early, by beats even, and strikes before what the other hand had to
strike first: neither times nor the order of all strikes tell then, but each hand still goes through its own notes one
after the other. On keys a search over how far each hand has come, at the fewest errors (a note left out and a key too
many cost one each); by taps, whose hand is known, only where each hand tapped exactly as often as is asked.

Source: ours, measured in docs/checking.md.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from operator import itemgetter
from statistics import median
from typing import NamedTuple

from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task

#: One hand is at most so many beats ahead of the other.
AHEAD_BEATS = 4.0
#: So many instants of a hand may be left out in a row.
LEFT_OUT = 2
#: So many ways are kept after each strike.
WAYS = 64

#: A tap too many parts one written gap into two: both shorter than this share of what the hand does else, one clearly
#: so, together as long as the gap, and what is round them as long as ever.
PARTED, CLEARLY, TOGETHER, ROUND = 0.85, 0.62, (0.7, 1.3), 0.8
#: Gaps broader than this are in no more than so large a part: where a run was rushed, the hand waits after it.
BROAD, BROAD_PART = 1.9, 0.25


class _Way(NamedTuple):
    """``errors`` and ``apart`` (beats between the hands, summed) so far; ``at``: each hand's instant that is being
    struck, ``struck``: what of it is; ``path``: linked (written strike, played strike)."""

    errors: int
    apart: float
    at: tuple[int, ...]
    struck: tuple[frozenset[int], ...]
    path: tuple[object, ...] | None


@dataclass(frozen=True)
class _Line:
    """One hand's instants: onsets in beats, and the written strikes of each."""

    onsets: list[float]
    members: list[list[int]]


def pair_keys_by_hand(task: Task, performance: Performance, most_errors: int) -> dict[int, int] | None:
    """Written strikes and the played ones they are, at the fewest errors; ``None`` for more than ``most_errors``, or
    where the hands are not known."""
    lines = _lines(task)
    if len(lines) < 2:
        return None
    ways = [_Way(0, 0.0, (0,) * len(lines), (frozenset(),) * len(lines), None)]
    for index, strike in enumerate(performance.strikes):
        found: dict[tuple[object, object], _Way] = {}
        for way in ways:
            for one in _onward(task, lines, way, index, strike.pitch):
                key = one.at, one.struck
                if one.errors <= most_errors and (key not in found or one[:2] < found[key][:2]):
                    found[key] = one
        ways = sorted(found.values(), key=itemgetter(0, 1))[:WAYS]
    ended = [(way.errors + _left(lines, way), way) for way in ways]
    errors, best = min(ended, key=lambda one: (one[0], one[1].apart), default=(most_errors + 1, None))
    if best is None or errors > most_errors:
        return None
    pairs: dict[int, int] = {}
    path = best.path
    while path is not None:
        written, played, path = path  # type: ignore[assignment]
        pairs[written] = played  # type: ignore[index, assignment]
    return pairs


def _lines(task: Task) -> list[_Line]:
    lines: dict[Hand | None, _Line] = {}
    for index, expected in enumerate(task.expected):
        line = lines.setdefault(expected.hand, _Line([], []))
        onset = float(expected.onset_quarters / task.beat_quarters)
        if not line.onsets or line.onsets[-1] != onset:
            line.onsets.append(onset)
            line.members.append([])
        line.members[-1].append(index)
    return list(lines.values())


def _onward(task: Task, lines: Sequence[_Line], way: _Way, strike: int, pitch: int | None) -> Iterator[_Way]:
    """The ways on with one more strike: it is too many, or the next of its key in one of the hands."""
    yield way._replace(errors=way.errors + 1)
    for hand, line in enumerate(lines):
        errors, struck = way.errors, way.struck[hand]
        for at in range(way.at[hand], min(len(line.members), way.at[hand] + 1 + LEFT_OUT)):
            members = line.members[at]
            own = next((i for i in members if i not in struck and task.expected[i].pitch == pitch), None)
            apart = max(0.0, line.onsets[at] - _hindmost(lines, way, hand))
            if own is not None and apart <= AHEAD_BEATS:
                now = struck | {own}
                over = len(now) == len(members)
                yield _Way(
                    errors,
                    way.apart + apart,
                    (*way.at[:hand], at + over, *way.at[hand + 1 :]),
                    (*way.struck[:hand], frozenset() if over else now, *way.struck[hand + 1 :]),
                    (own, strike, way.path),
                )
            errors, struck = errors + len(members) - len(struck), frozenset()


def _hindmost(lines: Sequence[_Line], way: _Way, hand: int) -> float:
    """Where the other hand is, in beats: what it is to strike next."""
    return min(
        (
            line.onsets[min(way.at[other], len(line.onsets) - 1)]
            for other, line in enumerate(lines)
            if other != hand and way.at[other] < len(line.onsets)
        ),
        default=lines[hand].onsets[-1],
    )


def _left(lines: Sequence[_Line], way: _Way) -> int:
    """How many strikes are left at the end."""
    return sum(
        sum(map(len, line.members[at:])) - len(struck)
        for line, at, struck in zip(lines, way.at, way.struck, strict=True)
    )


def pair_taps_by_hand(task: Task, performance: Performance, too_many: int) -> dict[int, int] | None:
    """Written strikes and the taps they are, where each hand tapped as often as is asked and nothing speaks for a tap
    left out and another too many; else ``None``. ``too_many``: taps that would belong to nothing otherwise."""
    pairs: dict[int, int] = {}
    parted = 0
    for hand in dict.fromkeys(expected.hand for expected in task.expected):
        asked = [i for i, expected in enumerate(task.expected) if expected.hand is hand]
        taps = [i for i, strike in enumerate(performance.strikes) if strike.hand is hand]
        if hand is None or len(asked) != len(taps):
            return None
        rates = _rates(task, performance, asked, taps)
        if sum(rate > BROAD for rate in rates) > BROAD_PART * len(rates):
            return None
        parted += sum(_is_parted(rates, i) for i in range(len(rates) - 1))
        pairs |= dict(zip(asked, taps, strict=True))
    return pairs if 2 * parted <= too_many and len(pairs) == len(performance.strikes) else None


def _is_parted(rates: Sequence[float], index: int) -> bool:
    """Are a gap and the next what a tap too many makes of one?"""
    two = rates[index : index + 2]
    beside = [*rates[max(0, index - 1) : index], *rates[index + 2 : index + 3]]
    low, high = TOGETHER
    is_one = max(two) < PARTED and min(two) < CLEARLY and low < sum(two) < high
    return is_one and min(beside, default=1.0) > ROUND


def _rates(task: Task, performance: Performance, asked: Sequence[int], taps: Sequence[int]) -> list[float]:
    """How long the gaps between neighbouring taps are against what is written, at the hand's own pace."""
    onsets = [float(task.expected[i].onset_quarters) for i in asked]
    times = [performance.strikes[i].played_s for i in taps]
    rates = [
        (later_s - earlier_s) / (after - before)
        for (earlier_s, later_s), (before, after) in zip(
            itertools.pairwise(times), itertools.pairwise(onsets), strict=True
        )
    ]
    own = median(rates) if rates else 1.0
    return [rate / own for rate in rates]
