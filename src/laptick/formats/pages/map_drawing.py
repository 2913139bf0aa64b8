"""The together map on paper: on the ruler where each hand stands and moves, which ratio the bars have and which seams
are hard; and in words where it is hardest.

Black and white safe: a bracket with its name above the right hand and below the left, an arrow from when a hand can go
to where it must be, a notch that hangs deeper where it is harder to go on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from html import escape

from laptick.core.base.units import Bpm, Quarters
from laptick.core.practice.reading_aids import reading_aids
from laptick.core.rhythm.lines import alike_lines, line_words
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.together.events import events_of
from laptick.core.together.names import name_of_position
from laptick.core.together.seams import seams_of
from laptick.core.together.shifts import positions_of, shifts_of
from laptick.core.together.spans import Span
from laptick.core.together.telling import TOLD_POINTS, go_from, hardest_first
from laptick.core.together.windows import grips_of
from laptick.formats.pages.letters import PLAIN, word_width

#: So many places are told, the hardest first.
MOST_TOLD = 8


@dataclass(frozen=True, slots=True)
class Bracket:
    """Where a hand stands, from its first strike there to the end of what it struck last."""

    hand: Hand
    start_quarters: Quarters
    end_quarters: Quarters
    name: str


@dataclass(frozen=True, slots=True)
class Arrow:
    """A hand can go from an instant on, and must be there at another; without time both are one."""

    hand: Hand
    go_quarters: Quarters
    to_quarters: Quarters


@dataclass(frozen=True, slots=True)
class Notch:
    at_quarters: Quarters
    points: float


@dataclass(frozen=True)
class MapOnPaper:
    """``ratios``: by a bar's index, where it is another than in the bar before; ``told``: (title, words) of the hardest
    places; ``lines``: what is said of lines that come again, and of what to point at in the notes."""

    brackets: tuple[Bracket, ...]
    arrows: tuple[Arrow, ...]
    notches: tuple[Notch, ...]
    ratios: dict[int, str]
    told: tuple[tuple[str, str], ...]
    lines: tuple[str, ...]


def map_on_paper(score: Score, hand: Hand | None, span: Span, quarter_bpm: Bpm) -> MapOnPaper:
    """``hand``: whose, ``None`` for both."""
    hands = HANDS if hand is None else (hand,)
    seams = [seam for seam in seams_of(score, quarter_bpm, span) if seam.points >= TOLD_POINTS]
    return MapOnPaper(
        tuple(bracket for one in hands for bracket in _brackets(score, one, span)),
        tuple(
            Arrow(one, go_from(score, shift), shift.to.onset_quarters)
            for one in hands
            for shift in shifts_of(score, one, span)
        ),
        tuple(
            Notch(score.measures[seam.to.measure_index].start_quarters + seam.to.offset_quarters, seam.points)
            for seam in seams
        ),
        dict(_ratios(score)) if hand is None and len(score.hands_present()) > 1 else {},
        tuple((place.title, place.words) for place in hardest_first(score, quarter_bpm, span)[:MOST_TOLD]),
        (
            *(line_words(score, alike) for alike in alike_lines(score)),
            *(aid.words for aid in reading_aids(score, span)[:MOST_TOLD]),
        ),
    )


def _brackets(score: Score, hand: Hand, span: Span) -> Iterator[Bracket]:
    grips = grips_of(score, hand)
    for position in positions_of(score, hand, span):
        first, last = grips[position.first], grips[position.last]
        yield Bracket(hand, first.onset_quarters, last.end_quarters, name_of_position(score, position, span))


def _ratios(score: Score) -> Iterator[tuple[int, str]]:
    before = ""
    for bar in events_of(score):
        ratio = str(bar.ratio) if bar.ratio else " ".join(str(one) for one in bar.mixture) or "free"
        if bar.events and ratio != before:
            yield bar.measure.index, ratio
            before = ratio


# -- on the ruler ------------------------------------------------------------------------------------------

#: What a map takes above a row and below it, as shares of it.
BAND, FOOT = 0.16, 0.05

#: Heights as shares of a row: of the names and of the brackets, above the row and below its left hand.
_NAMES = {Hand.RIGHT: -0.045, Hand.LEFT: 1.0}
_LINES = {Hand.RIGHT: -0.02, Hand.LEFT: 0.905}
_TICK = {Hand.RIGHT: 0.025, Hand.LEFT: -0.025}

#: A name's size, as a share of the labels'; from where, and how deep, the deepest notch hangs, as shares of the row.
_NAME_SIZE, _NOTCH, _DEEPEST = 0.82, 0.14, 0.1


def draw_map(
    drawn: MapOnPaper, start: Quarters, end: Quarters, x: Callable[[Quarters], float], sizes: tuple[float, float]
) -> Iterator[str]:
    """The shapes of a row from ``start`` to ``end``; ``sizes``: the row's height, and that of its labels."""
    height, label = sizes
    size = _NAME_SIZE * label
    for hand in HANDS:
        own = [b for b in drawn.brackets if b.hand is hand and b.start_quarters < end and b.end_quarters > start]
        for index, bracket in enumerate(own):
            low = x(max(bracket.start_quarters, start))
            following = x(own[index + 1].start_quarters) if index + 1 < len(own) else x(end)
            high = min(x(min(bracket.end_quarters, end)), following) - 4
            line, tick = _LINES[hand] * height, _TICK[hand] * height
            opens = f"M{low} {line + tick:.1f}V{line:.1f}" if bracket.start_quarters >= start else f"M{low} {line:.1f}"
            closes = f"V{line + tick:.1f}" if bracket.end_quarters <= end else ""
            yield f'<path d="{opens}H{high:.1f}{closes}" stroke="#000" stroke-width="2" fill="none"/>'
            # A name that does not fit is said for short, or not at all.
            for name in (bracket.name, bracket.name.removesuffix(" position").partition(":")[0]):
                if word_width(name, PLAIN) * size <= following - low - 2:
                    yield (
                        f'<text x="{low + 2:.1f}" y="{_NAMES[hand] * height:.1f}" font-size="{size:.1f}">'
                        f"{escape(name)}</text>"
                    )
                    break
    for arrow in drawn.arrows:
        if start <= arrow.to_quarters < end:
            yield _arrow(arrow, start, x, height)
    for notch in drawn.notches:
        if start <= notch.at_quarters < end:
            at, deep = x(notch.at_quarters), _DEEPEST * height * notch.points / 100
            yield f'<path d="M{at - 11:.1f} {_NOTCH * height:.1f}h22l-11 {deep:.1f}z" fill="#000"/>'


