"""How bars share a row: hand-worked rows, and what must hold for any (hypothesis)."""

from __future__ import annotations

import importlib.util
import json
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import demo_score
from laptick.core.counting.counting import count_line
from laptick.core.score.score import Hand
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.pages.bar_layout import (
    GAP,
    PlacedWord,
    break_line,
    fit_words,
    join_short_lines,
    scale_needed,
    share_room,
)
from laptick.formats.pages.letters import BOLD, PLAIN, word_width
from laptick.formats.pages.ruler_rows import Drawing, draw_rows, thinned_text

ROOT = Path(__file__).resolve().parents[2]


def test_the_table_of_letters_is_that_of_the_font():
    spec = importlib.util.spec_from_file_location("measure_letters", ROOT / "tools" / "measure_letters.py")
    assert spec is not None
    assert spec.loader is not None
    tool = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(tool)
    for target in tool.TARGETS:
        assert json.loads(target.read_text(encoding="utf-8")) == json.loads(tool.written())
    assert word_width("11", BOLD) == 2 * word_width("1", BOLD) > 2 * word_width("1", PLAIN)


@pytest.mark.parametrize(
    ("needs", "room", "expected"),
    [
        ([4, 4, 4, 4], 16, [4]),
        ([4, 4, 4, 4], 12, [2, 2]),  # not three and one
        ([4, 4, 4, 4, 4], 12, [3, 2]),
        ([1, 4, 4, 4, 4], 12, [3, 2]),  # a pickup takes little
        ([4, 30, 4, 4], 12, [1, 1, 2]),  # a bar wider than the room stands alone
        ([5], 3, [1]),
        ([], 3, []),
    ],
)
def test_lines_are_broken_evenly(needs, room, expected):
    assert [len(row) for row in break_line(needs, room)] == expected


@given(st.lists(st.floats(0.5, 50), min_size=1, max_size=12), st.floats(5, 60))
def test_every_bar_is_in_one_row_and_rows_hold_what_they_can(needs, room):
    rows = break_line(needs, room)
    assert [index for row in rows for index in row] == list(range(len(needs)))
    for row in rows:
        assert len(row) == 1 or sum(needs[i] for i in row) <= room * 1.0001
    for before, after in pairwise(rows):  # no two rows could have been one
        assert sum(needs[i] for i in before) + sum(needs[i] for i in after) > room * 0.9999 or len(rows) == 1


@given(st.lists(st.tuples(st.floats(0.5, 20), st.floats(0.5, 6)), min_size=1, max_size=8), st.floats(1, 60))
def test_bars_get_what_they_need_and_no_row_is_wider_than_its_room(bars, most_scale):
    needs, lengths = [need for need, _ in bars], [length for _, length in bars]
    room = sum(needs) * 1.3
    widths = share_room(needs, lengths, room, most_scale)
    assert sum(widths) <= room * 1.0001
    assert all(width >= need * 0.9999 for width, need in zip(widths, needs, strict=True))
    # Whoever got more than it needs is on the scale of all who did.
    scales = [w / n for w, need, n in zip(widths, needs, lengths, strict=True) if w > need * 1.001]
    assert len(bars) == 1 or max(scales, default=0) - min(scales, default=0) < 0.01 * max(scales, default=1)


def test_a_bar_that_stands_alone_fills_its_row_and_a_short_line_joins_the_one_before():
    assert share_room([3], [3], 100, 8) == [100]
    assert join_short_lines([[0, 1], [2], [3, 4]], [3] * 5, 10) == [[0, 1, 2], [3, 4]]
    assert join_short_lines([[0, 1], [2], [3, 4]], [3, 3, 8, 3, 3], 10) == [[0, 1], [2], [3, 4]]


def words(*offsets, width=1.0):
    return [PlacedWord(offset, width, int(offset % 1 * 100)) for offset in offsets]


def test_words_are_set_smaller_before_any_is_left_out_and_weak_ones_go_first():
    eighths = words(0, 0.5, 1, 1.5)
    needed = scale_needed(eighths, 2, 10)
    assert needed == (1 + GAP) * 10 / 0.5
    assert fit_words(eighths, 2, 10, needed).size == 10
    assert fit_words(eighths, 2, 10, needed * 0.85).left_out == frozenset()
    assert fit_words(eighths, 2, 10, needed * 0.6).left_out == {1, 3}


@given(
    st.lists(st.tuples(st.integers(0, 47), st.floats(0.3, 3)), min_size=1, max_size=20, unique_by=lambda w: w[0]),
    st.floats(1, 200),
)
def test_words_that_are_kept_never_overprint(placed, scale):
    own = [PlacedWord(at / 12, width, at % 12) for at, width in sorted(placed)]
    fitted = fit_words(own, 4, 10, scale)
    kept = [word for index, word in enumerate(own) if index not in fitted.left_out]
    for before, after in pairwise(kept):
        assert before.offset_quarters * scale + before.width * fitted.size <= after.offset_quarters * scale + 1e-6


def text_of(rows):
    return thinned_text([name for row in rows for name in row.thinned])


CROWDED = """<score-partwise><part-list><score-part id="P1"><part-name>P</part-name></score-part></part-list>
<part id="P1">{bars}</part></score-partwise>"""


def crowded_score():
    """Four bars of quarters; in the third, twelve notes in the time of eight thirty-seconds in each beat."""
    note = "<note><pitch><step>C</step><octave>5</octave></pitch><duration>{}</duration>{}</note>"
    fine = "<type>32nd</type><time-modification><actual-notes>12</actual-notes><normal-notes>8</normal-notes></time-modification>"
    bars = ""
    for number in range(1, 5):
        inside = note.format(6, fine) * 48 if number == 3 else note.format(72, "<type>quarter</type>") * 4
        time = "<attributes><divisions>72</divisions><time><beats>4</beats><beat-type>4</beat-type></time></attributes>"
        bars += f'<measure number="{number}">{time if number == 1 else ""}{inside}</measure>'
    return read_musicxml(CROWDED.format(bars=bars).encode())


def test_one_crowded_bar_makes_itself_wide_and_no_other():
    score = crowded_score()
    rows = draw_rows(score, count_line(score, Hand.RIGHT), Hand.RIGHT, Drawing(1840))
    assert [row.shapes.count('font-weight="700"') for row in rows] == [2, 1, 1]
    assert text_of(rows).startswith("Bar 3: a dot is a word")


def test_a_piece_that_has_room_leaves_no_word_out():
    score = demo_score("lantern-boat")
    for is_big in (False, True):
        assert text_of(draw_rows(score, count_line(score, None), None, Drawing(1840, is_big))) == ""
