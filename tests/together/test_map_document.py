"""The document of ``map``: field by field for a passage worked by hand, and the command. Common practice, no source."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

import laptick
from helpers import demo_score, score_of
from laptick.cli import main
from laptick.core.together.spans import span_of
from laptick.formats.documents.map import map_document

DEMO = sorted((Path(laptick.__file__).parent / "demo").glob("*.musicxml"))

#: The right hand rests, then is a fourth higher; the left holds C3 under E3 and G3 and lets them go at the rest.
SCORE = score_of("C4/q E4/q G4/q r/q | G4/q A4/q B4/q D5/q | C4/q E4/q G4/q r/q", "C3/h C3/h | C3/w | C3/h C3/h")


def test_field_by_field():
    document = map_document(SCORE)
    first, second, third = document["measures"]
    assert first["number"] == "1"
    assert [(e["offset"], e["hand"]) for e in first["events"]] == [("0", "T"), ("1", "R"), ("2", "T")]
    assert first["events"][1]["held"] == {"right": [], "left": ["C3"]}
    assert first["lifts"] == [{"offset": "3", "hand": "right", "pitches": ["G4"]}]
    assert (first["ratio"], second["ratio"]) == ("free", "4:1")
    assert second["same_rhythm_as"] == {"right": None, "left": None, "both": None}
    assert third["same_notes_as"] == {"right": "1", "left": "1", "both": "1"}
    assert document["shifts"][0] == {
        "hand": "right",
        "measure": "2",
        "offset": "0",
        "steps": 4,
        "time_quarters": "1",
        "manner": "move",
        "advice": {
            "code": "in-rest",
            "from": {"measure": "1", "offset": "2", "pass": 1},
            "text": "Move in the rest, and wait on G4.",
        },
    }
    assert [(p["hand"], p["low"], p["high"], p["name"]) for p in document["positions"]] == [
        ("right", "C4", "G4", "C position"),
        ("right", "G4", "D5", "G position"),
        ("right", "C4", "G4", "C position"),
        ("left", "C3", "C3", "C position"),
    ]
    assert document["piece"]["level"] in ("first-year", "elementary")
    assert {"from", "to", "difficulty", "reasons"} <= document["seams"][0].keys()


def test_names_of_positions():
    """A C E is minor; both thumbs on middle C; D F♯ A is D, and not D minor."""

    def names(right, left="r/w"):
        return [p["name"] for p in map_document(score_of(right, left))["positions"]]

    assert names("A4/q B4/q C5/q E5/q") == ["A minor position"]
    assert names("D4/q E4/q F#4/q A4/q") == ["D position"]
    assert names("D4/q E4/q F4/q A4/q") == ["D minor position"]
    assert names("Bb4/q C5/q D5/q F5/q") == ["B♭ position"]
    assert names("C4/q D4/q E4/q G4/q", "C4/q B3/q A3/q F3/q") == ["middle C position", "middle C position"]


def test_a_reach_and_what_one_may_do_about_it():
    reach = map_document(score_of("C5/w", "C3+E4/h G2+B3/h"), span_of(8))["reaches"][0]
    assert (reach["hand"], reach["measure"], reach["offset"], reach["steps"]) == ("left", "1", "0", 9)
    assert reach["choices"] == ["roll", "release-to-the-pedal", "redistribute"]
    assert map_document(score_of("C5/w", "C3+E4/h G2+B3/h"), span_of(10))["reaches"] == []


@pytest.mark.parametrize("path", DEMO, ids=lambda path: path.stem)
def test_the_command_prints_every_demo_piece(path, capsys):
    assert main(["map", str(path), "--json"]) == 0
    document = json.loads(capsys.readouterr().out)
    assert 0 <= document["piece"]["difficulty"] <= 100
    assert main(["map", str(path)]) == 0
    assert "to join:" in capsys.readouterr().out


@pytest.mark.parametrize("span", ["4", "11"])
def test_a_span_that_no_hand_has_is_refused(span, capsys):
    assert main(["map", str(DEMO[0]), "--span", span]) == 2
    assert "5 (a fifth) to 10 (a tenth)" in capsys.readouterr().err


def test_bars_are_written_ones_and_their_order_is_told():
    """*Five Stones* by its signs: first ending, second ending, D.S. al Fine."""
    document = map_document(demo_score("five-stones"))
    assert [bar["number"] for bar in document["measures"]] == list("12345678")
    assert document["order"] == list("123412356781235")
