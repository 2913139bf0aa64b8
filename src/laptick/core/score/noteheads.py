"""Lengths as noteheads show them: what one can, and how a longer or odder one is tied together.

Source: common practice of notation, no source.
"""

from __future__ import annotations

from fractions import Fraction

from laptick.core.base.units import Quarters

#: One note cannot be written shorter than this.
SHORTEST: Quarters = Fraction(1, 32)


def is_one_note(length: Quarters) -> bool:
    """True for lengths that one notehead can show: a power of two, up to two dots, plain or in a tuplet."""
    denominator = length.denominator
    while denominator % 2 == 0:
        denominator //= 2
    plain = length * denominator  # a tuplet of n: the plain length has no n below the line
    odd = plain.numerator
    while odd % 2 == 0 and odd:
        odd //= 2
    return odd in (1, 3, 7) and denominator < 16


def written_parts(length: Quarters, at: Quarters = Fraction(0)) -> list[Quarters]:
    """A length as the fewest noteheads that show it, plain and dotted ones (a greedy choice): the longest first, but
    the shortest where it leads from an odd place ``at`` of the bar to an even one."""
    parts: list[Quarters] = []
    while length > 0:
        size = Fraction(16)
        while size > length:
            size /= 2
        if is_one_note(length) or size < SHORTEST:
            parts.append(length)
            break
        part = size * Fraction(3, 2) if size * Fraction(3, 2) <= length else size
        parts.append(part)
        length -= part
    return parts[::-1] if parts and at % (2 * parts[-1]) else parts
