"""From a finding to a concrete next step: a table.

For every finding the first rule that fits is taken; rules look at the rung (saying the count, lapping, keys), at the
hands asked for, and at the school: whether hands that fray when joined go back to practising alone
(``back_to_one_hand``), or stay together, slower and smaller. Source: docs/trade.md 3.3 and 4 (common practice).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from laptick.core.base.units import bpm_text, length_plural, slower_mark
from laptick.core.judging.finding import Finding, FindingCode
from laptick.core.score.places import beat_words
from laptick.core.score.score import HANDS, Hand, Place
from laptick.core.score.within import within_between
from laptick.core.takes.task import Expected, Task


@dataclass(frozen=True, slots=True)
class Cure:
    """``rung`` is what to do next (the count, the lap, the keys), or ``None`` for the same as now; with what it names:
    ``measures`` (bars by name) and the spot ``within`` them, ``hands``, the tempo, ``bpm``, and how densely it is
    counted. ``None`` leaves each as it is."""

    code: str
    text: str
    rung: str | None
    measures: str | None = None
    hands: str | None = None
    bpm: float | None = None
    within: str | None = None
    density: str | None = None


#: The density of counting that keeps the finest division up through every beat (``counting/choices``).
STEADY = "steady"


@dataclass(frozen=True, slots=True)
class Asking:
    """What a cure depends on besides the finding."""

    saying: bool  # the rung is saying the count
    keys: bool  # it is played on keys, not tapped
    both: bool  # both hands were asked for
    one_hand: bool  # the finding is of one hand
    many: bool  # far past its limit
    whole_bars: bool  # several bars were left out
    beatless: bool  # there is no beat at all
    first_strike: bool  # nothing is struck before the place
    back_to_one_hand: bool


@dataclass(frozen=True, slots=True)
class Rule:
    """``text`` has the fields ``mark`` (a slower tempo), ``asked``, ``bar``, ``bars``, ``notes``, ``hand``,
    ``hand_capital`` and ``loop``."""

    code: str
    text: str
    rung: str | None = None
    when: Callable[[Asking], bool] = lambda asking: True
    density: str | None = None


#: How far past its limit a finding is *many*: the passage is too much at once.
MANY = 3.0

_COUNT = "Say the count of bar {bar} with the click at {mark}, then again."
_ALONE = Rule(
    "one-hand",
    "The {hand} hand alone, bar {bar} at {mark}, until it goes by itself; then both.",
    "play",
    lambda asking: asking.keys and asking.both and asking.one_hand and asking.back_to_one_hand,
)
_LAP = Rule(
    "lap-first",
    "Tap bar {bar} on your lap first, both hands, at {mark}; then at the keys.",
    "lap",
    lambda asking: asking.keys and asking.both,
)

CURES: dict[FindingCode, tuple[Rule, ...]] = {
    FindingCode.RESTART: (Rule("go-on", "At {mark}: whatever happens, go on; the beat does not wait."),),
    FindingCode.HESITATION: (
        Rule("start", "Practise the start of bar {bar}.", None, lambda asking: asking.first_strike),
        Rule("seam-loop", "{loop}"),
    ),
    FindingCode.MISSING: (
        Rule("left-out", "Find {bars} on the page and say the count there; then play on through it at {mark}.",
             None, lambda asking: asking.whole_bars),
        Rule("line-up", "Out of time, chord by chord through bar {bar}: what goes down, what stays, what comes next?",
             None, lambda asking: asking.keys),
        Rule("count-first", _COUNT, None, lambda asking: asking.saying),
        Rule("count-first", _COUNT, "count"),
    ),
    FindingCode.EXTRA: (
        Rule("line-up", "Out of time through bar {bar}: only the keys that are written, one event after the other.",
             None, lambda asking: asking.keys),
        Rule("count-first", _COUNT, None, lambda asking: asking.saying),
        Rule("count-first", _COUNT, "count"),
    ),
    FindingCode.WRONG_NOTES: (
        Rule("line-up", "Go through bar {bar} out of time, fingers on their keys before they play.",
             None, lambda asking: asking.keys),
        Rule("line-up", "Go through bar {bar} out of time: which hand is next?"),
    ),
    FindingCode.RUSHED_RUN: (
        Rule("count-steady", "Count every one of the {notes}, through the long notes too, at {mark}.",
             None, lambda asking: asking.saying, STEADY),
        Rule("count-steady", "Count every one of the {notes}, through the long notes too, at {mark}.", "count",
             density=STEADY),
    ),
    FindingCode.LATE_THEN_COMPENSATED: (
        Rule("be-there", "Bar {bar} at {mark}: be there before the {notes} begin, and start them with the count."),
    ),
    FindingCode.LIMPING: (
        Rule("one-hand-swapped", "{hand_capital} hand alone, bar {bar} at {mark}: short-long instead, then evenly.",
             "play", lambda asking: _ALONE.when(asking) and asking.many),
        Rule("even-pairs", "Bar {bar} at {mark}: say the {notes} evenly while you play.",
             None, lambda asking: asking.keys),
        Rule("even-pairs", "Bar {bar} at {mark}: say the {notes} evenly while you tap."),
    ),
    FindingCode.DOT_FLATTENED: (
        Rule("count-parts",
             "Bar {bar} at {mark}: say all four parts of the long note and the short one, which comes last.", "count",
             density=STEADY),
    ),
    FindingCode.TRIPLET_BENT: (
        Rule("count-parts", "Bar {bar} at {mark}: say the three parts evenly and land on the next beat, then tap them.",
             "count"),
    ),
    FindingCode.DUPLET: (
        Rule("count-parts", "Bar {bar} at {mark}: say all three parts of the beat; the long note lasts two of them.",
             "count"),
    ),
    FindingCode.LONG_RUSHED: (
        Rule("count-through", "Bar {bar} at {mark}: keep saying the short counts through the long notes.", "count",
             density=STEADY),
    ),
    FindingCode.LONG_CUT: (
        Rule("hold", "Bar {bar} at {mark}: hold the long notes until the next word of the count; then let go."),
    ),
    FindingCode.REST_RUN_OVER: (
        Rule("lift", "Bar {bar} at {mark}: say the rest aloud and lift your hand on that word."),
    ),
    FindingCode.LATE_ENTRY: (
        Rule("say-the-rest", "Bar {bar} at {mark}: say the rest aloud too, come in with the word after it.", "count"),
    ),
    FindingCode.LATE_LANDING: (
        Rule("land", "Bar {bar} at {mark}: aim the run at the note it lands on, and say that beat aloud."),
    ),
    FindingCode.UNEVEN: (
        Rule("count-first", _COUNT, None, lambda asking: asking.beatless and asking.saying),
        Rule("lap-first", "Tap bar {bar} on your lap at {mark}, saying the count, until it goes by itself; then go on.",
             "lap", lambda asking: asking.beatless and asking.keys and asking.both),
        Rule("count-first", "Say the count of bar {bar} with the click at {mark} until it goes by itself; then play.",
             "count", lambda asking: asking.beatless),
        _ALONE,
        Rule("slow-steady", "Slow down to {mark} and keep the {notes} going in your head."),
    ),
    FindingCode.HANDS_APART: (
        Rule("lap-first", _LAP.text, "lap", lambda asking: _LAP.when(asking) and asking.many),
        Rule("meet", "Bar {bar} at {mark}: only where both hands meet, listen for one sound."),
    ),
    FindingCode.DRIFT: (Rule("with-click", "Once through with the click at {asked}, once without."),),
    FindingCode.OFF_TEMPO: (Rule("hear-tempo", "Listen to two bars of click at {asked}, count along, then begin."),),
}  # fmt: skip


def cure_for(task: Task, finding: Finding, *, back_to_one_hand: bool) -> Cure:
    """The next step for a finding, at its place."""
    hands = {expected.hand for expected in task.expected}
    before = strike_before(task, finding.place)
    asking = Asking(
        saying=None in hands,
        keys=task.asks_pitches,
        both=set(HANDS) <= hands,
        one_hand=finding.hand is not None,
        many=finding.ratio > MANY,
        whole_bars=finding.until is not None,
        beatless=finding.beatless,
        first_strike=before is None,
        back_to_one_hand=back_to_one_hand,
    )
    rule = next(rule for rule in CURES[finding.code] if rule.when(asking))
    hand = (finding.hand or Hand.RIGHT).value
    length = finding.interval_quarters
    text = rule.text.format(
        mark=f"{slower_mark(task.assigned_bpm)}",
        asked=bpm_text(task.assigned_bpm),
        bar=finding.place.measure,
        bars=bars_words(task, finding),
        notes="notes" if length is None else length_plural(length, task.naming),
        hand=hand,
        hand_capital=hand.capitalize(),
        loop="" if before is None else loop_words(task, finding.place, before),
    )
    rung = None if rule.rung == "count" and asking.saying else rule.rung
    bpm = slower_mark(task.assigned_bpm) if "{mark}" in rule.text else task.assigned_bpm
    named = hand if "{hand}" in rule.text or "{hand_capital}" in rule.text else None
    bars = _named_bars(rule, task, finding, before)
    within = _seam(task, finding.place, before) if "{loop}" in rule.text and before is not None else None
    return Cure(rule.code, text, rung, bars, named, bpm, within, rule.density)


def _seam(task: Task, place: Place, before: Expected) -> str | None:
    """The spot to be looped; ``None`` where it leads back, and of a count, which is said of whole bars."""
    if before.hand is None:
        return None
    here, there = task.score.measures[before.measure_index], task.score.measure_of(place)
    if there.written_start_quarters < here.written_start_quarters:
        return None
    within = within_between((here.index, before.offset_quarters), (there.index, place.offset_quarters))
    return None if within is None else within.text


def _named_bars(rule: Rule, task: Task, finding: Finding, before: Expected | None) -> str | None:
    """The bars that a cure names, as they are asked for."""
    last = finding.place.measure
    if "{loop}" in rule.text and before is not None:
        here, there = task.score.measures[before.measure_index], task.score.measure_of(finding.place)
        leads_on = here.written_start_quarters < there.written_start_quarters
        return f"{here.number}-{last}" if leads_on else last
    if "{bars}" in rule.text:
        return bars_words(task, finding).partition(" ")[2].replace(" to ", "-")
    return last if "{bar}" in rule.text else None


def bars_words(task: Task, finding: Finding) -> str:
    """``bar 5`` or ``bars 5 to 6``, of what was left out."""
    first = finding.place.measure
    if finding.until is None:
        return f"bar {first}"
    landing = task.score.measure_of(finding.until)
    last = task.score.measures[landing.index - 1] if finding.until.offset_quarters == 0 else landing
    return f"bar {first}" if last.number == first else f"bars {first} to {last.number}"


def strike_before(task: Task, place: Place) -> Expected | None:
    measure = task.score.measure_of(place)
    onset = measure.start_quarters - task.measures[0].start_quarters + place.offset_quarters
    return next((e for e in reversed(task.expected) if e.onset_quarters < onset), None)


def loop_words(task: Task, place: Place, before: Expected) -> str:
    """The seam to go back and forth over: from the strike before to the place."""
    measure = task.score.measure_of(place)
    there = f"{beat_words(measure, place.offset_quarters)} of bar {measure.number}"
    home = task.score.measures[before.measure_index]
    here = beat_words(home, before.offset_quarters)
    if home.index != measure.index:
        here += f" of bar {home.number}"
    return f"Practise {here} into {there}, back and forth, then go on past it."
