"""The counting voice: every word with where it comes from, words made at once, the teacher's own recordings."""

from __future__ import annotations

import re
from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.play_along import OwnWordUpdate, SchedulePublic, VoicePublic, VoiceWordPublic
from laptick.api.views.play_along import schedule_public
from laptick.api.views.voices import voice_public, voice_word_public
from laptick.core.base.errors import OptionError
from laptick.core.counting.word_tables import System
from laptick.core.play_along.scheduling import one_word
from laptick.core.play_along.voice import reading_of
from laptick.core.practice.ladder.spoken import VOCABULARY
from laptick.formats.sound.sound_pack import PACK_RATE, wav_bytes
from laptick.formats.sound.speech import MAX_TEXT, check_language, make_word
from laptick.formats.sound.voices import made_samples, phrase_samples, shifted
from laptick.formats.sound.whisper import whispered
from laptick.studio import voice

router = APIRouter(route_class=ModelRoute, prefix="/voice", tags=["voice"])

TextQuery = Annotated[str, Query(min_length=1, max_length=MAX_TEXT)]

#: What is asked for by all that it is made of never changes.
_KEPT = {"Cache-Control": "private, max-age=86400"}


@router.get("")
def get_voice(studio: StudioNow) -> VoicePublic:
    """The words of every system as the studio says them, each with where its sound comes from."""
    return voice_public(voice.get_voice(studio))


@router.get("/word")
def get_word(studio: StudioNow, say: TextQuery) -> VoiceWordPublic:
    """Any word as the studio's voice says it: one of a single piece, a cue."""
    return voice_word_public(voice.get_voice(studio), say)


@router.get("/trial")
def get_trial(studio: StudioNow, say: TextQuery, system: System | None = None, click: bool = True) -> SchedulePublic:
    """A word on four beats, with the click or without; made at once where it was never said before."""
    bank = voice.get_voice(studio).bank
    sample = bank(reading_of(say, system))
    if bank.missing:
        raise OptionError(next(iter(bank.missing.values())), where="say", todo="Choose another word, or record it.")
    return schedule_public(one_word(sample, beats=4 if click else 1, clicks=click), bank)


@router.get("/made", response_class=Response)
def get_made(
    studio: StudioNow,
    text: TextQuery,
    language: Annotated[str, Query(max_length=12)] = "en",
    whisper: bool = False,
    beat_s: Annotated[float | None, Query(ge=0, le=1.2)] = None,
) -> Response:
    """A word made by the speech package, as WAV; its vowel lies ``beat_s`` after its start, wherever this process's own
    rendering has it (the synthesizer's renderings differ by some milliseconds)."""
    check_language(language)
    samples = made_samples(text, language, whisper)
    if beat_s is not None:
        samples = shifted(samples, beat_s - make_word(text, language).vowel_s)
    return Response(wav_bytes(samples, PACK_RATE), media_type="audio/wav", headers=_KEPT)


#: A bar's number, or a beat's.
_NUMBER = re.compile(r"[0-9]{1,4}")


@router.get("/phrase", response_class=Response)
def get_phrase(studio: StudioNow, say: TextQuery) -> Response:
    """A phrase of what is said between two runs, or a number, as WAV."""
    if say not in VOCABULARY and not _NUMBER.fullmatch(say):
        raise OptionError("that is no phrase of what is said between runs.", where="say")
    return Response(wav_bytes(phrase_samples(say), PACK_RATE), media_type="audio/wav", headers=_KEPT)


@router.post("/own", status_code=201)
def add_own(
    studio: StudioNow,
    audio: Annotated[UploadFile, File()],
    reading: TextQuery,
    spoken: Annotated[str, Query(max_length=MAX_TEXT)] = "",
) -> VoiceWordPublic:
    """Keeps a recording of one word: trimmed, brought to the strength of the others, its vowel found."""
    shown = voice.add_word(studio, reading, spoken or reading, audio.file.read())
    return _listed(shown, reading)


def _listed(shown: voice.ShownVoice, reading: str) -> VoiceWordPublic:
    return voice_word_public(shown, reading).model_copy(update={"reading": reading})


@router.get("/own/{word_id}/audio", response_class=Response)
def get_own_audio(studio: StudioNow, word_id: Id, whisper: bool = False) -> Response:
    """A recording as WAV; it never changes."""
    samples = voice.word_samples(studio, word_id)
    data = wav_bytes(whispered(samples, PACK_RATE) if whisper else samples, PACK_RATE)
    return Response(data, media_type="audio/wav", headers=_KEPT)


@router.patch("/own/{word_id}")
def change_own(studio: StudioNow, word_id: Id, update: OwnWordUpdate) -> VoiceWordPublic:
    """Moves where its vowel begins, or takes it out of use and back."""
    reading, shown = voice.change_word(studio, word_id, update.vowel_s, update.is_used)
    return _listed(shown, reading)
