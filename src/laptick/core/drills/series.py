"""One tune over one accompaniment after the other: runs, each once through the tune, joined to one score.

A run has the tune over a pattern, or over several that take turns, or the chord of each bar held on top instead of the
tune. Each change of pattern is a cue, said a beat ahead; a bar that was met before is laid as it was.
Source: docs/trade.md 3.3 (layered left hand: a chord held on top, the tune sung, then played; switching in mid-run).
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from laptick.core.base.errors import LimitError
from laptick.core.drills.chords import Chord
from laptick.core.drills.drill import MOST_BARS, Drill, Event, Key, Laying
from laptick.core.drills.layers import Layer, ceilings_of, make_layer
from laptick.core.drills.patterns import Pattern
from laptick.core.score.score import NO_SIGNS, Hand, Mark, MarkKind, Measure, Note, Rest, Score, mark_order

#: The chord on top lies from this key on, or above what the tune leaves free for the left hand.
LOWEST_TOP = 60

HELD_WORDS = "a chord on top"


@dataclass(frozen=True)
class Run:
    """Once through the tune. ``patterns``: from which of its bars on (by index) which; ``is_held``: each bar's chord
    held instead of the tune; ``is_onward``: it belongs to the run before."""

    patterns: tuple[tuple[int, Pattern], ...]
    is_held: bool = False
    is_onward: bool = False

    @property
    def words(self) -> str:
        names = ", then ".join(pattern.words for _, pattern in self.patterns)
        return f"{names}, {HELD_WORDS}" if self.is_held else names


def taking_turns(patterns: Sequence[Pattern], measures: Sequence[Measure], bars: int) -> list[Run]:
    """The patterns one after the other, each for so many bars, round and round, until each was called: once through the
    tune or oftener."""
    whole = [measure.index for measure in measures if not measure.is_pickup]
    starts = [0, *whole[bars::bars]]
    called = itertools.cycle(patterns)
    times = -(-len(patterns) // len(starts))
    return [Run(tuple(zip(starts, called, strict=False)), is_onward=time > 0) for time in range(times)]


def make_series(score: Score, layer: Layer, runs: Sequence[Run]) -> Drill:
    """The runs of a tune, one after the other. ``layer``: its chords, touch and span; its patterns are those of the
    runs.

    Raises:
        OptionError: the right hand has no note, or no root finds its place.
        LimitError: more bars than a drill has.
    """
    if len(runs) * len(score.measures) > MOST_BARS:
        raise LimitError(
            f"{len(runs)} times {len(score.measures)} bars are more than the {MOST_BARS} of a drill.",
            where="pattern",
            kept="Nothing was made.",
            todo="Choose fewer patterns, or a shorter tune.",
        )
    ceilings = ceilings_of(score)
    top = None
    made: list[Score] = []
    for run in runs:
        tune = score
        if run.is_held:
            top = top or _held(score, layer, ceilings)
            tune = top
        drill = make_layer(tune, replace(layer, patterns=run.patterns, ceilings=ceilings))
        made.append(replace(drill.score, marks=_called(drill.score, run)))
    # The sentence about the roots is the same of all.
    kinds = {pattern.key for run in runs for _, pattern in run.patterns}
    title = f"{score.title}, {len(kinds)} left hands" if len(kinds) > 1 else made[-1].title
    return replace(drill, score=replace(joined(made), title=title))


def _called(score: Score, run: Run) -> tuple[Mark, ...]:
    """The marks of a run, its first pattern called as well; it is a section of its own."""
    words = run.patterns[0][1].words + (f", {HELD_WORDS}" if run.is_held else "")
    own = [mark for mark in score.marks if mark.kind is not MarkKind.REHEARSAL]
    called = [Mark(MarkKind.CUE, Fraction(0), words)]
    if not run.is_onward:
        called.append(Mark(MarkKind.REHEARSAL, Fraction(0), run.words))
    return tuple(sorted([*called, *own], key=mark_order))


def _held(score: Score, layer: Layer, ceilings: Sequence[int]) -> Score:
    """The chord of each bar, held in the right hand to its end or the next one: its lowest turn that leaves the left
    hand its room."""
    laying = Laying(Hand.RIGHT, score.measures)
    for measure, chord, ceiling in zip(score.measures, layer.chords, ceilings, strict=True):
        held = [(Fraction(0), chord), *layer.changes.get(measure.index, ())]
        ends = [*(since for since, _ in held[1:]), measure.length_quarters]
        lowest = max(LOWEST_TOP, min(ceiling, _MOST_CEILING))
        events = [Event(end - since, _turn(one, lowest)) for (since, one), end in zip(held, ends, strict=True)]
        laying.lay_bar(measure, events)
    marks = [mark for mark in score.marks if mark.hand is None and mark.note_id is None and mark.kind not in _OF_A_TUNE]
    return replace(
        score,
        notes=tuple(laying.notes),
        rests=tuple(rest for rest in score.rests if rest.hand is Hand.LEFT),
        marks=tuple(marks),
    )


def _turn(chord: Chord, lowest: int) -> tuple[Key, ...]:
    """The chord with no key below one, as low as it can be."""
    keys = []
    for tone in ("root", "third", "fifth"):
        octave = next(octave for octave in range(10) if chord.tone(tone, octave)[1] >= lowest)
        keys.append(chord.tone(tone, octave))
    return tuple(sorted(keys, key=lambda key: key[1]))


#: A tune that lies higher leaves room enough: the chord need not go up after it.
_MOST_CEILING = 72

#: What is said of a tune is not said of chords.
_OF_A_TUNE = frozenset({MarkKind.DYNAMIC, MarkKind.WEDGE, MarkKind.LYRIC, MarkKind.SLUR, MarkKind.ARTICULATION})


def joined(scores: Sequence[Score]) -> Score:
    """Scores one after the other, as they are written, bars numbered through; what jumps and repeats is left out."""
    measures: list[Measure] = []
    notes: list[Note] = []
    rests: list[Rest] = []
    marks: list[Mark] = []
    at, line = Fraction(0), 0
    number = itertools.count(1)
    for part, score in enumerate(scores):
        first = len(measures)
        for measure in score.measures:
            measures.append(
                replace(
                    measure, index=first + measure.index, start_quarters=at + measure.start_quarters,
                    number="0" if measure.is_pickup and not measures else str(next(number)),
                    line=line + measure.line, pass_number=1, written_index=-1, written_start=None, signs=NO_SIGNS,
                )
            )  # fmt: skip
        notes += [
            replace(
                note, id=f"{part}.{note.id}", onset_quarters=at + note.onset_quarters,
                measure_index=first + note.measure_index,
            )
            for note in score.notes
        ]  # fmt: skip
        rests += [
            replace(rest, onset_quarters=at + rest.onset_quarters, measure_index=first + rest.measure_index)
            for rest in score.rests
        ]
        marks += [_moved(mark, at, part) for mark in score.marks]
        line += max(measure.line for measure in score.measures)
        at += score.end_quarters
    return replace(
        scores[0], measures=tuple(measures), notes=tuple(notes), rests=tuple(rests),
        marks=tuple(sorted(marks, key=mark_order)),
    )  # fmt: skip


def _moved(mark: Mark, by: Fraction, part: int) -> Mark:
    end = None if mark.end_quarters is None else mark.end_quarters + by
    note_id = None if mark.note_id is None else f"{part}.{mark.note_id}"
    return replace(mark, onset_quarters=mark.onset_quarters + by, end_quarters=end, note_id=note_id)
