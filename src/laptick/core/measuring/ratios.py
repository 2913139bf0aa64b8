"""Rhythmic figures as ratios: dotted pairs, triplets, a long and two shorts, the compound long-short.

A *figure* is two or three written intervals of one hand that fill a beat (or two), with the note they land on; what was
played of it is compared with the small ratios that listeners hear, on a log scale, and reads as the nearest. Repeats of
a figure in a hand are pooled by their median (of each part, on the log scale).

The plane of three intervals is that of their centred logarithms (Aitchison, "The statistical analysis of compositional
data", JRSS B 44, 1982, from memory). That rhythms are heard as small ratios: Povel, "Internal representation of simple
temporal patterns", JEP: HPP 7, 1981 (from memory). Source of the figures and of what each
turns into: docs/trade.md 4.5.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from statistics import median

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters, Seconds
from laptick.core.measuring.evenness import HandStrike
from laptick.core.score.score import Hand, Score
from laptick.core.takes.task import Task

#: Parts of a figure, in small whole numbers.
Parts = tuple[int, ...]

#: Written figure → what it may read as, itself first. Three against one nearer two to one is turning into a triplet; a
#: triplet nearer 2:1:1 or 1:1:2 is bent; a compound long-short nearer one to one is a duplet.
READINGS: dict[Parts, tuple[Parts, ...]] = {
    (3, 1): ((3, 1), (2, 1), (1, 1)),
    (2, 1): ((2, 1), (1, 1), (3, 1)),
    (1, 1, 1): ((1, 1, 1), (2, 1, 1), (1, 1, 2), (1, 2, 1)),
    (2, 1, 1): ((2, 1, 1), (1, 1, 1), (1, 1, 2)),
    (1, 1, 2): ((1, 1, 2), (1, 1, 1), (2, 1, 1)),
}

#: Figures that stand in a simple beat (or two of them), and in a compound one.
SIMPLE: frozenset[Parts] = frozenset({(3, 1), (1, 1, 1), (2, 1, 1), (1, 1, 2)})
COMPOUND: frozenset[Parts] = frozenset({(2, 1)})


def written_words(parts: Parts) -> str:
    return ":".join(map(str, parts))


@dataclass(frozen=True, slots=True)
class Ratio:
    """One figure as it was played. ``seconds``: its intervals; ``onset_quarters``: where it begins."""

    hand: Hand | None
    onset_quarters: Quarters
    written: Parts
    length_quarters: Quarters
    seconds: tuple[Seconds, ...]

    @property
    def played(self) -> tuple[float, ...]:
        """The intervals over the last of them."""
        return tuple(one / self.seconds[-1] for one in self.seconds)

    @property
    def reads_as(self) -> Parts:
        return nearest(self.written, centred(self.seconds))


def centred(parts: Sequence[float]) -> tuple[float, ...]:
    """Logarithms less their mean: equal for all multiples of the same ratio."""
    logs = [math.log(max(1e-4, one)) for one in parts]
    middle = sum(logs) / len(logs)
    return tuple(one - middle for one in logs)


def nearest(written: Parts, point: Sequence[float]) -> Parts:
    """Which of a figure's readings lies nearest; of equals the written one."""
    return min(
        READINGS[written], key=lambda reading: (round(math.dist(point, centred(reading)), 9), reading != written)
    )


#: Onset at which a beat begins → its length, and whether it divides in three.
BeatsAt = Mapping[Quarters, tuple[Quarters, bool]]


def beats_of(task: Task) -> BeatsAt:
    """Where the beats of the passage begin, how long each is, whether it divides in three."""
    return BEATS.of(task.score, (task.measures[0].index, task.measures[-1].index), lambda: _beats_of(task))


#: Beats by the first and last bar of a passage.
BEATS: Kept[Score, tuple[int, int], BeatsAt] = Kept()


def _beats_of(task: Task) -> BeatsAt:
    return {
        task.bar_start(measure) + beat.start_quarters - measure.lead_quarters: (
            beat.length_quarters,
            beat.division == 3,
        )
        for measure in task.measures
        for beat in measure.meter.beats
    }


def find_ratios(strikes: Sequence[HandStrike], beats_at: BeatsAt) -> list[Ratio]:
    """The figures of one hand's strikes, in order."""
    return list(_find(strikes, beats_at))


