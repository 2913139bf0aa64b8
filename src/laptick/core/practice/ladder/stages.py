"""The nouns of a ladder: stages, gates, rungs.

A rung is one thing to be practised over one place with one set of hands; its key comes of these, never of a number, so
that evidence stays with it when the ladder is built anew. Source: docs/trade.md 1, 3.3 and 3.4 (common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

from laptick.core.base.activity import Activity
from laptick.core.base.units import Quarters
from laptick.core.practice.ladder.school import School
from laptick.core.score.within import Within


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

#: What is done at a stage where something is tapped or played; the others go by word.
STAGE_ACTIVITY: Mapping[Stage, Activity] = {
    Stage.COUNT: Activity.COUNT,
    Stage.RIGHT: Activity.PLAY,
    Stage.LEFT: Activity.PLAY,
    Stage.LAP: Activity.LAP,
    Stage.JOIN: Activity.PLAY,
    Stage.SEAMS: Activity.PLAY,
    Stage.TEMPO: Activity.PLAY,
    Stage.FINISH: Activity.PLAY,
}

#: What to do there, in a sentence.
STAGE_TASKS: Mapping[Stage, str] = {
    Stage.HEAR: "Listen, finger on the notes. Once slowly is enough.",
    Stage.COUNT: "Say every count with the click, pointing at the notes.",
    Stage.RIGHT: "The right hand alone, slowly, until it needs no thought.",
    Stage.LEFT: "The left hand alone, slowly, until it needs no thought.",
    Stage.LAP: "Both hands tap the rhythm on the knees or the closed lid.",
    Stage.LINE_UP: "Out of time: what goes down together, what next, what stays?",
    Stage.JOIN: "Both hands in time, very slowly. The beat runs on whatever happens.",
    Stage.SEAMS: "From before it to the first note after it, back and forth.",
    Stage.TEMPO: "Up, stop by stop, to its tempo.",
    Stage.FINISH: "Now it becomes music.",
}

#: The stages at which both hands are in time at the keys, and those at which the tempo itself is practised.
JOINED = frozenset({Stage.JOIN, Stage.SEAMS, Stage.TEMPO, Stage.FINISH})
AT_TEMPO = frozenset({Stage.TEMPO, Stage.FINISH})
#: Those that go by word: heard, said, lined up once.
BY_WORD = frozenset({Stage.HEAR, Stage.COUNT, Stage.LINE_UP})


class Beat(StrEnum):
    """What is heard of the beat while something is played, after the count-in."""

    CLICK = "click"
    BACKING = "backing"
    NONE = "none"


WITHOUT_CLICK = "without the click"


def stage_of_key(key: str) -> Stage | None:
    """The stage that a rung's key begins with; ``None`` of what is no key."""
    name = key.partition(":")[0]
    return Stage(name) if name in list(Stage) else None


#: A chunk of so few bars is played so many times round without a stop, and judged as one take.
SHORT_BARS, ROUNDS = 2, 4


@dataclass(frozen=True, slots=True)
class Rung:
    """``first`` and ``last``: indices of written bars; ``hands``: right, left or both; ``group``: what it belongs to
    (*line 1*); ``rounds``: times round without a stop; ``tempos`` in beats of ``beat_quarters``, the first to begin
    with; ``touch``: a cue said before the count-in, never judged; ``why``: the reason it is there; ``is_own``: the
    teacher made it, or changed something of it; ``way``: another way of joining (``ways``); ``within``: only that spot
    of the bars."""

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
    is_own: bool = False
    way: str | None = None
    within: Within | None = None

    @property
    def activity(self) -> Activity | None:
        return STAGE_ACTIVITY.get(self.stage)

    @property
    def bars(self) -> range:
        return range(self.first, self.last + 1)


@dataclass(frozen=True)
class Ladder:
    """The rungs from the floor up. ``first`` and ``last``: the bars it is of; ``same_as``: of every written bar of the
    piece the first one that holds the same notes."""

    rungs: tuple[Rung, ...]
    school: School
    first: int
    last: int
    same_as: tuple[int, ...]

    @cached_property
    def alone(self) -> Mapping[Stage, tuple[tuple[Rung, frozenset[int]], ...]]:
        """The rungs of each hand by itself, with what bars they are over, those that hold the same counted as one."""
        return {
            hand: tuple((rung, self.content(rung)) for rung in self.rungs if rung.stage is hand)
            for hand in (Stage.RIGHT, Stage.LEFT)
        }

    def content(self, rung: Rung) -> frozenset[int]:
        """The bars of a rung, those that hold the same counted as one."""
        return frozenset(self.same_as[bar] for bar in rung.bars)

    def rung(self, key: str) -> Rung | None:
        return next((rung for rung in self.rungs if rung.key == key), None)


def beat_of(school: School, rung: Rung) -> Beat:
    """What of the beat is heard at a rung, by school: none of it until the tempo stage, or at the last without it."""
    is_early = school["click"] == "at-tempo" and rung.stage not in AT_TEMPO
    if is_early or rung.key.endswith(f":{key_part(WITHOUT_CLICK)}"):
        return Beat.NONE
    return Beat(school["pulse"])


def key_part(name: str) -> str:
    """A name as it stands in a key."""
    return name.replace(" ", "-")
