"""Phrases: stretches of music that are practised as one. They need not begin at a bar line.

Where a phrase begins: where the teacher says; else where the long slurs of the melody do, if they cover most of it;
else every four bars, as early before the bar line as the piece's own upbeat. A written lift (breath mark, caesura)
ends a phrase in both cases. Source: docs/trade.md 1 for regrouping; the two rules are common practice, no source.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.rhythm.likeness import letter_of
from laptick.core.score.score import HANDS, Hand, Mark, MarkKind, Note, Place, Score

#: Bars of a phrase where nothing else tells.
USUAL_BARS = 4

#: Slurs shorter than a bar are touches, not phrases; longer ones tell when they cover this share of the melody.
SLURRED_SHARE = Fraction(3, 5)


@dataclass(frozen=True)
class Phrase:
    """From ``start_quarters`` up to ``end_quarters`` (written order). ``last``: the place of its last strike.
    ``letter``: the same for the same rhythm; ``same_notes_as``, ``same_rhythm_as``: an earlier phrase, by index."""

    index: int
    start_quarters: Quarters
    end_quarters: Quarters
    start: Place
    last: Place
    letter: str
    same_rhythm_as: int | None
    same_notes_as: int | None


@dataclass(frozen=True)
class Phrasing:
    """The phrases of a piece, and in a sentence what they go by."""

    phrases: tuple[Phrase, ...]
    reason: str
    is_own: bool


def find_phrases(score: Score, own: Sequence[Place] = ()) -> Phrasing:
    """The phrases of a score. ``own``: where the teacher lets them begin, besides the beginning of the piece; places
    that the score does not have are left out."""
    places = [at for at in (_onset(score, place) for place in own) if at is not None]
    if places:
        return Phrasing(_laid_out(score, places), "As you divided it.", True)
    slurs = _telling_slurs(score)
    starts = [mark.onset_quarters for mark in slurs] if slurs else _every_four_bars(score)
    reason = "By the long slurs of the melody." if slurs else f"Every {USUAL_BARS} bars, for want of long slurs."
    return Phrasing(_laid_out(score, [*starts, *_after_lifts(score)]), reason, False)


def check_places(score: Score, own: Sequence[Place]) -> None:
    """Raises:
    OptionError: a phrase would begin outside the score.
    """
    for place in own:
        if _onset(score, place) is None:
            raise OptionError(
                f"there is no place for a phrase to begin in bar “{place.measure[:12]}”.",
                where="phrase_starts",
                kept="Nothing was changed.",
            )


def _onset(score: Score, place: Place) -> Quarters | None:
    measure = next((m for m in score.measures if m.number == place.measure), None)
    if measure is None or not 0 <= place.offset_quarters < measure.length_quarters:
        return None
    return measure.start_quarters + place.offset_quarters


def _melody(score: Score) -> Hand | None:
    return next((hand for hand in HANDS if hand in score.hands_present()), None)


def _telling_slurs(score: Score) -> list[Mark]:
    """The slurs of the melody of a bar or more, where they cover enough of it."""
    melody = _melody(score)
    long = [
        mark
        for mark in score.marks
        if mark.kind is MarkKind.SLUR
        and mark.hand is melody
        and mark.end_quarters is not None
        and mark.end_quarters - mark.onset_quarters >= score.measure_at(mark.onset_quarters).meter.bar_quarters
    ]
    outer = [m for m in long if not any(o is not m and _holds(o, m) for o in long)]
    covered = sum((m.end_quarters - m.onset_quarters for m in outer if m.end_quarters is not None), Fraction(0))
    sounding = sum((n.duration_quarters for n in _line(score, melody)), Fraction(0))
    return outer if sounding and covered >= SLURRED_SHARE * sounding else []


def _holds(outer: Mark, inner: Mark) -> bool:
    if outer.end_quarters is None or inner.end_quarters is None:
        return False
    return outer.onset_quarters <= inner.onset_quarters and inner.end_quarters <= outer.end_quarters


def _line(score: Score, hand: Hand | None) -> list[Note]:
    """One note an instant of a hand: the highest."""
    at = {n.onset_quarters: n for n in score.notes if n.hand is hand and not n.is_grace}
    return list(at.values())


def _every_four_bars(score: Score) -> list[Quarters]:
    first = score.measures[0]
    upbeat = first.length_quarters if first.is_pickup else Fraction(0)
    whole = [m for m in score.measures if not (m.index == 0 and m.is_pickup)]
    return [m.start_quarters - upbeat for m in whole[::USUAL_BARS]]


def _after_lifts(score: Score) -> list[Quarters]:
    """Where the music goes on after a written lift of the melody or of both hands."""
    melody = _melody(score)
    ends = {note.id: note.end_quarters for note in score.notes}
    return [
        ends.get(mark.note_id or "", mark.onset_quarters)
        for mark in score.marks
        if mark.kind in (MarkKind.BREATH, MarkKind.CAESURA) and mark.hand in (None, melody)
    ]


def _laid_out(score: Score, places: Sequence[Quarters]) -> tuple[Phrase, ...]:
    inside = {at for at in places if 0 < at < score.end_quarters}
    starts = [Fraction(0), *sorted(inside)]
    ends = [*starts[1:], score.end_quarters]
    phrases: list[Phrase] = []
    rhythms: dict[object, int] = {}
    tunes: dict[object, int] = {}
    letters: dict[object, str] = {}
    onsets = [note.onset_quarters for note in score.notes]
    for index, (start, end) in enumerate(zip(starts, ends, strict=True)):
        inside_notes = score.notes[bisect_left(onsets, start) : bisect_left(onsets, end)]
        notes = [note for note in inside_notes if not note.is_grace]
        shape = [(n.hand, n.onset_quarters - start, n.duration_quarters, n.tied_from_before) for n in notes]
        rhythm = (end - start, tuple(sorted(set(shape))))
        tune = (rhythm, tuple(sorted((*one, n.pitch or 0) for one, n in zip(shape, notes, strict=True))))
        strikes = [n.onset_quarters for n in notes if n.is_strike]
        phrases.append(
            Phrase(
                index,
                start,
                end,
                score.place_at(start),
                score.place_at(max(strikes) if strikes else start),
                letters.setdefault(rhythm, letter_of(len(letters))),
                rhythms.get(rhythm),
                tunes.get(tune),
            )
        )
        rhythms.setdefault(rhythm, index)
        tunes.setdefault(tune, index)
    return tuple(phrases)
