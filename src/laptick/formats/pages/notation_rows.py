"""Engraved notation in rows, with the count on a line of its own beneath: for sheets that are handed out.

Lines are the score's (the file's, else the teacher's), broken where a line is too full for the paper. The library lays
the notes out, and keeps room for the words as if they were lyrics; then the words are set by us: each count under its
own note or rest, one that is said while a note is held between its neighbours, by time. So no count can stand under
a note of another time, and none over another: they are set smaller, then left out, like those of the ruler.

Lengths are the library's units (tenths of a pixel at its scale).
"""

from __future__ import annotations

import copy
import re
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from html import escape

from lxml import etree

from laptick.core.base.units import Quarters
from laptick.core.counting.counting import LineCount
from laptick.core.counting.counts import Count, Kind
from laptick.core.counting.unit_changes import unit_changes
from laptick.core.score.score import Hand, Measure, Score
from laptick.formats.musicxml.file import MusicXmlFile
from laptick.formats.musicxml_writing.counts import highest_lyric
from laptick.formats.pages.bar_layout import break_line, fit_words
from laptick.formats.pages.engraving import clean_svg, draw, prepared
from laptick.formats.pages.letters import word_width
from laptick.formats.pages.ruler_drawing import SILENT_SIGN, bar_name, placed_words, shown_word
from laptick.formats.pages.ruler_rows import FAMILIES

_SVG = "{http://www.w3.org/2000/svg}"

#: A sign that no text holds, before the words that only keep room.
_MARK = "\u2063"

#: Between two such words: after a space the library would take a number for that of a verse.
_BETWEEN = "·"

#: Scale of the library and type size of the counts in its units, for plain and for big print.
SCALES = {False: 34, True: 46}
TYPE, LABEL_TYPE = 440.0, 300.0

#: The units in a millimetre, at the library's scale of 1 (a pixel is a 96th of an inch).
UNITS_MM = 10 * 96 / 25.4 * 100

#: What a line begins with beyond its bars: clef and key, in its units, when it is not the first.
PREFIX = 1900.0

#: Where words stand below a staff that has none of its own notes over them, and the library's margin.
BELOW_STAFF, MARGIN = 900.0, 100.0

#: Room for the words as large as they will be set, and for the brace at the left.
_LOOKS: dict[str, object] = {"lyricSize": 4.9, "pageMarginLeft": 50, "lyricTopMinMargin": 2.5}

#: No more lines than this are drawn.
MOST_LINES = 400


@dataclass(frozen=True)
class NotationRow:
    """One system. ``line``: the printed line it belongs to; ``share``: its height by its width; ``thinned``: its bars
    in which a dot stands for a word."""

    line: int
    svg: str
    share: float
    thinned: tuple[str, ...]


@dataclass(frozen=True)
class _Placed:
    """A bar as it was drawn: its edges, and where its instants lie."""

    measure: Measure
    left: float
    right: float
    instants: tuple[tuple[Quarters, float], ...]

    def x(self, offset: Quarters) -> float:
        """An instant between two that are drawn lies between them, by time."""
        known = self.instants
        at = bisect_right([one for one, _ in known], offset) - 1
        before = known[at] if at >= 0 else (Quarters(0), self.left)
        if before[0] == offset:
            return before[1]
        after = known[at + 1] if at + 1 < len(known) else (self.measure.length_quarters, self.right)
        return before[1] + (after[1] - before[1]) * float((offset - before[0]) / (after[0] - before[0]))


def draw_notation(
    file: MusicXmlFile, counted: LineCount, hand: Hand | None, width_mm: float, *, is_big: bool
) -> list[NotationRow]:
    """All systems with the counts of ``counted`` (the line of ``hand``; ``None``: of both) beneath the notes.

    Raises:
        ScoreError: the library cannot draw the score.
    """
    scale = SCALES[is_big]
    width = width_mm * UNITS_MM / scale
    root, items = prepared(file, etree.tostring(_with_room(file, counted, hand)))
    bars = _drawn_bars(file, root)
    lines = _lines(counted, _widths(root, scale), width)
    _break_at(bars, [line[0] for line in lines])
    options = {**_LOOKS, "pageWidth": round(width / 10), "pageHeight": 100, "breaks": "line", "scale": scale}
    pages = draw(root, options, most=MOST_LINES)
    told = _Told.of(file.score, counted)
    rows, done = [], 0
    for page in pages:
        system = etree.fromstring(clean_svg(page, items).encode())
        count = len(system.findall(f".//{_SVG}g[@class='measure']"))
        rows.append(_row(system, told, range(done, done + count), hand))
        done += count
    return rows


