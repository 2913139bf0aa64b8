"""The words of counting, as tables.

Source: handbook 2.2 (common practice). ``{n}`` is the number of the beat. A table maps the number of
equal parts of a beat to the words of its parts; ``THREE_AGAINST_TWO`` and ``TRIPLET_OVER_TWO`` are
the two composites that are not equal divisions.
"""

from __future__ import annotations

from fractions import Fraction

from laptick.core.units import Quarters

#: Words of a beat that divides in two, by the number of equal parts said.
SIMPLE_WORDS: dict[int, tuple[str, ...]] = {
    1: ("{n}",),
    2: ("{n}", "&"),
    3: ("{n}", "trip", "let"),
    4: ("{n}", "e", "&", "a"),
}

#: Words of a beat that divides in three, counted in beats.
COMPOUND_WORDS: dict[int, tuple[str, ...]] = {
    1: ("{n}",),
    2: ("{n}", "&"),
    3: ("{n}", "la", "li"),
    4: ("{n}", "e", "&", "a"),
    6: ("{n}", "ta", "la", "ta", "li", "ta"),
}

#: Three against two inside one simple beat: position in the beat → word.
THREE_AGAINST_TWO: dict[Fraction, str] = {
    Fraction(0): "{n}",
    Fraction(1, 3): "trip",
    Fraction(1, 2): "&",
    Fraction(2, 3): "let",
}

#: A triplet over two beats, both beats said: position in beats from the first → word. ``{m}`` is the
#: second beat's number.
TRIPLET_OVER_TWO: dict[Fraction, str] = {
    Fraction(0): "{n}",
    Fraction(2, 3): "trip",
    Fraction(1): "{m}",
    Fraction(4, 3): "let",
}

#: The last two counts of a count-in of three or more beats.
READY_GO: tuple[str, str] = ("ready", "go")

#: The word for the half of a beat in a count-in.
AND = "&"


def division_name(part_quarters: Quarters, parts: int, beat_division: int) -> str:
    """What a division of the beat is called when a change of it is announced.

    ``part_quarters`` is the length of one part, ``parts`` their number in a beat that by itself
    divides in ``beat_division``.
    """
    if beat_division == 2 and parts == 3:
        return "triplets"
    if beat_division == 3 and parts in (2, 4):
        return "duplets"
    return PLURALS.get(part_quarters, f"{parts} to the beat")


PLURALS: dict[Quarters, str] = {
    Fraction(2): "halves",
    Fraction(3, 2): "dotted quarters",
    Fraction(1): "quarters",
    Fraction(1, 2): "eighths",
    Fraction(1, 4): "sixteenths",
    Fraction(1, 8): "thirty-seconds",
    Fraction(1, 16): "sixty-fourths",
}
