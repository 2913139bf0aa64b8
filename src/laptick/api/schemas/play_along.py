"""What a play-along sounds like, and when."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from laptick.api.schemas.common import Schema
from laptick.core.counting.word_tables import System
from laptick.core.play_along.schedule import Role, Track
from laptick.studio.pieces.play_along import PlayQuery


class SoundQuery(PlayQuery):
    """``levels``: ``track:percent`` by commas; ``voice`` stands for the three kinds of counts."""

    format: Literal["wav", "mid"] = "wav"
    levels: str | None = Field(default=None, max_length=200)


class SoundPublic(Schema):
    at_s: float
    track: Track
    sound: str
    level: float
    length_s: float
    is_count_in: bool


class SamplePublic(Schema):
    """Where a sound's samples are: from ``start_s`` of a file; its beat falls ``beat_s`` after its start."""

    file: str
    start_s: float
    length_s: float
    beat_s: float


class PitchPublic(Schema):
    hertz: float
    decay_s: float


class TonePublic(Schema):
    """How a plain tone is made: its partials, and each pitch's frequency and decay."""

    partials: list[float]
    release_s: float
    level: float
    pitches: dict[str, PitchPublic]


class WordPublic(Schema):
    at_s: float
    say: str
    is_count_in: bool


class CursorPublic(Schema):
    at_s: float
    onset_quarters: float


class StretchPublic(Schema):
    role: Role
    start_s: float
    first_beat_s: float
    end_s: float
    first_measure: str
    last_measure: str
    bpm: float


class EndingPublic(Schema):
    """When a take along with it is over: so many taps or keys, the last of them due at ``last_s`` on one of
    ``last_pitches``; between two pass at most ``gap_s``."""

    taps: int
    keys: int
    last_s: float
    gap_s: float
    last_pitches: list[int]


class SchedulePublic(Schema):
    bpm: float
    first_beat_s: float
    end_s: float
    silence_s: float
    sounds: list[SoundPublic]
    samples: dict[str, SamplePublic]
    tone: TonePublic
    words: list[WordPublic]
    cursor: list[CursorPublic]
    stretches: list[StretchPublic]
    remarks: list[str]
    ending: EndingPublic | None


class GroovePublic(Schema):
    key: str
    words: str


class PlayOptions(Schema):
    """What can be chosen for a piece: grooves that fit it, and how loud each track is where nobody chose."""

    grooves: list[GroovePublic]
    levels: dict[Track, float]
    caution: str


class VoiceWordPublic(Schema):
    """A word of the voice: shown as ``say``; ``own_id``: the studio's newest recording of it, in use or not."""

    reading: str
    say: str
    source: Literal["shipped", "recorded", "made", "none"]
    length_s: float
    vowel_s: float
    sample: SamplePublic | None
    own_id: int | None
    spoken: str | None


class VoiceGroupPublic(Schema):
    key: System | Literal["cues", "phrases"]
    words: str
    said: list[VoiceWordPublic]


class LanguagePublic(Schema):
    key: str
    words: str


class VoicePublic(Schema):
    language: str
    languages: list[LanguagePublic]
    groups: list[VoiceGroupPublic]


class OwnWordUpdate(Schema):
    """Moves where a recording's vowel begins, or takes it out of use and back."""

    vowel_s: float | None = Field(default=None, ge=0, le=1.2)
    is_used: bool | None = None
