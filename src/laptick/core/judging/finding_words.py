"""Findings in a teacher's words to a student: one sentence each, without percentages. Common practice, no source."""

from __future__ import annotations

from collections.abc import Callable

from laptick.core.base.units import length_plural
from laptick.core.judging.cures import bars_words
from laptick.core.judging.finding import Finding
from laptick.core.measuring.ratios import Parts
from laptick.core.score.places import beat_words
from laptick.core.takes.task import Task

#: What is written beside the place of a finding on the ruler.
MARK_WORDS: dict[str, str] = {
    "rushed-run": "rushed here",
    "limping": "limps here",
    "uneven": "uneven here",
    "hands-apart": "furthest apart here",
    "hesitation": "the beat stops",
    "drift": "the tempo moves",
    "off-tempo": "other tempo from here",
    "missing": "left out here",
    "extra": "too many here",
    "wrong-notes": "another one here",
    "restart": "back to here",
    "late-then-compensated": "begins late here",
    "dot-flattened": "flat here",
    "triplet-bent": "bent here",
    "duplet": "two equal here",
    "long-rushed": "rushed on here",
    "long-cut": "let go early here",
    "rest-run-over": "sounds on here",
    "late-entry": "late here",
}

#: What is said when a finding of the last take is not there any more.
BETTER_WORDS: dict[str, str] = {
    "restart": "Better than last time: you did not go back.",
    "hesitation": "Better than last time: the beat did not stop.",
    "missing": "Better than last time: nothing was left out.",
    "extra": "Better than last time: no strike too many.",
    "wrong-notes": "Better than last time: the right keys.",
    "rushed-run": "Better than last time: the short notes kept their time.",
    "limping": "Better than last time: the pairs are even.",
    "dot-flattened": "Better than last time: the dotted notes have their length.",
    "triplet-bent": "Better than last time: the triplets are even.",
    "late-entry": "Better than last time: you come in on time after the rests.",
    "duplet": "Better than last time: long and short keep their lengths.",
    "uneven": "Better than last time: the beat is steadier.",
    "hands-apart": "Better than last time: your hands meet.",
    "drift": "Better than last time: the tempo stayed where it was.",
    "off-tempo": "Better than last time: the right tempo.",
    "late-then-compensated": "Better than last time: the runs begin on time.",
    "long-rushed": "Better than last time: the long notes have their time.",
    "long-cut": "Better than last time: the long notes sound to their end.",
    "rest-run-over": "Better than last time: the rests are silent.",
}


def say(task: Task, finding: Finding) -> str:
    """One finding as a sentence to the student."""
    return _SAY[finding.code](task, finding)


def _short_notes(task: Task, finding: Finding) -> str:
    length = finding.interval_quarters
    return "notes" if length is None else length_plural(length, task.naming)


def _say_hesitation(task: Task, finding: Finding) -> str:
    measure = task.score.measure_of(finding.place)
    if finding.place.offset_quarters == 0:
        return f"You stop before bar {measure.number}."
    return f"You stop before {beat_words(measure, finding.place.offset_quarters)} of bar {measure.number}."


def _say_restart(task: Task, finding: Finding) -> str:
    times = "" if finding.amount == 1 else f" {int(finding.amount)} times"
    return f"You went back{times}, to bar {finding.place.measure}."


def _say_drift(task: Task, finding: Finding) -> str:
    return f"You get {'faster' if finding.positive else 'slower'} from the first bar to the last."


def _say_off_tempo(task: Task, finding: Finding) -> str:
    return f"You play {'faster' if finding.positive else 'slower'} than the click asked for."


def _say_limping(task: Task, finding: Finding) -> str:
    shape = "long-short" if finding.positive else "short-long"
    return f"Your {_short_notes(task, finding)} limp: {shape} instead of even."


def _say_hands_apart(task: Task, finding: Finding) -> str:
    late = "left hand comes first" if finding.positive else "right hand comes first"
    return f"Your hands do not land together: the {late}."


def _say_count(what: str) -> Callable[[Task, Finding], str]:
    def say(task: Task, finding: Finding) -> str:
        if finding.until is not None:
            return f"You left out {bars_words(task, finding)}."
        count = int(finding.amount)
        what_is_struck = "note" if task.asks_pitches else "strike"
        strikes = what_is_struck if count == 1 else f"{what_is_struck}s"
        return f"{count} {strikes} {what}, most in bar {finding.place.measure}."

    return say


def _say_wrong(task: Task, finding: Finding) -> str:
    return _say_count("on the wrong key" if task.asks_pitches else "on the wrong side")(task, finding)


def _say_dotted(task: Task, finding: Finding) -> str:
    into = "two equal notes" if finding.reads_as == (1, 1) else "a triplet"
    return (
        f"Your dotted notes are turning into {into}, most of all in bar {finding.place.measure}: the long one is short."
    )


#: How a figure of three sounds that should be even.
BENT_WORDS: dict[Parts | None, str] = {(2, 1, 1): "long-short-short", (1, 1, 2): "short-short-long"}


def _say_triplet(task: Task, finding: Finding) -> str:
    bent = BENT_WORDS.get(finding.reads_as, "uneven")
    return f"Your triplets come out {bent}, most of all in bar {finding.place.measure}."


def _say_uneven(task: Task, finding: Finding) -> str:
    if finding.beatless:
        return "There is no steady beat yet: the time between the notes keeps changing."
    if finding.interval_quarters:
        return f"Your {_short_notes(task, finding)} are not even yet, least of all in bar {finding.place.measure}."
    return f"Your strikes fall round the beat, not on it, most of all in bar {finding.place.measure}."


_SAY: dict[str, Callable[[Task, Finding], str]] = {
    "restart": _say_restart,
    "hesitation": _say_hesitation,
    "missing": _say_count("left out"),
    "extra": _say_count("too many"),
    "wrong-notes": _say_wrong,
    "rushed-run": lambda task, f: f"You rush the {_short_notes(task, f)} in bar {f.place.measure}.",
    "limping": _say_limping,
    "dot-flattened": _say_dotted,
    "triplet-bent": _say_triplet,
    "late-then-compensated": lambda task, f: (
        f"You begin the {_short_notes(task, f)} late and hurry to catch up, most of all in bar {f.place.measure}."
    ),
    "long-rushed": lambda task, f: f"You rush on from long notes, most of all in bar {f.place.measure}.",
    "long-cut": lambda task, f: (
        f"The {f.hand} hand lets go of long notes too early, most of all in bar {f.place.measure}."
    ),
    "rest-run-over": lambda task, f: (
        f"The {f.hand} hand sounds on into the rests, most of all in bar {f.place.measure}."
    ),
    "late-entry": lambda task, f: f"You come in late after rests, most of all in bar {f.place.measure}.",
    "duplet": lambda task, f: (
        f"Your long and short notes come out as two equal ones, most of all in bar {f.place.measure}."
    ),
    "uneven": _say_uneven,
    "hands-apart": _say_hands_apart,
    "drift": _say_drift,
    "off-tempo": _say_off_tempo,
}
