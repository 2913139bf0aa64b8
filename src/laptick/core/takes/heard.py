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
class KnownClick:
    """What the device that recorded sounded meanwhile, on the recording's clock, but for the way through loudspeaker
    and microphone: when the passage began after its count-in, and when it clicked."""

    first_beat_s: Seconds
    clicks_s: tuple[Seconds, ...] = ()

    def since(self, at_s: Seconds) -> KnownClick:
        """The same where the clock begins at an instant."""
        return KnownClick(self.first_beat_s - at_s, tuple(one - at_s for one in self.clicks_s if one >= at_s))


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
