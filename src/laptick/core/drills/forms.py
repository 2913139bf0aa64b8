"""Forms: a pattern in every bar, transposed to the bar's root, its rests filled; at the end both hands walk together.

A pattern is the first bar of a score, over the tonic it is written on. A *clap* is a note of its own kind: struck,
with no key. Source: docs/trade.md 3.5 (form drills), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import LimitError, OptionError
from laptick.core.base.units import Bpm, Quarters
from laptick.core.drills.chords import Chord
from laptick.core.drills.drill import MOST_BARS, Drill, Event, Frame, Key, laid
from laptick.core.drills.moving import moved_key
from laptick.core.drills.scales import Scale
from laptick.core.score.pitch import ALTERATIONS, LETTERS, STEP_SEMITONES
from laptick.core.score.score import CLAP_NAME, HANDS, Hand, Score

FORMS: Mapping[str, str] = {
    "twelve-bar": "I,I,I,I,IV,IV,I,I,V,IV,I,I",
    "eight-bar": "I,I,IV,IV,I,V,I,I",
    "sixteen-bar": "I,I,I,I,I,I,I,I,IV,IV,I,I,V,IV,I,I",
}

#: Roman numeral → letters and semitones above the tonic.
NUMERALS: Mapping[str, tuple[int, int]] = {
    "I": (0, 0), "II": (1, 2), "III": (2, 4), "IV": (3, 5), "V": (4, 7), "VI": (5, 9), "VII": (6, 11),
}  # fmt: skip

#: What fills the rests of a pattern: shares of the silence, each a clap or a chord.
FILLS: Mapping[str, tuple[tuple[Fraction, bool], ...]] = {
    "none": (),
    "one-clap": ((Fraction(1), True),),
    "two-claps": ((Fraction(1, 2), True), (Fraction(1, 2), True)),
    "chords": ((Fraction(1, 2), False), (Fraction(1, 4), False), (Fraction(1, 4), False)),
}

CLAP: Key = (CLAP_NAME, None)

#: The walk of the last bar, over its root.
_WALK = ("octave", "fifth", "third", "root")
_SIGN_OF = {value: sign for sign, value in ALTERATIONS.items()}
#: Bars of a form go up as far as that and then an octave down, so that the hands stay where they are.
_HIGHEST_SHIFT = 7


@dataclass(frozen=True, slots=True)
class Form:
    """``bars``: numerals; ``pattern``: a score of a bar, ``None``: three steps of the chord and a rest; ``fill``: a key
    of ``FILLS``; ``walks``: the hands walk together in the last bar."""

    bars: tuple[str, ...]
    key: Scale
    pattern: Score | None = None
    fill: str = "none"
    walks: bool = True
    bpm: Bpm | None = None


def bars_of(text: str) -> tuple[str, ...]:
    """``I,IV,V`` or the name of a form.

    Raises:
        OptionError, LimitError: no numeral, or too many bars.
    """
    words = tuple(word.strip().upper() for word in FORMS.get(text.strip().lower(), text).split(","))
    for word in words:
        if word not in NUMERALS:
            raise OptionError(f"“{word[:12]}” is no step of a key.", where="bars", todo="Write I, IV, V and so on.")
    if len(words) > MOST_BARS:
        raise LimitError(f"a form has up to {MOST_BARS} bars.", where="bars")
    return words


def make_form(form: Form) -> Drill:
    """A form as a score.

    Raises:
        OptionError: a fill that there is none of, or a key that no keyboard has.
    """
    if form.fill not in FILLS:
        raise OptionError(f"“{form.fill[:20]}” fills no rests.", where="fill", todo=f"There are {', '.join(FILLS)}.")
    lines = _pattern_lines(form)
    made: dict[Hand, list[Event]] = {hand: [] for hand in HANDS}
    length = sum((event.length_quarters for event in lines[Hand.RIGHT]), Fraction(0))
    for index, numeral in enumerate(form.bars):
        letters, semitones = NUMERALS[numeral]
        octaves = -1 if semitones > _HIGHEST_SHIFT else 0
        chord = _chord(form.key, letters, semitones)
        is_last = index == len(form.bars) - 1
        for hand in HANDS:
            if form.walks and is_last:
                octave = 4 if hand is Hand.RIGHT else 3
                made[hand] += [Event(length / len(_WALK), (chord.tone(tone, octave + octaves),)) for tone in _WALK]
            else:
                moved = [_moved(event, letters + 7 * octaves, semitones + 12 * octaves) for event in lines[hand]]
                made[hand] += _filled(moved, form, chord, hand)
    signature = form.pattern.measures[0].signature if form.pattern else Frame("").signature
    frame = Frame(f"{len(form.bars)} bars in {form.key.title}", signature, form.bpm, form.key.fifths)
    return Drill(laid(frame, made), sentence=" ".join(form.bars))


def _chord(key: Scale, letters: int, semitones: int) -> Chord:
    letter = LETTERS[(LETTERS.index(key.letter) + letters) % 7]
    above = (STEP_SEMITONES[key.letter] + ALTERATIONS[key.sign] + semitones - STEP_SEMITONES[letter] + 6) % 12 - 6
    return Chord(letter, _SIGN_OF.get(above, ""))


def _pattern_lines(form: Form) -> dict[Hand, list[Event]]:
    """The pattern's events by hand, over the tonic of the form."""
    if form.pattern is None:
        tonic = Chord(form.key.letter, form.key.sign)
        return {
            hand: [
                *(Event(Fraction(1), (tonic.tone(tone, octave),)) for tone in ("root", "third", "fifth")),
                Event(Fraction(1)),
            ]
            for hand, octave in ((Hand.RIGHT, 4), (Hand.LEFT, 3))
        }
    measure = form.pattern.measures[0]
    lines: dict[Hand, list[Event]] = {}
    for hand in HANDS:
        notes = [n for n in form.pattern.notes if n.hand is hand and n.measure_index == 0 and n.is_strike]
        onsets = sorted({note.onset_quarters for note in notes})
        events, at = [], measure.start_quarters
        for number, onset in enumerate(onsets):
            if onset > at:
                events.append(Event(onset - at))
            chord = [note for note in notes if note.onset_quarters == onset]
            following = onsets[number + 1] if number + 1 < len(onsets) else measure.end_quarters
            length = min(min(note.duration_quarters for note in chord), following - onset)
            keys = tuple((n.name, n.pitch) for n in sorted(chord, key=lambda n: n.pitch or 0))
            events.append(Event(length, keys))
            at = onset + length
        if at < measure.end_quarters:
            events.append(Event(measure.end_quarters - at))
        lines[hand] = events
    return lines


def _moved(event: Event, letters: int, semitones: int) -> Event:
    return Event(event.length_quarters, tuple(moved_key(key, letters, semitones) for key in event.keys))


def _filled(events: Sequence[Event], form: Form, chord: Chord, hand: Hand) -> list[Event]:
    """The rests of a bar filled: claps with the right hand, chords with the left."""
    fill = FILLS[form.fill]
    by = Hand.RIGHT if any(is_clap for _, is_clap in fill) else Hand.LEFT
    if not fill or hand is not by:
        return list(events)
    found: list[Event] = []
    for event in events:
        if event.keys:
            found.append(event)
            continue
        found += [
            Event(_share(event.length_quarters, share), (CLAP,) if is_clap else _struck(chord))
            for share, is_clap in fill
        ]
    return found


def _share(length: Quarters, share: Fraction) -> Quarters:
    return length * share


def _struck(chord: Chord) -> tuple[Key, ...]:
    return tuple(chord.tone(tone, 3) for tone in ("root", "third", "fifth"))
