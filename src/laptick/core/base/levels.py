"""The levels of a student, from the first year on: what limits, density and school default to (docs/trade.md 4).

Common practice, no source.
"""

from __future__ import annotations

from enum import StrEnum


class Level(StrEnum):
    FIRST_YEAR = "first-year"
    ELEMENTARY = "elementary"
    INTERMEDIATE = "intermediate"
    ADVANCED = "advanced"


LEVEL_NAMES: dict[Level, str] = {
    Level.FIRST_YEAR: "first year",
    Level.ELEMENTARY: "elementary",
    Level.INTERMEDIATE: "intermediate",
    Level.ADVANCED: "advanced",
}
