"""A spot of a passage: of its first bar only what is struck from one beat on, of its last only up to another.

The beat runs through whole bars, so that a spot can be gone over again and again in time; what lies outside is silence.
Offsets are exact quarters from the start of the bar, both included. As a text: ``3..1/2``.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters, parse_quarters, quarters_to_text
from laptick.core.score.places import beat_words
from laptick.core.score.score import Measure

#: So many letters name a spot at most.
MOST_LETTERS = 30

_BETWEEN = ".."


@dataclass(frozen=True, slots=True)
class Within:
    """What is struck at ``from_quarters`` of the first bar or later, and at ``to_quarters`` of the last or sooner."""

    from_quarters: Quarters
    to_quarters: Quarters

    def holds(self, bar: int, bars: int, offset_quarters: Quarters) -> bool:
        """Whether a strike belongs to it. ``bar``: of ``bars`` of the passage, from 0."""
        is_after = bar > 0 or offset_quarters >= self.from_quarters
        return is_after and (bar < bars - 1 or offset_quarters <= self.to_quarters)

    @property
    def text(self) -> str:
        return f"{quarters_to_text(self.from_quarters)}{_BETWEEN}{quarters_to_text(self.to_quarters)}"

    def words(self, first: Measure, last: Measure) -> str:
        """``from beat 4 of bar 3 to beat 1 of bar 4``."""
        begins, ends = beat_words(first, self.from_quarters), beat_words(last, self.to_quarters)
        if first.number == last.number:
            return f"from {begins} to {ends} of bar {first.number}"
        return f"from {begins} of bar {first.number} to {ends} of bar {last.number}"


def within_between(begins: tuple[int, Quarters], ends: tuple[int, Quarters]) -> Within | None:
    """From one place to another, each a bar by index and quarters into it; ``None`` where that leads back."""
    return Within(begins[1], ends[1]) if begins < ends else None


@dataclass(frozen=True, slots=True)
class Cut:
    """``within`` a passage of ``bars`` bars, which may go round."""

    within: Within
    bars: int

    def holds(self, bar: int, offset_quarters: Quarters) -> bool:
        return self.within.holds(bar % self.bars, self.bars, offset_quarters)


def parse_within(text: str, *, where: str = "within") -> Within:
    """``"3..1/2"``: from 3 quarters into the first bar to half a quarter into the last.

    Raises:
        OptionError: not written so.
    """
    begins, between, ends = text.partition(_BETWEEN)
    if not between or len(text) > MOST_LETTERS:
        raise OptionError(
            f"“{text[:20]}” is no spot of a passage.",
            where=where,
            kept="Nothing was changed.",
            todo=f"Write it as quarters into the first and into the last bar: 3{_BETWEEN}1/2.",
        )
    return Within(parse_quarters(begins, where=where), parse_quarters(ends, where=where))


def check_within(within: Within, first: Measure, last: Measure, *, where: str = "within") -> None:
    """Raises:
    OptionError: it begins or ends outside its bars, or ends before it begins.
    """
    is_inside = within.from_quarters < first.length_quarters and within.to_quarters < last.length_quarters
    ends_later = first is not last or within.from_quarters <= within.to_quarters
    if not is_inside or not ends_later or min(within.from_quarters, within.to_quarters) < Fraction(0):
        raise OptionError(
            f"{within.text} is no spot of bar {first.number} to bar {last.number}.",
            where=where,
            kept="Nothing was changed.",
            todo="Begin and end inside these bars, and end after the beginning.",
        )
