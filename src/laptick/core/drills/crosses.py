"""Cross-rhythms: so many even strikes of the right hand against so many of the left in every beat, counted as one.

Source: docs/trade.md 2.2 and 3.5 (common practice).
"""

from __future__ import annotations

from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm
from laptick.core.drills.drill import Drill, Event, Frame, Key, laid
from laptick.core.drills.scales import Scale
from laptick.core.score.score import HANDS, Hand

#: Strikes in a beat that a hand may have; both the same would be no cross-rhythm.
STRIKES = (2, 3, 4)

#: Bars of such a drill, the last of which is held.
BARS, BEATS = 4, 4

#: Degrees struck by number of strikes: the hand stays in one place.
_FIGURES = {2: (0, 4), 3: (0, 2, 4), 4: (0, 2, 4, 2)}
_OCTAVES = {Hand.RIGHT: 5, Hand.LEFT: 3}


def cross_of(text: str) -> tuple[int, int]:
    """``3:2``: three of the right hand against two of the left.

    Raises:
        OptionError: none of those there are.
    """
    right, _, left = text.partition(":")
    numbers = {str(number): number for number in STRIKES}
    if right not in numbers or left not in numbers or right == left or {right, left} == {"2", "4"}:
        raise OptionError(f"“{text[:20]}” is no cross-rhythm.", where="ratio", todo="There are 3:2, 2:3, 4:3 and 3:4.")
    return numbers[right], numbers[left]


def make_cross(scale: Scale, ratio: str, bpm: Bpm | None = None) -> Drill:
    """A cross-rhythm in every beat of three bars and a held one, with the sentence that is said to it."""
    strikes = dict(zip(HANDS, cross_of(ratio), strict=True))
    lines = {}
    for hand in HANDS:
        figure = [scale.note(degree, _OCTAVES[hand]) for degree in _FIGURES[strikes[hand]]]
        beat = [Event(Fraction(1, strikes[hand]), (note,)) for note in figure]
        lines[hand] = [*beat * (BEATS * (BARS - 1)), Event(Fraction(BEATS), (figure[0],))]
    frame = Frame(f"{ratio.replace(':', ' against ')}, {scale.title}", bpm=bpm, fifths=scale.fifths)
    ends: dict[Hand, Key] = {hand: lines[hand][-1].keys[0] for hand in HANDS}
    return Drill(laid(frame, lines), (), (ends[Hand.RIGHT][0], ends[Hand.LEFT][0]), sentence_of(ratio))


def sentence_of(ratio: str) -> str:
    """``together, right, left, right``: what strikes one after the other in a beat."""
    right, left = cross_of(ratio)
    at = {Fraction(i, right): "right" for i in range(right)}
    for i in range(left):
        place = Fraction(i, left)
        at[place] = "together" if place in at else "left"
    return ", ".join(at[place] for place in sorted(at))
