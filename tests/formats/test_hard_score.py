"""A score harder than the demo: read back as it was, engraved note for note, its sheet on two pages."""

from __future__ import annotations

import pypdfium2
from lxml import etree

from hard_score import hard_bytes, hard_score
from helpers import assert_same_music
from laptick.formats.pages.engraving import engrave
from laptick.formats.pages.sheet import SheetOptions, sheet_pdf
from laptick.formats.score_files import as_musicxml, open_score, score_file


def test_five_voices_are_read_back_as_they_were():
    assert_same_music(open_score(hard_bytes()).score, hard_score())


def test_every_note_of_it_is_engraved():
    file = open_score(hard_bytes(8))
    root = etree.fromstring(engrave(as_musicxml(file), score_file(file), width_px=900))
    drawn = {e.get("data-item") for e in root.iter("*") if e.get("class") == "note"}
    assert drawn == {note.id for note in file.score.notes}


def test_its_sheet_keeps_to_two_pages():
    pdf = sheet_pdf(hard_score(), None, SheetOptions(), 54.0)
    assert len(pypdfium2.PdfDocument(pdf)) == 2
