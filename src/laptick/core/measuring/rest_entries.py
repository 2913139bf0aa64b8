"""Rests as they were played: the entry after each, and sound that runs on into it.

An *entry* is a hand's first strike after a written silence; it is measured against the student's own beat, + late.
Sound running on is the last key-up before the silence against where it begins on that beat; only a source that knows
key-ups tells it. Source: docs/trade.md 4.7 (common practice).
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from laptick.core.base.units import Quarters, Seconds
from laptick.core.following.own_beat import BeatFit
from laptick.core.measuring.evenness import HandStrike, late_against_others
from laptick.core.score.hand_line import hand_line
from laptick.core.score.score import Hand
from laptick.core.takes.task import Task


@dataclass(frozen=True, slots=True)
class RestEntry:
    """``rest_quarters``: where the silence begins; both places from the start of the passage. ``ran_over_ms`` is
    ``None`` where key-ups are not known."""

    hand: Hand
    rest_quarters: Quarters
    onset_quarters: Quarters
    entry_ms: float
    ran_over_ms: float | None


#: (hand, onset) → the last key-up of what was struck there.
KeyUps = Mapping[tuple[Hand | None, Quarters], Seconds]


def find_entries(task: Task, lines: Sequence[Sequence[HandStrike]], fit: BeatFit, key_ups: KeyUps) -> list[RestEntry]:
    """Every entry after a rest, hand by hand; none where a stop or a missing strike lies between."""
    found: list[RestEntry] = []
    origin = task.measures[0].start_quarters
    entering = {
        (here.hand, here.onset_quarters)
        for line in lines
        for before, here in pairwise(line)
        if before.until_next_quarters is None
    }
    late_s = late_against_others(lines, lambda strike: (strike.hand, strike.onset_quarters) in entering)
    for line in lines:
        hand = line[0].hand if line else None
        if hand is None:
            continue
        sounding = hand_line(task.score, hand).sounding
        starts = [start for start, _ in sounding]
        for before, here in pairwise(line):
            if before.until_next_quarters is not None or here.breaks_before:
                continue
            # The sound that ends before this entry began at or after the strike before it.
            span = sounding[max(0, bisect_right(starts, origin + here.onset_quarters) - 2)]
            rest = span[1] - origin
            if not before.onset_quarters < rest <= here.onset_quarters:
                continue
            quiet_s = before.expected_s + float(rest - before.onset_quarters) * fit.quarter_s_at(
                float(before.onset_quarters)
            )
            up_s = key_ups.get((hand, before.onset_quarters))
            found.append(
                RestEntry(
                    hand,
                    rest,
                    here.onset_quarters,
                    1000 * late_s(here),
                    None if up_s is None else 1000 * (up_s - quiet_s),
                )
            )
    return sorted(found, key=lambda entry: (entry.onset_quarters, entry.hand))
