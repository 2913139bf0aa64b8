"""What is said aloud after a run: a few phrases from a small vocabulary, what was good first, then one thing, then what
comes now.

A phrase is short enough to be said in a breath, and one recording each serves for all: *It waited at bar* · *3* · *From
beat* · *4*. Findings go by their code. Source: docs/trade.md 3.4 and 5 (hands-free rounds); the wording is ours.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.practice.ladder.gates import Outcome
from laptick.core.practice.ladder.stages import Stage
from laptick.core.practice.ladder.tempo_steps import Move

#: A phrase has at most so many letters.
MOST_LETTERS = 24

STATUS_PHRASES: Mapping[Outcome, str] = {
    Outcome.STEADY: "Steady.",
    Outcome.NEARLY: "Nearly.",
    Outcome.NOT_YET: "Not yet.",
    Outcome.COULD_NOT_FOLLOW: "I lost you.",
}

#: What is said instead of *not yet* where the beat went on.
BEAT_KEPT = "Beat kept."

#: Of a finding, before the number of its bar.
FINDING_PHRASES: Mapping[str, str] = {
    "restart": "You went back at bar",
    "hesitation": "It waited at bar",
    "missing": "Notes left out at bar",
    "wrong-notes": "Other notes at bar",
    "extra": "Too many notes at bar",
    "rushed-run": "It rushed at bar",
    "limping": "It limped at bar",
    "dot-flattened": "A short dot at bar",
    "triplet-bent": "Uneven three at bar",
    "duplet": "Two, not three, at bar",
    "late-entry": "You came late at bar",
    "late-landing": "It landed late at bar",
    "uneven": "Uneven at bar",
    "late-then-compensated": "It began late at bar",
    "long-rushed": "Left too soon at bar",
    "long-cut": "Let go early at bar",
    "rest-run-over": "Rest held over at bar",
    "hands-apart": "Hands apart at bar",
}

#: Those that are nowhere in particular.
PLACELESS: Mapping[str, str] = {"drift": "The tempo moved.", "off-tempo": "Another tempo."}

MOVE_PHRASES: Mapping[Move, str] = {
    Move.FASTER: "Again, a little faster.",
    Move.AGAIN: "Once more.",
    Move.SLOWER: "Again, slower.",
    Move.REACHED: "That is its tempo.",
    Move.END: "Enough for today.",
    Move.END_AND_TELL: "Stop now, and rest.",
}

FROM_BEAT = "From beat"
PASSED, ALL_DONE = "That rung is done.", "All of it is done."
ENOUGH, SMALLER, BREAK = "Enough for today.", "Now something smaller.", "Time for a break."

#: What comes next, and in a session what to do.
STAGE_PHRASES: Mapping[Stage, str] = {
    Stage.HEAR: "Listen.",
    Stage.COUNT: "Now say the count.",
    Stage.RIGHT: "The right hand.",
    Stage.LEFT: "The left hand.",
    Stage.LAP: "Tap it on your lap.",
    Stage.LINE_UP: "Line it up, no hurry.",
    Stage.JOIN: "Hands together.",
    Stage.SEAMS: "The hardest place.",
    Stage.TEMPO: "Up to its tempo.",
    Stage.FINISH: "Now finish it.",
}
BAR, BARS, TO = "Bar", "Bars", "to"

#: Every phrase there is, but for numbers.
VOCABULARY: frozenset[str] = frozenset(
    {
        *STATUS_PHRASES.values(), BEAT_KEPT, *FINDING_PHRASES.values(), *PLACELESS.values(), *MOVE_PHRASES.values(),
        FROM_BEAT, PASSED, ALL_DONE, ENOUGH, SMALLER, BREAK, *STAGE_PHRASES.values(), BAR, BARS, TO,
    }
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Told:
    """What the checker said of a take, as far as it is spoken. ``code``: of the finding; ``bar``: its bar's name;
    ``beat``: where to start again, for what waits."""

    outcome: Outcome
    kept_the_beat: bool = False
    code: str | None = None
    bar: str | None = None
    beat: int | None = None


def said_of(told: Told) -> list[str]:
    """What was good, then the one thing: phrases and numbers, in order."""
    said = [STATUS_PHRASES[told.outcome]]
    if told.outcome is Outcome.NOT_YET and told.kept_the_beat:
        said = [BEAT_KEPT]
    if told.code in PLACELESS:
        return [*said, PLACELESS[told.code or ""]]
    phrase = FINDING_PHRASES.get(told.code or "")
    if phrase is None:
        return said
    if told.bar is None or not told.bar.isdigit():
        return [*said, f"{phrase.removesuffix(' at bar')}."]
    said += [phrase, told.bar]
    return [*said, FROM_BEAT, str(told.beat)] if told.code == "hesitation" and told.beat is not None else said


def sentence(phrases: list[str]) -> str:
    """As it stands on the screen."""
    text = " ".join(phrases)
    for number, phrase in enumerate(phrases):
        if phrase.isdigit() and (number + 1 == len(phrases) or not phrases[number + 1][0].islower()):
            text = text.replace(f" {phrase} ", f" {phrase}. ", 1) if number + 1 < len(phrases) else f"{text}."
    return text
