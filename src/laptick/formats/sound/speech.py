"""Speech made on this machine: one word as samples, with the speech sounds it is made of and when each begins.

The synthesizer is espeak-ng (Debian package ``libespeak-ng1``, GPL-3.0-or-later), called as a library. It is one voice
with one state, so calls are made one at a time.
"""

from __future__ import annotations

import ctypes
import re
import threading
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.errors import OptionError, SpeechUnavailableError
from laptick.core.base.units import Seconds
from laptick.core.play_along.vowel import trim_word, vowel_onset_s

LIBRARY = "libespeak-ng.so.1"

#: Languages in which words can be made: studio's key → (its name, the synthesizer's voice).
LANGUAGES: dict[str, tuple[str, str]] = {
    "en": ("English", "en-us+klatt"),
    "en-gb": ("English (British)", "en+klatt"),
    "cs": ("Čeština", "cs+klatt"),
    "da": ("Dansk", "da+klatt"),
    "de": ("Deutsch", "de+klatt"),
    "es": ("Español", "es+klatt"),
    "fr": ("Français", "fr+klatt"),
    "it": ("Italiano", "it+klatt"),
    "nl": ("Nederlands", "nl+klatt"),
    "pl": ("Polski", "pl+klatt"),
    "pt": ("Português", "pt+klatt"),
    "fi": ("Suomi", "fi+klatt"),
    "sv": ("Svenska", "sv+klatt"),
}

#: A spoken word is at most this long, in letters.
MAX_TEXT = 24

#: Speaking rates tried for a made word, in words a minute, until it is as short as wanted.
RATES: tuple[int, ...] = (300, 330, 360, 390, 420, 450)

#: From the library's header: modes, flags, parameters, kinds of event.
_SYNCHRONOUS, _PHONEME_EVENTS, _UTF8, _PHONEMES = 2, 1, 1, 0x100
_RATE, _PITCH = 1, 3
_EVENT_END, _EVENT_PHONEME = 0, 7


@dataclass(frozen=True)
class Speech:
    """``sounds``: each speech sound's mnemonic and when it begins, in seconds."""

    rate: int
    samples: NDArray[np.float64]
    sounds: tuple[tuple[str, Seconds], ...]


@dataclass(frozen=True)
class MadeWord:
    """A trimmed word and where its vowel begins."""

    rate: int
    samples: NDArray[np.float64]
    vowel_s: Seconds

    @property
    def length_s(self) -> Seconds:
        return len(self.samples) / self.rate


class _Id(ctypes.Union):
    _fields_ = (("number", ctypes.c_int), ("name", ctypes.c_char_p), ("string", ctypes.c_char * 8))


class _Event(ctypes.Structure):
    _fields_ = (
        ("type", ctypes.c_int),
        ("unique_identifier", ctypes.c_uint),
        ("text_position", ctypes.c_int),
        ("length", ctypes.c_int),
        ("audio_position", ctypes.c_int),
        ("sample", ctypes.c_int),
        ("user_data", ctypes.c_void_p),
        ("id", _Id),
    )


_Callback = ctypes.CFUNCTYPE(ctypes.c_int, ctypes.POINTER(ctypes.c_short), ctypes.c_int, ctypes.POINTER(_Event))


class _Synthesizer:
    """The library, opened once."""

    def __init__(self) -> None:
        try:
            self.library = ctypes.CDLL(LIBRARY)
        except OSError:
            raise SpeechUnavailableError(
                "words cannot be made into speech here: the speech package is missing.",
                where="speech",
                kept="Everything else works.",
                todo="Install the Debian package libespeak-ng1, or record the word yourself.",
            ) from None
        self.rate = self.library.espeak_Initialize(_SYNCHRONOUS, 0, None, _PHONEME_EVENTS)
        self.chunks: list[list[int]] = []
        self.events: list[tuple[str, int]] = []
        self._callback = _Callback(self._take)  # kept, or the library would call freed memory
        self.library.espeak_SetSynthCallback(self._callback)

    def _take(self, wave: ctypes._Pointer[ctypes.c_short], count: int, events: ctypes._Pointer[_Event]) -> int:
        if count > 0:
            self.chunks.append(wave[:count])
        i = 0
        while events[i].type != _EVENT_END:
            if events[i].type == _EVENT_PHONEME:
                name = bytes(events[i].id.string).split(b"\0")[0].decode("utf-8", "replace")
                self.events.append((name, events[i].sample))
            i += 1
        return 0

    def speak(self, text: str, voice: str, words_per_minute: int, pitch: int) -> Speech:
        self.chunks, self.events = [], []
        if self.library.espeak_SetVoiceByName(voice.encode()) != 0:
            raise SpeechUnavailableError(f"the speech package has no voice “{voice}” here.", where="speech")
        self.library.espeak_SetParameter(_RATE, words_per_minute, 0)
        self.library.espeak_SetParameter(_PITCH, pitch, 0)
        data = text.encode() + b"\0"
        self.library.espeak_Synth(data, len(data), 0, 1, 0, _UTF8 | _PHONEMES, None, None)
        self.library.espeak_Synchronize()
        samples = np.array([one for chunk in self.chunks for one in chunk], dtype=np.float64) / 32768
        sounds = tuple((name, at / self.rate) for name, at in self.events if not name.startswith(("_", "(")))
        return Speech(self.rate, samples, sounds)


