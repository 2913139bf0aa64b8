"""Engraved notation of a score with its counts, as SVG, by the Verovio library.

The library shows accidentals and beams only where the file writes them, so those that a reader needs are
written first. What it draws is cleaned before it leaves: known drawing elements only, no scripts, no links out.
Off the main thread its resources must be named, and every drawing gets a tool of its own.
"""

from __future__ import annotations

import os
import re
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

import verovio
from lxml import etree

from laptick.core.base.errors import ScoreError
from laptick.core.score.pitch import ALTERATIONS
from laptick.core.score.score import MarkKind, Note, Score
from laptick.formats.musicxml.file import MusicXmlFile
from laptick.formats.musicxml_writing.beams import write_beams

#: Drawing elements that may stay, and attributes that never may.
_ALLOWED = frozenset(
    [
        "svg",
        "g",
        "path",
        "use",
        "defs",
        "symbol",
        "rect",
        "line",
        "polyline",
        "polygon",
        "ellipse",
        "circle",
        "text",
        "tspan",
        "title",
    ]
)
_SVG = "{http://www.w3.org/2000/svg}"
_XLINK = "{http://www.w3.org/1999/xlink}href"

#: Steps in the order in which sharps come into a key; flats the other way round.
_SHARPS = "FCGDAEB"

_ACCIDENTALS = {-2: "flat-flat", -1: "flat", 0: "natural", 1: "sharp", 2: "double-sharp"}

#: Accidentals among texts: the music font's private codes (SMuFL, accidentals and figured bass) → the common ones.
_TEXT_SIGNS = {
    0xE260: "♭", 0xE261: "♮", 0xE262: "♯", 0xE263: "𝄪", 0xE264: "♭♭",
    0xEA63: "♭♭", 0xEA64: "♭", 0xEA65: "♮", 0xEA66: "♯", 0xEA67: "𝄪",
}  # fmt: skip

#: Engraving units in a pixel at the scale we draw at.
SCALE = 42


#: What is drawn over the page, as where a hand stands, stands between the lines (the library's units; its own is 4).
ROOM_BETWEEN_LINES = 12

#: The same room where each line is a page: half of it above, half below; and some for the brace at the left.
_ROOM_AROUND_LINE: dict[str, object] = {"pageMarginTop": 50, "pageMarginBottom": 50, "pageMarginLeft": 50}

#: No more lines than this are drawn.
MOST_LINES = 400

_OPTIONS: dict[str, object] = {
    "adjustPageHeight": True,
    "scale": SCALE,
    "header": "none",
    "footer": "none",
    "svgViewBox": True,
    "xmlIdSeed": 1,
    "lyricSize": 3.6,
    "lyricTopMinMargin": 3.0,
    "lyricWordSpace": 2.2,
    "smuflTextFont": "none",
    "pageMarginLeft": 10,
    "pageMarginRight": 10,
}


def engrave(file: MusicXmlFile, counted: bytes, *, width_px: int) -> str:
    """``counted`` (the file with what is to be shown) drawn as one SVG of all its lines. The group of each note and
    rest says in ``data-item`` which one of the score it is.

    Raises:
        ScoreError: the library cannot draw it.
    """
    root, items = prepared(file, counted)
    options = {
        "pageWidth": round(width_px * 100 / SCALE),
        "pageHeight": 60_000,
        "breaks": "auto",
        "spacingSystem": ROOM_BETWEEN_LINES,
    }
    pages = draw(root, options, most=20)
    return "\n".join(clean_svg(page, items) for page in pages)


def engrave_rows(file: MusicXmlFile, counted: bytes, *, width_px: int) -> list[tuple[float, str]]:
    """The same, each line a drawing of its own, with its height as a share of its width.

    Raises:
        ScoreError: the library cannot draw it.
    """
    root, items = prepared(file, counted)
    options = {"pageWidth": round(width_px * 100 / SCALE), "pageHeight": 100, "breaks": "auto", **_ROOM_AROUND_LINE}
    return [(share_of(page), clean_svg(page, items)) for page in draw(root, options, most=MOST_LINES)]


