"""How places and beats are named on screen."""

from __future__ import annotations

from laptick.core.base.units import Quarters
from laptick.core.score.meter import all_groupings
from laptick.core.score.places import beat_words, place_words
from laptick.core.score.score import Place, Score


def groupings_text(units: int) -> list[str]:
    return ["+".join(map(str, grouping)) for grouping in all_groupings(units)] if units <= MOST_GROUPED else []


#: Longer bars have too many groupings to choose from a list.
MOST_GROUPED = 13


def place_text(score: Score, onset: Quarters) -> str:
    measure = score.measure_at(onset)
    return f"{place_words(score, score.place_at(onset))}, {beat_words(measure, onset - measure.start_quarters)}"


def beat_text(score: Score, place: Place) -> str:
    measure = score.measure_of(place)
    return f"bar {place.measure}, {beat_words(measure, place.offset_quarters)}"
