"""A practice session as one sound file: before each step what to do is said, then it is played along.

The parts are those of the play-along, one after the other, with a breath between. Mono, 16 bit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.errors import LimitError
from laptick.core.base.units import Seconds
from laptick.core.play_along.rounds import LONGEST_S
from laptick.core.play_along.schedule import Schedule
from laptick.formats.sound.play_along import sound_wav
from laptick.formats.sound.sound_pack import PACK_RATE, read_wav, wav_bytes
from laptick.formats.sound.voices import Floats, VoiceBank, phrase_samples

#: Between what is said and what is played, between two phrases, and after a step.
BREATH_S: Seconds = 0.5
PHRASE_S: Seconds = 0.06
AFTER_S: Seconds = 1.5


@dataclass(frozen=True)
class Step:
    """``said``: the studio's own recording of a phrase, or its text; ``schedule``: what is played along with."""

    said: Sequence[Floats | str]
    schedule: Schedule


def session_wav(steps: Sequence[Step], bank: VoiceBank) -> bytes:
    """All steps in order.

    Raises:
        LimitError: longer than the stated limit of a play-along.
    """
    if sum(step.schedule.end_s for step in steps) > LONGEST_S:
        raise LimitError(
            f"a session of more than {LONGEST_S / 60:g} minutes is no file to take along.",
            kept="Nothing was made.",
            todo="Choose fewer rungs, or a faster tempo.",
        )
    parts: list[Floats] = []
    for step in steps:
        for one in step.said:
            parts += [phrase_samples(one) if isinstance(one, str) else one, _silence(PHRASE_S)]
        parts += [_silence(BREATH_S), read_wav(sound_wav(step.schedule, bank)), _silence(AFTER_S)]
    return wav_bytes(np.concatenate(parts) if parts else np.zeros(1), PACK_RATE)


def _silence(length_s: Seconds) -> Floats:
    return np.zeros(round(length_s * PACK_RATE))