def share_of(svg: str) -> float:
    """The height of a drawing by its width."""
    found = re.search(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', svg)
    return float(found[2]) / float(found[1]) if found and float(found[1]) else 0.2


def draw(root: etree._Element, options: Mapping[str, object], *, most: int) -> list[str]:
    """The pages of a prepared score as the library draws them, the first ``most``; ``options`` go before our own.

    Raises:
        ScoreError: the library cannot draw it.
    """
    toolkit = verovio.toolkit(False)
    toolkit.setResourcePath(_resources())
    toolkit.setOptions({**_OPTIONS, **options})
    if not toolkit.loadData(etree.tostring(root, encoding="unicode")) or toolkit.getPageCount() < 1:
        raise ScoreError(
            "this score cannot be drawn as notation.", kept="Nothing was changed.", todo="Use the ruler instead."
        )
    return [toolkit.renderToSVG(page) for page in range(1, min(toolkit.getPageCount(), most) + 1)]


@lru_cache(maxsize=1)
def _resources() -> str:
    return os.path.join(os.path.dirname(verovio.__file__), "data")


def prepared(file: MusicXmlFile, counted: bytes) -> tuple[etree._Element, dict[str, str]]:
    """The parts that are read, with every accidental that a reader needs; and for the id of each drawn note and rest
    the one it has in the score."""
    root = etree.fromstring(counted, etree.XMLParser(resolve_entities=False, load_dtd=False, no_network=True))
    read = {part.id for part in file.parts if part.is_read}
    for part in list(root.findall("part")):
        if (part.get("id") or "?") not in read:
            root.remove(part)
    for listed in list(root.iterfind("part-list/score-part")):
        if listed.get("id") not in read:
            listed.getparent().remove(listed)
    for direction in list(root.iter("direction")):
        # The tempo stands in the heading; its sign would need the music font in the middle of a text.
        if direction.find("direction-type/metronome") is not None:
            direction.getparent().remove(direction)
    for harmony in root.iter("harmony"):
        if harmony.get("placement") is None:
            harmony.set("placement", "above")  # the library's own choice would be below
    own = file.tree.getroot()
    shown = dict(zip(own.iter("note"), _matching_notes(own, root, read), strict=False))
    drawn = {key: shown.get(element) for key, element in file.elements.items()}
    _write_accidentals(file.score, drawn)
    write_beams(file.score, drawn)
    items = {}
    for number, (key, element) in enumerate(drawn.items()):
        if element is not None:
            items[f"item-{number}"] = key
            element.set("id", f"item-{number}")
    return root, items


def _matching_notes(own: etree._Element, root: etree._Element, read: set[str]) -> list[etree._Element | None]:
    """For every note of the file's tree the same note of the drawn one, where it is drawn."""
    drawn = iter([note for part in root.findall("part") for note in part.iter("note")])
    return [
        next(drawn, None) if (part.get("id") or "?") in read else None
        for part in own.findall("part")
        for _ in part.iter("note")
    ]


def _write_accidentals(score: Score, elements: dict[str, etree._Element | None]) -> None:
    """An ``<accidental>`` at every note whose key is not what its staff has at that place; those that the file
    writes are left. Alterations hold to the bar's end, for their own line or space."""
    keys = [(m.onset_quarters, int(m.text)) for m in score.marks if m.kind is MarkKind.KEY]
    for measure in score.measures:
        fifths = next((f for at, f in reversed(keys) if at <= measure.start_quarters), 0)
        holding: dict[tuple[int, str, str], int] = {}
        for note in score.notes_of_measure(measure.index):
            spelled = _spelled(note)
            element = elements.get(note.id)
            if spelled is None:
                continue
            step, alter, octave = spelled
            place = (note.staff, step, octave)
            now = holding.get(place, _in_key(step, fifths))
            holding[place] = alter
            if alter == now or note.tied_from_before or element is None or element.find("accidental") is not None:
                continue
            accidental = etree.Element("accidental")
            accidental.text = _ACCIDENTALS.get(alter, "natural")
            _put_before(element, accidental)


def _spelled(note: Note) -> tuple[str, int, str] | None:
    if note.pitch is None or not note.name:
        return None
    octave = note.name.lstrip("ABCDEFG♭♯𝄪")
    return note.name[0], ALTERATIONS.get(note.name[1 : len(note.name) - len(octave)], 0), octave


def _in_key(step: str, fifths: int) -> int:
    if fifths > 0:
        return 1 if step in _SHARPS[:fifths] else 0
    return -1 if fifths < 0 and step in _SHARPS[::-1][:-fifths] else 0


#: What follows an ``<accidental>`` inside a ``<note>``.
_AFTER = (
    "time-modification",
    "stem",
    "notehead",
    "notehead-text",
    "staff",
    "beam",
    "notations",
    "lyric",
    "play",
    "listen",
)


def _put_before(note: etree._Element, accidental: etree._Element) -> None:
    for child in note.iterchildren("*"):
        if child.tag in _AFTER:
            child.addprevious(accidental)
            return
    note.append(accidental)


def _plain_signs(element: etree._Element) -> None:
    """Accidentals in a text as the text's own letters, as large as those beside them."""
    text = element.text or ""
    shown = text.translate(_TEXT_SIGNS)
    if shown == text:
        return
    element.text = shown
    beside = element.getprevious() if element.getprevious() is not None else element.getnext()
    element.attrib.pop("font-family", "")
    size = "" if beside is None else beside.get("font-size", "")
    if size:
        element.set("font-size", size)


# -- cleaning ------------------------------------------------------------------------------------------------


def clean_svg(svg: str, items: Mapping[str, str] | None = None) -> str:
    """A drawing with nothing in it but shapes, texts and references inside itself; ``items``: id of a group → what
    it is in the score."""
    parser = etree.XMLParser(
        resolve_entities=False, load_dtd=False, no_network=True, remove_comments=True, remove_pis=True, huge_tree=True
    )
    root = etree.fromstring(svg.encode(), parser)
    for element in list(root.iter("*")):
        name = str(element.tag).removeprefix(_SVG)
        parent = element.getparent()
        if (name not in _ALLOWED or "placeholder" in (element.get("class") or "").split()) and parent is not None:
            parent.remove(element)
            continue
        for attribute in list(element.attrib):
            value: Any = element.attrib[attribute]
            is_link = attribute in ("href", _XLINK)
            if str(attribute).lower().startswith("on") or (is_link and not value.startswith("#")):
                del element.attrib[attribute]
        if name == "tspan":
            _plain_signs(element)
        if items and (item := items.get(element.get("id") or "")) is not None:
            element.set("data-item", item)
    return etree.tostring(root, encoding="unicode")
