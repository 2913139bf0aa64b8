"""Why a line is counted as it is: for each choice one sentence, with where it comes from and what it is good for.

Source: docs/trade.md 2.1–2.3 for what each is good for.
"""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.counting.choices import Density, RestWords
from laptick.core.counting.counted_beats import has_units
from laptick.core.counting.counts import CountedBar, LineCount
from laptick.core.counting.word_tables import System

#: Layer → how a sentence begins that tells of a choice made there.
FROM_LAYER: dict[str, str] = {
    "default": "Usual",
    "studio": "As the studio counts",
    "level": "For this level",
    "piece": "Chosen for this piece",
    "hand": "Chosen for this hand",
    "bar": "Chosen for this bar",
}

#: What each way of saying is good for.
SYSTEM_USE: dict[System, str] = {
    System.NUMBERS: "every place of the bar has a number or word of its own, so nobody is lost in it",
    System.BEATS: "only the beats are said, and what lies between them is felt",
    System.DURATION: "every length has its own syllable, so long notes are held out",
    System.FUNCTION: "every place in the beat has its own syllable, whatever the time signature",
    System.LENGTH: "only long and short, for a first look at a rhythm",
    System.HANDS: "which hand comes next, for putting hands together",
    System.NAMES: "the letters of the notes, said in rhythm",
}

#: What each density is good for.
DENSITY_USE: dict[Density, str] = {
    Density.BEAT: "a beat is divided only where the music divides it, which is the least to say",
    Density.BAR: "the finest division of a bar runs all through it, so that its beats come out even",
    Density.STEADY: "the finest division never stops, also under long notes: the cure for rushing them",
}


#: What each word for a silence is good for.
REST_USE: dict[RestWords, str] = {
    RestWords.NUMBER: "the count goes on through the silence, so nobody is lost in it",
    RestWords.REST: "the silence is named, so that nothing is held into it",
    RestWords.OFF: "the lifting is said at its beat, for hands that hold on",
    RestWords.SILENCE: "the silence is kept silent, for who feels its length already",
}


@dataclass(frozen=True)
class Reasons:
    """One sentence a choice; ``compound`` and ``grouping`` are empty where there is nothing to choose."""

    system: str
    density: str
    compound: str
    beat: str
    grouping: str
    rests: str


def reasons_of(counted: LineCount) -> Reasons:
    """Why a passage is counted so. Its first bar speaks for it; of choices that only some bars have, the first that
    has it."""
    first = counted.by[0]
    school = next((bar for bar in counted.by if has_units(bar.beats.meter)), None)
    unequal = next((bar for bar in counted.by if bar.beats.meter.is_asymmetric), None)
    return Reasons(
        _sentence(first, "system", SYSTEM_USE[first.resolved.system]),
        _sentence(first, "density", DENSITY_USE[first.resolved.density]),
        school.beats.reason if school else "",
        _beat(first),
        _grouping(unequal) if unequal else "",
        _sentence(first, "rests", REST_USE[first.resolved.rests]),
    )


def _from(bar: CountedBar, name: str) -> str:
    return FROM_LAYER[dict(bar.resolved.origins).get(name, "default")]


def _sentence(bar: CountedBar, name: str, use: str) -> str:
    return f"{_from(bar, name)}: {use}."


def _beat(bar: CountedBar) -> str:
    if bar.resolved.beat is None:
        return f"The beat of {bar.measure.signature}."
    return f"{_from(bar, 'beat')}, in place of the beat of {bar.measure.signature}."


def _grouping(bar: CountedBar) -> str:
    groups = " + ".join(str(beat.division) for beat in bar.beats.meter.beats)
    if bar.resolved.grouping is not None:
        return f"{_from(bar, 'grouping')}: {groups}."
    if bar.measure.beam_grouping is not None:
        return f"{groups}, as the beams join the notes."
    return f"{groups}, as is usual in {bar.measure.signature}; the beams do not tell."