_lock = threading.Lock()
_opened: list[_Synthesizer] = []


def check_language(language: str) -> None:
    """
    Raises:
        OptionError: a language that is not offered.
    """
    if language not in LANGUAGES:
        raise OptionError(
            f"there is no voice for “{language[:12]}”.", where="voice_language", kept="Nothing was changed."
        )


def speak(text: str, language: str = "en", *, words_per_minute: int = 300, pitch: int = 50, voice: str = "") -> Speech:
    """A text as speech; ``[[…]]`` in it are mnemonics of speech sounds.

    Raises:
        SpeechUnavailableError: the package, or a voice of it, is missing.
        OptionError: a language that is not offered.
    """
    check_language(language)
    with _lock:
        if not _opened:
            _opened.append(_Synthesizer())
        return _opened[0].speak(text, voice or LANGUAGES[language][1], words_per_minute, pitch)


#: The letters with which a vowel's mnemonic begins.
_VOWELS = "aAeEiIoOuUVy@03"


def is_vowel(mnemonic: str) -> bool:
    return mnemonic.lstrip("',%=").startswith(tuple(_VOWELS))


def stressed_vowel(sounds: Sequence[tuple[str, Seconds]], stressed: int = 0) -> int | None:
    """Which of the sounds is the ``stressed``-th vowel, counted from 0; ``None``: there is no vowel."""
    vowels = [i for i, (name, _) in enumerate(sounds) if is_vowel(name)]
    return vowels[min(stressed, len(vowels) - 1)] if vowels else None


def vowels_before_stress(mnemonics: str) -> int:
    """How many vowels stand before the stressed one in a pronunciation."""
    before = mnemonics.partition("'")[0] if "'" in mnemonics else ""
    return len(re.findall(r"o@|[aeou]I|[ao]U|3:|[aAeEiIoOuUV@03]:?", before))


@lru_cache(maxsize=512)
def make_word(text: str, language: str = "en", longest_s: Seconds = 0.16) -> MadeWord:
    """A word as a teacher typed it, spoken: as short as wanted where the voice can, trimmed, its vowel found.

    The first vowel counts: where a typed word is stressed nobody says. Of the renderings that are short enough the
    first is kept on which our measure and the synthesizer's record agree; where none is (sounds that glide into their
    vowel), the one on which they differ least, its vowel placed midway between the two.

    Raises:
        SpeechUnavailableError: see ``speak``.
        OptionError: nothing in it can be spoken.
    """
    plain = " ".join(re.sub(r"[\[\]<>&]", lambda m: " & " if m.group() == "&" else " ", text).split())[:MAX_TEXT]
    found: list[tuple[bool, float, MadeWord]] = []
    for words_per_minute in RATES:
        speech = speak(plain, language, words_per_minute=words_per_minute)
        if not len(speech.samples) or not np.abs(speech.samples).max() > 1e-3:
            raise OptionError(
                f"“{text[:MAX_TEXT]}” cannot be spoken.", where="word", todo="Choose another word, or record it."
            )
        made, differ_s = placed(speech, 0), placing_difference(speech, 0)
        found.append((made.length_s > longest_s, abs(differ_s), replace(made, vowel_s=made.vowel_s - differ_s / 2)))
        if made.length_s <= longest_s and abs(differ_s) <= AGREE_S:
            return made
    # None is as wanted: the shortest matter most, then how well the measures agree.
    return min(found, key=lambda one: (one[0], one[1]))[2]


#: The two measures of a vowel's beginning agree within this.
AGREE_S: Seconds = 0.009


def placing_difference(speech: Speech, stressed: int) -> Seconds:
    """By how much our measure of a vowel's beginning lies behind the synthesizer's own record of it."""
    made = placed(speech, stressed)
    head = made.samples[: min(200, len(made.samples) // 2)]
    begin = next(i for i in range(len(speech.samples)) if np.array_equal(speech.samples[i : i + len(head)], head))
    vowel = stressed_vowel(speech.sounds, stressed)
    recorded_s = speech.sounds[vowel or 0][1] - begin / speech.rate if speech.sounds else made.vowel_s
    return made.vowel_s - recorded_s


#: With what the mnemonic of a stop begins: behind a vowel it is two stretches, a silence and a burst.
_STOPS = "ptkbdg"


def stretches(sounds: Sequence[str], stressed: int = 0) -> tuple[int, int]:
    """Into how many stretches of sound a word falls before its stressed vowel, and from it on."""
    vowel = stressed_vowel([(name, 0.0) for name in sounds], stressed)
    if vowel is None:
        return 0, 0
    after = sum(2 if name.startswith(tuple(_STOPS)) else 1 for name in sounds[vowel:])
    return vowel, after


def placed(speech: Speech, stressed: int) -> MadeWord:
    """A speech trimmed, with its vowel onset measured."""
    samples = trim_word(speech.samples, speech.rate)
    before, after = stretches([name for name, _ in speech.sounds], stressed)
    return MadeWord(
        speech.rate, samples, vowel_onset_s(samples, speech.rate, before, after, is_first_vowel=stressed == 0)
    )
