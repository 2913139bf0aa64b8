"""Looking at engraved rows without eyes: words that overprint or are clipped, and counts under a wrong note."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

from lxml import etree

from laptick.core.counting.counting import LineCount
from laptick.core.counting.counts import Kind
from laptick.core.score.score import Score
from laptick.formats.pages.letters import word_width
from laptick.formats.pages.notation_rows import NotationRow

SVG = "{http://www.w3.org/2000/svg}"
#: How far a word may begin from the head it stands under: half a head, in the library's units.
NEAR = 130.0


@dataclass(frozen=True)
class Word:
    text: str
    x: float
    y: float
    width: float
    is_bold: bool


def words_of(row: NotationRow) -> list[Word]:
    root = etree.fromstring(row.svg.encode())
    found = []
    for text in root.iterfind(f".//{SVG}g[@class='counts']/{SVG}text"):
        if text.get("class") == "unit":
            continue
        size, weight = float(text.get("font-size").removesuffix("px")), int(text.get("font-weight"))
        said = text.text or ""
        found.append(
            Word(said, float(text.get("x")), float(text.get("y")), word_width(said, weight) * size, weight > 400)
        )
    return sorted(found, key=lambda word: word.x)


def heads_of(row: NotationRow, score: Score) -> dict[object, list[float]]:
    """Instant of the score → where heads and rests of it are drawn."""
    onsets = {note.id: note.onset_quarters for note in score.notes if not note.is_grace}
    onsets |= {rest.id: rest.onset_quarters for rest in score.rests}
    found: dict[object, list[float]] = {}
    for group in etree.fromstring(row.svg.encode()).iterfind(f".//{SVG}g[@data-item]"):
        if (onset := onsets.get(group.get("data-item"))) is None:
            continue
        for use in group.iter(f"{SVG}use"):
            at = re.search(r"translate\((-?[\d.]+)", use.get("transform", ""))
            if at:
                found.setdefault(onset, []).append(float(at[1]))
    return found


def faults_of(row: NotationRow, score: Score, counted: LineCount) -> Iterator[str]:
    """What is wrong with a row, in words."""
    root = etree.fromstring(row.svg.encode())
    wide, high = (float(number) for number in root.get("viewBox").split()[2:])
    words = words_of(row)
    for before, after in pairwise(words):
        if before.x + before.width > after.x + 0.5:
            yield f"“{before.text}” stands over “{after.text}”"
    for word in words:
        if not (word.x >= 0 and word.x + word.width + 50 <= wide and word.y + 100 <= high):
            yield f"“{word.text}” is clipped"
    if "\u2063" in row.svg:
        yield "a word that only kept room is left"
    heads = heads_of(row, score)
    strikes = {
        bar.measure.start_quarters + count.offset_quarters: count.say
        for bar, counts in zip(counted.by, counted.bars, strict=True)
        for count in counts
        if count.kind is Kind.STRIKE
    }
    for word in words:
        if not word.is_bold:
            continue
        under = [onset for onset, xs in heads.items() if any(abs(x - word.x) < NEAR for x in xs)]
        if not any(strikes.get(onset) == word.text for onset in under):
            yield f"“{word.text}” stands under no note of its time"
