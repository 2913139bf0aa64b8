"""The ladder of a piece: its rungs from the floor up.

In this version three rungs can be worked on, *say the count*, *lap taps* and *at the keys*; the others are known by
name only and are not offered. Source: docs/trade.md 1 and 3.4 (common practice).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from laptick.core.base.units import Bpm, nearest_mark

#: Clean takes in a row that pass a rung.
GATE_CLEAN_TAKES = 3

#: Where practice starts, as a share of the target, when nothing is known of the student.
START_SHARE = 0.75


@dataclass(frozen=True, slots=True)
class Rung:
    key: str
    title: str
    what: str
    works: bool
    #: In the middle of a sentence.
    name: str


RUNGS: tuple[Rung, ...] = (
    Rung(
        "count",
        "Say the count",
        "Say every count with the click and tap once for each word you say.",
        True,
        "the count",
    ),
    Rung(
        "lap",
        "Lap taps",
        "Both hands tap the rhythm on the knees or the closed lid, away from the keys.",
        True,
        "lap taps",
    ),
    Rung("play", "At the keys", "Play it on a keyboard that is connected, one hand or both.", True, "at the keys"),
)


def counts_for_gate(rung: str, hands: str, measures: str | None) -> bool:
    """Only a take of the whole piece passes a rung; taps and keys only with both hands."""
    return measures is None and (rung == "count" or hands == "both")


def clean_in_a_row(statuses: list[str]) -> int:
    """How many of the newest takes in a row are steady; ``statuses`` newest first."""
    count = 0
    for status in statuses:
        if status != "steady":
            break
        count += 1
    return count


@dataclass(frozen=True, slots=True)
class TakeOutcome:
    """What a take came to, for the ladder: at which rung, with which hands, over which bars (``None``: all), and the
    status that holds (``None``: not judged yet)."""

    rung: str
    hands: str
    measures: str | None
    status: str | None


@dataclass(frozen=True, slots=True)
class RungProgress:
    """How far a rung has come. ``state``: untouched, begun or steady; once passed, a rung stays passed."""

    rung: Rung
    takes: int
    clean_in_a_row: int
    state: str


def ladder_progress(takes: Sequence[TakeOutcome]) -> list[RungProgress]:
    """Every rung of a piece with what its takes, newest first, came to."""
    result = []
    for rung in RUNGS:
        here = [take for take in takes if take.rung == rung.key]
        statuses = [take.status or "waiting" for take in here if counts_for_gate(rung.key, take.hands, take.measures)]
        passed = any(clean_in_a_row(statuses[start:]) >= GATE_CLEAN_TAKES for start in range(len(statuses)))
        in_a_row = min(clean_in_a_row(statuses), GATE_CLEAN_TAKES)
        state = "steady" if passed else "begun" if here else "untouched"
        result.append(RungProgress(rung, len(here), in_a_row, state))
    return result


def start_bpm(target_bpm: Bpm) -> int:
    """The metronome mark at which practice of a rung starts."""
    return nearest_mark(target_bpm * START_SHARE)
