"""How wide bars are and where a line is broken: each bar as wide as its words need, all of a row on one scale beyond
that, so that one crowded bar makes itself wide and no other.

Lengths are in whatever unit the page is drawn in; a *scale* is room a quarter. The ruler on screen follows the same
rules (web/src/ruler/geometry.ts).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

#: No word stands closer to the next than this part of the type size.
GAP = 0.22

#: Types that are tried before words are left out, as parts of the wanted size.
SMALLER = (1.0, 0.92, 0.84, 0.76)


@dataclass(frozen=True)
class PlacedWord:
    """``offset_quarters``: from the bar's start; ``width``: at type size 1; ``rank``: what is left out first has the
    highest."""

    offset_quarters: float
    width: float
    rank: int


@dataclass(frozen=True)
class FittedWords:
    """Type size, and the words (by index) that had to be left out."""

    size: float
    left_out: frozenset[int]


def scale_needed(words: Sequence[PlacedWord], length: float, size: float) -> float:
    """The scale at which every word of a bar ends before the next begins."""
    ends = [*(word.offset_quarters for word in words[1:]), length]
    return max(
        ((word.width + GAP) * size / (end - word.offset_quarters) for word, end in zip(words, ends, strict=True)
         if end > word.offset_quarters),
        default=0.0,
    )  # fmt: skip


def fit_words(words: Sequence[PlacedWord], length: float, size: float, scale: float) -> FittedWords:
    """Words in a bar of that scale: a little smaller where need be, then fewer, the least important left out."""
    for part in SMALLER:
        if scale_needed(words, length, size * part) <= scale + 1e-9:
            return FittedWords(size * part, frozenset())
    smallest = size * SMALLER[-1]
    kept: list[int] = []
    for index in sorted(range(len(words)), key=lambda i: (words[i].rank, i)):
        tried = sorted([*kept, index], key=lambda i: words[i].offset_quarters)
        if scale_needed([words[i] for i in tried], length, smallest) <= scale + 1e-9:
            kept = tried
    return FittedWords(smallest, frozenset(range(len(words))) - frozenset(kept))


def break_line(needs: Sequence[float], room: float) -> list[range]:
    """The fewest rows that hold bars of these widths, as even as can be; a bar wider than the room stands alone."""
    if not needs:
        return []
    needs = [min(need, room) for need in needs]
    count = _rows_needed(needs, room)
    low, high = max(needs), room
    for _ in range(30):  # the smallest room that still needs no more rows
        middle = (low + high) / 2
        if _rows_needed(needs, middle) <= count:
            high = middle
        else:
            low = middle
    return _filled(needs, high)


def _filled(needs: Sequence[float], room: float) -> list[range]:
    starts, taken = [0], 0.0
    for index, need in enumerate(needs):
        if taken and taken + need > room * (1 + 1e-9):
            starts.append(index)
            taken = 0.0
        taken += need
    return [range(a, b) for a, b in pairwise([*starts, len(needs)])]


def _rows_needed(needs: Sequence[float], room: float) -> int:
    return len(_filled(needs, room))


def share_room(needs: Sequence[float], lengths: Sequence[float], room: float, most_scale: float) -> list[float]:
    """Widths of the bars of a row: what each needs, and as much of what is left as brings all to one scale, up to
    ``most_scale``. A bar that stands alone fills the row."""
    if len(needs) == 1:
        return [room]
    low, high = 0.0, most_scale
    if sum(max(need, most_scale * length) for need, length in zip(needs, lengths, strict=True)) <= room:
        low = most_scale
    else:
        for _ in range(40):
            middle = (low + high) / 2
            if sum(max(need, middle * length) for need, length in zip(needs, lengths, strict=True)) <= room:
                low = middle
            else:
                high = middle
    wide = [max(need, low * length) for need, length in zip(needs, lengths, strict=True)]
    over = sum(wide)
    return [one * room / over for one in wide] if over > room else wide


def join_short_lines(lines: Sequence[Sequence[int]], needs: Sequence[float], room: float) -> list[list[int]]:
    """Printed lines, one of a single bar that would leave its row half empty joined to the line before it."""
    joined: list[list[int]] = []
    for line in lines:
        if joined and len(line) == 1 and needs[line[0]] < room / 2:
            joined[-1] += line
        else:
            joined.append(list(line))
    return joined
