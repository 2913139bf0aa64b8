"""Where the counted note changes. By hand; common practice, no source."""

from __future__ import annotations

import pytest

from helpers import score_of
from laptick.core.counting.counting import Compound, count_hand
from laptick.core.counting.unit_changes import unit_changes
from laptick.core.counting.word_tables import System
from laptick.core.score.score import Hand
from laptick.formats.musicxml.file import read_musicxml


def told(counted):
    return [(change.measure_index, change.text) for change in unit_changes(counted)]


def meters(*signatures):
    bars = ""
    for number, (beats, beat_type) in enumerate(signatures, start=1):
        time = f"<time><beats>{beats}</beats><beat-type>{beat_type}</beat-type></time>"
        length = 4 * int(beats) * 4 // int(beat_type)
        bars += (
            f'<measure number="{number}"><attributes><divisions>4</divisions>{time}</attributes><note><pitch>'
            f"<step>C</step><octave>5</octave></pitch><duration>{length}</duration></note></measure>"
        )
    listed = '<part-list><score-part id="P1"><part-name>P</part-name></score-part></part-list>'
    return read_musicxml(f'<score-partwise>{listed}<part id="P1">{bars}</part></score-partwise>'.encode())


@pytest.mark.parametrize(
    ("signatures", "choices", "expected"),
    [
        ([(4, 4), (3, 4), (2, 4)], {}, []),
        ([(4, 4), (2, 2), (4, 4)], {}, [(1, "count halves"), (2, "count quarters")]),
        ([(2, 4), (6, 8), (2, 4)], {"compound": Compound.UNITS}, [(1, "count eighths"), (2, "count quarters")]),
        ([(2, 4), (6, 8)], {"compound": Compound.BEATS}, [(1, "count dotted quarters")]),
        ([(6, 8), (7, 8), (6, 8)], {"compound": Compound.BEATS}, [(1, "count groups of eighths"), (2, "count dotted quarters")]),
        ([(6, 8), (7, 8)], {"compound": Compound.UNITS}, []),
        ([(4, 4), (3, 8)], {"compound": Compound.BEATS}, [(1, "count eighths")]),
    ],
)  # fmt: skip
def test_another_signature_may_count_another_note(signatures, choices, expected):
    assert told(count_hand(meters(*signatures), Hand.RIGHT, **choices)) == expected


def test_a_bar_too_fine_for_its_beats_counts_the_smaller_note_and_the_next_goes_back():
    fine = "C5/q C5/s. C5/s. C5/s. C5/s. C5/s C5/e C5/s C5/e"
    score = score_of(f"C5/q D5/q E5/q F5/q | {fine} | C5/w")
    assert told(count_hand(score, Hand.RIGHT)) == [(1, "count eighths"), (2, "count quarters")]


def test_systems_that_name_what_happens_count_no_note():
    assert told(count_hand(meters((4, 4), (2, 2)), Hand.RIGHT, system=System.LENGTH)) == []
