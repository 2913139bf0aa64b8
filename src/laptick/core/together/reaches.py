"""Reaches: what one hand is to strike at once and cannot span, with what teachers let it choose.

Source: docs/trade.md 3.2 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.together.events import events_of
from laptick.core.together.spans import OCTAVE, Family, Span
from laptick.core.together.windows import Grip, grips_of, windows_of


class Choice(StrEnum):
    ROLL = "roll"
    RELEASE_TO_THE_PEDAL = "release-to-the-pedal"
    REDISTRIBUTE = "redistribute"
    LEAVE_ONE_OUT = "leave-one-out"


@dataclass(frozen=True, slots=True)
class Reach:
    """``steps`` from the lowest key to the highest."""

    hand: Hand
    measure_index: int
    offset_quarters: Quarters
    steps: int
    choices: tuple[Choice, ...]


def reaches_of(score: Score, span: Span = OCTAVE) -> list[Reach]:
    """Every reach of both hands, in order."""
    return REACHES.of(score, span, lambda: _reaches(score, span))


REACHES: Kept[Score, Span, list[Reach]] = Kept()


def _reaches(score: Score, span: Span) -> list[Reach]:
    found = []
    others = {event.ticks: event.struck + event.held for bar in events_of(score) for event in bar.events}
    for hand in HANDS:
        grips = grips_of(score, hand)
        for window in windows_of(score, hand, span):
            if window.family is not Family.REACH:
                continue
            for grip in grips[window.first : window.last + 1]:
                steps = grip.keys[-1][0] - grip.keys[0][0]
                offset = grip.onset_quarters - score.measures[grip.measure_index].start_quarters
                busy = [s.pitch for s in others[grip.ticks] if s.hand is not hand and s.pitch is not None]
                found.append(Reach(hand, grip.measure_index, offset, steps, _choices(grip, hand, busy, span)))
    return sorted(found, key=lambda one: (one.measure_index, one.offset_quarters, HANDS.index(one.hand)))


def _choices(grip: Grip, hand: Hand, busy: list[int], span: Span) -> tuple[Choice, ...]:
    """The other hand may take the key nearest to it where it can span that with its own."""
    nearest = grip.keys[0][1] if hand is Hand.RIGHT else grip.keys[-1][1]
    helps = max((abs(nearest - key) for key in busy), default=0) <= span.semitones
    can = [Choice.ROLL, Choice.RELEASE_TO_THE_PEDAL, *([Choice.REDISTRIBUTE] if helps else [])]
    return (*can, Choice.LEAVE_ONE_OUT) if len(grip.keys) > 2 else tuple(can)