def _find(strikes: Sequence[HandStrike], beats_at: BeatsAt) -> Iterator[Ratio]:
    connected = [strike.connected_quarters for strike in strikes[1:]]
    # Counted in the shortest length that all are whole numbers of: the same exactly, and quicker.
    lengths = {length.denominator for length in connected if length is not None}
    parts_of_quarter = math.lcm(*lengths, *{length.denominator for length, _ in beats_at.values()})
    counted = [None if length is None else _counted(length, parts_of_quarter) for length in connected]
    index = 0
    while index < len(strikes) - 2:
        found = _at(strikes, index, counted[index : index + 3], beats_at, parts_of_quarter)
        if found is None:
            index += 1
            continue
        yield found
        index += len(found.written)


def _at(
    strikes: Sequence[HandStrike],
    index: int,
    connected: Sequence[int | None],
    beats_at: BeatsAt,
    parts_of_quarter: int,
) -> Ratio | None:
    """The figure that begins at a strike: its intervals fill one beat, or two simple ones. ``connected``: these, as far
    as nothing lies between, counted in so many parts of a quarter."""
    beat = beats_at.get(strikes[index].onset_quarters) if connected[0] is not None else None
    if beat is None:
        return None
    length, is_compound = _counted(beat[0], parts_of_quarter), beat[1]
    lengths: list[int] = []
    whole = 0
    for interval in connected:
        if interval is None or (not lengths and (interval == length or interval >= 2 * length)):
            return None  # no figure begins with all of its beat
        lengths.append(interval)
        whole += interval
        if whole == length or (whole == 2 * length and not is_compound):
            parts = _parts(lengths)
            if parts in (COMPOUND if is_compound else SIMPLE):
                return _ratio(strikes[index : index + len(lengths) + 1], parts, Fraction(whole, parts_of_quarter))
        if whole >= 2 * length:
            return None
    return None


def _counted(length: Quarters, parts_of_quarter: int) -> int:
    return length.numerator * (parts_of_quarter // length.denominator)


def _parts(lengths: Sequence[int]) -> Parts:
    smallest = min(lengths)
    return tuple(length // smallest for length in lengths) if all(length % smallest == 0 for length in lengths) else ()


def _ratio(strikes: Sequence[HandStrike], parts: Parts, length: Quarters) -> Ratio | None:
    seconds = tuple(b.played_s - a.played_s for a, b in pairwise(strikes))
    if min(seconds) <= 0:
        return None
    return Ratio(strikes[0].hand, strikes[0].onset_quarters, parts, length, seconds)


@dataclass(frozen=True)
class RatioFigure:
    """All repeats of a figure of one length in one hand."""

    hand: Hand | None
    written: Parts
    length_quarters: Quarters
    ratios: tuple[Ratio, ...]

    @property
    def intervals(self) -> int:
        return len(self.written) * len(self.ratios)

    @property
    def middle(self) -> tuple[float, ...]:
        """The median of each part, centred."""
        points = [centred(ratio.seconds) for ratio in self.ratios]
        medians = [median(point[i] for point in points) for i in range(len(self.written))]
        shift = sum(medians) / len(medians)
        return tuple(one - shift for one in medians)

    @property
    def played(self) -> tuple[float, ...]:
        """The pooled figure over its last part."""
        logs = self.middle
        return tuple(math.exp(one - logs[-1]) for one in logs)

    @property
    def reads_as(self) -> Parts:
        return nearest(self.written, self.middle)

    def way_to(self, reading: Parts) -> list[float]:
        """How far each repeat has gone from what is written (0) to another reading (1)."""
        start, end = centred(self.written), centred(reading)
        span = [b - a for a, b in zip(start, end, strict=True)]
        size = sum(one * one for one in span)
        points = [centred(ratio.seconds) for ratio in self.ratios]
        return [sum((x - a) * d for x, a, d in zip(point, start, span, strict=True)) / size for point in points]


def group_ratios(ratios: Sequence[Ratio]) -> list[RatioFigure]:
    grouped: dict[tuple[Hand | None, Parts, Quarters], list[Ratio]] = {}
    for ratio in ratios:
        grouped.setdefault((ratio.hand, ratio.written, ratio.length_quarters), []).append(ratio)
    return [RatioFigure(*key, tuple(found)) for key, found in grouped.items()]
