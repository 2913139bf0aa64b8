"""What is known of a take that was heard: the recording, not the playing."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.units import Bpm, Seconds


class SoundLevel(StrEnum):
    """How loud a recording is, as somebody who sets up a microphone needs it."""

    GOOD = "good"
    TOO_QUIET = "too-quiet"
    CLIPPING = "clipping"


#: Of both hands' strikes together at least so many, and this share, must be told apart for the hands to be compared.
LEAST_TOLD, TOLD_SHARE = 6, 0.4


@dataclass(frozen=True, slots=True)
class Heard:
    """``rate``: of the file, in Hz; ``noise_db``: how far the room lies below the playing, ``None`` where nothing is
    ever silent; ``tuning_cents``: the piano against A4 = 440 Hz, ``None`` where no pitches are asked for; ``told``: at
    how many of the ``chances`` where both hands strike they were told apart; ``is_recognised``: is what sounds what is
    written?"""

    seconds: Seconds
    rate: int
    noise_db: float | None
    level: SoundLevel
    tuning_cents: float | None = None
    told: int = 0
    chances: int = 0
    is_recognised: bool = True
    click_bpm: Bpm | None = None

    @property
    def tells_hands(self) -> bool:
        """Are there enough strikes whose hands were told apart?"""
        return self.told >= LEAST_TOLD and self.told >= TOLD_SHARE * self.chances
