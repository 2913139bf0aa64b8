"""Places of a ladder that are no whole bars: phrases that cut bars, and the one seam of a line that is practised alone.

A seam has a rung of its own where it was halted at, else where it is hardest and hard enough; at most one a line.
Source: docs/trade.md 1 (7) and 3.3 (common practice); the bounds are ours.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.units import Quarters
from laptick.core.practice.ladder.chunks import chunks_of
from laptick.core.rhythm.phrases import Phrase, find_phrases
from laptick.core.score.hand_line import hand_line
from laptick.core.score.score import Place, Score
from laptick.core.score.within import Within
from laptick.core.together.seams import Seam

#: From so many points on a seam has a rung of its own.
SEAM_POINTS = 40.0


#: So many takes halt at a place before it has a rung of its own: one stop may be anything.
HALTED_IN = 2


@dataclass(frozen=True, slots=True)
class Halt:
    """A place at which takes halted, and how many did."""

    place: Place
    takes: int


@dataclass(frozen=True, slots=True)
class Chosen:
    """The seam of a line: between which places, and why."""

    first: int
    last: int
    within: Within
    why: str


def seam_chosen(score: Score, bars: range, seams: Sequence[Seam], halts: Sequence[Halt]) -> Chosen | None:
    """The seam inside some bars that has a rung of its own. ``seams``: the hardest first."""
    inside = [
        seam
        for seam in seams
        if seam.before.measure_index in bars
        and seam.to.measure_index in bars
        and seam.before.measure_index <= seam.to.measure_index
    ]
    for halt in sorted(halts, key=lambda one: -one.takes):
        halted = _halted(score, bars, inside, halt)
        if halted is not None:
            return halted
    if not inside or inside[0].points < SEAM_POINTS:
        return None
    return _of_seam(inside[0], f"The hardest way on here: {round(inside[0].points)} of 100.")


def _of_seam(seam: Seam, why: str) -> Chosen:
    within = Within(seam.before.offset_quarters, seam.to.offset_quarters)
    return Chosen(seam.before.measure_index, seam.to.measure_index, within, why)


def _halted(score: Score, bars: range, seams: Sequence[Seam], halt: Halt) -> Chosen | None:
    """The way to where it was halted: the map's own, else from the strike before."""
    measure = next((one for one in score.measures if one.number == halt.place.measure), None)
    if measure is None:
        return None  # the piece has no such bar any more
    at, why = halt.place.offset_quarters, f"It waited here in {halt.takes} takes."
    for seam in seams:
        if (seam.to.measure_index, seam.to.offset_quarters) == (measure.index, at):
            return _of_seam(seam, why)
    onset = measure.start_quarters + at
    strikes = hand_line(score, None).strikes
    before = max((strike for strike in strikes if strike < onset), default=None)
    if onset not in strikes or before is None:
        return None
    from_measure = score.measure_at(before)
    if measure.index not in bars or from_measure.index not in bars:
        return None
    return Chosen(from_measure.index, measure.index, Within(before - from_measure.start_quarters, at), why)


# -- phrases ---------------------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class PhraseChunk:
    """One or more phrases: bars by index, ``within`` them where they are no whole bars; ``content``: the same for the
    same notes; ``name``: ``phrase 2``, ``phrases 1 and 2``."""

    first: int
    last: int
    within: Within | None
    content: tuple[int, ...]
    name: str


def phrase_chunks(score: Score, own: Sequence[Place], group: range, passage: range) -> list[PhraseChunk]:
    """The phrases of a group of bars – those that have their middle in it –, each, then with the next. One phrase that
    is all there is gives none. ``passage``: the bars of the ladder, beyond which nothing goes."""
    phrases = find_phrases(score, own).phrases
    units = [phrase for phrase in phrases if _middle(score, phrase) in group]
    if len(units) < 2:
        return []
    letters = [unit.index if unit.same_notes_as is None else unit.same_notes_as for unit in units]
    chunks = chunks_of("line", letters, list(range(len(units))))
    found = []
    for low, high in chunks[:-1] if len(units) > 2 else chunks[:2]:
        chunk = _chunk(score, units[low], units[high], passage)
        if chunk is not None:
            first, last, within = chunk
            numbers = [str(unit.index + 1) for unit in units[low : high + 1]]
            name = f"phrase {numbers[0]}" if low == high else f"phrases {' and '.join(numbers)}"
            found.append(PhraseChunk(first, last, within, tuple(letters[low : high + 1]), name))
    return found


def _middle(score: Score, phrase: Phrase) -> int:
    return score.measure_at((phrase.start_quarters + phrase.end_quarters) / 2).index


def _chunk(score: Score, first: Phrase, last: Phrase, passage: range) -> tuple[int, int, Within | None] | None:
    begins, ends = first.start_quarters, last.end_quarters
    strikes = [at for at in hand_line(score, None).strikes if begins <= at < ends]
    begins = max(begins, score.measures[passage[0]].start_quarters)
    ends = min(ends, score.measures[passage[-1]].end_quarters)
    strikes = [at for at in strikes if begins <= at < ends]
    if not strikes:
        return None
    here, there = score.measure_at(strikes[0]), score.measure_at(strikes[-1])
    if begins <= here.start_quarters and ends >= there.end_quarters:
        return here.index, there.index, None
    start: Quarters = strikes[0] - here.start_quarters if begins > here.start_quarters else Fraction(0)
    return here.index, there.index, Within(start, strikes[-1] - there.start_quarters)
