"""What was asked and what was played.

``Task`` is the list of strikes asked for, in played order; ``Performance`` the strikes played, on the
take's own clock. Times are seconds, positions exact quarters from the start of the passage.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.base.units import Bpm, Seconds
from laptick.core.score.score import Hand


class Source(StrEnum):
    TAPS = "taps"
    MIDI = "midi"
    AUDIO = "audio"


#: Stated limits on one take.
MAX_STRIKES = 20_000
MAX_TAKE_S = 3600.0

#: How exactly each source knows when a strike fell (standard uncertainty, ms). Taps: key scanning and
#: event timing of an ordinary keyboard or touch screen; MIDI: one tick of common interfaces (estimates).
SOURCE_UNCERTAINTY_MS: dict[Source, float] = {Source.TAPS: 5.0, Source.MIDI: 1.0, Source.AUDIO: 5.0}


@dataclass(frozen=True, slots=True)
class Strike:
    """One played strike. ``hand`` is unknown for most MIDI, ``pitch`` for taps."""

    played_s: Seconds
    hand: Hand | None = None
    pitch: int | None = None
    velocity: int | None = None
    released_s: Seconds | None = None


@dataclass(frozen=True)
class Performance:
    """The strikes of one take in time order.

    ``first_beat_s``: when, on the take's clock, the click fell on the passage's first instant;
    ``click_bpm``: its tempo. Both ``None`` when no click was heard on this clock. ``pedal``: when the sustaining pedal
    went down (``True``) and up, in time order.
    """

    source: Source
    strikes: tuple[Strike, ...]
    first_beat_s: Seconds | None = None
    click_bpm: Bpm | None = None
    pedal: tuple[tuple[Seconds, bool], ...] = ()

    def pedal_down(self, at_s: Seconds) -> bool:
        """Was the pedal down at an instant?"""
        index = bisect_right(self.pedal, at_s, key=lambda change: change[0])
        return index > 0 and self.pedal[index - 1][1]

    def __post_init__(self) -> None:
        if len(self.strikes) > MAX_STRIKES:
            raise LimitError(
                f"the take has {len(self.strikes):,} strikes; up to {MAX_STRIKES:,} are checked at once.",
                where="taps",
                kept="Nothing was changed.",
                todo="Check a shorter take.",
            )
        if not self.strikes:
            raise TakeError(
                "the take has no strikes.", where="taps", kept="Nothing was changed.", todo="Tap or play, then send it."
            )
        before = 0.0
        for index, strike in enumerate(self.strikes):
            time = strike.played_s
            if not math.isfinite(time) or time < 0:
                raise TakeError(
                    "a strike has no usable time.",
                    where=f"taps[{index}].t",
                    kept="Nothing was changed.",
                    todo="Times are seconds from the start of the take, zero or above.",
                )
            if time < before:
                raise TakeError(
                    "the strikes are not in time order.",
                    where=f"taps[{index}].t",
                    kept="Nothing was changed.",
                    todo="Send them as they were played.",
                )
            if time > MAX_TAKE_S:
                raise LimitError(
                    f"the take is longer than {MAX_TAKE_S / 60:.0f} minutes.",
                    where=f"taps[{index}].t",
                    kept="Nothing was changed.",
                )
            before = time
