"""The beat ruler in rows: printed lines, broken where their counts would not fit, every bar as wide as it needs.

Shared by the count sheet and by the ruler as a picture.
"""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import resources

from laptick.core.counting.counting import LineCount
from laptick.core.counting.unit_changes import unit_changes
from laptick.core.rhythm.syncopation import syncopations_of
from laptick.core.score.score import HANDS, Hand, Score
from laptick.formats.pages.bar_layout import break_line, join_short_lines, scale_needed, share_room
from laptick.formats.pages.map_drawing import BAND, FOOT, MapOnPaper, draw_map
from laptick.formats.pages.ruler_drawing import (
    RowStyle,
    RulerRow,
    bars_thinned,
    draw_row,
    head_width,
    place_in,
    placed_words,
)

#: Row height and letter sizes in tenths of a millimetre, for plain and for big print.
SIZES = {False: (240.0, 44.0, 34.0), True: (340.0, 66.0, 46.0)}

#: Rows shrink to fit their room, but not below this.
LEAST_SHRINK = 0.6

#: Between two rows, and a line's name above one, in millimetres.
ROW_GAP_MM = 4

#: What the name of a printed line takes above its first row.
LINE_NAME_MM = 4

#: Room a quarter has at least, and at most, as parts of the type size of counts.
LEAST_QUARTER, MOST_QUARTER = 1.6, 12.0


@dataclass(frozen=True)
class DrawnRow:
    """One row as SVG shapes; sizes in tenths of a millimetre; ``line``: the printed line it belongs to; ``thinned``:
    its bars in which a dot stands for a word."""

    line: int
    width: float
    height: float
    shapes: str
    thinned: tuple[str, ...]

    @property
    def svg(self) -> str:
        """A drawing of its own, at its real size."""
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {self.width:.0f} {self.height:.0f}"'
            f' width="{self.width / 10:.1f}mm" height="{self.height / 10:.1f}mm" font-family="{FAMILIES}"'
            f' role="img">{self.shapes}</svg>'
        )


@dataclass(frozen=True)
class Drawing:
    """How rows are drawn: ``width`` in tenths of a millimetre; ``room_mm``: rows are made lower where that would not
    hold them; ``with_map``: the together map besides."""

    width: float
    is_big: bool = False
    room_mm: float | None = None
    with_map: MapOnPaper | None = None


def draw_rows(score: Score, counted: LineCount, hand: Hand | None, drawing: Drawing) -> list[DrawnRow]:
    """All rows."""
    width, is_big, room_mm, drawn = drawing.width, drawing.is_big, drawing.room_mm, drawing.with_map
    row_height, count_size, label_size = SIZES[is_big]
    anyway = frozenset(
        found.silent_quarters
        for one in (HANDS if hand is None else (hand,))
        for found in syncopations_of(score, one)
        if found.is_taught
    )
    units = {change.measure_index: change.text for change in unit_changes(counted)}
    for index, ratio in drawn.ratios.items() if drawn else ():
        units[index] = f"{units[index]} · {ratio}" if index in units else ratio
    rows = [replace(row, anyway=anyway, units=units) for row in _rows(counted, units, width, is_big=is_big)]
    lines = len({row.measures[0].line for row in rows})
    more = BAND + FOOT if drawn else 0.0
    wanted_mm = max(1.0, len(rows) * ((1 + more) * row_height / 10 + ROW_GAP_MM) + lines * LINE_NAME_MM)
    shrink = 1.0 if room_mm is None else max(LEAST_SHRINK, min(1.0, room_mm / wanted_mm))
    style = RowStyle(width, row_height * shrink, count_size * max(0.75, shrink), label_size * max(0.75, shrink))
    return [
        DrawnRow(
            row.measures[0].line,
            width,
            (1 + more) * style.height,
            _with_map(draw_row(score, row, style), row, drawn, style),
            tuple(bars_thinned(row, style.count_size)),
        )
        for row in rows
    ]


def _with_map(shapes: str, row: RulerRow, drawn: MapOnPaper | None, style: RowStyle) -> str:
    """A row's shapes; with a map lower by what that takes above them."""
    if drawn is None:
        return shapes
    sizes = (style.height, style.label_size)
    shapes += "".join(draw_map(drawn, row.start_quarters, row.end_quarters, place_in(row), sizes))
    return f'<g transform="translate(0 {BAND * style.height:.1f})">{shapes}</g>'


def thinned_text(names: Sequence[str]) -> str:
    """What is said where words had to be left out in bars of these names; empty where none were."""
    bars = list(dict.fromkeys(names))
    if not bars:
        return ""
    return (
        f"Bar{'s' if len(bars) > 1 else ''} {', '.join(bars)}: a dot is a word for which there is no room. Say it too."
    )


def _rows(counted: LineCount, units: Mapping[int, str], inner: float, *, is_big: bool) -> list[RulerRow]:
    """Printed lines as rows; a line with too little room for its counts is broken at its bars."""
    lines: list[list[int]] = []
    for index, bar in enumerate(counted.by):
        if not lines or bar.measure.line != counted.by[index - 1].measure.line:
            lines.append([])
        lines[-1].append(index)
    _, size, label_size = SIZES[is_big]
    measures = [bar.measure for bar in counted.by]
    lengths = [float(measure.length_quarters) for measure in measures]
    words = [placed_words(measure, counts) for measure, counts in zip(measures, counted.bars, strict=True)]
    needs = [
        max(
            max(LEAST_QUARTER * size, scale_needed(placed, length, size)) * length,
            head_width(measure, units.get(measure.index, ""), label_size),
        )
        for measure, placed, length in zip(measures, words, lengths, strict=True)
    ]
    rows = []
    for line in join_short_lines(lines, needs, inner):
        for part in break_line([needs[i] for i in line], inner):
            own = [line[i] for i in part]
            widths = share_room([needs[i] for i in own], [lengths[i] for i in own], inner, MOST_QUARTER * size)
            rows.append(RulerRow(tuple(measures[i] for i in own), tuple(counted.bars[i] for i in own), tuple(widths)))
    return rows


#: Family, weights and file of each shipped font.
FONTS = (
    ("Sheet", "200 800", "atkinson-hyperlegible-next-latin-wght-normal.woff2"),
    ("Signs", "200 800", "laptick-signs.woff2"),
)

#: What every drawing is lettered in.
FAMILIES = "Sheet, Signs, sans-serif"


@lru_cache(maxsize=1)
def font_face() -> str:
    """The shipped letters (SIL Open Font License, beside the file) and signs (our own) as style rules."""
    return "".join(_face(family, weight, file) for family, weight, file in FONTS)


def _face(family: str, weight: str, file: str) -> str:
    data = base64.b64encode((resources.files("laptick") / "fonts" / file).read_bytes()).decode()
    return (
        f'@font-face {{ font-family: "{family}"; font-weight: {weight}; '
        f'src: url(data:font/woff2;base64,{data}) format("woff2"); }}'
    )
