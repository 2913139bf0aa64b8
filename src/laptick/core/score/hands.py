"""The hands and what they are called as keys of a document: right, left, and both for their composite."""

from __future__ import annotations

from typing import Literal

from laptick.core.score.score import Hand

HandName = Literal["right", "left", "both"]

HAND_KEYS: dict[str, Hand | None] = {"right": Hand.RIGHT, "left": Hand.LEFT, "both": None}
_NAMES: dict[Hand | None, HandName] = {Hand.RIGHT: "right", Hand.LEFT: "left", None: "both"}


def hand_key(hand: Hand | None) -> HandName:
    return _NAMES[hand]
