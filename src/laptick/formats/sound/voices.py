"""A studio's voice: where the sample of each reading comes from.

In this order: the teacher's own recording; the pack that ships (English); made at once by the speech package in the
studio's language. Names of samples: ``word:1`` (shipped), ``word:own/12`` (recorded), ``word:made/de/eins`` (made); the
same with ``whisper:`` is whispered.
"""

from __future__ import annotations

import io
import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import soundfile
from numpy.typing import NDArray

from laptick.core.base.errors import LapTickError, OptionError, SpeechUnavailableError
from laptick.core.base.units import Seconds
from laptick.core.play_along.voice import SHIPPED, SYLLABLE_S, WordSample
from laptick.core.play_along.vowel import trim_word, vowel_onset_s
from laptick.formats.sound.sound_pack import PACK_RATE, pack_places, pack_samples, shipped_word
from laptick.formats.sound.speech import make_word, speak, stretches, vowels_before_stress
from laptick.formats.sound.whisper import whispered

Floats = NDArray[np.float64]

WORD, WHISPER = "word:", "whisper:"
OWN, MADE = "own/", "made/"

#: The language of the pack.
SHIPPED_LANGUAGE = "en"

#: What a word sounds like when it cannot be made here: nothing, and it says so.
NOTHING = "word:none"

#: Recordings are accepted up to this length and size, before they are trimmed.
MAX_RECORDING_S, MAX_RECORDING_BYTES = 6.0, 2_500_000

#: A shorter sound is a knock, or what was left of a word.
SHORTEST_S: Seconds = 0.06

#: Words are brought to this strength, so that none stands out: that of the pack.
WORD_LEVEL = 0.30


@dataclass(frozen=True)
class OwnWord:
    """A teacher's recording of a reading, at ``PACK_RATE``."""

    id: int
    samples: Floats
    whisper: Floats
    vowel_s: Seconds


class VoiceBank:
    """The voice of one studio. ``own``: reading → recording."""

    def __init__(self, language: str = SHIPPED_LANGUAGE, own: Mapping[str, OwnWord] | None = None) -> None:
        self.language = language
        self._own = dict(own or {})
        self._by_id = {word.id: word for word in self._own.values()}
        #: Readings that could not be spoken, and why.
        self.missing: dict[str, str] = {}

    def __call__(self, reading: str) -> WordSample:
        """The sample of a reading; where there is none, a silent one, noted in ``missing``."""
        own = self._own.get(reading)
        if own is not None:
            return WordSample(f"{WORD}{OWN}{own.id}", len(own.samples) / PACK_RATE, own.vowel_s)
        shipped = shipped_word(reading) if self.language == SHIPPED_LANGUAGE else None
        if shipped is not None:
            return shipped
        text = SPELLED.get(reading, reading)
        try:
            made = make_word(text, self.language)
        except LapTickError as error:
            self.missing[reading] = error.what
            return WordSample(NOTHING, SYLLABLE_S, SYLLABLE_S / 3)
        return WordSample(f"{WORD}{MADE}{self.language}/{text}", made.length_s, made.vowel_s)

    def beat_s(self, sound: str) -> Seconds:
        """Where in a sound its beat falls."""
        places = pack_places()
        if sound in places:
            return places[sound].beat_s
        name = sound.partition(":")[2]
        if name.startswith(OWN):
            return self._by_id[int(name.removeprefix(OWN))].vowel_s
        if name.startswith(MADE):
            _, language, text = name.split("/", 2)
            return make_word(text, language).vowel_s
        return 0.0

    def samples(self, sound: str) -> tuple[Floats, Seconds]:
        """A sound's samples at ``PACK_RATE``, and where in them its beat falls."""
        kind, _, name = sound.partition(":")
        is_whisper, beat_s = f"{kind}:" == WHISPER, self.beat_s(sound)
        if sound in pack_places():
            return pack_samples(sound), beat_s
        if name.startswith(OWN):
            own = self._by_id[int(name.removeprefix(OWN))]
            return (own.whisper if is_whisper else own.samples), beat_s
        if name.startswith(MADE):
            _, language, text = name.split("/", 2)
            return made_samples(text, language, is_whisper), beat_s
        return np.zeros(1), beat_s


#: Readings that are spelled otherwise where a voice of another language reads them.
SPELLED: dict[str, str] = {"and": "&", "uh": "a", "ah": "a"}