# -- room for the words, and lines ---------------------------------------------------------------------------


def _with_room(file: MusicXmlFile, counted: LineCount, hand: Hand | None) -> etree._Element:
    """The file's tree with a lyric under each strike as wide as what is said from there to the next."""
    tree = copy.deepcopy(file.tree)
    twins = dict(zip(file.tree.getroot().iter("note"), tree.getroot().iter("note"), strict=True))
    # Of both hands each carries, for the library keeps room between words of one staff only.
    carriers: dict[Quarters, dict[Hand, etree._Element]] = {}
    for note in file.score.notes:
        is_counted = note.is_strike and not note.is_grace and (hand is None or note.hand is hand)
        if is_counted and note.id in file.elements:
            carriers.setdefault(note.onset_quarters, {}).setdefault(note.hand, twins[file.elements[note.id]])
    number = str(highest_lyric(tree.getroot()) + 1)
    for bar, counts in zip(counted.by, counted.bars, strict=True):
        notes: Sequence[etree._Element] = ()
        said = ""
        for count in counts:
            if count.kind is Kind.STRIKE:
                _carry(notes, said, number)
                onset = bar.measure.start_quarters + count.offset_quarters
                notes, said = tuple(carriers.get(onset, {}).values()), shown_word(count)[0]
            else:
                said += f"{_BETWEEN}{shown_word(count)[0]}"
        _carry(notes, said, number)
    return tree.getroot()


def _carry(notes: Sequence[etree._Element], said: str, number: str) -> None:
    for note in notes:
        lyric = etree.SubElement(note, "lyric", number=number)
        etree.SubElement(lyric, "syllabic").text = "single"
        etree.SubElement(lyric, "text").text = _MARK + said


def _drawn_bars(file: MusicXmlFile, root: etree._Element) -> list[etree._Element]:
    """The bars of the first part that is drawn; how they were broken in the file is taken away, and the name of a part
    that is the only one."""
    names = [*root.iter("part-name"), *root.iter("part-abbreviation")]
    for name in names if len(root.findall("part")) == 1 else ():
        name.text = ""
    for mark in root.iter("print"):
        _drop(mark, "new-system", "new-page")
    part = root.find("part")
    return [] if part is None else part.findall("measure")


def _drop(element: etree._Element, *names: str) -> None:
    for name in names:
        if element.get(name) is not None:
            del element.attrib[name]


def _break_at(bars: Sequence[etree._Element], starts: Sequence[int]) -> None:
    for index in starts[1:]:
        if index < len(bars):
            mark = bars[index].find("print")
            if mark is None:
                mark = etree.Element("print")
                bars[index].insert(0, mark)
            mark.set("new-system", "yes")


def _widths(root: etree._Element, scale: int) -> list[float]:
    """How wide each bar is when nothing presses it."""
    options = {
        **_LOOKS,
        "pageWidth": 100_000,
        "pageHeight": 60_000,
        "breaks": "none",
        "scale": scale,
        "adjustPageWidth": True,
    }
    page = draw(root, options, most=1)[0]
    parsed = etree.fromstring(page.encode(), etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True))
    edges = [_edges(bar) for bar in parsed.findall(f".//{_SVG}g[@class='measure']")]
    return [right - left for left, right in edges]


def _lines(counted: LineCount, widths: Sequence[float], room: float) -> list[list[int]]:
    printed: list[list[int]] = []
    for index, bar in enumerate(counted.by):
        if not printed or bar.measure.line != counted.by[index - 1].measure.line:
            printed.append([])
        printed[-1].append(index)
    lines = []
    for line in printed:
        needs = [widths[i] if i < len(widths) else 0.0 for i in line]
        for part in break_line(needs, room - PREFIX):
            lines.append([line[i] for i in part])
    return lines


