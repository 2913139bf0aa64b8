"""The school of a ladder: how this studio, for this level or piece, goes from separate hands to together.

A table of questions with their answers; each answer says why somebody teaches so, each question which answer is usual
at which level. Keys and values are those of the command line. Source: docs/trade.md 3.3 (common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level


@dataclass(frozen=True, slots=True)
class Answer:
    """One way to do it: its value, how it is called, and why."""

    value: str
    words: str
    why: str


@dataclass(frozen=True, slots=True)
class SchoolQuestion:
    """``usual`` is the value that holds unless another is chosen; ``by_level`` where it is another at a level."""

    key: str
    words: str
    answers: tuple[Answer, ...]
    usual: str
    by_level: tuple[tuple[Level, str], ...] = ()

    def usual_at(self, level: Level) -> str:
        return dict(self.by_level).get(level, self.usual)

    def answer(self, value: str) -> Answer:
        return next(one for one in self.answers if one.value == value)


QUESTIONS: dict[str, SchoolQuestion] = {
    one.key: one
    for one in (
        SchoolQuestion(
            "scope",
            "A stage goes through",
            (
                Answer("line", "one line at a time", "A child sees one line and finishes it before the next."),
                Answer("piece", "the whole piece", "Every stage is met in the whole piece: the form is heard early."),
                Answer("cue", "from one cue word to the next", "What is called each time is learnt by itself first."),
            ),
            "line",
            ((Level.INTERMEDIATE, "piece"), (Level.ADVANCED, "piece")),
        ),
        SchoolQuestion(
            "first",
            "First",
            (
                Answer("hear", "hear it", "A tune in the ear is learnt faster."),
                Answer("count", "count it", "The ear copies feel, not length: it is counted before it is heard."),
            ),
            "hear",
        ),
        SchoolQuestion(
            "chunks",
            "The hands are joined",
            (
                Answer("overlap", "in overlapping pairs of bars", "Students stop at bar lines: every one is inside."),
                Answer("doubling", "in twice as much each time", "Fewer steps, each with all that is known."),
                Answer("line", "a line at a time", "For who reads ahead and needs no smaller steps."),
                Answer("from-the-end", "from the end backwards", "Every step ends on what is known best."),
                Answer("unique-first", "each different bar first", "What comes again is learnt once."),
                Answer("phrases", "a phrase at a time", "Music goes in breaths, and these need not end at bar lines."),
            ),
            "overlap",
        ),
        SchoolQuestion(
            "fray",
            "When joined hands fray",
            (
                Answer("back", "back to separate hands", "The hand that needs thought is practised by itself again."),
                Answer("never-back", "stay together, slower and smaller", "Joining is learnt by joining."),
            ),
            "never-back",
            ((Level.FIRST_YEAR, "back"),),
        ),
        SchoolQuestion(
            "click",
            "The click",
            (
                Answer("from-the-start", "from the first stage", "The beat is outside until it is inside."),
                Answer("at-tempo", "only at the tempo stage", "The beat is felt first and checked later."),
            ),
            "from-the-start",
        ),
        SchoolQuestion(
            "pulse",
            "The beat is heard as",
            (
                Answer("click", "a click", "Nothing else is heard: one hears whether one is with it."),
                Answer("backing", "a simple backing", "It carries, and is music."),
            ),
            "click",
        ),
        SchoolQuestion(
            "start",
            "The start",
            (
                Answer("separate", "each hand by itself", "One hand at least must need no thought before both play."),
                Answer("together", "both hands at once", "For who reads both: the hands are one from the start."),
            ),
            "separate",
        ),
        SchoolQuestion(
            "first-hand",
            "The first hand",
            (
                Answer("right", "the right", "The tune first."),
                Answer("left", "the left", "The floor first."),
                Answer("busier", "the one with more to do", "It takes longer: it begins."),
                Answer("steadier", "the one that is steadier", "It carries the other."),
            ),
            "busier",
        ),
        SchoolQuestion(
            "enters",
            "Joined, begins",
            (
                Answer("together", "both hands together", "The first strike is part of it."),
                Answer("steady-first", "the steady hand, the other enters over it", "The beat runs before it is hard."),
            ),
            "together",
        ),
        SchoolQuestion(
            "dynamics",
            "Loud and soft",
            (
                Answer("last", "last", "Once notes need no attention."),
                Answer("from-the-start", "from the start", "How it sounds is part of how it is played."),
            ),
            "last",
        ),
        SchoolQuestion(
            "pedal",
            "The pedal",
            (
                Answer("last", "last", "A foot is a third hand."),
                Answer("early", "early", "It is learnt with the notes that it joins."),
            ),
            "last",
        ),
        SchoolQuestion(
            "crescendo",
            "A crescendo grows",
            (
                Answer("by-bar", "one step a bar", "It can be counted."),
                Answer("held-back", "held back, then in the last bar", "It comes when it is wanted."),
            ),
            "by-bar",
        ),
        SchoolQuestion(
            "phrase-ends",
            "Phrase ends are",
            (
                Answer("marked", "as marked", "As the page says; both are tried where it says nothing."),
                Answer("lifted", "lifted", "A phrase breathes."),
                Answer("joined", "joined", "The line goes on."),
            ),
            "marked",
        ),
    )
}


@dataclass(frozen=True)
class School:
    """One value for every question. ``chosen``: the keys that somebody chose; the others are usual at the level."""

    values: Mapping[str, str]
    chosen: frozenset[str] = frozenset()

    def __getitem__(self, key: str) -> str:
        return self.values[key]


def school_of(level: Level, *layers: Mapping[str, str]) -> School:
    """The usual school of a level with what was chosen, the later layer before the earlier (studio, level, piece).

    Raises:
        OptionError: a key or a value that there is none of.
    """
    values = {key: question.usual_at(level) for key, question in QUESTIONS.items()}
    chosen: set[str] = set()
    for layer in layers:
        for key, value in layer.items():
            question = QUESTIONS.get(key)
            if question is None:
                raise OptionError(
                    f"there is no question “{key}” of school.",
                    where="school",
                    todo=f"There are {', '.join(QUESTIONS)}.",
                )
            if value not in {answer.value for answer in question.answers}:
                raise OptionError(
                    f"“{value}” is no answer to “{key}”.",
                    where=f"school.{key}",
                    todo=f"There are {', '.join(answer.value for answer in question.answers)}.",
                )
            values[key] = value
            chosen.add(key)
    return School(values, frozenset(chosen))


def parse_school(texts: list[str]) -> dict[str, str]:
    """``key=value`` as written in a shell.

    Raises:
        OptionError: without an equals sign.
    """
    found = {}
    for text in texts:
        key, equals, value = text.partition("=")
        if not equals:
            raise OptionError(f"“{text}” is no choice of school.", where="school", todo="Write it as key=value.")
        found[key] = value
    return found
