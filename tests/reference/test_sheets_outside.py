"""The sheets of five long scores that nobody here wrote (the corpus of music21, test-only): the notes with their
counts, and the ruler. Nothing is clipped, no word stands over another, no count under a note of another time."""

from __future__ import annotations

import warnings
from itertools import pairwise
from pathlib import Path

import pytest
from lxml import etree

from laptick.core.counting.counting import count_line
from laptick.core.score.score import Hand
from laptick.formats.pages.letters import word_width
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.ruler_rows import Drawing, draw_rows
from laptick.formats.score_files import drawn_from, open_score
from sheet_looks import faults_of

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import music21

CORPUS = Path(music21.__file__).parent / "corpus"

LONG = (
    "joplin/maple_leaf_rag.mxl",
    "schubert/Lindenbaum.xml",
    "cpebach/h186.mxl",
    "schumann_clara/polonaise_op1n1.mxl",
    "handel/rinaldo/Lascia_chio_pianga.mxl",
)


@pytest.mark.parametrize("hand", [None, Hand.LEFT])
@pytest.mark.parametrize("path", LONG)
def test_the_notes_with_their_counts(path, hand):
    file = open_score((CORPUS / path).read_bytes(), filename=path)
    counted = count_line(file.score, hand)
    rows = draw_notation(drawn_from(file), counted, hand, 184, is_big=False)
    assert len(file.score.measures) >= 32
    assert [(row.line, fault) for row in rows for fault in faults_of(row, file.score, counted)] == []


@pytest.mark.parametrize("is_big", [False, True])
@pytest.mark.parametrize("path", LONG)
def test_the_ruler(path, is_big):
    file = open_score((CORPUS / path).read_bytes(), filename=path)
    for row in draw_rows(file.score, count_line(file.score, None), None, Drawing(1840, is_big)):
        root = etree.fromstring(row.svg.encode())
        by_line: dict[str, list[tuple[float, float]]] = {}
        for text in root.iter("{http://www.w3.org/2000/svg}text"):
            said, size = "".join(text.itertext()), float(text.get("font-size"))
            width = word_width(said, (int(text.get("font-weight", "400")) > 400 and 800) or 400) * size
            x = float(text.get("x"))
            assert x >= 0
            assert x + width <= row.width + 1
            assert float(text.get("y")) <= row.height
            by_line.setdefault(text.get("y"), []).append((x, x + width))
        for words in by_line.values():
            for before, after in pairwise(sorted(words)):
                assert before[1] <= after[0] + 0.5
