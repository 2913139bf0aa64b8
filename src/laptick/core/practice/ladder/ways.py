"""Other ways of joining, as rungs to choose: each with what to do, which hands sound, and what passes it.

Where only one hand sounds, a take of that hand is judged; what no take can show goes by word. A way is part of a rung's
key. Source: docs/trade.md 3.3 (other ways of joining), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.practice.ladder.stages import GateKind


@dataclass(frozen=True, slots=True)
class Way:
    """``hands``: those that sound; ``task``: what to do, ``why``: what for."""

    words: str
    task: str
    hands: str
    gate: GateKind
    why: str


WAYS: Mapping[str, Way] = {
    "steady-first": Way(
        "the steady hand first",
        "The steadier hand begins alone and repeats; the other enters over it when the beat runs by itself.",
        "both",
        GateKind.WORD,
        "The beat runs before it is hard.",
    ),
    "left-mimed": Way(
        "the left hand mimed",
        "Both hands move; only the right one sounds, the left plays on the fallboard or above the keys.",
        "right",
        GateKind.ONE_CLEAN,
        "Both hands are thought of, one is heard.",
    ),
    "right-mimed": Way(
        "the right hand mimed",
        "Both hands move; only the left one sounds, the right plays on the fallboard or above the keys.",
        "left",
        GateKind.ONE_CLEAN,
        "Both hands are thought of, one is heard.",
    ),
    "right-heavy": Way(
        "the right hand heavy, the left light",
        "The right hand sinks in, the left stays light; every strike of both as even as ever.",
        "both",
        GateKind.ONE_CLEAN,
        "The tune leads, and the beat does not follow the weight.",
    ),
    "left-heavy": Way(
        "the left hand heavy, the right light",
        "The left hand sinks in, the right stays light; every strike of both as even as ever.",
        "both",
        GateKind.ONE_CLEAN,
        "The floor leads, and the beat does not follow the weight.",
    ),
    "sung": Way(
        "the tune sung",
        "Hum or sing the tune while both hands play.",
        "both",
        GateKind.WORD,
        "Who can sing over it has room to listen.",
    ),
}

#: Cautions where the work happens, by what is done. Source: docs/trade.md 3.6 (common practice; no medical advice).
LAP_CAUTION = "Close the lid before you tap on it; sink in, never force."
REACH_CAUTION = "There is a reach beyond the hand here: two rounds, then another rung."
PEDAL_CAUTION = "Pedal only where the foot reaches the floor of it."
KEYS_CAUTION = "Shoulders and wrists loose, seat square to the keys. Stop on pain, tingling or numbness."
