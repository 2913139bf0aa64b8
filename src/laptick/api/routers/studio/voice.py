"""The counting voice: every word with where it comes from, words made at once, the teacher's own recordings."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.play_along import (
    LanguagePublic,
    OwnWordUpdate,
    SchedulePublic,
    VoiceGroupPublic,
    VoicePublic,
    VoiceWordPublic,
)
from laptick.api.views.play_along import schedule_public
from laptick.api.views.voices import bank_of, language_of, word_sample_public
from laptick.core.base.errors import OptionError
from laptick.core.counting.word_tables import AND, READY_GO, SYSTEM_WORDS, TABLES, System
from laptick.core.play_along.scheduling import one_word
from laptick.core.play_along.voice import reading_of
from laptick.db import choices as choices_db
from laptick.db import voice as db
from laptick.formats.documents.choices import choice_of
from laptick.formats.sound.sound_pack import PACK_RATE, read_wav, wav_bytes
from laptick.formats.sound.speech import LANGUAGES, MAX_TEXT, check_language, make_word
from laptick.formats.sound.voices import MADE, NOTHING, OWN, WORD, VoiceBank, made_samples, read_recording, shifted
from laptick.formats.sound.whisper import whispered

router = APIRouter(prefix="/voice", tags=["voice"])

#: Numbers of beats listed among the words; higher ones are spoken too.
LISTED_NUMBERS = 8

#: Words for cues that teachers use, listed although none may be in a piece yet.
CUES = ("move", "lift", "line", "you")

TextQuery = Annotated[str, Query(min_length=1, max_length=MAX_TEXT)]


@router.get("")
def get_voice(asking: AskingNow, connection: DbNow) -> VoicePublic:
    """The words of every system as the studio says them, each with where its sound comes from."""
    bank, latest = bank_of(asking, connection), db.latest_ids(connection, asking.studio_id)
    spoken = {row["reading"]: row["spoken"] for row in db.used_words(connection, asking.studio_id)}
    layer = choice_of(choices_db.get_choices(connection, asking.studio_id, None).get("studio"))
    changed = dict(layer.words or ())
    groups = [
        VoiceGroupPublic(
            key=system,
            words=SYSTEM_WORDS[system],
            said=[_word(bank, say, system, latest, spoken) for say in _says(system, changed)],
        )
        for system in System
    ]
    # Cue words, and whatever else she has recorded: words of single pieces, for instance.
    listed = {word.reading for group in groups for word in group.said}
    others = [reading for reading in latest if reading not in listed and reading not in CUES]
    cues = [_word(bank, say, None, latest, spoken) for say in (*CUES, *sorted(others))]
    return VoicePublic(
        language=language_of(asking, connection),
        languages=[LanguagePublic(key=key, words=words) for key, (words, _) in LANGUAGES.items()],
        groups=[*groups, VoiceGroupPublic(key="cues", words="Cue words, and others of your own.", said=cues)],
    )


def _says(system: System, changed: dict[str, tuple[str, ...]]) -> list[str]:
    """The words of a system, each once, in the order of its table."""
    says: list[str] = []
    if system in (System.NUMBERS, System.BEATS):
        says += [str(number) for number in range(1, LISTED_NUMBERS + 1)]
    if system is System.NAMES:
        says += list("CDEFGAB")
    for entry, (_, words) in TABLES[system].items():
        says += [word for word in changed.get(f"{system}:{entry}", words) if "{" not in word]
    if system is System.NUMBERS:
        says += [AND, *READY_GO]
    return list(dict.fromkeys(says))


def _word(
    bank: VoiceBank, say: str, system: System | None, latest: dict[str, int], spoken: dict[str, str]
) -> VoiceWordPublic:
    reading = reading_of(say, system)
    sample = bank(reading)
    name = sample.sound.removeprefix(WORD)
    source: Literal["shipped", "recorded", "made", "none"] = (
        "none"
        if sample.sound == NOTHING
        else "recorded"
        if name.startswith(OWN)
        else "made"
        if name.startswith(MADE)
        else "shipped"
    )
    return VoiceWordPublic(
        reading=reading,
        say=say,
        source=source,
        length_s=sample.length_s,
        vowel_s=sample.vowel_s,
        sample=word_sample_public(sample),
        own_id=latest.get(reading),
        spoken=spoken.get(reading),
    )


@router.get("/word")
def get_word(asking: AskingNow, connection: DbNow, say: TextQuery) -> VoiceWordPublic:
    """Any word as the studio's voice says it: one of a single piece, a cue."""
    return _word(bank_of(asking, connection), say, None, db.latest_ids(connection, asking.studio_id), {})