# -- what was drawn ------------------------------------------------------------------------------------------

_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


def _edges(bar: etree._Element) -> tuple[float, float]:
    """Left and right end of a bar's first staff line."""
    for path in bar.iterfind(f"{_SVG}g[@class='staff']/{_SVG}path"):
        numbers = [float(number) for number in _NUMBER.findall(path.get("d", ""))]
        if len(numbers) == 4:
            return numbers[0], numbers[2]
    return 0.0, 0.0


def _x_of(group: etree._Element) -> float | None:
    for use in group.iter(f"{_SVG}use"):
        found = re.search(r"translate\((-?[\d.]+)", use.get("transform", ""))
        if found:
            return float(found[1])
        if use.get("x"):
            return float(_NUMBER.findall(use.get("x", "0"))[0])
    return None


def _placed(bar: etree._Element, measure: Measure, onsets: Mapping[str, Quarters]) -> _Placed:
    left, right = _edges(bar)
    found: dict[Quarters, float] = {}
    for group in bar.iter(f"{_SVG}g"):
        onset = onsets.get(group.get("data-item", ""))
        if onset is None:
            continue
        head = group.find(f"{_SVG}g[@class='notehead']")
        x = _x_of(group if head is None else head)
        offset = onset - measure.start_quarters
        if x is not None and 0 <= offset < measure.length_quarters:
            found[offset] = min(x, found.get(offset, x))
    instants = sorted(found.items())
    # Time goes to the right; a displaced head or rest must not turn it round.
    forward = [instants[0]] if instants else []
    for offset, x in instants[1:]:
        if x > forward[-1][1]:
            forward.append((offset, x))
    return _Placed(measure, left, right, tuple(forward))


def _onsets(score: Score) -> dict[str, Quarters]:
    """Instant of each note and rest by its id; rests of a whole bar are centred, and tell no instant."""
    lengths = {measure.index: measure.length_quarters for measure in score.measures}
    known = {note.id: note.onset_quarters for note in score.notes if not note.is_grace}
    known |= {
        rest.id: rest.onset_quarters
        for rest in score.rests
        if rest.duration_quarters < lengths.get(rest.measure_index, Quarters(0))
    }
    return known


@dataclass(frozen=True)
class _Told:
    """What every row is drawn from, by index of bar or id of note."""

    measures: Sequence[Measure]
    onsets: Mapping[str, Quarters]
    counts: Mapping[int, Sequence[Count]]
    announced: Mapping[int, str]

    @classmethod
    def of(cls, score: Score, counted: LineCount) -> _Told:
        counts = {by.measure.index: bar for by, bar in zip(counted.by, counted.bars, strict=True)}
        announced = {change.measure_index: change.text for change in unit_changes(counted)}
        return cls(score.measures, _onsets(score), counts, announced)


def _row(system: etree._Element, told: _Told, bars: range, hand: Hand | None) -> NotationRow:
    drawn = [
        _placed(group, told.measures[index], told.onsets)
        for index, group in zip(bars, system.findall(f".//{_SVG}g[@class='measure']"), strict=False)
        if index < len(told.measures)
    ]
    baseline = _take_marks_away(system)
    inner = system.find(f".//{_SVG}svg")
    margin = None if inner is None else inner.find(f"{_SVG}g")
    outer = system if inner is None else inner
    _, _, wide, high = (float(number) for number in outer.get("viewBox", "0 0 1 1").split())
    foot = _staff_foot(system)
    if baseline is None or (hand is None and baseline < foot):
        baseline = foot + BELOW_STAFF
    under = [bar for bar in drawn if bar.measure.index in told.announced]
    high = max(high, baseline + MARGIN + (0.4 * TYPE if not under else 2.2 * LABEL_TYPE))
    words, thinned = [], []
    for at, bar in enumerate(drawn):
        end = drawn[at + 1].instants[0][1] if at + 1 < len(drawn) and drawn[at + 1].instants else bar.right
        shapes, is_thinned = _words(told.counts.get(bar.measure.index, ()), bar, end, baseline)
        words += shapes
        if is_thinned:
            thinned.append(bar_name(bar.measure))
    for bar in under:
        # What is counted from here on, beneath its first word.
        words.append(
            f'<text class="unit" x="{bar.x(Quarters(0)):.0f}" y="{baseline + 1.4 * LABEL_TYPE:.0f}"'
            f' font-size="{LABEL_TYPE:.0f}px" font-weight="400" font-family="{FAMILIES}">'
            f"{escape(told.announced[bar.measure.index])}</text>"
        )
    text = f'<g xmlns="http://www.w3.org/2000/svg" class="counts">{"".join(words)}</g>'
    (system if margin is None else margin).append(etree.fromstring(text))
    first = drawn[0].measure.line if drawn else 0
    return NotationRow(first, _flat(system, wide, high), high / wide, tuple(thinned))


