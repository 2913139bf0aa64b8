"""A drill from a spot of a piece: from one strike to another, in its own key or in all keys, each key a time round.

The beat runs through whole bars; what lies outside the spot is silence. Keys go up by a semitone from its own; from six
semitones on an octave lower, so that the hands stay where they are.
Source: docs/trade.md 3.3 (a drill cut from a spot of the piece), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction

from laptick.core.base.errors import LimitError, OptionError
from laptick.core.drills.drill import LINE_BARS, MOST_BARS, Drill
from laptick.core.drills.moving import moved_key
from laptick.core.score.noteheads import written_parts
from laptick.core.score.score import Mark, MarkKind, Measure, Note, Rest, Score, TempoMark, mark_order
from laptick.core.score.within import Within, check_within

#: Semitones up → letters up, as intervals are written.
LETTERS_UP: Mapping[int, int] = {0: 0, 1: 1, 2: 1, 3: 2, 4: 2, 5: 3, -6: -3, -5: -3, -4: -2, -3: -2, -2: -1, -1: -1}

#: In which keys: its own, or every one.
KEYS: Mapping[str, tuple[int, ...]] = {"own": (0,), "all": (0, 1, 2, 3, 4, 5, -6, -5, -4, -3, -2, -1)}

#: A spot is of so many bars at most.
SPOT_BARS = 4

_MOST_SIGNS = 7


def make_spot(score: Score, measures: Sequence[Measure], within: Within | None, keys: str) -> Drill:
    """Some bars of a piece, or a spot of them, once in every key.

    Raises:
        OptionError: no such keys, a spot outside its bars, or nothing is struck there.
        LimitError: too many bars.
    """
    if keys not in KEYS:
        raise OptionError(f"“{keys[:20]}” are no keys.", where="keys", todo=f"There are {', '.join(KEYS)}.")
    if len(measures) > SPOT_BARS or len(measures) * len(KEYS[keys]) > MOST_BARS:
        raise LimitError(f"a spot has up to {SPOT_BARS} bars.", where="measures", todo="Choose fewer of them.")
    if within is not None:
        check_within(within, measures[0], measures[-1])
    struck = _struck(score, measures, within)
    if not struck:
        raise OptionError("nothing is struck there.", where="within", todo="Choose another spot.")
    fifths = next((int(m.text) for m in reversed(score.marks) if _holds(m, measures[0])), 0)
    made_measures: list[Measure] = []
    notes: list[Note] = []
    marks: list[Mark] = []
    at = Fraction(0)
    for semitones in KEYS[keys]:
        letters, key = _written(semitones, fifths)
        marks.append(Mark(MarkKind.KEY, at, str(key)))
        for measure in measures:
            index = len(made_measures)
            made_measures.append(
                replace(
                    measure, index=index, number=str(index + 1), start_quarters=at, line=index // LINE_BARS + 1,
                    bar_in_line=index % LINE_BARS + 1, pass_number=1, written_index=-1, written_start=None,
                )
            )  # fmt: skip
            for note in struck.get(measure.index, ()):
                name, pitch = moved_key((note.name, note.pitch), letters, semitones)
                onset = at + note.onset_quarters - measure.start_quarters
                moved = replace(note, measure_index=index, onset_quarters=onset, name=name, pitch=pitch)
                notes.append(replace(moved, id=f"n{len(notes)}"))
            at += measure.length_quarters
    tempos = tuple(replace(t, onset_quarters=Fraction(0)) for t in _tempos(score, measures[0]))
    first, last = measures[0].number, measures[-1].number
    where = f"bar {first}" if first == last else f"bars {first} to {last}"
    made = Score(
        f"{score.title}, {where}{', in all keys' if keys == 'all' else ''}",
        "",
        tuple(made_measures),
        tuple(sorted(notes, key=lambda note: (note.onset_quarters, note.pitch or 0, note.voice))),
        tuple(_rests(made_measures, notes)),
        tempos,
        marks=tuple(sorted(marks, key=mark_order)),
    )
    words = "" if within is None else within.words(measures[0], measures[-1])
    return Drill(made, sentence=f"{words}: again and again, the beat runs on in between." if words else "")


def _rests(measures: Sequence[Measure], notes: Sequence[Note]) -> list[Rest]:
    """The silence of every voice, written out, so that any reader finds the notes at their places."""
    voices = sorted({(note.hand, note.voice, note.staff) for note in notes})
    found = []
    for measure in measures:
        for hand, voice, staff in voices:
            own = sorted(
                (note.onset_quarters, note.end_quarters)
                for note in notes
                if note.measure_index == measure.index and (note.hand, note.voice) == (hand, voice)
            )
            at = measure.start_quarters
            for begins, ends in [*own, (measure.end_quarters, measure.end_quarters)]:
                if begins > at:
                    for part in written_parts(begins - at, at - measure.start_quarters):
                        found.append(Rest(hand, voice, measure.index, at, part, staff))
                        at += part
                at = max(at, ends)
    return sorted(found, key=lambda rest: (rest.onset_quarters, rest.hand))


def _holds(mark: Mark, measure: Measure) -> bool:
    return mark.kind is MarkKind.KEY and mark.onset_quarters <= measure.start_quarters


def _tempos(score: Score, measure: Measure) -> list[TempoMark]:
    return [tempo for tempo in score.tempos if tempo.onset_quarters <= measure.start_quarters][-1:]


def _struck(score: Score, measures: Sequence[Measure], within: Within | None) -> dict[int, list[Note]]:
    """What sounds of a spot, by bar: what a tie brings in from outside is not struck, and left out."""
    found: dict[int, list[Note]] = {}
    open_until: dict[tuple[object, int | None], Fraction] = {}
    last = measures[-1].end_quarters
    for place, measure in enumerate(measures):
        for note in score.notes_of_measure(measure.index):
            offset = note.onset_quarters - measure.start_quarters
            is_inside = within is None or within.holds(place, len(measures), offset)
            key = (note.hand, note.pitch)
            if note.is_grace or (note.tied_from_before and open_until.get(key) != note.onset_quarters):
                continue
            if not is_inside and not note.tied_from_before:
                continue
            onward = note.tied_onward and note.end_quarters < last
            if onward:
                open_until[key] = note.end_quarters
            found.setdefault(measure.index, []).append(replace(note, tied_onward=onward))
    return found


def _written(semitones: int, fifths: int) -> tuple[int, int]:
    """(letters, signs of the key) of a transposition; by its other name where it would have too many signs."""
    for letters in (LETTERS_UP[semitones], LETTERS_UP[semitones] + 1, LETTERS_UP[semitones] - 1):
        key = fifths + 7 * semitones - 12 * letters
        if abs(key) <= _MOST_SIGNS:
            return letters, key
    return LETTERS_UP[semitones], 0
