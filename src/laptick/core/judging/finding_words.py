"""Findings in a teacher's words to a student: one sentence each, without percentages. Common practice, no source."""

from __future__ import annotations

from collections.abc import Callable

from laptick.core.base.units import length_plural
from laptick.core.judging.cures import bars_words
from laptick.core.judging.finding import Finding, FindingCode
from laptick.core.measuring.ratios import Parts
from laptick.core.score.places import beat_words
from laptick.core.takes.task import Task


def say(task: Task, finding: Finding) -> str:
    """One finding as a sentence to the student."""
    return _SAY[finding.code](task, finding)


def _short_notes(task: Task, finding: Finding) -> str:
    length = finding.interval_quarters
    return "notes" if length is None else length_plural(length, task.naming)


def _struck(task: Task) -> str:
    return "notes" if task.asks_pitches else "taps"


def _say_hesitation(task: Task, finding: Finding) -> str:
    measure = task.score.measure_of(finding.place)
    if finding.place.offset_quarters == 0:
        return f"You stop before bar {measure.number}."
    return f"You stop before {beat_words(measure, finding.place.offset_quarters)} of bar {measure.number}."


def _say_restart(task: Task, finding: Finding) -> str:
    times = "" if finding.amount == 1 else f" {int(finding.amount)} times"
    return f"You went back{times}, to bar {finding.place.measure}."


def _say_drift(task: Task, finding: Finding) -> str:
    if finding.is_step:
        return f"You are {'faster' if finding.positive else 'slower'} from bar {finding.place.measure} on."
    return f"You get {'faster' if finding.positive else 'slower'} from the first bar to the last."


def _say_off_tempo(task: Task, finding: Finding) -> str:
    return f"You play {'faster' if finding.positive else 'slower'} than the click asked for."


def _say_limping(task: Task, finding: Finding) -> str:
    shape = "long-short" if finding.positive else "short-long"
    return f"Your {_short_notes(task, finding)} go {shape}: make them walk."


def _say_hands_apart(task: Task, finding: Finding) -> str:
    late = "left hand comes first" if finding.positive else "right hand comes first"
    return f"Your hands do not land together: the {late}."


def _say_count(what: str) -> Callable[[Task, Finding], str]:
    def say(task: Task, finding: Finding) -> str:
        if finding.until is not None:
            return f"You left out {bars_words(task, finding)}."
        count = int(finding.amount)
        strikes = _struck(task).removesuffix("s" if count == 1 else "")
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
    bent = BENT_WORDS.get(finding.reads_as, FindingCode.UNEVEN)
    return f"Your triplets come out {bent}, most of all in bar {finding.place.measure}."


def _who(finding: Finding, you: str, it: str) -> str:
    """Whoever does it, with the verb: *You come*, or *The left hand comes*."""
    return f"You {you}" if finding.hand is None else f"The {finding.hand} hand {it}"


def _some(finding: Finding) -> str:
    return "some of the " if finding.in_part else ""


def _say_rushed(task: Task, finding: Finding) -> str:
    notes, bar = _short_notes(task, finding), finding.place.measure
    what = f"the long runs of {notes}" if finding.long_runs else f"the {notes}"
    some = "some of " if finding.in_part else ""
    then = " and wait for the beat after them" if finding.waits else ""
    if some or then or finding.long_runs:
        return f"You rush {some}{what}{then}, most of all in bar {bar}."
    return f"You rush the {notes} in bar {bar}."


def _say_uneven(task: Task, finding: Finding) -> str:
    if finding.beatless:
        return "There is no steady beat yet: the time between the notes keeps changing."
    if finding.interval_quarters:
        return f"Your {_short_notes(task, finding)} are not even yet, least of all in bar {finding.place.measure}."
    return f"Your {_struck(task)} are not with the beat yet, least of all in bar {finding.place.measure}."


_SAY: dict[FindingCode, Callable[[Task, Finding], str]] = {
    FindingCode.RESTART: _say_restart,
    FindingCode.HESITATION: _say_hesitation,
    FindingCode.MISSING: _say_count("left out"),
    FindingCode.EXTRA: _say_count("too many"),
    FindingCode.WRONG_NOTES: _say_wrong,
    FindingCode.RUSHED_RUN: _say_rushed,
    FindingCode.LIMPING: _say_limping,
    FindingCode.DOT_FLATTENED: _say_dotted,
    FindingCode.TRIPLET_BENT: _say_triplet,
    FindingCode.LATE_THEN_COMPENSATED: lambda task, f: (
        f"You begin the {_short_notes(task, f)} late and hurry to catch up, most of all in bar {f.place.measure}."
    ),
    FindingCode.LONG_RUSHED: lambda task, f: f"You leave long notes too soon, most of all in bar {f.place.measure}.",
    FindingCode.LONG_CUT: lambda task, f: (
        f"The {f.hand} hand lets go of long notes too early, most of all in bar {f.place.measure}."
    ),
    FindingCode.REST_RUN_OVER: lambda task, f: (
        f"The {f.hand} hand holds through the rest, most of all in bar {f.place.measure}."
    ),
    FindingCode.LATE_ENTRY: lambda task, f: (
        f"{_who(f, 'come', 'comes')} in late after {_some(f)}rests, most of all in bar {f.place.measure}."
    ),
    FindingCode.LATE_LANDING: lambda task, f: (
        f"{_who(f, 'land', 'lands')} late after {_some(f)}runs of short notes, most of all in bar {f.place.measure}."
    ),
    FindingCode.DUPLET: lambda task, f: (
        f"Your long and short notes come out as two equal ones, most of all in bar {f.place.measure}."
    ),
    FindingCode.UNEVEN: _say_uneven,
    FindingCode.HANDS_APART: _say_hands_apart,
    FindingCode.DRIFT: _say_drift,
    FindingCode.OFF_TEMPO: _say_off_tempo,
}
