"""The map in a teacher's words: where it is hardest and why, when a hand goes and where to, what meets at each strike.

Seams and bars stand in one list, the hardest first; places with the same notes are told once, with where they come
again. Source: docs/trade.md 3.1 and 3.2 (common practice); the words are ours.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from laptick.core.base.units import Bpm, Quarters
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.places import beat_words, listed
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.core.together.costs import Reason
from laptick.core.together.difficulty import bar_difficulties
from laptick.core.together.events import Ratio, events_of
from laptick.core.together.seams import Seam, Spot, Where, seams_of
from laptick.core.together.shifts import Manner, Shift, When, shifts_of
from laptick.core.together.spans import Span


class HardKind(StrEnum):
    SEAM = "seam"
    BAR = "bar"


#: Why, as it is said. Moves are told by where the hand goes.
REASON_WORDS: dict[Reason, str] = {
    Reason.BOTH_CHANGE: "Both hands change at once.",
    Reason.MOVES_WITHOUT_TIME: "A hand moves and has no time for it.",
    Reason.CROSS_RHYTHM: "The hands divide the beat differently.",
    Reason.OFF_BEAT: "One hand comes in between the beats and holds over the other’s.",
    Reason.ALTERNATE: "The hands strike in turn.",
    Reason.KEY_CLASH: "Both hands want the same key.",
    Reason.OVER_THE_OTHER_HAND: "One hand lies over the other.",
    Reason.WIDE_REACH: "A reach wider than the hand.",
    Reason.THUMBS_APART: "The hands cross at different moments.",
    Reason.NEAR_PARALLEL: "Both go the same way, but not in octaves.",
    Reason.SAME_FINGERS_OTHER_SPREAD: "The same fingers, spread differently.",
    Reason.ACCIDENTAL_REVERSED: "An accidental of the bar before is taken back.",
    Reason.NEW_RHYTHM: "The rhythm is new.",
    Reason.ONE_CLEF: "Both hands are in one clef.",
    Reason.LINE_JUMP: "The eye jumps to the next line.",
    Reason.MIRRORED: "The hands mirror each other: that helps.",
}

#: Numbers said as words in “three against two”.
NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")

#: Of so few points a place is not told as hard; reasons, and places, are told up to so many.
TOLD_POINTS, TOLD_REASONS, TOLD_PLACES = 8.0, 3, 60


@dataclass(frozen=True, slots=True)
class HardPlace:
    """``title``: *Bar 2 into 3, and 6 into 7*; ``before`` to ``to``: where the hand that moves last played and the
    first strike after it, or a bar's first instant and its last; ``again``: the same elsewhere, ``to`` of each."""

    kind: HardKind
    title: str
    before: Spot
    to: Spot
    points: float
    words: str
    again: tuple[Spot, ...]


def hardest_first(score: Score, quarter_bpm: Bpm, span: Span) -> list[HardPlace]:
    """Seams, and bars that are hard for what lies in their rhythm, the hardest first, each kind of place once; the
    first ``TOLD_PLACES`` of them."""
    letters = [one.same_notes_as if one.same_notes_as is not None else i for i, one in enumerate(bar_likeness(score))]
    told: dict[tuple[object, ...], HardPlace] = {}
    found = [*_seams(score, quarter_bpm, span), *_bars(score, quarter_bpm, span)]
    for place in sorted(found, key=lambda one: (-one.points, one.to.measure_index, one.to.offset_quarters)):
        key = (
            place.kind, letters[place.before.measure_index], place.before.offset_quarters,
            letters[place.to.measure_index], place.to.offset_quarters,
        )  # fmt: skip
        known = told.get(key)
        told[key] = place if known is None else replace(known, again=(*known.again, place.to))
    hard = [place for place in told.values() if place.points >= TOLD_POINTS]
    return [_titled(score, place) for place in hard[:TOLD_PLACES]]


def _seams(score: Score, quarter_bpm: Bpm, span: Span) -> Iterator[HardPlace]:
    shifts: dict[tuple[int, Quarters], list[Shift]] = {}
    for hand in HANDS:
        for shift in shifts_of(score, hand, span):
            shifts.setdefault((shift.measure_index, shift.offset_quarters), []).append(shift)
    for seam in seams_of(score, quarter_bpm, span):
        if seam.reasons or seam.points >= TOLD_POINTS:
            words = " ".join(_seam_words(score, seam, shifts))
            yield HardPlace(HardKind.SEAM, seam.where.value, seam.before, seam.to, seam.points, words, ())


def _seam_words(score: Score, seam: Seam, shifts: dict[tuple[int, Quarters], list[Shift]]) -> Iterator[str]:
    own = shifts.get((seam.to.measure_index, seam.to.offset_quarters), []) if seam.where is not Where.REPEAT else []
    if seam.where is Where.REPEAT:
        yield "It goes back."
    reasons = [reason for reason in seam.reasons if reason is not Reason.MOVES_WITHOUT_TIME or not own]
    if Reason.BOTH_CHANGE in reasons:
        yield REASON_WORDS[Reason.BOTH_CHANGE]
    blind = [shift for shift in own if shift.when is When.BETWEEN_NOTES and shift.manner is Manner.MOVE]
    if len(blind) == len(own) == 2:
        (right, left) = (step_words(shift.steps).removeprefix("moves ") for shift in blind)
        yield (
            f"The right hand moves {right}, the left {left}, with no time to look: practise each way by itself, "
            "there and back."
        )
    else:
        yield from (shift_words(score, shift) for shift in own)
    rest = [reason for reason in reasons if reason is not Reason.BOTH_CHANGE]
    yield from (REASON_WORDS[reason] for reason in rest[:TOLD_REASONS])
    if not own and not reasons:
        yield "The hands take a new shape."


