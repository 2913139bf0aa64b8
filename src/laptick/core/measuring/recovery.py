"""Recovery: after a slip, how many beats until the beat is back.

A slip is a stop, going back, leaving bars out, or strikes missing, wrong or too many. The beat is back at the first of
two neighbouring strikes that both lie within the limit round the student's own beat.
Source: docs/trade.md 4.10; two strikes are ours (common practice).
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass

from laptick.core.base.units import Quarters
from laptick.core.following.own_beat import BeatFit

#: So many neighbouring strikes near the beat mean that it is back.
BACK_STRIKES = 2


@dataclass(frozen=True, slots=True)
class Recovery:
    """``beats`` is ``None`` when the beat did not come back before the end or the next slip."""

    slip: str
    onset_quarters: Quarters
    beats: float | None


def find_recoveries(
    slips: Sequence[tuple[str, Quarters]], fit: BeatFit, beat_quarters: Quarters, limit_ms: float
) -> list[Recovery]:
    """``slips``: what happened and at which instant of the passage; neighbours within a beat count once."""
    onsets = [event.onset_quarters for event in fit.events]
    near = [
        abs(event.played_s - beat_s) * 1000 <= limit_ms
        for event, beat_s in zip(fit.events, fit.expected_s, strict=True)
    ]
    ordered: list[tuple[str, Quarters]] = []
    for slip, onset in sorted(slips, key=lambda one: one[1]):
        if not ordered or onset - ordered[-1][1] > beat_quarters:
            ordered.append((slip, onset))
    found = []
    for index, (slip, onset) in enumerate(ordered):
        until = float(ordered[index + 1][1]) if index + 1 < len(ordered) else float("inf")
        back = next(
            (
                onsets[i]
                for i in range(bisect_left(onsets, float(onset) - 1e-9), len(onsets) - BACK_STRIKES + 1)
                if onsets[i] < until and all(near[i : i + BACK_STRIKES])
            ),
            None,
        )
        found.append(Recovery(slip, onset, None if back is None else (back - float(onset)) / float(beat_quarters)))
    return found
