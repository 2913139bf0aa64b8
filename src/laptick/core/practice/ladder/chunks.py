"""In which pieces the hands are joined, from the first to the whole, by school: runs of units, which are bars, or
phrases where these are no whole bars.

A *unit* is numbered from 0; a *chunk* is the first and the last unit of a run. Every school ends with the whole, and
every joint of two neighbouring units lies inside some chunk: beginnings are learnt best, and students stop at bar
lines. Source: docs/trade.md 1 (6) and 3.3 (common practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence

#: The first and the last unit.
Chunk = tuple[int, int]


def chunks_of(school: str, letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """The chunks of a school. ``letters``: units that hold the same have the same one; ``lines``: the printed line of
    each unit. What holds the same as an earlier chunk is not made again, but for the whole."""
    if not letters:
        return []
    made = SCHOOLS[school](letters, lines)
    whole = (0, len(letters) - 1)
    found: list[Chunk] = []
    met: set[tuple[object, ...]] = set()
    for first, last in made:
        content = tuple(letters[first : last + 1])
        if (first, last) != whole and content not in met:
            found.append((first, last))
        met.add(content)
    return [*found, whole]


def _overlapping(letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """1 · 12 · 23 · 34 · …"""
    return [(0, 0), *((i, i + 1) for i in range(len(letters) - 1))]


def _doubling(letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """1 · 12 · 1234 · …"""
    found, size = [], 1
    while size < len(letters):
        found.append((0, size - 1))
        size *= 2
    return found


def _by_line(letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """Each line, then each with the next."""
    ends = [i for i in range(len(lines)) if i + 1 == len(lines) or lines[i + 1] != lines[i]]
    begins = [0, *(end + 1 for end in ends[:-1])]
    each = list(zip(begins, ends, strict=True))
    if len(each) == 1:
        return each
    found = each[:1]
    for (before, _), (begin, end) in itertools.pairwise(each):
        found += [(begin, end), (before, end)]
    return found


def _from_the_end(letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """4 · 34 · 234 · …"""
    last = len(letters) - 1
    return [(first, last) for first in range(last, 0, -1)]


def _unique_first(letters: Sequence[object], lines: Sequence[int]) -> list[Chunk]:
    """Every different unit by itself, then the joints."""
    first_of: dict[object, int] = {}
    for index, letter in enumerate(letters):
        first_of.setdefault(letter, index)
    return [*((i, i) for i in first_of.values()), *((i, i + 1) for i in range(len(letters) - 1))]


SCHOOLS: dict[str, Callable[[Sequence[object], Sequence[int]], list[Chunk]]] = {
    "overlap": _overlapping,
    "doubling": _doubling,
    "line": _by_line,
    "from-the-end": _from_the_end,
    "unique-first": _unique_first,
}
