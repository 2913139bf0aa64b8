"""How syncopated a cyclic rhythm is, as one number: two published measures beside our list of syncopations.

A rhythm is its strikes (in pulses from 0) in a cycle of pulses. Each strike lasts to the next one, the last
to the first of the next cycle. Sources: M. Keith, *From Polychords to Polya* (1991), and F. Gómez, A. Melvin,
D. Rappaport & G. Toussaint, "Mathematical measures of syncopation", Bridges 2005.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction


def _lengths(strikes: Sequence[int], pulses: int) -> list[int]:
    return [after - here for here, after in zip(strikes, [*strikes[1:], strikes[0] + pulses], strict=True)]


def keith_syncopations(strikes: Sequence[int], pulses: int) -> int:
    """How many strikes begin off the level that their length belongs to: not at a multiple of the largest
    power of two that is not longer than they last. ``pulses`` is a power of two."""
    if pulses < 1 or pulses & (pulses - 1):
        raise ValueError("the cycle should be a power of two long")
    return sum(
        strike % (1 << (length.bit_length() - 1)) != 0
        for strike, length in zip(strikes, _lengths(strikes, pulses), strict=True)
    )


def weighted_note_to_beat_distance(strikes: Sequence[int], pulses: int, beat: int) -> Fraction:
    """The mean over the strikes of 1/d (2/d where a strike off the beat lasts over the next beat, but not
    beyond the one after), d being its distance from the nearest beat in beats; strikes on a beat count 0."""
    total = Fraction(0)
    for strike, length in zip(strikes, _lengths(strikes, pulses), strict=True):
        inside = strike % beat
        if inside == 0:
            continue
        end = inside + length
        crosses = beat < end < 2 * beat
        total += Fraction((2 if crosses else 1) * beat, min(inside, beat - inside))
    return total / len(strikes)
