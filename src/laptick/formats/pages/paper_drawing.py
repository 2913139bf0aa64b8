"""A drawing put on paper: the shapes of an SVG written as operators of a PDF page.

What lays out the page reads every shape of an SVG anew, glyph by glyph and letter by letter; of an engraved page that
is nearly all of its time. Here a glyph is read once and set where it is wanted, and a word is shaped once. Only
drawings of our own and of the engraving library are given here: paths, rectangles, circles, words in groups that are
moved and scaled. What else there is in one goes to the page as SVG, in its place.

Source: operators by ISO 32000-1, 8.5 (paths), 9.4 (text); paths by SVG 1.1, chapter 8. The picture keeps to what the
layout library asks of one: ``get_intrinsic_size`` and ``draw``.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from lxml import etree

from laptick.formats.pages.paper_paths import Place, number, path_operators, place_of, rounded_box

_SVG = "{http://www.w3.org/2000/svg}"
_XLINK = "{http://www.w3.org/1999/xlink}href"

#: What a group hands down to its shapes, and what holds where nobody says.
_INHERITED: dict[str, str] = {
    "fill": "black", "stroke": "none", "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter",
    "stroke-dasharray": "none", "color": "black", "opacity": "1", "font-family": "sans-serif", "font-size": "16",
    "font-weight": "400", "font-style": "normal", "text-anchor": "start",
}  # fmt: skip

_CAPS = {"butt": 0, "round": 1, "square": 2}
_JOINS = {"miter": 0, "round": 1, "bevel": 2}
_WEIGHTS = {"normal": 400, "bold": 700}

Style = Mapping[str, str]


@dataclass(frozen=True, slots=True)
class _Word:
    """A piece of text that starts where the one before it ended, unless it has a place of its own."""

    text: str
    style: Style
    x: float | None
    y: float | None


@dataclass(frozen=True, slots=True)
class _Step:
    """One thing to draw: ready operators, words, or what has to go as SVG."""

    place: Place
    operators: bytes = b""
    words: tuple[_Word, ...] = ()
    svg: str = ""


@dataclass
class Fonts:
    """The faces of one document, and the words that are shaped already: (text, family, size, weight, slant) → width and
    operators."""

    config: Any
    shaped: dict[tuple[str, str, float, int, str], tuple[float, list[Any]]] = field(default_factory=dict)


class PaperDrawing:
    """A drawing as the layout library takes pictures; ``svg``: its source, ``fonts``: those of the document."""

    def __init__(self, svg: str, fonts: Fonts) -> None:
        root = etree.fromstring(svg.encode(), etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True))
        self._box = tuple(float(v) for v in str(root.get("viewBox")).replace(",", " ").split())
        self._fonts = fonts
        self._head = {str(k): str(v) for k, v in root.attrib.items()}
        glyphs = _glyphs(root)
        self._steps = [_step(*shape, glyphs) for shape in _shapes(root, _below(root, _INHERITED), Place())]

    def get_intrinsic_size(self, _resolution: object, _font_size: object) -> tuple[None, None, float]:
        """No size of its own, only a shape."""
        return None, None, self._box[2] / self._box[3]

    def draw(self, stream: Any, width: float, height: float, _style: object) -> None:
        """Draws onto a page's stream, whose origin is the upper left corner, y downwards."""
        left, top, wide, high = self._box
        across, down = width / wide, height / high
        with stream.stacked():
            stream.transform(a=across, d=down, e=-left * across, f=-top * down)
            for step in self._steps:
                if step.operators:
                    stream.stream.append(step.operators)
                elif step.words:
                    self._say(stream, step)
                elif step.svg:
                    self._as_svg(stream, step)

    def _say(self, stream: Any, step: _Step) -> None:
        """Words one after the other, each stretch that has a place of its own about its anchor."""
        at_x, at_y = 0.0, 0.0
        for stretch in _stretches(step.words):
            shaped = [self._shaped(stream, word) for word in stretch]
            at_x = at_x if stretch[0].x is None else stretch[0].x
            at_y = at_y if stretch[0].y is None else stretch[0].y
            whole = sum(width for width, _ in shaped)
            at_x -= {"middle": whole / 2, "end": whole}.get(stretch[0].style["text-anchor"], 0.0)
            for word, (width, operators) in zip(stretch, shaped, strict=True):
                if operators:
                    place = Place(at_x, at_y, 1.0, -1.0).within(step.place)
                    stream.stream.append(
                        b"q\n" + place.operator + b"\n" + _colour(word.style["fill"], word.style, "rg") + b"\nBT"
                    )
                    stream.stream.extend(operators)
                    stream.stream.append(b"ET\nQ")
                at_x += width

    def _shaped(self, stream: Any, word: _Word) -> tuple[float, list[Any]]:
        style = word.style
        weight = _WEIGHTS.get(style["font-weight"]) or int(style["font-weight"])
        size = _length(style["font-size"])
        key = (word.text, style["font-family"], size, weight, style["font-style"])
        if key not in self._fonts.shaped:
            self._fonts.shaped[key] = _shape(stream, self._fonts.config, key)
        return self._fonts.shaped[key]

    def _as_svg(self, stream: Any, step: _Step) -> None:
        from weasyprint.images import SVGImage

        root = etree.Element(f"{_SVG}svg", {**self._head, "width": str(self._box[2]), "height": str(self._box[3])})
        group = etree.SubElement(root, f"{_SVG}g", {"transform": step.place.transform})
        group.append(etree.fromstring(step.svg))
        from xml.etree import ElementTree  # the library's own kind of tree

        tree = ElementTree.fromstring(etree.tostring(root))
        image = SVGImage(tree, "", None, None)
        image._svg.font_config = self._fonts.config
        with stream.stacked():
            stream.transform(e=self._box[0], f=self._box[1])
            image.draw(stream, self._box[2], self._box[3], None)


