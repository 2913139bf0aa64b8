"""The verdict: what is good, one finding, one place, one cure, in a teacher's words.

Findings are ranked by what blocks the rung: a broken beat first, then strikes that are not there, then
how even, how together and how fast, each by how far it passes its limit. Student-facing sentences hold
no percentages. Source: handbook 3.3–3.4 and 4 (common practice).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.checking import CheckedTake
from laptick.core.evenness import group_figures
from laptick.core.findings import Finding
from laptick.core.limits import JUDGED_INTERVALS, JUDGED_POINTS
from laptick.core.performance import Expected, Task
from laptick.core.ratios import Parts
from laptick.core.score import Hand, Measure, Place, Score
from laptick.core.units import Quarters, length_plural, slower_mark


class Status(StrEnum):
    STEADY = "steady"
    NEARLY = "nearly"
    NOT_YET = "not-yet"
    COULD_NOT_FOLLOW = "could-not-follow"


STATUS_WORDS: dict[Status, str] = {
    Status.STEADY: "steady",
    Status.NEARLY: "nearly",
    Status.NOT_YET: "not yet",
    Status.COULD_NOT_FOLLOW: "could not follow",
}

#: What blocks a rung first.
RANKS: dict[str, int] = {
    "restart": 0,
    "hesitation": 0,
    "missing": 1,
    "wrong-notes": 1,
    "extra": 1,
    "rushed-run": 2,
    "limping": 2,
    "dot-flattened": 2,
    "triplet-bent": 2,
    "duplet": 2,
    "late-entry": 2,
    "uneven": 2,
    "hands-apart": 2,
    "drift": 2,
    "off-tempo": 3,
}

#: One finding up to this many times its limit is “nearly”.
NEARLY_RATIO = 2.5


@dataclass(frozen=True, slots=True)
class Cure:
    """``rung`` is the key of the rung to work on next, or ``None`` for the present one."""

    code: str
    text: str
    rung: str | None


@dataclass(frozen=True, slots=True)
class Said:
    """A finding in words."""

    finding: Finding
    text: str


@dataclass(frozen=True)
class Verdict:
    status: Status
    good: tuple[str, ...]
    main: Said | None
    also: Said | None
    place: Place | None
    place_text: str | None
    cure: Cure | None


def place_words(score: Score, place: Place) -> str:
    """Both names of a place: ``bar 7 · line 2, bar 3``."""
    measure = score.measure_of(place)
    words = f"bar {measure.number} · line {measure.line}, "
    words += f"bar {measure.bar_in_line}" if measure.bar_in_line else "pickup"
    return words if place.pass_number == 1 else f"{words}, {time_words(place.pass_number)}"


def time_words(pass_number: int) -> str:
    """``second time``."""
    names = {2: "second", 3: "third", 4: "fourth"}
    return f"{names.get(pass_number, f'{pass_number}th')} time"


def beat_words(measure: Measure, offset: Quarters) -> str:
    """``beat 4``, or ``just after beat 4``."""
    position = offset + measure.lead_quarters
    beats = measure.meter.beats
    number = max(i for i, beat in enumerate(beats, 1) if beat.start_quarters <= position or i == 1)
    return f"beat {number}" if beats[number - 1].start_quarters == position else f"just after beat {number}"


def hand_words(hand: Hand | None) -> str:
    return f"the {hand} hand’s" if hand else "the"


def give_verdict(
    checked: CheckedTake, findings: list[Finding], previous_codes: frozenset[str] | None = None
) -> Verdict:
    """Ranks the findings and says what to do.

    ``previous_codes``: the finding codes of the last take at the same rung, to say what is better now;
    ``None`` when there was none.
    """
    if checked.measured is None:
        return _not_followed(checked)
    ranked = sorted(findings, key=lambda f: (RANKS[f.code], -f.ratio))
    main = ranked[0] if ranked else None
    if main is None:
        status = Status.STEADY
    elif len(ranked) == 1 and main.ratio <= NEARLY_RATIO and RANKS[main.code] > 0:
        status = Status.NEARLY
    else:
        status = Status.NOT_YET
    also = next((f for f in ranked[1:] if main and f.code != main.code), None)
    return Verdict(
        status,
        _good(checked, {f.code for f in findings}, previous_codes),
        _say(checked.task, main) if main else None,
        _say(checked.task, also) if also else None,
        main.place if main else None,
        place_words(checked.task.score, main.place) if main else None,
        _cure(checked.task, main) if main else None,
    )


def _not_followed(checked: CheckedTake) -> Verdict:
    task = checked.task
    onset = checked.lost_at or task.expected[0].onset_quarters
    place = task.score.place_at(task.measures[0].start_quarters + onset)
    return Verdict(
        Status.COULD_NOT_FOLLOW,
        (),
        None,
        None,
        place,
        place_words(task.score, place),
        Cure("slower", f"Try again at {slower_mark(task.assigned_bpm)}, a few bars at a time.", None),
    )


def _good(checked: CheckedTake, codes: set[str], previous_codes: frozenset[str] | None) -> tuple[str, ...]:
    measured, matching, task = checked.measured, checked.matching, checked.task
    assert measured is not None
    good: list[str] = []
    for code in sorted(previous_codes or (), key=lambda c: RANKS.get(c, 9)):
        if code not in codes and code in BETTER_WORDS:
            good.append(BETTER_WORDS[code])
            break
    if not codes & {"restart", "hesitation"} and not matching.restarts and not measured.hesitations:
        good.append("You kept the beat going from start to end.")
    if not (matching.missing or matching.extra or matching.wrong):
        good.append(f"All {len(task.expected)} strikes are there, and none too many.")
    if len(measured.together) >= JUDGED_POINTS and "hands-apart" not in codes:
        good.append("Your hands land together.")
    if not codes & {"rushed-run", "limping", "uneven"}:
        fine = [f for f in group_figures(measured.runs) if f.intervals >= JUDGED_INTERVALS]
        if fine:
            shortest = min(fine, key=lambda f: f.interval_quarters).interval_quarters
            good.append(f"The {length_plural(shortest, task.naming)} are even.")
    if not codes & {"off-tempo", "drift"}:
        good.append("The tempo is the one that was asked for.")
    if not good:
        share = len(matching.matches) / len(task.expected)
        good.append("You played to the end." if share > 0.9 else "You began, and much of it is there.")
    return tuple(good[:3])


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
}


def _measure_of(task: Task, place: Place) -> Measure:
    return task.score.measure_of(place)


def _say(task: Task, finding: Finding) -> Said:
    return Said(finding, _SAY[finding.code](task, finding))


def _short_notes(task: Task, finding: Finding) -> str:
    length = finding.interval_quarters
    return "notes" if length is None else length_plural(length, task.naming)


def _say_hesitation(task: Task, finding: Finding) -> str:
    measure = _measure_of(task, finding.place)
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
        count = int(finding.amount)
        strikes = "strike" if count == 1 else "strikes"
        return f"{count} {strikes} {what}, most in bar {finding.place.measure}."

    return say


#: How a figure of three sounds that should be even.
BENT_WORDS: dict[Parts | None, str] = {(2, 1, 1): "long-short-short", (1, 1, 2): "short-short-long"}


def _say_triplet(task: Task, finding: Finding) -> str:
    bent = BENT_WORDS.get(finding.reads_as, "uneven")
    return f"Your triplets come out {bent}, most of all in bar {finding.place.measure}."


_SAY: dict[str, Callable[[Task, Finding], str]] = {
    "restart": _say_restart,
    "hesitation": _say_hesitation,
    "missing": _say_count("left out"),
    "extra": _say_count("too many"),
    "wrong-notes": _say_count("on the wrong side or key"),
    "rushed-run": lambda task, f: f"You rush the {_short_notes(task, f)} in bar {f.place.measure}.",
    "limping": _say_limping,
    "dot-flattened": lambda task, f: (
        f"Your dotted notes are turning into a triplet, most of all in bar {f.place.measure}: the long one is short."
    ),
    "triplet-bent": _say_triplet,
    "late-entry": lambda task, f: f"You come in late after rests, most of all in bar {f.place.measure}.",
    "duplet": lambda task, f: (
        f"Your long and short notes come out as two equal ones, most of all in bar {f.place.measure}."
    ),
    "uneven": lambda task, f: (
        f"Your {_short_notes(task, f)} are not even yet, least of all in bar {f.place.measure}."
        if f.interval_quarters
        else f"Your strikes fall round the beat, not on it, most of all in bar {f.place.measure}."
    ),
    "hands-apart": _say_hands_apart,
    "drift": _say_drift,
    "off-tempo": _say_off_tempo,
}


def _strike_before(task: Task, place: Place) -> Expected | None:
    measure = _measure_of(task, place)
    onset = measure.start_quarters - task.measures[0].start_quarters + place.offset_quarters
    return next((e for e in reversed(task.expected) if e.onset_quarters < onset), None)


def _loop_words(task: Task, place: Place) -> str:
    measure = _measure_of(task, place)
    there = f"{beat_words(measure, place.offset_quarters)} of bar {measure.number}"
    before = _strike_before(task, place)
    if before is None:
        return f"Practise the start of bar {measure.number}."
    home = task.score.measures[before.measure_index]
    here = beat_words(home, before.offset_quarters)
    if home.index != measure.index:
        here += f" of bar {home.number}"
    return f"Practise {here} into {there}, back and forth, then go on past it."


def _cure(task: Task, finding: Finding) -> Cure:
    mark = slower_mark(task.assigned_bpm)
    asked = f"{task.assigned_bpm:g}"
    place, notes = finding.place, _short_notes(task, finding)
    saying = task.expected[0].hand is None  # the rung is saying the count
    table: dict[str, Cure] = {
        "restart": Cure("go-on", f"At {mark}: whatever happens, go on; the beat does not wait.", None),
        "hesitation": Cure("seam-loop", _loop_words(task, place), None),
        "missing": Cure(
            "count-first",
            f"Say the count of bar {place.measure} with the click at {mark}, then again.",
            None if saying else "count",
        ),
        "extra": Cure(
            "count-first",
            f"Say the count of bar {place.measure} with the click at {mark}, then again.",
            None if saying else "count",
        ),
        "wrong-notes": Cure("line-up", f"Go through bar {place.measure} out of time: which hand is next?", None),
        "rushed-run": Cure(
            "count-steady",
            f"Count every one of the {notes}, through the long notes too, at {mark}.",
            None if saying else "count",
        ),
        "limping": Cure("even-pairs", f"Bar {place.measure} at {mark}: say the {notes} evenly while you tap.", None),
        "dot-flattened": Cure(
            "count-parts",
            f"Bar {place.measure} at {mark}: say all four parts of the long note and the short one, which comes last.",
            None if saying else "count",
        ),
        "triplet-bent": Cure(
            "count-parts",
            f"Bar {place.measure} at {mark}: say the three parts evenly and land on the next beat, then tap them.",
            None if saying else "count",
        ),
        "duplet": Cure(
            "count-parts",
            f"Bar {place.measure} at {mark}: say all three parts of the beat; the long note lasts two of them.",
            None if saying else "count",
        ),
        "late-entry": Cure(
            "say-the-rest",
            f"Bar {place.measure} at {mark}: say the rest aloud too, and come in with the word after it.",
            None if saying else "count",
        ),
        "uneven": Cure("slow-steady", f"Slow down to {mark} and keep the {notes} going in your head.", None),
        "hands-apart": Cure(
            "meet", f"Bar {place.measure} at {mark}: only where both hands meet, listen for one sound.", None
        ),
        "drift": Cure("with-click", f"Once through with the click at {asked}, once without.", None),
        "off-tempo": Cure("hear-tempo", f"Listen to two bars of click at {asked}, count along, then begin.", None),
    }
    return table[finding.code]
