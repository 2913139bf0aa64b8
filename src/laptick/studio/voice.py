"""The studio's voice: the words that ship, those made at once, and the teacher's own recordings of words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.errors import OptionError
from laptick.db import choices as choices_db
from laptick.db import voice as db
from laptick.formats.documents.choices import choice_of
from laptick.formats.sound.sound_pack import PACK_RATE, read_wav, wav_bytes
from laptick.formats.sound.voices import SHIPPED_LANGUAGE, OwnWord, VoiceBank, read_recording
from laptick.formats.sound.whisper import whispered
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class ShownVoice:
    """The voice with its bookkeeping. ``latest``: reading → its newest recording, used or not; ``spoken``: reading →
    what was said into the recording that is heard; ``changed``: words that the studio says otherwise."""

    bank: VoiceBank
    latest: dict[str, int]
    spoken: dict[str, str]
    changed: dict[str, tuple[str, ...]]


def _language(studio: Studio) -> str:
    choices = choices_db.get_choices(studio.connection, studio.id, None)
    return str(choices.get("voice_language", SHIPPED_LANGUAGE))


def voice_bank(studio: Studio, *, with_whispers: bool = False) -> VoiceBank:
    """The studio's voice. ``with_whispers``: recordings whispered too, which takes a moment each."""
    own = {
        row["reading"]: OwnWord(row["id"], samples, whispered(samples, PACK_RATE) if with_whispers else np.zeros(0),
                                row["vowel_s"])
        for row in db.used_words(studio.connection, studio.id)
        for samples in [read_wav(row["audio"])]
    }  # fmt: skip
    return VoiceBank(_language(studio), own)


def _shown(studio: Studio) -> ShownVoice:
    layer = choice_of(choices_db.get_choices(studio.connection, studio.id, None).get("studio"))
    return ShownVoice(
        voice_bank(studio),
        db.latest_ids(studio.connection, studio.id),
        {row["reading"]: row["spoken"] for row in db.used_words(studio.connection, studio.id)},
        dict(layer.words or ()),
    )


@use_case
def get_voice(studio: Studio) -> ShownVoice:
    """The studio's voice with all its words."""
    return _shown(studio)


@use_case
def add_word(studio: Studio, reading: str, spoken: str, audio: bytes) -> ShownVoice:
    """Keeps a recording of one word: trimmed, brought to the strength of the others, its vowel found.

    Raises:
        TakeError, LimitError, OptionError: no sound that can be used.
    """
    word = read_recording(audio, reading, spoken, _language(studio))
    new = db.NewWord(reading, spoken, wav_bytes(word.samples, PACK_RATE), word.vowel_s)
    db.add_word(studio.connection, studio.id, new)
    return _shown(studio)


@use_case
def word_samples(studio: Studio, word_id: int) -> NDArray[np.float64]:
    """A recording, as samples at the pack's rate; it never changes."""
    return read_wav(db.get_word(studio.connection, studio.id, word_id)["audio"])


@use_case
def change_word(studio: Studio, word_id: int, vowel_s: float | None, is_used: bool | None) -> tuple[str, ShownVoice]:
    """Moves where a recording's vowel begins, or takes it out of use and back; gives its reading.

    Raises:
        NotFoundError: there is no such recording.
        OptionError: the vowel would begin after its end.
    """
    row = db.get_word(studio.connection, studio.id, word_id)
    length_s = len(read_wav(row["audio"])) / PACK_RATE
    if vowel_s is not None and vowel_s > length_s:
        raise OptionError(
            f"this word lasts {length_s:.2f} seconds; its vowel begins in it.",
            where="vowel_s",
            kept="Nothing was changed.",
        )
    db.change_word(studio.connection, studio.id, word_id, vowel_s=vowel_s, is_used=is_used)
    return str(row["reading"]), _shown(studio)
