"""What a schedule is made of: sounds in time, the words that are shown, the way of the cursor."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.units import Bpm, Quarters, Seconds
from laptick.core.play_along.grooves import AUTO_GROOVE
from laptick.core.play_along.voice import Voice, silent_voice


class Track(StrEnum):
    """What has a level of its own. The voice's tracks are the kinds of counts."""

    CLICK = "click"
    STRIKE = "strike"
    HOLD = "hold"
    REST = "rest"
    BACKING = "backing"
    RIGHT = "right"
    LEFT = "left"
    CUE = "cue"


#: Loudness of a click by its metrical standing (0 to 1).
CLICK_LEVELS: dict[str, float] = {"bar": 1.0, "beat": 0.65, "division": 0.3}


class Role(StrEnum):
    """What a stretch of a play-along is: played together, shown by the model, left to the student."""

    PLAY = "play"
    MODEL = "model"
    ROOM = "room"


@dataclass(frozen=True)
class Sounding:
    """How a schedule sounds, apart from its order. ``quiet``: of how many bars how many are silent (last of each
    group); ``knocks``: the hands' rhythm instead of their pitches; ``clicks_counts``: a click on every said count;
    ``cues``: whether the teacher's cue words are said."""

    voice: Voice = silent_voice
    groove: str = AUTO_GROOVE
    quiet: tuple[int, int] = (0, 1)
    knocks: bool = False
    clicks_counts: bool = False
    cues: bool = True


@dataclass(frozen=True, slots=True)
class Sound:
    """``sound`` names a sample of the pack (``click-bar``, ``word:1``) or a pitch (``tone:60``); a word's vowel,
    not its first consonant, falls on ``at_s``. ``level`` 0 to 1; ``length_s`` of tones: until the key is let go."""

    at_s: Seconds
    track: Track
    sound: str
    level: float
    length_s: Seconds = 0.0
    is_count_in: bool = False


@dataclass(frozen=True, slots=True)
class Word:
    """A count as it is shown, said or not."""

    at_s: Seconds
    say: str
    is_count_in: bool


@dataclass(frozen=True, slots=True)
class Stretch:
    """Where a part lies: its gap is over at ``start_s``, its count-in at ``first_beat_s``; bars by name."""

    role: Role
    start_s: Seconds
    first_beat_s: Seconds
    end_s: Seconds
    first_measure: str
    last_measure: str
    bpm: Bpm


@dataclass(frozen=True)
class Schedule:
    """``first_beat_s``: when the first written instant falls, after the count-in. ``silence_s``: a longer silence than
    this means that a take is over. ``cursor``: (seconds, quarters of the written score), evenly between points.
    ``remarks``: what is not as chosen, and why."""

    bpm: Bpm
    beat_quarters: Quarters
    first_beat_s: Seconds
    end_s: Seconds
    silence_s: Seconds
    sounds: tuple[Sound, ...]
    words: tuple[Word, ...]
    cursor: tuple[tuple[Seconds, Quarters], ...]
    stretches: tuple[Stretch, ...]
    remarks: tuple[str, ...] = ()

    def of(self, *tracks: Track) -> list[Sound]:
        """The sounds of some tracks, in time."""
        return [sound for sound in self.sounds if sound.track in tracks]
