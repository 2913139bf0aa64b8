"""Traps of counting, one sentence each: a triplet beside eighths, a dotted figure beside a triplet; and
what each length is worth in a time signature.

Source: docs/trade.md 2.1 and 2.3 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters, length_name
from laptick.core.counting.counts import CountedBar, LineCount
from laptick.core.score.hand_line import HandLine, to_ticks
from laptick.core.score.score import Score


@dataclass(frozen=True, slots=True)
class Trap:
    """``kind``: triplet-beside-eighths or dotted-beside-triplet."""

    kind: str
    measure_index: int
    offset_quarters: Quarters
    text: str


TRAP_WORDS: dict[str, str] = {
    "triplet-beside-eighths": "Three in a beat beside two: the beat stays as long as it was, only its parts change.",
    "dotted-beside-triplet": "A dotted figure beside a triplet: its short note comes later than the triplet’s last.",
}

#: Dotted figures: strikes at these parts of one beat, or of two.
_DOTTED = Fraction(3, 4)


def find_traps(counts: LineCount, line: HandLine) -> list[Trap]:
    """The traps of a line, at the beat where the second of the two comes; each kind once a bar."""
    traps: list[Trap] = []
    before: list[tuple[str, int]] = []  # (kind of figure, ordinal of its beat)
    ordinal = 0
    for bar in counts.by:
        told: set[str] = set()
        for index, figure in enumerate(_figures(bar, line)):
            for kind, other in (
                ("triplet-beside-eighths", {"three", "two"}),
                ("dotted-beside-triplet", {"three", "dotted"}),
            ):
                if figure not in other or kind in told:
                    continue
                if any(name in other - {figure} and ordinal - at <= 1 for name, at in before):
                    told.add(kind)
                    beat = bar.plan.beats[index]
                    offset = max(Fraction(0), line.quarters(beat.start) - bar.measure.lead_quarters)
                    traps.append(Trap(kind, bar.measure.index, offset, TRAP_WORDS[kind]))
            if figure:
                before = [item for item in before if ordinal - item[1] <= 1]
                before.append((figure, ordinal))
            ordinal += 1
    return traps


def _figures(bar: CountedBar, line: HandLine) -> list[str]:
    """For each beat: ``three``, ``two``, ``dotted`` or nothing of these."""
    plan, per = bar.plan, line.per_quarter
    start = to_ticks(bar.measure.start_quarters, per) - to_ticks(bar.measure.lead_quarters, per)
    result = []
    for index, beat in enumerate(plan.beats):
        at = start + beat.start
        inside = [Fraction(t - at, beat.length) for t in line.strike_ticks_between(at, at + beat.length)]
        if beat.is_compound:
            result.append("")
        elif plan.grids[index] == (3,) and len(inside) > 1:
            result.append("three")
        elif inside == [0, _DOTTED]:
            result.append("dotted")
        elif plan.grids[index] == (2,) and len(inside) > 1:
            result.append("two")
        else:
            result.append("")
    return result


@dataclass(frozen=True, slots=True)
class Worth:
    """What a length is worth in a signature: ``counts`` of the unit that is counted there."""

    signature: str
    name: str
    length_quarters: Quarters
    counts: Quarters


def lengths_worth(score: Score, counts: LineCount) -> list[Worth]:
    """For every signature of the passage, each written length that occurs in it, short to long."""
    units: dict[str, Quarters] = {}
    wanted = {bar.measure.index: str(bar.measure.signature) for bar in counts.by}
    for bar in counts.by:
        units.setdefault(str(bar.measure.signature), bar.beats.beats[0].length if bar.beats.in_units else _beat(bar))
    return [
        Worth(signature, length_name(length, counts.naming), length, length / units[signature])
        for signature, found in _lengths_in(score, wanted).items()
        for length in found
    ]


def _lengths_in(score: Score, wanted: dict[int, str]) -> dict[str, list[Quarters]]:
    """Signature → the written lengths in its bars, short to long; kept with the score. ``wanted``: bar → signature."""

    def found() -> dict[str, list[Quarters]]:
        lengths: dict[str, set[Quarters]] = {}
        for note in score.notes:
            if note.measure_index in wanted and not note.is_grace:
                lengths.setdefault(wanted[note.measure_index], set()).add(note.duration_quarters)
        return {signature: sorted(own) for signature, own in lengths.items()}

    return LENGTHS.of(score, tuple(wanted), found)


#: The written lengths in the bars of each signature, by the bars that are asked for.
LENGTHS: Kept[Score, tuple[int, ...], dict[str, list[Quarters]]] = Kept()


def _beat(bar: CountedBar) -> Quarters:
    """The counted beat; of unequal beats the unit."""
    beats = bar.beats.beats
    return beats[0].length if len({b.length for b in beats}) == 1 else bar.beats.meter.unit_quarters
