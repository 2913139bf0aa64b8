"""In which pieces the hands are joined: lists by hand for 1, 2, 3, 4, 7, 8 and 16 bars, four a line, of each school; what
comes again is not made again; and what must hold of all. Common practice, no source."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.practice.ladder.chunks import SCHOOLS, chunks_of

#: Bars in a row → chunks as written by hand, bars from 1: ``2-3`` two of them, ``4`` one.
BY_HAND: dict[str, dict[int, str]] = {
    "overlap": {
        1: "1",
        2: "1 1-2",
        3: "1 1-2 2-3 1-3",
        4: "1 1-2 2-3 3-4 1-4",
        7: "1 1-2 2-3 3-4 4-5 5-6 6-7 1-7",
        8: "1 1-2 2-3 3-4 4-5 5-6 6-7 7-8 1-8",
        16: "1 1-2 2-3 3-4 4-5 5-6 6-7 7-8 8-9 9-10 10-11 11-12 12-13 13-14 14-15 15-16 1-16",
    },
    "doubling": {
        1: "1",
        2: "1 1-2",
        3: "1 1-2 1-3",
        4: "1 1-2 1-4",
        7: "1 1-2 1-4 1-7",
        8: "1 1-2 1-4 1-8",
        16: "1 1-2 1-4 1-8 1-16",
    },
    "line": {
        1: "1",
        2: "1-2",
        3: "1-3",
        4: "1-4",
        7: "1-4 5-7 1-7",
        8: "1-4 5-8 1-8",
        16: "1-4 5-8 1-8 9-12 5-12 13-16 9-16 1-16",
    },
    "from-the-end": {
        1: "1",
        2: "2 1-2",
        3: "3 2-3 1-3",
        4: "4 3-4 2-4 1-4",
        7: "7 6-7 5-7 4-7 3-7 2-7 1-7",
        8: "8 7-8 6-8 5-8 4-8 3-8 2-8 1-8",
        16: "16 15-16 14-16 13-16 12-16 11-16 10-16 9-16 8-16 7-16 6-16 5-16 4-16 3-16 2-16 1-16",
    },
    "unique-first": {
        1: "1",
        2: "1 2 1-2",
        3: "1 2 3 1-2 2-3 1-3",
        4: "1 2 3 4 1-2 2-3 3-4 1-4",
        7: "1 2 3 4 5 6 7 1-2 2-3 3-4 4-5 5-6 6-7 1-7",
        8: "1 2 3 4 5 6 7 8 1-2 2-3 3-4 4-5 5-6 6-7 7-8 1-8",
        16: "1 2 3 4 5 6 7 8 9 10 11 12 13 14 15 16 1-2 2-3 3-4 4-5 5-6 6-7 7-8 8-9 9-10 10-11 11-12 12-13 13-14"
        " 14-15 15-16 1-16",
    },
}

#: Bars by letter, and their chunks: A is the same wherever it stands.
AGAIN: dict[str, dict[str, str]] = {
    "overlap": {"ABAB": "1 1-2 2-3 1-4", "AAAA": "1 1-2 1-4", "ABCA": "1 1-2 2-3 3-4 1-4"},
    "doubling": {"ABAB": "1 1-2 1-4"},
    "line": {"ABCDABCD": "1-4 1-8"},
    "from-the-end": {"ABAB": "4 3-4 2-4 1-4"},
    "unique-first": {"ABAB": "1 2 1-2 2-3 1-4", "AABC": "1 3 4 1-2 2-3 3-4 1-4"},
}


def written(chunks) -> str:
    return " ".join(f"{first + 1}" if first == last else f"{first + 1}-{last + 1}" for first, last in chunks)


def lines_of(count: int) -> list[int]:
    return [1 + i // 4 for i in range(count)]


@pytest.mark.parametrize("school", SCHOOLS)
@pytest.mark.parametrize("bars", [1, 2, 3, 4, 7, 8, 16])
def test_by_hand(school, bars):
    assert written(chunks_of(school, range(bars), lines_of(bars))) == BY_HAND[school][bars]


@pytest.mark.parametrize(("school", "letters"), [(school, one) for school, own in AGAIN.items() for one in own])
def test_what_comes_again_is_not_made_again(school, letters):
    assert written(chunks_of(school, letters, lines_of(len(letters)))) == AGAIN[school][letters]


@given(st.sampled_from(list(SCHOOLS)), st.lists(st.integers(0, 5), min_size=1, max_size=40), st.integers(1, 6))
def test_every_unit_and_every_joint_is_joined(school, letters, a_line):
    chunks = chunks_of(school, letters, [1 + i // a_line for i in range(len(letters))])
    whole = (0, len(letters) - 1)
    assert chunks[-1] == whole
    assert len(chunks) == len(set(chunks))
    assert all(0 <= first <= last < len(letters) for first, last in chunks)
    # As what it holds, every joint lies in a chunk smaller than the whole, where the school makes such of it.
    inside = {
        (letters[i], letters[i + 1]) for first, last in chunks if (first, last) != whole for i in range(first, last)
    }
    if school in ("overlap", "unique-first", "from-the-end") and len(letters) > 2:
        most = range(len(letters) - 1) if school != "from-the-end" else range(1, len(letters) - 1)
        assert all((letters[i], letters[i + 1]) in inside for i in most)


def test_nothing_has_no_chunks():
    assert chunks_of("overlap", [], []) == []
