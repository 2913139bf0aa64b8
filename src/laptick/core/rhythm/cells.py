"""Rhythms to be seen as one thing: 3+3+2 and its double, hemiolas, runs off the beat, and the long-short
that comes early.

A cell is a stretch of whole or half bars whose strikes are exactly those of the cell. Source:
docs/trade.md 2.6 (common practice).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.hand_line import HandLine, hand_line, to_ticks
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Measure, Score


@dataclass(frozen=True, slots=True)
class Cell:
    """``units``: the spacing of its strikes in ``unit_quarters``, up to its end."""

    name: str
    measure_index: int
    onset_quarters: Quarters
    end_quarters: Quarters
    hand: Hand | None
    units: tuple[int, ...]
    unit_quarters: Quarters


@dataclass(frozen=True, slots=True)
class CellShape:
    name: str
    units: tuple[int, ...]

    @property
    def length(self) -> int:
        return sum(self.units)

    @property
    def offsets(self) -> tuple[int, ...]:
        """Where its strikes lie, in units; a last unit that is only held has none of its own."""
        return tuple(sum(self.units[:index]) for index in range(len(self.units)))


#: Cells of duple bars, by the number of units that the stretch holds. Longer ones are looked for first.
DUPLE_CELLS: tuple[CellShape, ...] = (
    CellShape("double tresillo", (3, 3, 3, 3, 2, 2)),
    CellShape("tresillo", (3, 3, 2)),
    CellShape("charleston", (3, 5)),
)

#: Signatures whose bars (or pairs of bars) the duple cells may fill.
_DUPLE = frozenset({(4, 4), (2, 4), (2, 2), (4, 8), (4, 2)})

#: An off-beat run has at least this many strikes.
RUN_LEAST = 3


def cells_of(score: Score, hand: Hand | None) -> list[Cell]:
    """All cells of a hand in the whole score; kept with it."""
    return CELLS.of(score, hand, lambda: find_cells(hand_line(score, hand), score.measures, hand))


CELLS: Kept[Score, Hand | None, list[Cell]] = Kept()


def find_cells(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> list[Cell]:
    """All cells of a line in the passage, in order; stretches of one shape do not overlap."""
    cells = [*_duple(line, measures, hand), *_hemiolas(line, measures, hand), *_off_beat_runs(line, measures, hand)]
    return sorted(cells, key=lambda cell: cell.onset_quarters)


def _is(line: HandLine, start: int, length: int, shape: CellShape) -> bool:
    if length % shape.length:
        return False
    unit = length // shape.length
    return line.strike_ticks_between(start, start + length) == tuple(start + unit * offset for offset in shape.offsets)


def _duple(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> Iterator[Cell]:
    per, skip_to = line.per_quarter, -1
    for index, measure in enumerate(measures):
        if not _is_duple(measure):
            continue
        start = to_ticks(measure.start_quarters, per)
        bar = to_ticks(measure.length_quarters, per)
        pair = bar * 2 if index + 1 < len(measures) and _alike(measure, measures[index + 1]) else 0
        for shape in DUPLE_CELLS:
            stretches = [(start, bar)]
            if shape.length == 16 or measure.signature.beats == 2:
                stretches.insert(0, (start, pair))
            if shape.length == 8 and measure.signature.beats == 4 and shape.name == "tresillo":
                stretches += [(start, bar // 2), (start + bar // 2, bar // 2)]
            found = [
                (at, length) for at, length in stretches if length and at >= skip_to and _is(line, at, length, shape)
            ]
            for at, length in found:
                if at < skip_to:
                    continue
                skip_to = at + length
                yield _Seen(shape.name, shape.units, measure, at, length).cell(line, hand)


def _is_duple(measure: Measure) -> bool:
    signature = measure.signature
    return (signature.beats, signature.beat_type) in _DUPLE and measure.length_quarters == signature.bar_quarters


def _alike(first: Measure, second: Measure) -> bool:
    return first.signature == second.signature and first.length_quarters == second.length_quarters


def _hemiolas(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> Iterator[Cell]:
    """Three equal notes where the meter has two groups of three: a bar of 6/8, two bars of 3/4 or 3/8."""
    shape, skip_to = CellShape("hemiola", (2, 2, 2)), -1
    for index, measure in enumerate(measures):
        signature = measure.signature
        if measure.length_quarters != signature.bar_quarters:
            continue
        start = to_ticks(measure.start_quarters, line.per_quarter)
        bar = to_ticks(measure.length_quarters, line.per_quarter)
        if _is_triple(signature) and index + 1 < len(measures) and _alike(measure, measures[index + 1]):
            length = 2 * bar
        elif measure.meter.is_compound and len(measure.meter.beats) == 2:
            length = bar
        else:
            continue
        if start >= skip_to and _is(line, start, length, shape):
            skip_to = start + length
            yield _Seen(shape.name, shape.units, measure, start, length).cell(line, hand)


def _is_triple(signature: TimeSignature) -> bool:
    return signature.beats == 3


def _off_beat_runs(line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> Iterator[Cell]:
    """At least three strikes in a row on the halves of simple beats, no beat struck between them."""
    per = line.per_quarter
    run: list[tuple[int, Measure]] = []
    half = 0
    for measure in measures:
        start = to_ticks(measure.start_quarters, per)
        end = start + to_ticks(measure.length_quarters, per)
        lead = to_ticks(measure.lead_quarters, per)
        beats = {
            to_ticks(beat.start_quarters + beat.length_quarters / 2, per): to_ticks(beat.length_quarters, per)
            for beat in measure.meter.beats
            if beat.division == 2
        }
        for tick in line.strike_ticks_between(start, end):
            beat = beats.get(tick - start + lead)
            if beat is not None and (not run or tick - run[-1][0] == beat):
                run.append((tick, measure))
                half = beat // 2
                continue
            yield from _run(run, half, line, hand)
            run, half = ([(tick, measure)], beat // 2) if beat is not None else ([], half)
    yield from _run(run, half, line, hand)


def _run(run: list[tuple[int, Measure]], half: int, line: HandLine, hand: Hand | None) -> Iterator[Cell]:
    if len(run) >= RUN_LEAST:
        length = run[-1][0] - run[0][0] + half
        units = (2,) * (len(run) - 1) + (1,)
        yield _Seen("off-beat run", units, run[0][1], run[0][0], length).cell(line, hand)


@dataclass(frozen=True, slots=True)
class _Seen:
    """A cell in ticks: where it begins, in which bar, and how long it is."""

    name: str
    units: tuple[int, ...]
    measure: Measure
    start: int
    length: int

    def cell(self, line: HandLine, hand: Hand | None) -> Cell:
        return Cell(
            self.name,
            self.measure.index,
            line.quarters(self.start),
            line.quarters(self.start + self.length),
            hand,
            self.units,
            Fraction(self.length, sum(self.units) * line.per_quarter),
        )
