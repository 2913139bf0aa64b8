"""Quarters that are asked for over and over: exact as any, with their hash and their float worked out once.

Onsets are the keys by which strikes are gathered, and each of the stages of a check asks for the same few. One object
for all equal ones (``kept``) makes them equal at a glance. What is reckoned from them are plain fractions again.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from typing import Self

from laptick.core.base.units import Quarters


class KeptQuarters(Fraction):
    """Equal to the fraction it is made from, and of one hash with it."""

    __slots__ = ("_as_float", "_as_hash")
    _as_float: float
    _as_hash: int

    def __new__(cls, numerator: int | Fraction = 0, denominator: int | None = None) -> Self:
        made = super().__new__(cls, numerator, denominator)
        made._as_float, made._as_hash = super().__float__(made), super().__hash__(made)
        return made

    def __float__(self) -> float:
        return self._as_float

    def __hash__(self) -> int:  # type: ignore[override]  # typeshed has none of Complex
        return self._as_hash

    def __eq__(self, other: object) -> bool:
        return self is other or super().__eq__(other)


def keeper() -> Callable[[Quarters], KeptQuarters]:
    """Of equal quarters, one object."""
    known: dict[Quarters, KeptQuarters] = {}

    def kept(quarters: Quarters) -> KeptQuarters:
        if quarters not in known:
            known[quarters] = KeptQuarters(quarters)
        return known[quarters]

    return kept