@router.get("/trial")
def get_trial(
    asking: AskingNow, connection: DbNow, say: TextQuery, system: System | None = None, click: bool = True
) -> SchedulePublic:
    """A word on four beats, with the click or without; made at once where it was never said before."""
    bank = bank_of(asking, connection)
    sample = bank(reading_of(say, system))
    if bank.missing:
        raise OptionError(next(iter(bank.missing.values())), where="say", todo="Choose another word, or record it.")
    return schedule_public(one_word(sample, beats=4 if click else 1, clicks=click), bank)


@router.get("/made", response_class=Response)
def get_made(
    asking: AskingNow,
    text: TextQuery,
    language: str = "en",
    whisper: bool = False,
    beat_s: Annotated[float | None, Query(ge=0, le=1.2)] = None,
) -> Response:
    """A word made by the speech package, as WAV; its vowel lies ``beat_s`` after its start, wherever this process's own
    rendering has it (the synthesizer's renderings differ by some milliseconds)."""
    check_language(language)
    samples = made_samples(text, language, whisper)
    if beat_s is not None:
        samples = shifted(samples, beat_s - make_word(text, language).vowel_s)
    return Response(
        wav_bytes(samples, PACK_RATE),
        media_type="audio/wav",
        headers={"Cache-Control": "private, max-age=86400"},
    )


@router.post("/own", status_code=201)
def add_own(
    asking: AskingNow,
    connection: DbNow,
    audio: Annotated[UploadFile, File()],
    reading: TextQuery,
    spoken: Annotated[str, Query(max_length=MAX_TEXT)] = "",
) -> VoiceWordPublic:
    """Keeps a recording of one word: trimmed, brought to the strength of the others, its vowel found."""
    data = audio.file.read()
    word = read_recording(data, reading, spoken or reading, language_of(asking, connection))
    db.add_word(
        connection,
        asking.studio_id,
        reading=reading,
        spoken=spoken or reading,
        audio=wav_bytes(word.samples, PACK_RATE),
        vowel_s=word.vowel_s,
    )
    return _listed(asking, connection, reading)


def _listed(asking: AskingNow, connection: DbNow, reading: str) -> VoiceWordPublic:
    bank, latest = bank_of(asking, connection), db.latest_ids(connection, asking.studio_id)
    return _word(bank, reading, None, latest, {}).model_copy(update={"reading": reading})


@router.get("/own/{word_id}/audio", response_class=Response)
def get_own_audio(asking: AskingNow, connection: DbNow, word_id: int, whisper: bool = False) -> Response:
    """A recording as WAV; it never changes."""
    samples = read_wav(db.get_word(connection, asking.studio_id, word_id)["audio"])
    return Response(
        wav_bytes(whispered(samples, PACK_RATE) if whisper else samples, PACK_RATE),
        media_type="audio/wav",
        headers={"Cache-Control": "private, max-age=86400"},
    )


@router.patch("/own/{word_id}")
def change_own(asking: AskingNow, connection: DbNow, word_id: int, update: OwnWordUpdate) -> VoiceWordPublic:
    """Moves where its vowel begins, or takes it out of use and back."""
    row = db.get_word(connection, asking.studio_id, word_id)
    length_s = len(read_wav(row["audio"])) / PACK_RATE
    if update.vowel_s is not None and update.vowel_s > length_s:
        raise OptionError(
            f"this word lasts {length_s:.2f} seconds; its vowel begins in it.",
            where="vowel_s",
            kept="Nothing was changed.",
        )
    db.change_word(connection, asking.studio_id, word_id, vowel_s=update.vowel_s, is_used=update.is_used)
    return _listed(asking, connection, row["reading"])