def shift_words(score: Score, shift: Shift) -> str:
    """*The left hand moves down 3 with no rest: go during beat 4.*"""
    way = f"The {shift.hand.value} hand {step_words(shift.steps)}"
    if shift.manner is Manner.CROSSING:
        outward = (shift.steps > 0) is (shift.hand is Hand.RIGHT)
        return f"{way} {'with the thumb passed under' if outward else 'across the thumb'}: prepare it early."
    if shift.when is When.BETWEEN_NOTES:
        return f"{way} with no time to look: practise that way by itself, there and back."
    at = beat_words(*_moment(score, shift))
    if shift.when is When.IN_REST:
        return f"{way}: go in the rest, at {at}."
    return f"{way} with no rest: go during {at}, while the long note sounds."


def step_words(steps: int) -> str:
    """*moves up 5 steps*."""
    return f"moves {'up' if steps > 0 else 'down'} {abs(steps)} {'step' if abs(steps) == 1 else 'steps'}"


def go_from(score: Score, shift: Shift) -> Quarters:
    """From when on the hand can go: where its rest begins, or the last beat under its long note; without time, the
    strike itself."""
    if shift.when is When.IN_REST:
        return shift.to.onset_quarters - shift.time_quarters
    if shift.when is When.DURING_LONG_NOTE:
        measure = score.measures[shift.before.measure_index]
        beats = [measure.start_quarters + b.start_quarters - measure.lead_quarters for b in measure.meter.beats]
        later = [at for at in beats if shift.before.onset_quarters < at < shift.to.onset_quarters]
        return later[-1] if later else shift.before.onset_quarters
    return shift.to.onset_quarters


def _moment(score: Score, shift: Shift) -> tuple[Measure, Quarters]:
    at = go_from(score, shift)
    measure = score.measure_at(at)
    return measure, at - measure.start_quarters


def _bars(score: Score, quarter_bpm: Bpm, span: Span) -> Iterator[HardPlace]:
    """Bars whose hardness is in how the hands go together in time; what comes on arrival is told by seams."""
    in_time = {Reason.ALTERNATE, Reason.OFF_BEAT, Reason.CROSS_RHYTHM}
    for bar, difficulty in zip(events_of(score), bar_difficulties(score, quarter_bpm, span), strict=True):
        if not in_time & set(difficulty.reasons):
            continue
        index = bar.measure.index
        words = " ".join(bar_words(bar.ratio, [r for r in difficulty.reasons if r in in_time or r in _OF_A_BAR]))
        last = bar.events[-1].offset_quarters if bar.events else Quarters(0)
        yield HardPlace(
            HardKind.BAR, "", Spot(index, Quarters(0)), Spot(index, last), difficulty.points_alone, words, ()
        )


#: What is said of a bar besides its rhythm.
_OF_A_BAR = frozenset(
    {Reason.KEY_CLASH, Reason.THUMBS_APART, Reason.ONE_CLEF, Reason.OVER_THE_OTHER_HAND, Reason.WIDE_REACH}
)


def bar_words(ratio: Ratio | None, reasons: Sequence[Reason]) -> Iterator[str]:
    """Why a bar is hard; *Three against two.* where the bar's ratio is that."""
    for reason in reasons[:TOLD_REASONS]:
        if reason is Reason.CROSS_RHYTHM and ratio is not None and max(ratio.right, ratio.left) < len(NUMBERS):
            yield f"{NUMBERS[ratio.right].capitalize()} against {NUMBERS[ratio.left]}."
        else:
            yield REASON_WORDS[reason]


def _titled(score: Score, place: HardPlace) -> HardPlace:
    names = [score.measures[spot.measure_index].number for spot in (place.to, *place.again)]
    if place.kind is HardKind.BAR:
        return replace(place, title=f"Bar {listed(names)}" if len(names) == 1 else f"Bars {listed(names)}")
    here, to = score.measures[place.before.measure_index], score.measures[place.to.measure_index]
    if place.title == Where.INSIDE.value and here.index == to.index:
        words = [f"Bar {names[0]}, into {beat_words(to, place.to.offset_quarters)}"]
        return replace(place, title=", and ".join([*words, *([f"bar {listed(names[1:])}"] if names[1:] else [])]))
    apart = to.index - here.index
    pairs = [f"{here.number} into {names[0]}"]
    for spot, name in zip(place.again, names[1:], strict=True):
        before = spot.measure_index - apart
        pairs.append(f"{score.measures[before].number} into {name}" if before >= 0 else f"into {name}")
    return replace(place, title=f"Bar {listed(pairs)}")
