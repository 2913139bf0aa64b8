"""Engraving: needed accidentals, cleaned drawings, the counts under their notes."""

from __future__ import annotations

import re
from fractions import Fraction

import pytest
from lxml import etree

from helpers import DEMO, demo_bytes, score_xml
from laptick.core.editing.changes import PencilChange, SetChord, Spot
from laptick.core.score.score import HANDS, Hand
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.pages.engraving import clean_svg, engrave, prepared
from laptick.formats.score_files import as_musicxml, open_score, score_file, with_pencil


def words_in(svg: str) -> str:
    root = etree.fromstring(svg)
    return " ".join("".join(text.itertext()).strip() for text in root.iter("{http://www.w3.org/2000/svg}text"))


@pytest.mark.parametrize("name", DEMO)
def test_every_demo_piece_is_drawn_with_its_counts(name):
    file = open_score(demo_bytes(name))
    svg = engrave(as_musicxml(file), score_file(file, hands=HANDS), width_px=800)
    root = etree.fromstring(svg)
    classes = [element.get("class") or "" for element in root.iter("*")]
    assert sum(c == "note" for c in classes) == len(file.score.notes)
    assert re.search(r"\b1\b.*\b2\b.*\b3\b", words_in(svg)) or name == "copper-kettle-parade"


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("way", ["musicxml", "midi"])
def test_every_note_and_rest_that_is_drawn_says_which_it_is(name, way):
    file = open_score(demo_bytes(name))
    if way == "midi":
        file = open_score(write_midi(file.score))
    root = etree.fromstring(engrave(as_musicxml(file), score_file(file), width_px=800))
    drawn = {e.get("data-item"): e.get("class") for e in root.iter("*") if e.get("data-item")}
    notes, rests = {n.id for n in file.score.notes}, {r.id for r in file.score.rests}
    assert set(drawn) == notes | rests
    assert {drawn[key] for key in notes} == {"note"}
    assert {drawn[key] for key in rests} <= {"rest", "mRest"}


def test_a_chord_symbol_is_drawn_above_the_upper_staff():
    file = open_score(demo_bytes("harbour-steps"))
    chord = PencilChange("1", SetChord(Spot("1", Fraction(0)), "Am7"))
    written = with_pencil(file, [chord]).file
    root = etree.fromstring(engrave(as_musicxml(written), score_file(written), width_px=800))
    harm = next(e for e in root.iter("*") if e.get("class") == "harm")
    staff = next(e for e in root.iter("*") if e.get("class") == "staff")
    text_y = int(next(e for e in harm.iter("*") if e.get("y")).get("y"))
    line_y = int(re.findall(r"M\d+ (\d+)", next(e for e in staff.iter("*") if e.get("d")).get("d"))[0])
    assert text_y < line_y


def test_the_accidentals_of_a_chord_symbol_are_letters_of_its_own_size():
    file = open_score(demo_bytes("harbour-steps"))
    written = with_pencil(file, [PencilChange("1", SetChord(Spot("1", Fraction(0)), "F♯7/B♭"))]).file
    root = etree.fromstring(engrave(as_musicxml(written), score_file(written), width_px=800))
    harm = next(e for e in root.iter("*") if e.get("class") == "harm")
    parts = [(e.text, e.get("font-size")) for e in harm.iter("*") if e.get("font-size", "0px") != "0px"]
    assert "".join(text for text, _ in parts) == "F♯7/B♭"
    assert len({size for _, size in parts}) == 1


