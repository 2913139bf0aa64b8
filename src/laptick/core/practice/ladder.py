"""The ladder of a piece: its rungs from the floor up.

In this version three rungs can be worked on, *say the count*, *lap taps* and *at the keys*; the others are known by
name only and are not offered. Source: handbook 1 and 3.4 (common practice).
"""

from __future__ import annotations

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


RUNGS: tuple[Rung, ...] = (
    Rung("count", "Say the count", "Say every count with the click and tap once for each word you say.", True),
    Rung("lap", "Lap taps", "Both hands tap the rhythm on the knees or the closed lid, away from the keys.", True),
    Rung("play", "At the keys", "Play it on a keyboard that is connected, one hand or both.", True),
)

RUNG_KEYS = frozenset(rung.key for rung in RUNGS if rung.works)


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


def start_bpm(target_bpm: Bpm) -> int:
    """The metronome mark at which practice of a rung starts."""
    return nearest_mark(target_bpm * START_SHARE)
