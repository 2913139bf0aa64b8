"""Every ladder that was read and approved is built as it was; one from a wrong map is not.

The expected ladders stand in golden/: reviewed by hand against docs/trade.md 3.3 (common practice)."""

from __future__ import annotations

import golden
import pytest

from laptick.core.practice.ladder import building
from laptick.core.practice.ladder.building import build_ladder


@pytest.mark.parametrize("name", golden.PIECES)
def test_the_ladder_is_the_one_that_was_read(name):
    expected = (golden.FOLDER / f"{name}.txt").read_text(encoding="utf-8")
    assert golden.text_of(name) == expected, "read the change, then run tools/write_golden_ladders.py"


def wrong_likeness(score):
    """Every bar is held to be the same as the first."""
    from dataclasses import replace

    from laptick.core.rhythm.likeness import bar_likeness

    return [replace(one, same_notes_as=0 if one.measure_index else None) for one in bar_likeness(score)]


@pytest.mark.parametrize(
    ("part", "wrong"),
    [
        ("bar_likeness", wrong_likeness),
        ("seams_of", lambda score, bpm, span: []),
        ("bar_difficulties", lambda score, bpm, span: [building_easy(i) for i in range(len(score.measures))]),
    ],
)
def test_a_wrong_map_makes_another_ladder(part, wrong, monkeypatch):
    monkeypatch.setattr(building, part, wrong)
    expected = (golden.FOLDER / "harbour-steps.txt").read_text(encoding="utf-8")
    assert golden.text_of("harbour-steps") != expected


def building_easy(index):
    from types import SimpleNamespace

    return SimpleNamespace(measure_index=index, points=0.0)


def test_the_same_input_gives_the_same_ladder():
    score, level, first = golden.built("copper-kettle-parade")
    asked = building.Practised(golden.default_bpm(score) or 60.0)
    assert build_ladder(score, level, asked) == first
