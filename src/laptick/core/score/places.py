"""Places in words: a bar has two names, because teachers talk over a printed page. Source: docs/trade.md 1."""

from __future__ import annotations

from collections.abc import Sequence

from laptick.core.base.units import Quarters
from laptick.core.score.score import Measure, Place, Score


def place_words(score: Score, place: Place) -> str:
    """Both names of a place: ``bar 7 · line 2, bar 3``."""
    measure = score.measure_of(place)
    words = f"bar {measure.number} · line {measure.line}, "
    words += f"bar {measure.bar_in_line}" if measure.bar_in_line else "pickup"
    return _with_time(words, place)


def bar_words(place: Place) -> str:
    """``bar 1``, or ``bar 1, second time``."""
    return _with_time(f"bar {place.measure}", place)


def _with_time(words: str, place: Place) -> str:
    return words if place.pass_number == 1 else f"{words}, {time_words(place.pass_number)}"


def time_words(pass_number: int) -> str:
    """``second time``."""
    names = {2: "second", 3: "third", 4: "fourth"}
    return f"{names.get(pass_number, f'{pass_number}th')} time"


def beat_words(measure: Measure, offset: Quarters) -> str:
    """``beat 4``, or ``the note after beat 4``."""
    position = offset + measure.lead_quarters
    beats = measure.meter.beats
    number = max(i for i, beat in enumerate(beats, 1) if beat.start_quarters <= position or i == 1)
    return f"beat {number}" if beats[number - 1].start_quarters == position else f"the note after beat {number}"


def strikes_of_bar(score: Score, measure: Measure) -> list[Quarters]:
    """Where in a bar something is struck by either hand, in quarters from its start, in order."""
    strikes = {note.onset_quarters for note in score.notes_of_measure(measure.index) if note.is_strike}
    return [onset - measure.start_quarters for onset in sorted(strikes)]


def listed(names: Sequence[str]) -> str:
    """``3, 5 and 7``; of at least one name."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
