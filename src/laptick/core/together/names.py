"""What teachers call where a hand stands: *C position*, *A minor position*, *middle C position*, *modified C: 2 on E*.

A position is named by its lowest key, minor where its third is; the accidental is the one that sounds there, or the key
signature's. Where the fingerings put a finger on another key than its own, it is a modified one. With both thumbs on
middle C both hands are in the middle C position. Source: docs/trade.md 3.2 (common practice).
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.pitch import LETTERS, STEP_SEMITONES
from laptick.core.score.score import Hand, Mark, MarkKind, Score
from laptick.core.together.fingers import moved_finger
from laptick.core.together.shifts import Position, positions_of
from laptick.core.together.spans import CLOSED_STEPS, OCTAVE, Span
from laptick.core.together.windows import grips_of

#: Middle C as a white-key step.
MIDDLE_C = 28

#: Letters in the order in which key signatures sharpen them, and flatten them backwards.
SHARPENED = "FCGDAEB"

SIGNS = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "𝄪"}


def name_of_position(score: Score, position: Position, span: Span = OCTAVE) -> str:
    """What a position is called."""
    if _is_middle_c(score, position, span):
        return "middle C position"
    low = _key(score, position, position.low)
    third = _key(score, position, position.low + 2)
    minor = " minor" if third - low == 3 else ""
    letter = LETTERS[position.low % 7]
    sign = SIGNS.get(low - _white(position.low), "")
    named = f"{letter}{sign}{minor}"
    grips = grips_of(score, position.hand)[position.first : position.last + 1]
    moved = moved_finger(position.hand, position.low, {one for grip in grips for one in grip.fingered})
    if moved is None:
        return f"{named} position"
    finger, (step, key) = moved
    return f"modified {named}: {finger} on {LETTERS[step % 7]}{SIGNS.get(key - _white(step), '')}"


def _white(step: int) -> int:
    """The MIDI key of a step without an accidental."""
    return 12 * (step // 7 + 1) + STEP_SEMITONES[LETTERS[step % 7]]


def _key(score: Score, position: Position, step: int) -> int:
    """The MIDI key that a step has while the hand stands there: as it sounds, or by the key signature."""
    grips = grips_of(score, position.hand)[position.first : position.last + 1]
    sounding = [key for grip in grips for at, key in grip.keys if at == step]
    if sounding:
        return max(set(sounding), key=sounding.count)
    fifths = fifths_at(score, grips[0].onset_quarters)
    letter = LETTERS[step % 7]
    sharp = letter in SHARPENED[: max(0, fifths)]
    flat = letter in SHARPENED[::-1][: max(0, -fifths)]
    return _white(step) + sharp - flat


def fifths_at(score: Score, onset_quarters: Quarters) -> int:
    """The key signature that holds at an instant, in sharps (flats negative)."""
    marks = KEY_MARKS.of(score, None, lambda: [mark for mark in score.marks if mark.kind is MarkKind.KEY])
    at = bisect_right(marks, onset_quarters, key=lambda mark: mark.onset_quarters) - 1
    text = marks[at].text if at >= 0 else "0"
    return int(text) if text.lstrip("-").isdigit() else 0


#: The key signatures of a score, in order.
KEY_MARKS: Kept[Score, None, list[Mark]] = Kept()


def _is_middle_c(score: Score, position: Position, span: Span) -> bool:
    """Do both thumbs lie on middle C while the hand stands there?"""
    if not _thumb_on_middle_c(position):
        return False
    other = Hand.LEFT if position.hand is Hand.RIGHT else Hand.RIGHT
    begin, end = _ticks(score, position)
    stays = MIDDLE_C_STAYS.of(score, (other, span), lambda: _stays(score, other, span))
    # Positions follow one another: only the last one that begins before the end may reach into it.
    at = bisect_left(stays, (end, 0)) - 1
    return at >= 0 and stays[at][1] > begin


#: From when to when, in ticks, a hand's thumb lies on middle C.
MIDDLE_C_STAYS: Kept[Score, tuple[Hand, Span], list[tuple[int, int]]] = Kept()


def _stays(score: Score, hand: Hand, span: Span) -> list[tuple[int, int]]:
    return [_ticks(score, one) for one in positions_of(score, hand, span) if _thumb_on_middle_c(one)]


def _thumb_on_middle_c(position: Position) -> bool:
    return (position.low if position.hand is Hand.RIGHT else position.low + CLOSED_STEPS - 1) == MIDDLE_C


def _ticks(score: Score, position: Position) -> tuple[int, int]:
    grips = grips_of(score, position.hand)
    return grips[position.first].ticks, grips[position.last].end_ticks
