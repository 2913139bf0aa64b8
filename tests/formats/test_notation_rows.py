"""The sheet with the notes: each count under its own note, nothing clipped, nothing over another."""

from __future__ import annotations

import logging
import re

import pypdfium2
import pytest
from lxml import etree

from helpers import DEMO, demo_bytes, score_xml
from laptick.core.counting.choices import choose
from laptick.core.counting.counting import count_line
from laptick.core.counting.word_tables import System
from laptick.core.score.score import Hand
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.sheet import SheetOptions, sheet_html, sheet_pdf
from laptick.formats.parts.reading import Reading
from laptick.formats.score_files import drawn_from, open_score
from sheet_looks import faults_of, words_of

logging.getLogger("weasyprint").setLevel(logging.ERROR)


def rows_of(data, hand=None, *, is_big=False, choices=None, reading=None, filename="piece.musicxml"):
    file = open_score(data, filename=filename, reading=reading or Reading())
    counted = count_line(file.score, hand, choices, bpm=72)
    return draw_notation(drawn_from(file), counted, hand, 184, is_big=is_big), file.score, counted


@pytest.mark.parametrize("is_big", [False, True])
@pytest.mark.parametrize("hand", [None, Hand.RIGHT, Hand.LEFT])
@pytest.mark.parametrize("name", DEMO)
def test_every_count_stands_under_its_own_note(name, hand, is_big):
    rows, score, counted = rows_of(demo_bytes(name), hand, is_big=is_big)
    assert [fault for row in rows for fault in faults_of(row, score, counted)] == []
    said = [count.say for counts in counted.bars for count in counts]
    shown = [word.text.strip("()") for row in rows for word in words_of(row)]
    assert shown == said or any(row.thinned for row in rows)


def test_lines_are_those_of_the_score():
    rows, _, _ = rows_of(demo_bytes("harbour-steps"))
    assert [row.line for row in rows] == [1, 2]
    rows, _, _ = rows_of(demo_bytes("harbour-steps"), reading=Reading(line_starts=("3", "5", "7")))
    assert [row.line for row in rows] == [1, 2, 3, 4]


def test_a_line_too_full_for_the_paper_is_broken():
    bar = " ".join(f"{step}5/s" for step in "CDEFGABC" * 2)
    rows, score, counted = rows_of(score_xml(" | ".join([bar] * 4)))
    assert [row.line for row in rows] == [1] * len(rows)
    assert len(rows) > 1
    assert [fault for row in rows for fault in faults_of(row, score, counted)] == []


def test_fingerings_and_the_files_own_words_are_kept():
    data = demo_bytes("kite-over-the-orchard").decode()
    finger = "<notations><technical><fingering>4</fingering></technical></notations>"
    lyric = "<lyric><text>kite</text></lyric>"
    data = re.sub(r"(<staff>1</staff>)(</note>)", rf"\1{finger}{lyric}\2", data, count=1)
    rows, _, _ = rows_of(data.encode())
    root = etree.fromstring(rows[0].svg.encode())
    texts = {"".join(text.itertext()).strip() for text in root.iter("{http://www.w3.org/2000/svg}text")}
    assert {"4", "kite"} <= texts


def test_words_of_the_choice_and_a_midi_file():
    rows, _, _ = rows_of(demo_bytes("harbour-steps"), Hand.RIGHT, choices=choose(system=System.FUNCTION))
    assert "ta" in {word.text for word in words_of(rows[0])}
    from laptick.formats.midi.score_writer import write_midi

    midi = write_midi(open_score(demo_bytes("harbour-steps"), filename="h.musicxml").score)
    rows, score, counted = rows_of(midi, filename="h.mid")
    assert [fault for row in rows for fault in faults_of(row, score, counted)] == []


@pytest.mark.parametrize("shows", ["notation", "ruler", "both"])
def test_the_sheet_shows_notes_ruler_or_both(shows):
    file = open_score(demo_bytes("harbour-steps"), filename="h.musicxml")
    options = SheetOptions(shows=shows)
    page = sheet_html(file.score, None, options, 72, drawn_from(file))
    assert ('class="row notes"' in page) is (shows != "ruler")
    assert ('class="row ruler"' in page) is (shows != "notation")
    if shows == "both":  # line by line
        assert re.findall(r'class="row (\w+)"', page) == ["notes", "ruler", "notes", "ruler"]
    document = pypdfium2.PdfDocument(sheet_pdf(file.score, None, options, 72, drawn_from(file)))
    text = " ".join(one.get_textpage().get_text_range() for one in document)
    assert "keep holding" in text
    assert text.count("&") > 8


def test_a_change_of_the_counted_note_is_announced_beneath_its_bar():
    fine = "C5/q C5/s. C5/s. C5/s. C5/s. C5/s C5/e C5/s C5/e"
    rows, _, _ = rows_of(score_xml(f"C5/q D5/q E5/q F5/q | {fine} | C5/w"))
    root = [etree.fromstring(row.svg.encode()) for row in rows]
    told = ["".join(text.itertext()) for one in root for text in one.iter() if text.get("class") == "unit"]
    assert told == ["count eighths", "count quarters"]
