"""What a teacher points at in the notes before the hands are joined: broken figures that are one chord, accidentals
that still hold, keys that both hands want and hands that lie over one another, with what can be done.

A broken figure is at least half a bar of evenly spaced single keys of one hand whose steps are a triad or a seventh
chord. An accidental holds for its step and octave on its staff to the end of the bar (common rules of notation); who
meets the note again sees no sign. Source: docs/trade.md 3.1 (common practice).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from laptick.core.score.places import beat_words, listed
from laptick.core.score.score import HANDS, Hand, Note, Score
from laptick.core.together.events import Event, events_of
from laptick.core.together.names import SHARPENED, fifths_at
from laptick.core.together.seams import Spot
from laptick.core.together.sounds import Sound
from laptick.core.together.spans import OCTAVE, Family, Key, Span, fits
from laptick.core.together.windows import Grip, grips_of


class AidKind(StrEnum):
    BROKEN_CHORD = "broken-chord"
    ACCIDENTAL_HOLDS = "accidental-holds"
    KEY_CLASH = "key-clash"
    HAND_OVER_HAND = "hand-over-hand"


@dataclass(frozen=True, slots=True)
class ReadingAid:
    """``hand``: whose, ``None`` where it is both hands'; ``spots``: where, in order; ``words``: with the places."""

    kind: AidKind
    hand: Hand | None
    spots: tuple[Spot, ...]
    words: str


#: So many aids are told, and so many of an aid's places by name.
MOST_AIDS, MOST_PLACES = 40, 4

#: Steps above a root that make a triad or a seventh chord.
CHORDS = frozenset({frozenset({0, 2, 4}), frozenset({0, 2, 4, 6})})

SEVENTH = frozenset({0, 2, 4, 6})
MOST_STEPS = len(SEVENTH)

#: Fewer strikes are no figure.
LEAST_STRIKES = 3


@dataclass(frozen=True, slots=True)
class _Told:
    """What is said at a place; ``whole_bar``: of the bar, not of a beat in it."""

    kind: AidKind
    hand: Hand | None
    spot: Spot
    text: str
    whole_bar: bool = False


def reading_aids(score: Score, span: Span = OCTAVE) -> list[ReadingAid]:
    """By where each first holds; the same thing at several places is told once."""
    groups: dict[tuple[AidKind, Hand | None, str, bool], list[Spot]] = {}
    for told in (*_broken_chords(score, span), *_accidentals(score), *_clashes(score)):
        spots = groups.setdefault((told.kind, told.hand, told.text, told.whole_bar), [])
        if told.spot not in spots[-1:]:  # octaves
            spots.append(told.spot)
    found = [
        ReadingAid(kind, hand, tuple(spots), f"{_places(score, spots, whole_bar)}{text}")
        for (kind, hand, text, whole_bar), spots in groups.items()
    ]
    return sorted(found, key=lambda aid: (aid.spots[0].measure_index, aid.spots[0].offset_quarters))[:MOST_AIDS]


def _places(score: Score, spots: Sequence[Spot], whole_bar: bool) -> str:
    names = []
    for spot in spots:
        measure = score.measures[spot.measure_index]
        at = "" if whole_bar else f", {beat_words(measure, spot.offset_quarters)}"
        names.append(f"{measure.number}{at}")
    names = list(dict.fromkeys(names))
    more = len(names) - MOST_PLACES
    shown = [*names[:MOST_PLACES], f"{more} more"] if more > 0 else names
    if whole_bar:
        return f"Bar{'s' if len(names) > 1 else ''} {listed(shown)}"
    return f"Bar {'; bar '.join(names[:MOST_PLACES])}{f'; and {more} more' if more > 0 else ''}"


# -- broken figures ----------------------------------------------------------------------------------------


def _broken_chords(score: Score, span: Span) -> Iterator[_Told]:
    for hand in HANDS:
        bars: dict[int, list[Grip]] = {}
        for grip in grips_of(score, hand):
            bars.setdefault(grip.measure_index, []).append(grip)
        for index, grips in bars.items():
            measure = score.measures[index]
            half = score.ticks_of(measure.length_quarters) / 2
            for figure in _figures(grips, span):
                if figure[-1].end_ticks - figure[0].ticks >= half:
                    spot = Spot(index, figure[0].onset_quarters - measure.start_quarters)
                    text = f", {hand.value} hand: one chord, {_chord_name(figure)}, broken: lay the hand on it first."
                    yield _Told(AidKind.BROKEN_CHORD, hand, spot, text, whole_bar=True)


def _figures(grips: Sequence[Grip], span: Span) -> Iterator[Sequence[Grip]]:
    """The longest stretches of evenly spaced single keys that are one chord under one hand."""
    begin = 0
    while begin + LEAST_STRIKES <= len(grips):
        end = _goes_on_to(grips, begin, span)
        figure = grips[begin:end]
        if len(figure) >= LEAST_STRIKES and _is_chord(figure):
            yield figure
            begin = end
        else:
            begin += 1


