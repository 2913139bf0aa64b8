"""Makes src/laptick/fonts/laptick-signs.woff2: the accidentals and the shapes of states, drawn here, for texts whose
font has none.

Run: .venv/bin/python tools/make_signs_font.py   (after ./laptick test; the file is kept in the repository)
"""

from __future__ import annotations

from pathlib import Path

from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen

TARGET = Path(__file__).resolve().parent.parent / "src" / "laptick" / "fonts" / "laptick-signs.woff2"

#: A fixed moment (seconds from 1904), so that the same drawing gives the same file.
MADE = 3_800_000_000

Point = tuple[float, float]


def bar(x0: float, x1: float, y0: float, y1: float, thick: float) -> list[Point]:
    """A stroke from (x0, y0) to (x1, y1) that is ``thick`` high."""
    return [(x0, y0), (x1, y1), (x1, y1 + thick), (x0, y0 + thick)]


def stem(x: float, low: float, high: float, wide: float = 52) -> list[Point]:
    return [(x, low), (x + wide, low), (x + wide, high), (x, high)]


def slope(x0: float, y0: float, x1: float, y1: float, wide: float) -> list[Point]:
    return [(x0, y0), (x0 + wide, y0), (x1 + wide, y1), (x1, y1)]


DIAMOND: list[Point] = [(350, -20), (640, 320), (350, 660), (60, 320)]
DIAMOND_HOLE: list[Point] = [(350, 72), (140, 320), (350, 568), (560, 320)]

#: Code → name, advance and straight-sided outlines, in thousandths of the type size; the capital height is about 670.
SHARP = [stem(140, -70, 690), stem(300, -10, 750), bar(50, 440, 165, 275, 92), bar(50, 440, 415, 525, 92)]
NATURAL = [stem(70, 90, 760), stem(290, -80, 590), bar(70, 342, 110, 190, 88), bar(70, 342, 410, 490, 88)]
DOUBLE_SHARP = [
    slope(95, 160, 325, 520, 110), slope(325, 160, 95, 520, 110),
    stem(60, 140, 250, 130), stem(340, 140, 250, 130), stem(60, 430, 540, 130), stem(340, 430, 540, 130),
]  # fmt: skip
SIGNS: dict[int, tuple[str, int, list[list[Point]]]] = {
    0x266D: ("flat", 430, [stem(70, 0, 760)]),
    0x266E: ("natural", 410, NATURAL),
    0x266F: ("sharp", 490, SHARP),
    0x1D12A: ("doublesharp", 530, DOUBLE_SHARP),
    0x2190: ("left", 760, [stem(260, 285, 355, 430), [(330, 90), (330, 550), (70, 320)]]),
    0x2191: ("up", 560, [stem(245, 20, 420, 70), [(50, 390), (510, 390), (280, 650)]]),
    0x2192: ("right", 760, [stem(70, 285, 355, 430), [(430, 90), (690, 320), (430, 550)]]),
    0x2193: ("down", 560, [stem(245, 220, 620, 70), [(50, 250), (280, -10), (510, 250)]]),
    0x25C7: ("diamond", 700, [DIAMOND, DIAMOND_HOLE]),
    0x25CB: ("circle", 780, []),
    0x25CF: ("disc", 780, []),
    0x25D0: ("halfdisc", 780, []),
}


def draw(pen: T2CharStringPen, name: str, outlines: list[list[Point]]) -> None:
    for outline in outlines:
        pen.moveTo(outline[0])
        for point in outline[1:]:
            pen.lineTo(point)
        pen.closePath()
    for curves in ROUND.get(name, []):
        pen.moveTo(curves[0])
        for one, two, end in zip(curves[1::3], curves[2::3], curves[3::3], strict=True):
            pen.curveTo(one, two, end)
        pen.closePath()


def circle(x: float, y: float, radius: float, *, is_hole: bool = False) -> list[Point]:
    """A circle as four curves; a hole runs the other way round."""
    k, r = radius * 0.5523, radius
    points = [
        (x + r, y), (x + r, y + k), (x + k, y + r), (x, y + r), (x - k, y + r), (x - r, y + k), (x - r, y),
        (x - r, y - k), (x - k, y - r), (x, y - r), (x + k, y - r), (x + r, y - k), (x + r, y),
    ]  # fmt: skip
    return points[::-1] if is_hole else points


#: The belly of the flat, and its foot, all the same way round as the stem.
BELLY: list[Point] = [
    (122, 235), (190, 335), (296, 350), (296, 272), (296, 200), (220, 150), (122, 100), (105, 66), (87, 33), (70, 0),
    (230, 80), (385, 150), (385, 275), (385, 430), (180, 410), (122, 300),
]  # fmt: skip
DISC, INSIDE = circle(390, 320, 330), circle(390, 320, 265, is_hole=True)
HALF: list[Point] = [
    (390, 590), (241, 590), (120, 469), (120, 320), (120, 171), (241, 50), (390, 50), (390, 230), (390, 410),
    (390, 590),
]  # fmt: skip

#: Outlines of curves: a start, then two handles and an end each.
ROUND: dict[str, list[list[Point]]] = {
    "flat": [BELLY], "circle": [DISC, INSIDE], "disc": [DISC], "halfdisc": [DISC, INSIDE, HALF],
}  # fmt: skip


def main() -> None:
    names = [".notdef", *(name for name, _, _ in SIGNS.values())]
    builder = FontBuilder(1000, isTTF=False)
    builder.setupGlyphOrder(names)
    builder.setupCharacterMap({code: name for code, (name, _, _) in SIGNS.items()})
    strings = {".notdef": T2CharStringPen(500, None).getCharString()}
    for name, advance, outlines in SIGNS.values():
        pen = T2CharStringPen(advance, None)
        draw(pen, name, outlines)
        strings[name] = pen.getCharString()
    builder.setupCFF("LapTickSigns", {"FullName": "Lap Tick Signs"}, strings, {})
    builder.setupHorizontalMetrics({".notdef": (500, 0)} | {n: (a, 50) for n, a, _ in SIGNS.values()})
    builder.setupHorizontalHeader(ascent=800, descent=-200)
    builder.setupNameTable({"familyName": "Lap Tick Signs", "styleName": "Regular", "psName": "LapTickSigns"})
    builder.setupOS2(sTypoAscender=800, sTypoDescender=-200, usWinAscent=800, usWinDescent=200)
    builder.setupPost()
    builder.font["head"].created = builder.font["head"].modified = MADE
    builder.font.recalcTimestamp = False
    builder.font.flavor = "woff2"
    builder.font.save(TARGET)
    print(f"{TARGET.name}: {TARGET.stat().st_size} bytes")


if __name__ == "__main__":
    main()
