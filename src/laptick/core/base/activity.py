"""What is done in a take: the count is said, the rhythm is tapped on the lap, or it is played at the keys.

It decides what is asked for and how it is judged; which bars, and why, is the matter of a rung. Source: docs/trade.md 1
(common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Activity(StrEnum):
    COUNT = "count"
    LAP = "lap"
    PLAY = "play"


@dataclass(frozen=True, slots=True)
class ActivityWords:
    """``name``: in the middle of a sentence; ``what``: what to do."""

    title: str
    name: str
    what: str


ACTIVITY_WORDS: Mapping[Activity, ActivityWords] = {
    Activity.COUNT: ActivityWords(
        "Say the count", "the count", "Say every count with the click and tap once for each word you say."
    ),
    Activity.LAP: ActivityWords(
        "Lap taps", "lap taps", "Both hands tap the rhythm on the knees or the closed lid, away from the keys."
    ),
    Activity.PLAY: ActivityWords("At the keys", "at the keys", "Play it, one hand or both."),
}