def _shape(stream: Any, config: Any, key: tuple[str, str, float, int, str]) -> tuple[float, list[Any]]:
    """The width of a word and the operators that show it at the origin, y upwards."""
    from math import inf

    from weasyprint.css.properties import INITIAL_VALUES
    from weasyprint.draw.text import draw_first_line
    from weasyprint.matrix import Matrix
    from weasyprint.svg.text import Style as Looks
    from weasyprint.svg.text import TextBox
    from weasyprint.text.line_break import split_first_line

    text, family, size, weight, slant = key
    if size <= 0 or not text:
        return 0.0, []
    looks = Looks()
    looks.update(INITIAL_VALUES)
    looks.font_config = config
    looks["font_family"] = [name.strip("\"' ") for name in family.split(",")]
    looks["font_size"], looks["font_weight"], looks["font_style"] = size, weight, slant
    layout, _, _, width, _, _ = split_first_line(text, looks, None, inf, 0)
    layout.reactivate(looks)
    begun = len(stream.stream)
    stream._current_font = None  # what shows the word names its font itself
    draw_first_line(stream, TextBox(layout, looks), "none", "none", Matrix())
    operators = stream.stream[begun:]
    del stream.stream[begun:]
    stream._current_font = None
    return width, operators


# -- reading ------------------------------------------------------------------------------------------------


def _shapes(element: etree._Element, style: Style, place: Place) -> Iterator[tuple[etree._Element, Style, Place]]:
    """Every shape in its order with what it inherits, and where it is."""
    for child in element:
        if not isinstance(child.tag, str):
            continue
        tag = child.tag.removeprefix(_SVG)
        if tag in ("defs", "title", "desc", "style"):
            continue
        below = _below(child, style)
        own = place_of(child.get("transform"))
        if tag != "g" or own is None:  # a group that is turned stays whole
            yield child, below, place
        else:
            yield from _shapes(child, below, own.within(place))


def _below(element: etree._Element, style: Style) -> Style:
    """What holds within an element, where ``style`` holds around it."""
    own = {str(name): str(value) for name, value in element.attrib.items() if name in _INHERITED}
    return {**style, **own} if own else style


def _glyphs(root: etree._Element) -> dict[str, tuple[str, Place]]:
    """The glyphs that are drawn by reference: of each its path and where that lies in it."""
    found = {}
    for defined in root.iterfind(f".//{_SVG}defs/*"):
        inner = defined.findall(f".//{_SVG}path")
        place = place_of(inner[0].get("transform")) if len(inner) == 1 else None
        if place is not None:
            found["#" + (defined.get("id") or "")] = (inner[0].get("d", ""), place)
    return found


def _step(element: etree._Element, style: Style, place: Place, glyphs: Mapping[str, tuple[str, Place]]) -> _Step:
    tag = str(element.tag).removeprefix(_SVG)
    own = place_of(element.get("transform"))
    if own is not None and style["opacity"] == "1":
        at = own.within(place)
        if tag == "text":
            return _Step(at, words=tuple(_words(element, style)))
        drawn = _outline(element, tag, glyphs)
        if drawn is not None:
            path, inside = drawn
            return _Step(at, operators=_painted(path, inside.within(at), style))
    for name, value in style.items():
        if element.get(name) is None:
            element.set(name, value)
    element.tail = None
    return _Step(place, svg=etree.tostring(element, encoding="unicode"))


