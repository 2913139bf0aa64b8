"""Paths and places of an SVG as a PDF page writes them.

``Place`` moves and scales, and never turns. Paths come out as the operators
``m l c h`` with absolute coordinates. Source: SVG 1.1, chapters 7.6 and 8.3; ISO 32000-1, 8.5.2.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache


def number(value: float) -> str:
    """A number as a PDF writes one: never with an exponent."""
    text = f"{value:.5f}".rstrip("0").rstrip(".")
    return text if text not in ("", "-0") else "0"


@dataclass(frozen=True, slots=True)
class Place:
    """``x`` → ``dx + sx · x``, ``y`` alike."""

    dx: float = 0.0
    dy: float = 0.0
    sx: float = 1.0
    sy: float = 1.0

    def within(self, outer: Place) -> Place:
        """This place in another one."""
        return Place(
            outer.dx + outer.sx * self.dx, outer.dy + outer.sy * self.dy, outer.sx * self.sx, outer.sy * self.sy
        )

    @property
    def operator(self) -> bytes:
        return f"{number(self.sx)} 0 0 {number(self.sy)} {number(self.dx)} {number(self.dy)} cm".encode()

    @property
    def transform(self) -> str:
        """As SVG writes it."""
        return f"translate({number(self.dx)},{number(self.dy)}) scale({number(self.sx)},{number(self.sy)})"


_CALL = re.compile(r"(translate|scale)\(\s*(-?[\d.]+)(?:[\s,]+(-?[\d.]+))?\s*\)")


@lru_cache(maxsize=1024)
def place_of(transform: str | None) -> Place | None:
    """A transform that only moves and scales; ``None`` for any other."""
    place, rest = Place(), transform or ""
    for kind, first, second in _CALL.findall(rest):
        if kind == "translate":
            step = Place(float(first), float(second or 0))
        else:
            step = Place(0.0, 0.0, float(first), float(second or first))
        place = step.within(place)
    return place if not _CALL.sub("", rest).replace(",", "").strip() else None


_TOKEN = re.compile(r"[a-zA-Z]|-?(?:\d+\.?\d*|\.\d+)(?:e-?\d+)?")

#: Command → how many numbers each of its segments takes.
_TAKES = {"m": 2, "l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2, "z": 0}

Point = tuple[float, float]


@lru_cache(maxsize=512)
def path_operators(d: str) -> bytes | None:
    """The operators of a path; ``None`` for one with arcs or with what is no path."""
    out: list[str] = []
    pen = _Pen()
    command, numbers = "", []
    for token in [*_TOKEN.findall(d), "M"]:
        if not token.isalpha():
            numbers.append(float(token))
            continue
        if command:
            takes = _TAKES.get(command.lower())
            if takes is None or (len(numbers) % takes if takes else numbers):
                return None
            for start in range(0, len(numbers), takes) if takes else (0,):
                out.append(pen.draw(command, numbers[start : start + takes]))
                # What follows a move without a new command are lines.
                command = {"m": "l", "M": "L"}.get(command, command)
        elif numbers:
            return None
        command, numbers = token, []
    return "\n".join(out).encode()


@dataclass(slots=True)
class _Pen:
    """Where a path stands, where its figure began, and the last control point of a curve (``cubic``, ``quadratic``)."""

    at: Point = (0.0, 0.0)
    begun: Point = (0.0, 0.0)
    cubic: Point | None = None
    quadratic: Point | None = None

    def draw(self, command: str, numbers: list[float]) -> str:
        """One segment as an operator."""
        kind = command.lower()
        if kind == "z":
            self.at, self.cubic, self.quadratic = self.begun, None, None
            return "h"
        x0, y0 = self.at if command.islower() else (0.0, 0.0)
        if kind in "hv":
            points = [(x0 + numbers[0], self.at[1]) if kind == "h" else (self.at[0], y0 + numbers[0])]
        else:
            points = [(x0 + numbers[i], y0 + numbers[i + 1]) for i in range(0, len(numbers), 2)]
        cubic = quadratic = None
        match kind:
            case "s":
                points.insert(0, self._mirrored(self.cubic))
            case "t":
                points.insert(0, self._mirrored(self.quadratic))
        if kind in "cs":
            cubic = points[1]
        elif kind in "qt":
            quadratic, end = points
            points = [_toward(self.at, quadratic), _toward(end, quadratic), end]
        self.at, self.cubic, self.quadratic = points[-1], cubic, quadratic
        if kind == "m":
            self.begun = self.at
        words = " ".join(f"{number(x)} {number(y)}" for x, y in points)
        return f"{words} {'m' if kind == 'm' else 'l' if len(points) == 1 else 'c'}"

    def _mirrored(self, control: Point | None) -> Point:
        if control is None:
            return self.at
        return 2 * self.at[0] - control[0], 2 * self.at[1] - control[1]


def _toward(end: Point, control: Point) -> Point:
    """Two thirds of the way to a quadratic curve's control point: where a cubic one has its own."""
    return end[0] + (control[0] - end[0]) * 2 / 3, end[1] + (control[1] - end[1]) * 2 / 3


#: How far a quarter circle's control points lie from its ends, in radii: (√2 − 1) · 4 / 3.
_KAPPA = 0.5522847498


@lru_cache(maxsize=512)
def rounded_box(x: float, y: float, width: float, height: float, radii: Point) -> bytes:
    """A rectangle with rounded corners; with radii of half its size an ellipse."""
    if width <= 0 or height <= 0:
        return b""
    r_x, r_y = min(radii[0], width / 2), min(radii[1], height / 2)
    if r_x <= 0 or r_y <= 0:
        return f"{number(x)} {number(y)} {number(width)} {number(height)} re".encode()
    k_x, k_y = r_x * (1 - _KAPPA), r_y * (1 - _KAPPA)
    right, bottom = x + width, y + height
    path = (
        f"M{x + r_x} {y}H{right - r_x}C{right - k_x} {y} {right} {y + k_y} {right} {y + r_y}"
        f"V{bottom - r_y}C{right} {bottom - k_y} {right - k_x} {bottom} {right - r_x} {bottom}"
        f"H{x + r_x}C{x + k_x} {bottom} {x} {bottom - k_y} {x} {bottom - r_y}"
        f"V{y + r_y}C{x} {y + k_y} {x + k_x} {y} {x + r_x} {y}Z"
    )
    return path_operators(path) or b""