@lru_cache(maxsize=512)
def made_samples(text: str, language: str, is_whisper: bool) -> Floats:
    """A word made at once, at ``PACK_RATE``.

    Raises:
        SpeechUnavailableError, OptionError: see ``make_word``.
    """
    made = make_word(text, language)
    samples = leveled(resampled(made.samples, made.rate))
    return whispered(samples, PACK_RATE) if is_whisper else samples


#: How fast a phrase is spoken, in words a minute.
PHRASE_RATE = 190


@lru_cache(maxsize=512)
def phrase_samples(text: str) -> Floats:
    """A phrase as it is said between two runs, at ``PACK_RATE``, without the silence round it.

    Raises:
        SpeechUnavailableError: see ``speak``.
    """
    spoken = speak(text, SHIPPED_LANGUAGE, words_per_minute=PHRASE_RATE)
    samples = leveled(resampled(spoken.samples, spoken.rate))
    heard = np.flatnonzero(np.abs(samples) > QUIET)
    return samples[heard[0] : heard[-1] + 1] if len(heard) else samples


#: What is softer is silence.
QUIET = 0.005


def shifted(samples: Floats, later_s: Seconds) -> Floats:
    """The same begun later, by silence before it, or earlier, its beginning cut off."""
    count = round(later_s * PACK_RATE)
    return np.concatenate([np.zeros(count), samples]) if count > 0 else samples[-count:]


def leveled(samples: Floats) -> Floats:
    """Brought to the strength of the pack's words: that of the loudest 20 ms."""
    loud = float(np.sqrt(np.convolve(samples**2, np.ones(441) / 441, "same")).max())
    return samples * (WORD_LEVEL / loud) if loud > 0 else samples


def resampled(samples: Floats, rate: int) -> Floats:
    """At ``PACK_RATE``, band-limited (by the discrete Fourier transform)."""
    if rate == PACK_RATE or not len(samples):
        return samples
    count = max(1, round(len(samples) * PACK_RATE / rate))
    spectrum = np.fft.rfft(samples)
    bent = np.zeros(count // 2 + 1, dtype=complex)
    shared = min(len(spectrum), len(bent))
    bent[:shared] = spectrum[:shared]
    result: Floats = np.fft.irfft(bent, count) * (count / len(samples))
    return result


def read_recording(data: bytes, reading: str, spoken: str, language: str) -> OwnWord:
    """A teacher's recording of one word: decoded, trimmed, leveled, its vowel found. ``spoken``: what she says, as it
    is spelled in ``language`` (it tells how many sounds stand before the vowel).

    Raises:
        OptionError: it cannot be read, is too long, or nothing is heard.
    """
    try:
        if len(data) > MAX_RECORDING_BYTES:
            raise OptionError("this recording is too large for one word.", where="audio")
        samples, rate = soundfile.read(io.BytesIO(data), dtype="float64", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError, TypeError, ValueError):
        raise OptionError(
            "this is no sound file that can be read.", where="audio", todo="Send WAV, FLAC, Ogg or MP3."
        ) from None
    if not 4000 <= rate <= 192_000 or len(samples) > MAX_RECORDING_S * rate:
        raise OptionError(
            f"a recording of one word lasts up to {MAX_RECORDING_S:g} seconds.", where="audio", todo="Record it again."
        )
    mono = samples.mean(1)
    if not np.isfinite(mono).all():
        raise OptionError("this recording is broken: it holds values that are no numbers.", where="audio")
    word = leveled(trim_word(resampled(mono, rate), PACK_RATE))
    if len(word) < SHORTEST_S * PACK_RATE:
        raise OptionError(
            "only a knock is heard in this recording.", where="audio", todo="Say the word a little later, and nearer."
        )
    before, after = sounds_of(spoken or reading, reading, language)
    return OwnWord(0, word, whispered(word, PACK_RATE), vowel_onset_s(word, PACK_RATE, before, after))


def sounds_of(spoken: str, reading: str, language: str) -> tuple[int, int]:
    """Into how many stretches of sound a word falls before its stressed vowel, and from it on."""
    shipped = language == SHIPPED_LANGUAGE and spoken == reading and reading in SHIPPED
    text = f"[[{SHIPPED[reading]}]]" if shipped else SPELLED.get(spoken, spoken)
    try:
        sounds = speak(text, language).sounds
    except SpeechUnavailableError:
        # By its letters then: vowels are told from consonants in any spelling of our languages.
        letters = re.sub(r"[^a-z]", "", spoken.lower()) or "a"
        first = re.search(r"[aeiouy]", letters)
        return (first.start(), len(letters) - first.start()) if first else (0, 0)
    return stretches([name for name, _ in sounds], vowels_before_stress(SHIPPED[reading]) if shipped else 0)
