"""What to do at a rung and what to be careful of; other ways of joining, as rungs to choose: each with what to do,
which hands sound, and what passes it.

Where only one hand sounds, a take of that hand is judged; what no take can show goes by word. A way is part of a rung's
key. Source: docs/trade.md 3.3 (other ways of joining), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.base.activity import Activity
from laptick.core.practice.ladder.school import QUESTIONS, School
from laptick.core.practice.ladder.stages import STAGE_TASKS, STAGE_WORDS, GateKind, Rung, Stage
from laptick.core.score.score import MarkKind, Score


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
    "tune-sung": Way(
        "the tune sung over the left hand",
        "Hum or sing the tune; only the left hand plays.",
        "left",
        GateKind.ONE_CLEAN,
        "The left hand carries a tune before it is played.",
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

#: Where loud and soft, and the pedal, are part of it from the start, in a school in which they are.
_WITH_DYNAMICS = frozenset({Stage.RIGHT, Stage.LEFT, Stage.JOIN, Stage.SEAMS, Stage.TEMPO})
_WITH_PEDAL = _WITH_DYNAMICS - {Stage.RIGHT}


def stage_words(rung: Rung) -> str:
    """What is done at a rung, in two or three words."""
    return STAGE_WORDS[rung.stage] if rung.way is None else f"{STAGE_WORDS[rung.stage]}, {WAYS[rung.way].words}"


def task_of(score: Score, school: School, rung: Rung) -> str:
    """What to do at a rung, as it is taught."""
    if rung.way is not None:
        return WAYS[rung.way].task
    said = [STAGE_TASKS[rung.stage]]
    if rung.stage is Stage.JOIN and school["enters"] == "steady-first":
        said = [WAYS["steady-first"].task, "Then both from the start."]
    if rung.within is not None:
        words = rung.within.words(score.measures[rung.first], score.measures[rung.last])
        said = [f"{words[0].upper()}{words[1:]}, {_TIMES[rung.rounds > 1]}."]
    if rung.key.endswith(":loud-and-soft"):
        said.append(f"A crescendo grows {QUESTIONS['crescendo'].answer(school['crescendo']).words}.")
    if rung.stage in (Stage.RIGHT, Stage.LEFT) and school["phrase-ends"] != "marked":
        said.append(f"Phrase ends are {school['phrase-ends']}.")
    if school["dynamics"] == "from-the-start" and rung.stage in _WITH_DYNAMICS and _marked(score, rung, _LOUDNESS):
        said.append("Loud and soft as marked, already now.")
    if school["pedal"] == "early" and rung.stage in _WITH_PEDAL and _marked(score, rung, _PEDALLING):
        said.append("With the pedal as marked, already now.")
    return " ".join(said)


#: How a spot is gone over.
_TIMES = ("and no more", "again and again; the beat runs on in between")

_LOUDNESS, _PEDALLING = frozenset({MarkKind.DYNAMIC, MarkKind.WEDGE}), frozenset({MarkKind.PEDAL})


def _marked(score: Score, rung: Rung, kinds: frozenset[MarkKind]) -> bool:
    """Is there a mark of these kinds that holds somewhere in the bars of a rung? A loudness holds on to the end."""
    start, end = score.measures[rung.first].start_quarters, score.measures[rung.last].end_quarters
    for mark in score.marks:
        if mark.kind in kinds and mark.onset_quarters < end:
            until = score.end_quarters if mark.kind is MarkKind.DYNAMIC else mark.end_quarters or mark.onset_quarters
            if until >= start:
                return True
    return False


def caution_of(score: Score, school: School, rung: Rung, reaches: frozenset[int]) -> str | None:
    """What to be careful of there. ``reaches``: the bars with one beyond an octave."""
    if rung.stage is Stage.LAP:
        return LAP_CAUTION
    if rung.activity is not Activity.PLAY:
        return None
    if reaches & set(rung.bars):
        return f"{REACH_CAUTION} {KEYS_CAUTION}"
    is_pedalled = rung.stage is Stage.FINISH or (school["pedal"] == "early" and rung.stage in _WITH_PEDAL)
    if is_pedalled and _marked(score, rung, _PEDALLING):
        return f"{PEDAL_CAUTION} {KEYS_CAUTION}"
    return KEYS_CAUTION
