"""The studio's voice, and its samples as they are sent."""

from __future__ import annotations

from urllib.parse import quote

import numpy as np

from laptick.api.request.asking import Asking
from laptick.api.schemas.play_along import SamplePublic
from laptick.core.play_along.voice import WordSample
from laptick.db import choices as choices_db
from laptick.db import voice as db
from laptick.db.engine.connect import Connection, Row
from laptick.formats.sound.sound_pack import PACK_RATE, pack_places, pack_version, read_wav
from laptick.formats.sound.voices import MADE, OWN, SHIPPED_LANGUAGE, WHISPER, OwnWord, VoiceBank
from laptick.formats.sound.whisper import whispered


def language_of(asking: Asking, connection: Connection) -> str:
    """In which language the studio's voice speaks."""
    return str(choices_db.get_choices(connection, asking.studio_id, None).get("voice_language", SHIPPED_LANGUAGE))


def own_word(row: Row) -> OwnWord:
    samples = read_wav(row["audio"])
    return OwnWord(row["id"], samples, np.zeros(0), row["vowel_s"])


def bank_of(asking: Asking, connection: Connection, *, with_whispers: bool = False) -> VoiceBank:
    """The studio's voice. ``with_whispers``: recordings whispered too, which takes a moment each."""
    own = {row["reading"]: own_word(row) for row in db.used_words(connection, asking.studio_id)}
    if with_whispers:
        own = {
            reading: OwnWord(word.id, word.samples, whispered(word.samples, PACK_RATE), word.vowel_s)
            for reading, word in own.items()
        }
    return VoiceBank(language_of(asking, connection), own)


def sample_public(sound: str, length_s: float, beat_s: float) -> SamplePublic | None:
    """Where the browser finds a sound; ``None`` for pitches and for silence."""
    place = pack_places().get(sound)
    if place is not None:
        file = f"/api/sounds/pack.flac?v={pack_version()}"
        return SamplePublic(file=file, start_s=place.start_s, length_s=place.length_s, beat_s=place.beat_s)
    kind, _, name = sound.partition(":")
    whisper = "&whisper=true" if f"{kind}:" == WHISPER else ""
    if name.startswith(OWN):
        file = f"/api/voice/own/{name.removeprefix(OWN)}/audio?{whisper}"
    elif name.startswith(MADE):
        _, language, text = name.split("/", 2)
        file = f"/api/voice/made?text={quote(text)}&language={language}&beat_s={beat_s:.4f}{whisper}"
    else:
        return None
    return SamplePublic(file=file, start_s=0.0, length_s=length_s, beat_s=beat_s)


def word_sample_public(sample: WordSample) -> SamplePublic | None:
    return sample_public(sample.sound, sample.length_s, sample.vowel_s)
