"""What a take of a drill is told besides its verdict: whether the hands met where a ratio scale lets them meet (both
there and at once; else which one was early or late), and whether each hand kept the touch that it was given.

Source: docs/trade.md 3.5: the check of a ratio scale is where the hands meet; 3.3, touch as a second layer (common
practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.drills.drill import Meeting
from laptick.core.score.score import HANDS, Hand

#: A single pair is told to be apart from so many times the limit on: one gap is noise, the limit is of their median.
SURE = 2.0

#: One hand is told to be early or late where the other is off by no more than this share of the gap.
CLEAR_SHARE = 0.25


@dataclass(frozen=True, slots=True)
class Met:
    """``is_met``: both hands struck it at once; ``time``: which time round."""

    meeting: Meeting
    is_met: bool
    text: str
    time: int = 1


def met_at(meeting: Meeting, deviation_ms: Mapping[Hand, float | None], limit_ms: float) -> Met:
    """What came of one meeting. ``deviation_ms``: of each hand's strike from its place on the student's own beat, +
    late; ``None``: it was not struck. ``limit_ms``: how far hands may be apart."""
    named = {Hand.RIGHT: meeting.right, Hand.LEFT: meeting.left}
    name = meeting.right.rstrip("0123456789-")
    away = [hand for hand in HANDS if deviation_ms.get(hand) is None]
    if meeting.same_key and len(away) == 1:
        return Met(meeting, True, f"You met on {name}, on one key: right.")  # it goes down once for both
    if away:
        where = " and ".join(f"the {hand.value} hand was not on {named[hand]}" for hand in away)
        return Met(meeting, False, f"You did not meet on {name}: {where}.")
    right, left = (deviation_ms[hand] or 0.0 for hand in HANDS)
    if abs(right - left) <= SURE * limit_ms:
        return Met(meeting, True, f"You met on {name}: right.")
    apart_ms = abs(right - left)
    if min(abs(right), abs(left)) > CLEAR_SHARE * apart_ms:
        # Both are off: at an end there is no beat but theirs to tell who was right.
        first, second = ("right", "left") if right < left else ("left", "right")
        words = f"the {first} hand came {apart_ms:.0f} ms before the {second}"
        return Met(meeting, False, f"You did not meet on {name}: {words}.")
    hand = Hand.RIGHT if abs(right) >= abs(left) else Hand.LEFT
    off = right if hand is Hand.RIGHT else left
    how = "late" if off > 0 else "early"
    return Met(meeting, False, f"You did not meet on {name}: the {hand.value} hand came {abs(off):.0f} ms {how}.")


#: So large a share of its notes, and a hand kept its touch.
TOUCH_KEPT = 0.8

#: Each touch with the kind of lengths it is measured by, and what its notes are.
TOUCH_KINDS: Mapping[str, tuple[str, str]] = {"staccato": ("short", "short"), "legato": ("slurred", "joined")}


@dataclass(frozen=True, slots=True)
class Touched:
    """Whether a hand kept the touch it was given."""

    hand: Hand
    is_kept: bool
    text: str


def touched(hand: Hand, touch: str, asked: int, kept: int) -> Touched | None:
    """``asked``: the notes whose length tells; ``kept``: those that were as asked. ``None`` where none tells."""
    if not asked:
        return None
    _, words = TOUCH_KINDS[touch]
    is_kept = kept >= TOUCH_KEPT * asked
    text = f"The {hand.value} hand {touch}: {kept} of {asked} notes {words}"
    return Touched(hand, is_kept, f"{text}: right." if is_kept else f"{text}.")
