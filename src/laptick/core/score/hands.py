"""The hands and what they are called as keys of a document: right, left, and both for their composite."""

from __future__ import annotations

from laptick.core.score.score import Hand

HAND_KEYS: dict[str, Hand | None] = {"right": Hand.RIGHT, "left": Hand.LEFT, "both": None}


def hand_key(hand: Hand | None) -> str:
    return hand.value if hand else "both"