def _outline(element: etree._Element, tag: str, glyphs: Mapping[str, tuple[str, Place]]) -> tuple[bytes, Place] | None:
    """The path of a shape, and where it lies in it; ``None``: not one that is known here."""

    def at(name: str) -> float:
        return _length(element.get(name) or "0")

    path: bytes | None = None
    inside = Place()
    match tag:
        case "path":
            path = path_operators(element.get("d", ""))
        case "line":
            path = path_operators(f"M{at('x1')} {at('y1')}L{at('x2')} {at('y2')}")
        case "polygon":
            path = path_operators("M" + (element.get("points") or "").strip() + "Z")
        case "polyline":
            path = path_operators("M" + (element.get("points") or "").strip())
        case "rect":
            radii = (at("rx" if element.get("rx") else "ry"), at("ry" if element.get("ry") else "rx"))
            path = rounded_box(at("x"), at("y"), at("width"), at("height"), radii)
        case "circle" | "ellipse":
            rx, ry = (at("r"), at("r")) if tag == "circle" else (at("rx"), at("ry"))
            path = rounded_box(at("cx") - rx, at("cy") - ry, 2 * rx, 2 * ry, (rx, ry))
        case "use":
            href = str(element.get(_XLINK) or element.get("href") or "")
            if href in glyphs:
                d, within = glyphs[href]
                path, inside = path_operators(d), within.within(Place(at("x"), at("y")))
    return None if path is None else (path, inside)


def _words(element: etree._Element, style: Style) -> Iterator[_Word]:
    """The words of a text with what each inherits; space as SVG 1.1, 10.15 collapses it."""

    def within(node: etree._Element, style: Style, is_first: bool) -> Iterator[_Word]:
        x = _length(str(node.get("x")).split()[0]) if node.get("x") else (0.0 if is_first else None)
        y = _length(str(node.get("y")).split()[0]) if node.get("y") else (0.0 if is_first else None)
        if (node.text and node.text.strip()) or not len(node):
            yield _Word(_collapsed(node.text or ""), style, x, y)
        elif x is not None or y is not None:
            yield _Word("", style, x, y)
        for child in node:
            if isinstance(child.tag, str):
                yield from within(child, _below(child, style), False)
            if child.tail and child.tail.strip():
                yield _Word(_collapsed(child.tail), style, None, None)

    yield from within(element, style, True)


def _collapsed(text: str) -> str:
    return re.sub(" +", " ", text.replace("\n", "").replace("\t", " "))


def _stretches(words: tuple[_Word, ...]) -> Iterator[list[_Word]]:
    """Words by what has a place of its own; one without words only says where the next begins."""
    stretch: list[_Word] = []
    for word in words:
        if stretch and (word.x is not None or word.y is not None):
            yield stretch
            stretch = []
        stretch.append(word)
    if stretch:
        yield stretch


# -- looks --------------------------------------------------------------------------------------------------


def _painted(path: bytes, place: Place, style: Style) -> bytes:
    """The operators that paint a path as its style wants it."""
    fill, stroke = style["fill"], style["stroke"]
    paint = {(True, True): b"B", (True, False): b"f", (False, True): b"S"}.get((fill != "none", stroke != "none"))
    if paint is None or not path:
        return b""
    lines = [b"q", place.operator]
    if fill != "none":
        lines.append(_colour(fill, style, "rg"))
    if stroke != "none":
        lines += [_colour(stroke, style, "RG"), _pen(style)]
    return b"\n".join([*lines, path, paint, b"Q"])


def _pen(style: Style) -> bytes:
    dashes = style["stroke-dasharray"]
    pattern = [] if dashes == "none" else [_length(part) for part in dashes.replace(",", " ").split()]
    words = [
        f"{number(_length(style['stroke-width']))} w",
        f"{_CAPS.get(style['stroke-linecap'], 0)} J",
        f"{_JOINS.get(style['stroke-linejoin'], 0)} j",
        *([f"[{' '.join(number(part) for part in pattern)}] 0 d"] if pattern else []),
    ]
    return "\n".join(words).encode()


def _colour(name: str, style: Style, operator: str) -> bytes:
    return _rgb(style["color"] if name == "currentColor" else name, operator)


@lru_cache(maxsize=256)
def _rgb(name: str, operator: str) -> bytes:
    from tinycss2.color4 import parse_color

    found = parse_color(name)
    channels = found.to("srgb").coordinates if found is not None and not isinstance(found, str) else (0, 0, 0)
    return f"{' '.join(number(float(part)) for part in channels)} {operator}".encode()


def _length(text: str) -> float:
    return float(text.removesuffix("px"))
