"""Where the note that is counted changes in mid-piece: by another time signature, or for a bar that is too fine for its
beats. It is announced at its bar.

Source: docs/trade.md 2.1 and 2.2 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.units import LengthNaming, Quarters, length_plural
from laptick.core.counting.counts import CountedBar, LineCount
from laptick.core.counting.word_tables import PLACE_SYSTEMS


@dataclass(frozen=True, slots=True)
class UnitChange:
    """From bar ``measure_index`` on another note is counted; ``text`` says which."""

    measure_index: int
    text: str


def unit_changes(counted: LineCount) -> tuple[UnitChange, ...]:
    """The bars at which the counted note differs from the bar before. Systems that name what happens, and not where in
    the bar, count no note."""
    found = []
    known: tuple[Quarters, ...] | None = None
    for bar in counted.by:
        if bar.resolved.system not in PLACE_SYSTEMS:
            known = None
            continue
        units = _units(bar)
        if known is not None and units != known:
            found.append(UnitChange(bar.measure.index, _text(bar, units, counted.naming)))
        known = units
    return tuple(found)


def _units(bar: CountedBar) -> tuple[Quarters, ...]:
    """The lengths of the counted beats: one, or several in an asymmetric meter."""
    quarters = sum((beat.length for beat in bar.beats.beats), Fraction(0))
    lengths = [beat.length for beat in bar.plan.beats]
    tick = quarters / sum(lengths)
    return tuple(length * tick for length in sorted(set(lengths)))


def _text(bar: CountedBar, units: tuple[Quarters, ...], naming: LengthNaming) -> str:
    if len(units) == 1:
        return f"count {length_plural(units[0], naming)}"
    return f"count groups of {length_plural(bar.measure.meter.unit_quarters, naming)}"