def _arrow(arrow: Arrow, start: Quarters, x: Callable[[Quarters], float], height: float) -> str:
    """To where the hand must be; a head alone where there is no time."""
    to, y = x(arrow.to_quarters), _LINES[arrow.hand] * height
    tail = x(max(arrow.go_quarters, start))
    stem = f"M{tail} {y:.1f}H{to - 12:.1f}" if to - tail > 14 else ""
    dashed = f'<path d="{stem}" stroke="#000" stroke-width="2" stroke-dasharray="6 5" fill="none"/>' if stem else ""
    return f'{dashed}<path d="M{to - 14:.1f} {y - 6:.1f}l12 6-12 6z" fill="#fff" stroke="#000" stroke-width="2"/>'


# -- in words ----------------------------------------------------------------------------------------------


def map_words(drawn: MapOnPaper) -> str:
    """Where it is hardest, each place with its reason, and which lines come again, as HTML."""
    told = "".join(f"<li><b>{escape(title)}.</b> {escape(words)}</li>" for title, words in drawn.told)
    lines = "".join(f"<p>{escape(line)}</p>" for line in drawn.lines)
    if not told:
        return f'<section class="map">{lines}</section>' if lines else ""
    return f'<section class="map"><h2>Hardest first</h2><ol>{told}</ol>{lines}</section>'
