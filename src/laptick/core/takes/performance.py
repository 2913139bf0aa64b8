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
from laptick.core.takes.heard import Heard


@dataclass(frozen=True, slots=True)
class Knows:
    """What a source can tell of a strike: which key it was, which hand, when it was let go, how strong it was; whether
    it hears claps too, can share a clock with a click, and how exactly it knows when the strike fell (standard
    uncertainty, ms)."""

    pitch: bool
    hand: bool
    key_ups: bool
    strength: bool
    clock: bool
    uncertainty_ms: float
    claps: bool = False


class Source(StrEnum):
    TAPS = "taps"
    MIDI = "midi"
    AUDIO = "audio"

    @property
    def knows(self) -> Knows:
        return KNOWS[self]


#: Uncertainties are estimates. Taps: key scanning and event timing of an ordinary keyboard or touch screen; MIDI: one
#: tick of common interfaces. A recording's clock starts some unknown time after it is asked to.
KNOWS: dict[Source, Knows] = {
    Source.TAPS: Knows(pitch=False, hand=True, key_ups=False, strength=False, clock=True, uncertainty_ms=5.0),
    Source.MIDI: Knows(pitch=True, hand=False, key_ups=True, strength=True, clock=True, uncertainty_ms=1.0),
    Source.AUDIO: Knows(
        pitch=True, hand=False, key_ups=False, strength=False, clock=False, uncertainty_ms=3.5, claps=True
    ),
}

#: Knocks on lap or lid in a recording: the hands are told by the order in the score.
KNOWS_OF_KNOCKS = Knows(pitch=False, hand=True, key_ups=False, strength=False, clock=False, uncertainty_ms=5.0)

#: Stands for the key of a sound that is no key the score asks for, or none that can be told; and for that of a clap.
#: No piano has either.
UNKNOWN_KEY, CLAP_KEY = 0, 1


def key_told(pitch: int | None) -> int | None:
    """A key as it is told: of what is no key, none."""
    return None if pitch in (UNKNOWN_KEY, CLAP_KEY) else pitch


#: Stated limits on one take.
MAX_STRIKES = 12_000
MAX_TAKE_S = 3600.0


@dataclass(frozen=True, slots=True)
class Strike:
    """One played strike. ``hand`` is unknown for most MIDI, ``pitch`` for taps. ``is_apart``: was it told apart from
    what the other hand struck with it? In a recording it is not always, and the gap between the hands is not known."""

    played_s: Seconds
    hand: Hand | None = None
    pitch: int | None = None
    velocity: int | None = None
    released_s: Seconds | None = None
    is_apart: bool = True


@dataclass(frozen=True)
class Performance:
    """The strikes of one take in time order.

    ``first_beat_s``: when, on the take's clock, the click fell on the passage's first instant;
    ``click_bpm``: its tempo. Both ``None`` when no click was heard on this clock. ``pedal``: when the sustaining pedal
    went down (``True``) and up, in time order; ``heard``: of a recording, what it was like.
    """

    source: Source
    strikes: tuple[Strike, ...]
    first_beat_s: Seconds | None = None
    click_bpm: Bpm | None = None
    pedal: tuple[tuple[Seconds, bool], ...] = ()
    heard: Heard | None = None

    @property
    def knows(self) -> Knows:
        """What this take can tell of its strikes."""
        if self.source is Source.AUDIO and self.strikes[0].pitch is None:
            return KNOWS_OF_KNOCKS
        return self.source.knows

    @property
    def shares_clock(self) -> bool:
        """Can its strikes be laid against the click itself?"""
        return self.knows.clock and self.first_beat_s is not None and self.click_bpm is not None

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
