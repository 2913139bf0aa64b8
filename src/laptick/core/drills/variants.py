"""Turns of even notes: three or four even ones in a beat, made uneven on purpose, one way after the other.

*Quick-quick-long* and its turns: of threes the long one lasts two quick ones; of fours three, or two where there are
two long ones. The beat stays as long as it is.
Source: docs/trade.md 3.5 (grouped variants), common practice.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.drills.drill import Drill
from laptick.core.score.score import HANDS, Hand, MarkKind, Measure, Note, Score

QUICK, LONG = "quick", "long"


def shares_of(pattern: str) -> tuple[Fraction, ...]:
    """``quick-quick-long`` → 1/4, 1/4, 1/2 of the beat.

    Raises:
        OptionError: not three or four of them, or not one long one, of fours two at most.
    """
    words = pattern.split("-")
    longs = words.count(LONG)
    if set(words) - {QUICK, LONG} or len(words) not in (3, 4) or not 1 <= longs <= len(words) - 2:
        raise OptionError(
            f"“{pattern[:40]}” is no turn of even notes.",
            where="pattern",
            todo="Write three or four of quick and long, like quick-quick-long.",
        )
    long = 3 if len(words) == 4 and longs == 1 else 2
    sizes = [long if word == LONG else 1 for word in words]
    return tuple(Fraction(size, sum(sizes)) for size in sizes)


#: The first turn of threes and of fours.
FIRST_TURNS = ("quick-quick-long", "quick-quick-quick-long")


def turn_for(score: Score, measures: Sequence[Measure]) -> str:
    """The first turn for which these bars have even notes.

    Raises:
        OptionError: no beat has three or four of them.
    """
    for pattern in FIRST_TURNS:
        try:
            make_variant(score, measures, pattern)
        except OptionError:
            continue
        return pattern
    raise OptionError(
        "no beat of these bars has three or four even notes in one hand.",
        where="measures",
        todo="Choose bars that have, or another piece.",
    )


def make_variant(score: Score, measures: Sequence[Measure], pattern: str) -> Drill:
    """Some bars of a score with every beat of so many even notes turned.

    Raises:
        OptionError: no such pattern, or no such beat in these bars.
    """
    shares = shares_of(pattern)
    excerpt = _excerpt(score, measures)
    notes, turned = list(excerpt.notes), 0
    for measure in excerpt.measures:
        for beat in measure.meter.beats:
            start = measure.start_quarters + beat.start_quarters - measure.lead_quarters
            for hand in HANDS:
                changed = _turned(notes, hand, start, beat.length_quarters, shares)
                if changed is not None:
                    notes, turned = changed, turned + 1
    if not turned:
        raise OptionError(
            f"no beat of these bars has {len(shares)} even notes.", where="measures", todo="Choose bars that have."
        )
    made = replace(
        excerpt,
        title=f"{score.title}, {pattern}",
        notes=tuple(sorted(notes, key=lambda note: (note.onset_quarters, note.pitch or 0, note.voice))),
    )
    return Drill(made, sentence=f"{pattern.replace('-', ', ')}: the beat stays as long as it is.")


def _turned(
    notes: list[Note], hand: Hand, start: Quarters, length: Quarters, shares: tuple[Fraction, ...]
) -> list[Note] | None:
    """The notes with one beat of a hand turned; ``None`` where it has not just so many even ones."""
    each = length / len(shares)
    own = [n for n in notes if n.hand is hand and start <= n.onset_quarters < start + length and not n.is_grace]
    places = {start + each * index: index for index in range(len(shares))}
    if {n.onset_quarters for n in own} != set(places):
        return None
    if any(n.duration_quarters != each or n.tied_onward or n.tied_from_before for n in own):
        return None
    moved = {}
    for note in own:
        index = places[note.onset_quarters]
        onset = start + length * sum(shares[:index], Fraction(0))
        moved[note.id] = replace(note, onset_quarters=onset, duration_quarters=length * shares[index])
    return [moved.get(note.id, note) for note in notes]


def _excerpt(score: Score, measures: Sequence[Measure]) -> Score:
    """Some bars by themselves, from 0 on, with the key that holds there."""
    first, origin = measures[0].index, measures[0].start_quarters
    inside = {measure.index for measure in measures}
    keys = [mark for mark in score.marks if mark.kind is MarkKind.KEY and mark.onset_quarters <= origin]
    return replace(
        score,
        measures=tuple(
            replace(m, index=m.index - first, start_quarters=m.start_quarters - origin) for m in measures
        ),
        notes=tuple(
            replace(
                n, measure_index=n.measure_index - first, onset_quarters=n.onset_quarters - origin,
                tied_from_before=n.tied_from_before and n.onset_quarters > origin,
                tied_onward=n.tied_onward and n.end_quarters < measures[-1].end_quarters,
            )
            for n in score.notes
            if n.measure_index in inside
        ),
        rests=tuple(
            replace(r, measure_index=r.measure_index - first, onset_quarters=r.onset_quarters - origin)
            for r in score.rests
            if r.measure_index in inside
        ),
        tempos=tuple(replace(t, onset_quarters=Fraction(0)) for t in score.tempos if t.onset_quarters <= origin)[-1:],
        marks=tuple(replace(mark, onset_quarters=Fraction(0)) for mark in keys[-1:]),
        notices=(),
    )  # fmt: skip
