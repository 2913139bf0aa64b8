"""The verdict: what is good, one finding, one place, one cure, in a teacher's words.

Findings are ranked by what blocks the rung: a broken beat first, then strikes that are not there, then
how even, how together and how fast, each by how far it passes its limit. Student-facing sentences hold
no percentages. Source: docs/trade.md 3.3–3.4 and 4 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.units import bpm_text, length_plural, slower_mark
from laptick.core.following.matching import Matching
from laptick.core.judging.cures import Cure, cure_for
from laptick.core.judging.figure_findings import BENT_CODES
from laptick.core.judging.finding import FINDING_FACTS, Finding, FindingCode
from laptick.core.judging.finding_words import say
from laptick.core.judging.findings import TOLD_WITHOUT_BEAT, UNEVEN_CODES, is_too_short
from laptick.core.judging.praising import Praise
from laptick.core.measuring.measured import CheckedTake, Measured
from laptick.core.score.places import bar_words, place_words
from laptick.core.score.score import Place


class Status(StrEnum):
    STEADY = "steady"
    NEARLY = "nearly"
    NOT_YET = "not-yet"
    COULD_NOT_FOLLOW = "could-not-follow"


STATUS_WORDS: dict[Status, str] = {
    Status.STEADY: "steady",
    Status.NEARLY: "nearly",
    Status.NOT_YET: "not yet",
    Status.COULD_NOT_FOLLOW: "lost its place",
}

#: One finding up to this many times its limit is “nearly”.
NEARLY_RATIO = 2.5


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


#: Nothing of a take's timing is known to be good.
NO_PRAISE = Praise()


def give_verdict(
    checked: CheckedTake,
    findings: list[Finding],
    previous_codes: frozenset[str] | None = None,
    *,
    back_to_one_hand: bool = False,
    elsewhere: str | None = None,
    praise: Praise = NO_PRAISE,
) -> Verdict:
    """Ranks the findings and says what to do.

    ``previous_codes``: the finding codes of the last take at the same rung, to say what is better now;
    ``None`` when there was none. ``back_to_one_hand``: the school for hands that fray when joined. ``elsewhere``: the
    bars that a take which could not be followed seems to be, in words. ``praise``: what of its timing is well inside
    the limits.
    """
    if checked.measured is None:
        return _not_followed(checked, elsewhere)
    strays = _out_of_place(checked, findings)
    # A tap that was matched to nothing is there all the same; of keys each is known.
    taps = not checked.performance.knows.pitch
    told = [f for f in findings if not (taps and _is_stray(f, strays))]
    ranked = sorted(told, key=lambda f: (_rank(f, strays), -f.ratio))
    main = ranked[0] if ranked else None
    if main is None:
        status = Status.STEADY
    elif len(ranked) == 1 and main.ratio <= NEARLY_RATIO and _rank(main, strays) > 0:
        status = Status.NEARLY
    else:
        status = Status.NOT_YET
    # A missing beat is nowhere in particular.
    place = main.place if main and not main.beatless else None
    also = next((f for f in ranked[1:] if main and f.code != main.code), None)
    return Verdict(
        status,
        _good(checked, _not_good(findings), previous_codes, praise),
        Said(main, say(checked.task, main)) if main else None,
        Said(also, say(checked.task, also)) if also else None,
        place,
        place_words(checked.task.score, place) if place else None,
        cure_for(checked.task, main, back_to_one_hand=back_to_one_hand) if main else _more_of_it(checked.measured),
    )


def _more_of_it(measured: Measured) -> Cure | None:
    """What to do after a take that is too short to tell."""
    if not is_too_short(measured):
        return None
    words = "Once through is too short to judge its timing: play it four times round without a stop."
    return Cure("round", words, None)


def _rank(finding: Finding, strays: frozenset[FindingCode]) -> int:
    if finding.beatless:
        return 0
    return OUT_OF_PLACE_RANK if _is_stray(finding, strays) else FINDING_FACTS[finding.code].rank


def _is_stray(finding: Finding, strays: frozenset[FindingCode]) -> bool:
    return finding.code in strays and finding.until is None  # bars left out are left out


#: What unevenness can explain is said after it.
OUT_OF_PLACE_RANK = 4


def _out_of_place(checked: CheckedTake, findings: list[Finding]) -> frozenset[FindingCode]:
    """``missing`` and ``extra`` when about as many are missing as are too many and the playing is uneven: the strikes
    are there, too far from their places to be told."""
    uneven = any(f.code in UNEVEN_CODES or f.code in BENT_CODES for f in findings)
    less, more = sorted((len(checked.matching.missing), len(checked.matching.extra)))
    return frozenset({FindingCode.MISSING, FindingCode.EXTRA}) if uneven and 0 < more <= 1.5 * less else frozenset()


def _not_followed(checked: CheckedTake, elsewhere: str | None) -> Verdict:
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
        _cure_of_lost(checked, elsewhere),
    )


def _cure_of_lost(checked: CheckedTake, elsewhere: str | None) -> Cure:
    if elsewhere:
        return Cure(
            "other-passage", f"This seems to be {elsewhere}: check it as that, or play the bars asked for.", None
        )
    heard = checked.performance.heard
    if heard is not None and not heard.is_recognised:
        return Cure(
            "other-piece", "Choose what was played, and record it again with the device near the strings.", None
        )
    bpm = slower_mark(checked.task.assigned_bpm)
    return Cure("slower", f"Try again at {bpm}, a few bars at a time.", None, bpm=bpm)


def _not_good(findings: list[Finding]) -> set[FindingCode]:
    """The codes that nothing is praised for: those found, and without a beat all that is measured against it."""
    codes = {f.code for f in findings}
    return codes | (FINDING_FACTS.keys() - TOLD_WITHOUT_BEAT) if any(f.beatless for f in findings) else codes


#: What is not better than last time where nothing is known of when keys were let go.
OF_KEY_UPS = frozenset({FindingCode.LONG_CUT, FindingCode.REST_RUN_OVER})


def _good(
    checked: CheckedTake, codes: set[FindingCode], previous_codes: frozenset[str] | None, praise: Praise
) -> tuple[str, ...]:
    measured, matching, task = checked.measured, checked.matching, checked.task
    assert measured is not None
    good: list[str] = []
    untold = codes if checked.performance.knows.key_ups else codes | OF_KEY_UPS
    for code, facts in FINDING_FACTS.items():
        if code in (previous_codes or ()) and code not in untold:
            good.append(facts.better)
            break
    if not codes & {FindingCode.RESTART, FindingCode.HESITATION} and not _broken(matching) and praise.on_the_beat:
        good.append("You kept the beat going from start to end.")
    if not (matching.missing or matching.extra or matching.wrong or matching.skips):
        good.append("Every note, nothing extra.")
    if praise.together and FindingCode.HANDS_APART not in codes:
        good.append("Your hands land together.")
    if praise.even is not None and not codes & NOT_EVEN:
        good.append(f"The {length_plural(praise.even, task.naming)} are even.")
    tempo_codes = {FindingCode.OFF_TEMPO, FindingCode.DRIFT, FindingCode.RUSHED_RUN, FindingCode.LONG_RUSHED}
    if praise.at_tempo and not codes & tempo_codes:
        good.append("Right at the tempo.")
    elif task.slower_passes and measured.median_bpm < SLOWER * task.assigned_bpm and not codes & tempo_codes:
        good.insert(0, f"Even, at {bpm_text(measured.median_bpm)}: slower is as good here.")
    if not good:
        share = len(matching.matches) / len(task.expected)
        good.append("You played to the end." if share > 0.9 else f"You kept going to {_last_bar(checked)}.")
    return tuple(good[:3])


#: Below that share of the tempo that was asked for it is a tempo of the student's own.
SLOWER = 0.95

#: With these no notes are called even, of whatever length.
NOT_EVEN = UNEVEN_CODES - {FindingCode.LONG_RUSHED}


def _last_bar(checked: CheckedTake) -> str:
    """The bar of the last strike that was played, and which time through."""
    matched, task = checked.matching.matches, checked.task
    last = max((match.expected_index for match in matched), default=0)
    return bar_words(task.place(task.expected[last]))


def _broken(matching: Matching) -> bool:
    """Did the player go back or leave bars out, but for a repeat?"""
    return not all(r.repeat for r in matching.restarts) or not all(s.repeat for s in matching.skips)
