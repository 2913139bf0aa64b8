"""The nouns of a ladder: stages, gates, rungs.

A rung is one thing to be practised over one place with one set of hands; its key comes of these, never of a number, so
that evidence stays with it when the ladder is built anew. Source: docs/trade.md 1, 3.3 and 3.4 (common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.units import Quarters
from laptick.core.practice.school import School


class Stage(StrEnum):
    HEAR = "hear"
    COUNT = "count"
    RIGHT = "right"
    LEFT = "left"
    LAP = "lap"
    LINE_UP = "line-up"
    JOIN = "join"
    SEAMS = "seams"
    TEMPO = "tempo"
    FINISH = "finish"


class GateKind(StrEnum):
    """What passes a rung: the word of who heard it; one clean take; two of the last three; two clean ones on different
    days."""

    WORD = "word"
    ONE_CLEAN = "one-clean"
    TWO_OF_THREE = "two-of-three"
    TWO_DAYS = "two-days"


#: As they are said.
GATE_WORDS: Mapping[GateKind, str] = {
    GateKind.WORD: "when you say so",
    GateKind.ONE_CLEAN: "one clean take",
    GateKind.TWO_OF_THREE: "two clean of the last three",
    GateKind.TWO_DAYS: "clean on two days",
}

STAGE_WORDS: Mapping[Stage, str] = {
    Stage.HEAR: "Hear it",
    Stage.COUNT: "Say the count",
    Stage.RIGHT: "Right hand",
    Stage.LEFT: "Left hand",
    Stage.LAP: "Lap it",
    Stage.LINE_UP: "Line it up",
    Stage.JOIN: "Together",
    Stage.SEAMS: "The seam",
    Stage.TEMPO: "Up to tempo",
    Stage.FINISH: "Finish",
}

#: A chunk of so few bars is played so many times round without a stop, and judged as one take.
SHORT_BARS, ROUNDS = 2, 4


@dataclass(frozen=True, slots=True)
class Rung:
    """``first`` and ``last``: indices of written bars; ``hands``: right, left or both; ``group``: what it belongs to
    (*line 1*); ``rounds``: times round without a stop; ``tempos`` in beats of ``beat_quarters``, the first to begin
    with; ``touch``: a cue said before the count-in, never judged; ``why``: the reason it is there."""

    key: str
    title: str
    stage: Stage
    first: int
    last: int
    hands: str
    group: str
    rounds: int
    tempos: tuple[int, ...]
    beat_quarters: Quarters
    gate: GateKind
    why: str
    touch: str | None = None


@dataclass(frozen=True)
class Ladder:
    """The rungs from the floor up."""

    rungs: tuple[Rung, ...]
    school: School
