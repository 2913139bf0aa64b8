"""The studio's voice and its samples as they are sent."""

from __future__ import annotations

from typing import Literal
from urllib.parse import quote

from laptick.api.schemas.play_along import LanguagePublic, SamplePublic, VoiceGroupPublic, VoicePublic, VoiceWordPublic
from laptick.core.counting.word_tables import AND, READY_GO, SYSTEM_WORDS, TABLES, System
from laptick.core.play_along.voice import WordSample, reading_of
from laptick.core.practice.ladder.spoken import VOCABULARY
from laptick.formats.sound.sound_pack import PACK_RATE, pack_places, pack_version
from laptick.formats.sound.speech import LANGUAGES
from laptick.formats.sound.voices import MADE, NOTHING, OWN, WHISPER, WORD, phrase_samples
from laptick.studio.voice import ShownVoice


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


#: Numbers of beats listed among the words; higher ones are spoken too.
LISTED_NUMBERS = 8

#: Words for cues that teachers use, listed although none may be in a piece yet.
CUES = ("move", "lift", "line", "you")


def voice_public(shown: ShownVoice) -> VoicePublic:
    """The words of every system as the studio says them, each with where its sound comes from."""
    groups = [
        VoiceGroupPublic(
            key=system,
            words=SYSTEM_WORDS[system],
            said=[voice_word_public(shown, say, system) for say in _says(system, shown.changed)],
        )
        for system in System
    ]
    # Cue words, and whatever else she has recorded: words of single pieces, for instance.
    listed = {word.reading for group in groups for word in group.said}
    others = [reading for reading in shown.latest if reading not in listed | {*CUES} | VOCABULARY]
    phrases = [_phrase_public(shown, phrase) for phrase in sorted(VOCABULARY)]
    cues = [voice_word_public(shown, say) for say in (*CUES, *sorted(others))]
    return VoicePublic(
        language=shown.bank.language,
        languages=[LanguagePublic(key=key, words=words) for key, (words, _) in LANGUAGES.items()],
        groups=[
            *groups,
            VoiceGroupPublic(key="cues", words="Cue words, and others of your own.", said=cues),
            VoiceGroupPublic(key="phrases", words="What is said between runs.", said=phrases),
        ],
    )


def _phrase_public(shown: ShownVoice, phrase: str) -> VoiceWordPublic:
    """A phrase as it is said: the studio's own recording of it, else as it is made here."""
    if phrase in shown.spoken:
        return voice_word_public(shown, phrase).model_copy(update={"reading": phrase})
    length_s = len(phrase_samples(phrase)) / PACK_RATE
    sample = SamplePublic(file=f"/api/voice/phrase?say={quote(phrase)}", start_s=0.0, length_s=length_s, beat_s=0.0)
    return VoiceWordPublic(
        reading=phrase,
        say=phrase,
        source="made",
        length_s=length_s,
        vowel_s=0.0,
        sample=sample,
        own_id=shown.latest.get(phrase),
        spoken=None,
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


def voice_word_public(shown: ShownVoice, say: str, system: System | None = None) -> VoiceWordPublic:
    reading = reading_of(say, system)
    sample = shown.bank(reading)
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
        own_id=shown.latest.get(reading),
        spoken=shown.spoken.get(reading),
    )
