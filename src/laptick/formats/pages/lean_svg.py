"""A drawing in fewer shapes: for what lays pages out, whose time goes with their number.

Groups are given up, and what they hand down is written on the shapes; glyphs by reference and polygons become paths;
paths that look alike become one. Only drawings of our own and of the engraving library are given here: they are moved
and scaled, never turned.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from lxml import etree

_SVG = "{http://www.w3.org/2000/svg}"
_XLINK = "{http://www.w3.org/1999/xlink}href"

#: What a group hands down to its shapes.
_INHERITED = (
    "fill", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-dasharray", "color", "opacity",
    "font-family", "font-size", "font-weight", "font-style", "text-anchor",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Place:
    """``x`` → ``dx + sx · x``, ``y`` alike."""

    dx: float = 0.0
    dy: float = 0.0
    sx: float = 1.0
    sy: float = 1.0

    def within(self, outer: _Place) -> _Place:
        return _Place(
            outer.dx + outer.sx * self.dx, outer.dy + outer.sy * self.dy, outer.sx * self.sx, outer.sy * self.sy
        )

    @property
    def is_plain(self) -> bool:
        return (self.sx, self.sy) == (1.0, 1.0)


_CALL = re.compile(r"(translate|scale)\(\s*(-?[\d.]+)(?:[\s,]+(-?[\d.]+))?\s*\)")


def _place_of(transform: str | None) -> _Place | None:
    """A transform that only moves and scales; ``None`` for any other."""
    place, rest = _Place(), transform or ""
    for kind, first, second in _CALL.findall(rest):
        if kind == "translate":
            step = _Place(float(first), float(second or 0))
        else:
            step = _Place(0.0, 0.0, float(first), float(second or first))
        place = step.within(place)
    return place if not _CALL.sub("", rest).replace(",", "").strip() else None


_TOKEN = re.compile(r"[a-zA-Z]|-?(?:\d+\.?\d*|\.\d+)(?:e-?\d+)?")


def moved_path(d: str, place: _Place) -> str | None:
    """The commands of a path at another place; ``None`` for a path with arcs, whose radii would have to be turned."""
    out: list[str] = []
    command, along = "", 0
    for token in _TOKEN.findall(d):
        if token.isalpha():
            if token in "aA":
                return None
            command, along = token, 0
            out.append(token)
            continue
        value = float(token)
        is_x = command in "hH" or (command not in "vV" and along % 2 == 0)
        scaled = value * (place.sx if is_x else place.sy)
        if command.isupper():
            scaled += place.dx if is_x else place.dy
        out.append(f"{scaled:.1f}".removesuffix(".0"))
        along += 1
    return " ".join(out)


def lean_svg(svg: str) -> str:
    """The same picture."""
    root = etree.fromstring(svg.encode(), etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True))
    glyphs = _glyphs(root)
    paths: dict[tuple[tuple[str, str], ...], list[str]] = {}
    others: list[etree._Element] = []
    for shape, style, place in _shapes(root, {}, _Place()):
        d = _path_of(shape, place, glyphs)
        if d is None:
            others.append(_alone(shape, style, place))
            continue
        own = {str(k): str(v) for k, v in shape.attrib.items() if k in _INHERITED}
        paths.setdefault(tuple(sorted({**style, **own}.items())), []).append(d)
    lean = etree.Element(root.tag)
    for name, value in root.attrib.items():
        lean.set(name, value)
    for looks, parts in paths.items():
        lean.append(etree.Element(f"{_SVG}path", {**dict(looks), "d": " ".join(parts)}))
    lean.extend(others)
    return etree.tostring(lean, encoding="unicode")


def _glyphs(root: etree._Element) -> dict[str, tuple[str, _Place]]:
    """The glyphs that are drawn by reference: of each its path and where that lies in it."""
    found = {}
    for defined in root.iterfind(f".//{_SVG}defs/*"):
        inner = defined.findall(f".//{_SVG}path")
        place = _place_of(inner[0].get("transform")) if len(inner) == 1 else None
        if place is not None:
            found["#" + (defined.get("id") or "")] = (inner[0].get("d", ""), place)
    return found


def _path_of(
    shape: etree._Element,
    place: _Place,
    glyphs: Mapping[str, tuple[str, _Place]],
) -> str | None:
    """A shape as the commands of a path, where it can be one."""
    tag = str(shape.tag).removeprefix(_SVG)
    own = _place_of(shape.get("transform"))
    if own is None:
        return None
    at = own.within(place)
    if tag == "path":
        return shape.get("d", "") if at == _Place() else moved_path(shape.get("d", ""), at)
    if tag == "polygon":
        return moved_path("M" + (shape.get("points") or "").strip() + "Z", at)
    if tag == "use":
        href = str(shape.get(_XLINK) or shape.get("href") or "")
        glyph = glyphs.get(href)
        if glyph is None:
            return None
        d, inside = glyph
        begun = _Place(float(shape.get("x") or 0), float(shape.get("y") or 0))
        return moved_path(d, inside.within(begun.within(at)))
    return None


def _alone(shape: etree._Element, style: Mapping[str, str], place: _Place) -> etree._Element:
    """A shape that stays as it is, with what it inherits."""
    for name, value in style.items():
        if shape.get(name) is None:
            shape.set(name, value)
    for name in ("id", "class"):
        if name in shape.attrib:
            del shape.attrib[name]
    shape.tail = None
    if place == _Place():
        return shape
    words = f"translate({place.dx:g},{place.dy:g})" + ("" if place.is_plain else f" scale({place.sx:g},{place.sy:g})")
    shape.set("transform", f"{words} {shape.get('transform') or ''}".strip())
    return shape


def _shapes(
    element: etree._Element, style: Mapping[str, str], place: _Place
) -> Iterator[tuple[etree._Element, Mapping[str, str], _Place]]:
    """Every shape with what it inherits, and where it is."""
    for child in list(element):
        tag = str(child.tag).removeprefix(_SVG)
        if tag in ("defs", "title"):
            continue
        own = _place_of(child.get("transform"))
        if tag != "g" or own is None:  # a group that is turned stays whole
            yield child, style, place
            continue
        below = {**style, **{name: str(child.get(name)) for name in _INHERITED if child.get(name) is not None}}
        yield from _shapes(child, below, own.within(place))