def _words(counts: Sequence[Count], bar: _Placed, end: float, y: float) -> tuple[list[str], bool]:
    places = [bar.x(count.offset_quarters) for count in counts]
    words = [
        replace(word, offset_quarters=x) for word, x in zip(placed_words(bar.measure, counts), places, strict=True)
    ]
    fitted = fit_words(words, end, TYPE, 1.0)
    shapes = []
    for index, (count, x) in enumerate(zip(counts, places, strict=True)):
        size = fitted.size
        if index in fitted.left_out:
            shapes.append(f'<circle cx="{x:.0f}" cy="{y - 0.25 * size:.0f}" r="{0.08 * size:.0f}"/>')
            continue
        said, weight = shown_word(count)
        shapes.append(
            f'<text x="{x:.0f}" y="{y:.0f}" font-size="{size:.0f}px" font-weight="{weight}"'
            f' font-family="{FAMILIES}">{escape(said)}</text>'
        )
        if count.kind is Kind.REST:
            wide = (word_width(said, weight) if said else SILENT_SIGN) * size
            shapes.append(f'<path d="M{x:.0f} {y - 0.85 * size:.0f}h{wide:.0f}" stroke="#000" stroke-width="26"/>')
    return shapes, bool(fitted.left_out)


def _staff_foot(system: etree._Element) -> float:
    """The lowest staff line."""
    ends = [
        float(numbers[3])
        for path in system.iterfind(f".//{_SVG}g[@class='staff']/{_SVG}path")
        if len(numbers := _NUMBER.findall(path.get("d", ""))) == 4
    ]
    return max(ends, default=0.0)


def _take_marks_away(system: etree._Element) -> float | None:
    """Removes the words that kept room; gives the lowest line they stood on."""
    lowest = None
    for verse in list(system.iter(f"{_SVG}g")):
        if "verse" not in verse.get("class", "").split() or _MARK not in "".join(
            str(text) for text in verse.itertext()
        ):
            continue
        for text in verse.iter(f"{_SVG}text"):
            y = float(_NUMBER.findall(text.get("y", "0"))[0])
            lowest = y if lowest is None else max(lowest, y)
        parent = verse.getparent()
        if parent is not None:
            parent.remove(verse)
    return lowest


def _flat(system: etree._Element, wide: float, high: float) -> str:
    """One drawing without another inside it, which what lays pages out is slow with."""
    inner = system.find(f".//{_SVG}svg")
    if inner is not None:
        group = etree.Element(f"{_SVG}g")
        for name, value in inner.attrib.items():
            if name != "viewBox":
                group.set(name, FAMILIES if name == "font-family" else value)
        group.extend(list(inner))
        parent = inner.getparent()
        if parent is not None:
            parent.replace(inner, group)
    for shape in system.iter(f"{_SVG}path", f"{_SVG}rect", f"{_SVG}polygon", f"{_SVG}ellipse"):
        # The library leaves this to a style sheet.
        if shape.get("stroke") is None and shape.get("stroke-width") is not None:
            shape.set("stroke", "#000")
    system.set("viewBox", f"0 0 {wide:.0f} {high:.0f}")
    _drop(system, "width", "height")
    return etree.tostring(system, encoding="unicode")