def _goes_on_to(grips: Sequence[Grip], begin: int, span: Span) -> int:
    """Up to which grip it may be one chord."""
    keys: set[Key] = set()
    apart: int | None = None
    for index in range(begin, len(grips)):
        grip = grips[index]
        if len(grip.keys) > 1:
            return index
        if index > begin:
            interval = grip.ticks - grips[index - 1].ticks
            if apart is not None and interval != apart:
                return index
            apart = interval
        if grip.keys[0] not in keys:
            keys.add(grip.keys[0])
            if not _may_be_chord(keys, span):
                return index
    return len(grips)


def _may_be_chord(keys: set[Key], span: Span) -> bool:
    """Part of a chord may become one."""
    steps = {step % 7 for step, _ in keys}
    return (
        len(steps) <= MOST_STEPS
        and len({key % 12 for _, key in keys}) == len(steps)
        and any({(step - root) % 7 for step in steps} <= SEVENTH for root in steps)
        and fits(Family.OPEN, keys, span)
    )


def _is_chord(grips: Sequence[Grip]) -> bool:
    steps = {step % 7 for grip in grips for step, _ in grip.keys}
    return any(frozenset((step - root) % 7 for step in steps) in CHORDS for root in range(7))


def _chord_name(grips: Sequence[Grip]) -> str:
    sounds = sorted({(sound.pitch or 0, sound.name) for grip in grips for sound in grip.sounds})
    return " ".join(dict.fromkeys(_letter(name) for _, name in sounds))


def _letter(name: str) -> str:
    return name.rstrip("-0123456789")


# -- accidentals -------------------------------------------------------------------------------------------


def _accidentals(score: Score) -> Iterator[_Told]:
    for measure in score.measures:
        fifths = fifths_at(score, measure.start_quarters)
        signs: dict[tuple[int, str], str] = {}
        told: set[tuple[int, str]] = set()
        for note in score.notes_of_measure(measure.index):
            if not note.is_strike or note.pitch is None:
                continue
            key = (note.staff, note.name[0] + note.name[-1])
            sign = note.name[1:-1]
            if signs.get(key) == sign != signed_by_key(note.name[0], fifths) and key not in told:
                told.add(key)
                spot = Spot(measure.index, note.onset_quarters - measure.start_quarters)
                text = f", {note.hand.value} hand: the {_with_sign(note)} still holds."
                yield _Told(AidKind.ACCIDENTAL_HOLDS, note.hand, spot, text)
            signs[key] = sign


@lru_cache(maxsize=256)
def signed_by_key(letter: str, fifths: int) -> str:
    """The sign that a key signature of so many sharps (flats negative) gives a letter."""
    if letter in SHARPENED[: max(0, fifths)]:
        return "♯"
    return "♭" if letter in SHARPENED[::-1][: max(0, -fifths)] else ""


def _with_sign(note: Note) -> str:
    return f"{note.name[0]}{note.name[1:-1] or '♮'}"


# -- hands in each other's way -----------------------------------------------------------------------------


def _clashes(score: Score) -> Iterator[_Told]:
    crossed = False
    for bar in events_of(score):
        for event in bar.events:
            right: list[Sound] = []
            left: list[Sound] = []
            for sound in (*event.struck, *event.held):
                if sound.pitch is not None:
                    (right if sound.hand is Hand.RIGHT else left).append(sound)
            if not right or not left:
                crossed = False
                continue
            spot = Spot(event.measure_index, event.offset_quarters)
            was, crossed = crossed, False
            if max(_pitches(left)) >= min(_pitches(right)):
                both = _pitches(right) & _pitches(left)
                for pitch in sorted(both & _pitches(event.struck)):
                    yield _clash(event, pitch, {Hand.RIGHT: right, Hand.LEFT: left}, spot)
                crossed = not both
            if crossed and not was:
                text = ": one hand lies over the other: hover above the keys before playing."
                yield _Told(AidKind.HAND_OVER_HAND, None, spot, text)


def _pitches(sounds: Sequence[Sound]) -> set[int]:
    return {sound.pitch for sound in sounds if sound.pitch is not None}


def _clash(event: Event, pitch: int, own: dict[Hand, list[Sound]], spot: Spot) -> _Told:
    """Who holds the key lets it go; an octave can do without it; else one hand leaves it to the other."""
    striking = {sound.hand for sound in event.struck if sound.pitch == pitch}
    name = next(sound.name for sound in event.struck if sound.pitch == pitch)
    holding = next((hand for hand in HANDS if hand not in striking), None)
    if holding is not None:
        text = f": both hands want {name}: the {holding.value} hand lets it go just before."
        return _Told(AidKind.KEY_CLASH, None, spot, text)
    for hand in HANDS:
        if {pitch - 12, pitch + 12} & _pitches(own[hand]):
            text = f": both hands want {name}: the {hand.value} hand’s octave becomes a fifth."
            return _Told(AidKind.KEY_CLASH, hand, spot, text)
    text = f": both hands want {name}: one of them leaves it to the other."
    return _Told(AidKind.KEY_CLASH, None, spot, text)
