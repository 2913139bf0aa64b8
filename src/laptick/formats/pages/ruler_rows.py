"""The beat ruler in rows: printed lines, broken where their counts would not fit, all on one scale.

Shared by the count sheet and by the ruler as a picture.
"""

from __future__ import annotations

import base64
import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import resources

from laptick.core.counting.counting import LineCount
from laptick.core.rhythm.syncopation import syncopations_of
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.formats.pages.ruler_drawing import RowStyle, RulerRow, draw_row

#: Row height and letter sizes in tenths of a millimetre, for plain and for big print.
SIZES = {False: (240.0, 44.0, 34.0), True: (340.0, 66.0, 46.0)}

#: Rows shrink to fit their room, but not below this.
LEAST_SHRINK = 0.6

#: Between two rows, and a line's name above one, in millimetres.
ROW_GAP_MM = 4

#: What the name of a printed line takes above its first row.
LINE_NAME_MM = 4

#: A count needs at least this much room, in tenths of a millimetre.
COUNT_ROOM = {False: 40.0, True: 62.0}


@dataclass(frozen=True)
class DrawnRow:
    """One row as SVG shapes; sizes in tenths of a millimetre; ``line``: the printed line it belongs to."""

    line: int
    width: float
    height: float
    shapes: str

    @property
    def svg(self) -> str:
        """A drawing of its own, at its real size."""
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {self.width:.0f} {self.height:.0f}"'
            f' width="{self.width / 10:.1f}mm" height="{self.height / 10:.1f}mm" font-family="{FAMILIES}"'
            f' role="img">{self.shapes}</svg>'
        )


def draw_rows(
    score: Score, counted: LineCount, hand: Hand | None, width: float, *, is_big: bool, room_mm: float | None = None
) -> list[DrawnRow]:
    """All rows, ``width`` tenths of a millimetre wide; made lower where ``room_mm`` would not hold them."""
    row_height, count_size, label_size = SIZES[is_big]
    anyway = frozenset(
        found.silent_quarters
        for one in (HANDS if hand is None else (hand,))
        for found in syncopations_of(score, one)
        if found.is_taught
    )
    rows = [replace(row, anyway=anyway) for row in _rows(counted, width, COUNT_ROOM[is_big])]
    quarters_wide = max(float(row.end_quarters - row.start_quarters) for row in rows)
    lines = len({row.measures[0].line for row in rows})
    wanted_mm = max(1.0, len(rows) * (row_height / 10 + ROW_GAP_MM) + lines * LINE_NAME_MM)
    shrink = 1.0 if room_mm is None else max(LEAST_SHRINK, min(1.0, room_mm / wanted_mm))
    style = RowStyle(width, row_height * shrink, count_size * max(0.75, shrink), label_size * max(0.75, shrink))
    return [
        DrawnRow(row.measures[0].line, width, style.height, draw_row(score, row, style, quarters_wide)) for row in rows
    ]


def _rows(counted: LineCount, inner: float, count_room: float) -> list[RulerRow]:
    """Printed lines as rows; a line with too little room for its counts is broken at its bars."""
    lines: list[list[int]] = []
    for index, bar in enumerate(counted.by):
        if not lines or bar.measure.line != counted.by[index - 1].measure.line:
            lines.append([])
        lines[-1].append(index)
    wanted = _quarter_room(counted, count_room)
    rows = []
    for line in lines:
        for part in _split(line, [bar.measure for bar in counted.by], inner / wanted):
            rows.append(RulerRow(tuple(counted.by[i].measure for i in part), tuple(counted.bars[i] for i in part)))
    return rows


def _quarter_room(counted: LineCount, count_room: float) -> float:
    """How wide a quarter must be for nearly all counts to be read."""
    gaps = sorted(
        float(b.offset_quarters - a.offset_quarters) for counts in counted.bars for a, b in itertools.pairwise(counts)
    )
    typical = gaps[len(gaps) // 20] if gaps else 1.0
    return count_room / max(typical, 1 / 8)


def _split(line: Sequence[int], measures: Sequence[Measure], most_quarters: float) -> list[list[int]]:
    """The fewest nearly equal parts of a line that fit; single bars where even two do not."""
    for parts in range(1, len(line) + 1):
        size = -(-len(line) // parts)
        chunks = [list(line[i : i + size]) for i in range(0, len(line), size)]
        if size == 1 or all(float(sum(measures[i].length_quarters for i in c)) <= most_quarters for c in chunks):
            return chunks
    return [list(line)]


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