def accidentals(bars: str, fifths: int = 0) -> list[str | None]:
    notes = {
        "C": "<step>C</step><octave>5</octave>", "C#": "<step>C</step><alter>1</alter><octave>5</octave>",
        "c#": "<step>C</step><alter>1</alter><octave>4</octave>", "F": "<step>F</step><octave>5</octave>",
        "F#": "<step>F</step><alter>1</alter><octave>5</octave>", "B": "<step>B</step><octave>4</octave>",
    }  # fmt: skip
    body = ""
    for number, bar in enumerate(bars.split("|"), 1):
        start = (
            f"<attributes><divisions>1</divisions><key><fifths>{fifths}</fifths></key></attributes>"
            if number == 1
            else ""
        )
        inside = "".join(f"<note><pitch>{notes[word]}</pitch><duration>1</duration></note>" for word in bar.split())
        body += f'<measure number="{number}">{start}{inside}</measure>'
    xml = f'<score-partwise><part-list><score-part id="P1"><part-name/></score-part></part-list><part id="P1">{body}</part></score-partwise>'
    file = open_score(xml.encode())
    return [note.findtext("accidental") for note in prepared(as_musicxml(file), xml.encode())[0].iter("note")]


ACCIDENTALS = [
    # notes, key, accidentals: common practice of notation
    ("C C# C# C", 0, [None, "sharp", None, "natural"]),
    ("C# C C# C#|C# C C C", 0, ["sharp", "natural", "sharp", None, "sharp", "natural", None, None]),
    ("C# c# C C", 0, ["sharp", "sharp", "natural", None]),  # another octave is another place
    ("F# F F# F#", 1, [None, "natural", "sharp", None]),
    ("B B B B", -2, ["natural", None, None, None]),
]


@pytest.mark.parametrize(("bars", "fifths", "expected"), ACCIDENTALS)
def test_the_accidentals_that_a_reader_needs(bars, fifths, expected):
    assert accidentals(bars, fifths) == expected


def test_a_drawing_is_cleaned_of_all_but_shapes_and_texts():
    dirty = (
        '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" onload="x()"><script>x()</script>'
        '<style>@import url(http://nowhere.example)</style><g onclick="x()"><use xlink:href="#in"/><use xlink:href="http://nowhere.example#x"/>'
        '<image href="http://nowhere.example"/><a href="http://nowhere.example"><path d="M0 0"/></a><foreignObject/></g></svg>'
    )
    clean = clean_svg(dirty)
    assert "nowhere" not in clean
    assert "x()" not in clean
    assert "script" not in clean
    assert 'href="#in"' in clean


def test_a_midi_piece_is_drawn_too():
    from laptick.formats.midi.score_writer import write_midi

    file = open_score(write_midi(open_score(demo_bytes("harbour-steps")).score), filename="h.mid")
    svg = engrave(as_musicxml(file), score_file(file, hands=(Hand.RIGHT,)), width_px=700)
    assert "(2)" in words_in(svg)


BEAMS = [
    # lengths of one bar of 4/4, beams (number of the first level's state of each note); common practice
    ("C5/e D5/e E5/q F5/h", ["begin", "end", None, None]),
    ("C5/e D5/e E5/e F5/e C5/h", ["begin", "end", "begin", "end", None]),
    ("C5/s D5/s E5/e C5/q C5/h", ["begin", "continue", "end", None, None]),
    ("C5/e r/e C5/e C5/e C5/h", [None, "begin", "end", None]),
    ("C5/e C5/q C5/e C5/h", [None, None, None, None]),
]


@pytest.mark.parametrize(("bar", "expected"), BEAMS)
def test_notes_of_one_beat_are_joined(bar, expected):
    xml = score_xml(bar)
    drawn, _ = prepared(as_musicxml(open_score(xml)), xml)
    notes = [n for n in drawn.iter("note") if n.find("pitch") is not None]
    assert [n.findtext("beam[@number='1']") for n in notes] == expected


def test_a_dotted_eighth_and_its_sixteenth_share_a_beam_and_a_hook():
    xml = score_xml("C5/e. C5/s C5/q C5/h")
    notes = [n for n in prepared(as_musicxml(open_score(xml)), xml)[0].iter("note") if n.find("pitch") is not None]
    assert [[b.text for b in n.iter("beam")] for n in notes[:2]] == [["begin"], ["end", "backward hook"]]
