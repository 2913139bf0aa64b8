"""A question to the student: of which kind, what is offered, what is right.

Bars by name, notes by id. Source: docs/trade.md 3.1 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class QuestionKind(StrEnum):
    SAME_BARS = "same-bars"
    SAME_RHYTHM = "same-rhythm"
    NAMES = "names"
    SKIPS = "skips"
    RHYTHMS = "rhythms"
    ALMOST = "almost"
    MOVES = "moves"
    FINGERS = "fingers"


#: What each kind asks, in words.
KIND_TITLES: dict[QuestionKind, str] = {
    QuestionKind.SAME_BARS: "Bars that are the same",
    QuestionKind.SAME_RHYTHM: "Bars of the same rhythm",
    QuestionKind.NAMES: "Names of notes",
    QuestionKind.SKIPS: "Steps and skips",
    QuestionKind.RHYTHMS: "How a bar is counted",
    QuestionKind.ALMOST: "The same but for one thing",
    QuestionKind.MOVES: "Where a hand moves",
    QuestionKind.FINGERS: "Where each finger first plays",
}


@dataclass(frozen=True)
class Question:
    """``notes``: ids of what it is about. ``many``: several options may be right. ``said``: the answer in words."""

    kind: QuestionKind
    key: str
    text: str
    measure_index: int
    notes: tuple[str, ...]
    options: tuple[str, ...]
    answer: frozenset[str]
    said: str
    many: bool = False
