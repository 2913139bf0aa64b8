"""The counting voice: where each word's vowel begins, by a measure of its own and by the synthesizer's record; words
made at once; a teacher's recordings."""

from __future__ import annotations

import io
import json
import subprocess
import sys

import numpy as np
import pytest
import soundfile

from laptick.core.base.errors import OptionError, SpeechUnavailableError
from laptick.core.play_along.voice import SHIPPED, SYLLABLE_S
from laptick.core.play_along.vowel import trim_word, vowel_onset_s
from laptick.formats.sound import speech, voices
from laptick.formats.sound.kit import KIT
from laptick.formats.sound.sound_pack import PACK, PACK_RATE, TABLE, pack_makers, pack_places, pack_samples, wav_bytes
from laptick.formats.sound.speech import LANGUAGES, make_word, speak, stressed_vowel
from laptick.formats.sound.voices import NOTHING, VoiceBank, read_recording, resampled
from laptick.formats.sound.whisper import whispered
from sampling import sampled

#: Words of several syllables, which may be longer than a sixteenth at a quarter of 93.
LONG = {"7", "11", "12", "13", "14", "15", "together", "X"}


#: Speaks every word as it was for the pack: when, in the trimmed word, the synthesizer says that it began the vowel.
AGAIN = """
import json
from laptick.core.play_along.voice import SHIPPED
from laptick.formats.sound.sound_pack import pack_makers
from laptick.formats.sound.speech import placed, placing_difference, speak, vowels_before_stress
began = {}
for reading, sounds in SHIPPED.items():
    made, stressed = pack_makers()[f"word:{reading}"], vowels_before_stress(sounds)
    speech = speak(f"[[{sounds}]]", words_per_minute=made.words_per_minute, pitch=made.pitch, voice=made.voice)
    began[reading] = placed(speech, stressed).vowel_s - placing_difference(speech, stressed)
print(json.dumps(began))
"""


@pytest.fixture(scope="module")
def spoken_again() -> dict[str, float]:
    """In a process of its own: what the synthesizer said before colours what it says next."""
    done = subprocess.run([sys.executable, "-c", AGAIN], capture_output=True, text=True, check=True, timeout=120)
    return json.loads(done.stdout)


class TestPack:
    def test_every_word_ships_voiced_and_whispered_and_the_kit_too(self):
        wanted = {f"{kind}:{reading}" for kind in ("word", "whisper") for reading in SHIPPED} | set(KIT)
        assert set(pack_places()) == wanted

    def test_it_is_small(self):
        assert PACK.stat().st_size + TABLE.stat().st_size < 400_000

    def test_syllables_are_short(self):
        for reading in SHIPPED:
            longest = 0.26 if reading in LONG else SYLLABLE_S + 0.0005
            assert pack_places()[f"word:{reading}"].length_s <= longest, reading

    @pytest.mark.parametrize("reading", sorted(SHIPPED))
    def test_its_vowel_lies_where_the_synthesizer_began_it(self, reading, spoken_again):
        """Independent of our measure: the word is spoken again as it was for the pack, and the synthesizer's events say
        at which sample it went over to the vowel."""
        made, place = pack_makers()[f"word:{reading}"], pack_places()[f"word:{reading}"]
        assert abs(place.beat_s - made.vowel_s) <= 0.010
        # What was written down then is what the synthesizer says today.
        assert spoken_again[reading] == pytest.approx(made.vowel_s, abs=0.003)

    def test_a_whisper_has_no_voice(self):
        """A voiced vowel repeats itself from period to period, a whispered one does not."""
        pairs = [[_periodicity(pack_samples(f"{kind}:{r}")) for kind in ("word", "whisper")] for r in SHIPPED]
        voiced, whisper = np.median(pairs, axis=0)
        assert voiced > 0.55
        assert whisper < 0.42
        assert sum(a > b for a, b in pairs) >= 0.85 * len(pairs)


def _periodicity(samples: np.ndarray) -> float:
    """The highest normalized correlation of the loudest 20 ms with what lies 5 to 14 ms later."""
    size = int(0.02 * PACK_RATE)
    lags = range(int(0.005 * PACK_RATE), int(0.014 * PACK_RATE))
    strength = np.convolve(samples**2, np.ones(size), "valid")[: max(1, len(samples) - size - lags[-1])]
    at = int(np.argmax(strength))
    frame = samples[at : at + size]
    later = [samples[at + lag : at + lag + size] for lag in lags]
    return max(float(frame @ one / np.sqrt(frame @ frame * (one @ one) + 1e-12)) for one in later if len(one) == size)


class TestVowel:
    @staticmethod
    def tone(hertz: float, length_s: float, level: float, rate: int = 22050) -> np.ndarray:
        time = np.arange(int(length_s * rate)) / rate
        return level * sum(np.sin(2 * np.pi * hertz * k * time) / k for k in range(1, 20))

    def test_noise_then_a_vowel(self):
        """60 ms of hiss before a buzz: the cut lies between them, within the 2 ms of a step and half a window."""
        hiss = 0.1 * np.random.default_rng(3).normal(size=int(0.06 * 22050))
        word = np.concatenate([np.diff(hiss, prepend=0), self.tone(120, 0.12, 0.3)])
        assert vowel_onset_s(word, 22050, 1, 1) == pytest.approx(0.06, abs=0.008)

    def test_a_vowel_alone_begins_at_once(self):
        assert vowel_onset_s(self.tone(120, 0.12, 0.3), 22050, 0, 1) == pytest.approx(0, abs=0.006)

    @pytest.mark.parametrize("rate", [8000, 16000, 22050, 44100, 48000])
    def test_at_any_rate(self, rate):
        hum = self.tone(110, 0.08, 0.04, rate)
        word = np.concatenate([hum, self.tone(110, 0.1, 0.4, rate)])
        assert vowel_onset_s(word, rate, 1, 1) == pytest.approx(0.08, abs=0.012)

    def test_louder_or_softer_is_the_same(self):
        word = pack_samples("word:trip")
        assert vowel_onset_s(word, PACK_RATE, 2, 2) == vowel_onset_s(word * 0.1, PACK_RATE, 2, 2)

    def test_silence_is_no_word_and_a_speech_is_too_long(self):
        with pytest.raises(OptionError, match="nothing is heard"):
            trim_word(np.zeros(8000), 22050)
        with pytest.raises(OptionError, match="nothing is heard"):
            trim_word(np.zeros(0), 22050)
        with pytest.raises(OptionError, match="lasts"):
            trim_word(self.tone(120, 2.5, 0.3), 22050)

    @pytest.mark.parametrize("cut_s", [0.02, 0.05, 0.09])
    def test_of_several_words_the_loudest_whole_one(self, cut_s):
        """What the recording's beginning or end cuts off is left out, however loud."""
        gap, word = np.zeros(int(0.4 * 22050)), self.tone(120, 0.12, 0.2)
        cut = self.tone(120, cut_s, 0.6)
        heard = np.concatenate([cut, gap, 0.5 * word, gap, word, gap, cut])
        assert len(trim_word(heard, 22050)) / 22050 == pytest.approx(0.12, abs=0.006)
        assert np.abs(trim_word(heard, 22050)).max() == pytest.approx(np.abs(word).max(), rel=0.01)

    def test_a_word_cut_by_hand_from_its_first_sample_is_kept(self):
        assert len(trim_word(self.tone(120, 0.12, 0.2), 22050)) == int(0.12 * 22050)

    def test_a_knock_is_no_word(self):
        knock = np.concatenate([np.zeros(8000), self.tone(120, 0.03, 0.5), np.zeros(8000)])
        with pytest.raises(OptionError, match="only a knock"):
            read_recording(wav_bytes(knock, 22050), "ta", "ta", "en")

    def test_whispering_keeps_length_and_is_never_louder(self):
        word = pack_samples("word:ta")
        assert len(whispered(word, PACK_RATE)) == len(word)
        assert np.sqrt(np.mean(whispered(word, PACK_RATE) ** 2)) < np.sqrt(np.mean(word**2))


class TestMadeAtOnce:
    @pytest.mark.parametrize("language", sorted(LANGUAGES))
    def test_in_every_language(self, language):
        made = make_word("2", language)
        assert 0.04 < made.length_s < 0.4
        assert 0 <= made.vowel_s < made.length_s

    @pytest.mark.parametrize("text", ["hop", "quick", "boat", "tap-tap", "ready?", "émue", "[[x]]", "<b>"])
    def test_whatever_is_typed(self, text):
        made = make_word(text)
        assert 0.03 < made.length_s < 1.2
        assert 0 <= made.vowel_s < made.length_s
        assert np.abs(made.samples).max() > 0.05

    def test_it_is_placed_where_the_synthesizer_began_the_vowel(self):
        """In the median over common words; sounds that glide into their vowel have no sharp beginning."""
        words = [
            "hop",
            "tap",
            "up",
            "down",
            "step",
            "keep",
            "push",
            "pass",
            "back",
            "top",
            "dot",
            "bit",
            "jump",
            "catch",
            "kick",
            "stop",
        ]
        apart = []
        for text in words:
            for rate in (300, 390):
                spoken = speak(text, words_per_minute=rate)
                made = speech.placed(spoken, 0)
                head = made.samples[:200]
                begin = next(i for i in range(len(spoken.samples)) if np.array_equal(spoken.samples[i : i + 200], head))
                index = stressed_vowel(spoken.sounds)
                apart.append(abs(made.vowel_s - (spoken.sounds[index][1] - begin / spoken.rate)))
        assert np.median(apart) < 0.006
        assert np.percentile(apart, 90) < 0.020

    def test_what_cannot_be_spoken_says_so(self):
        with pytest.raises(OptionError, match="cannot be spoken"):
            make_word("…")
        bank = VoiceBank()
        assert bank("…").sound == NOTHING
        assert "…" in bank.missing

    def test_without_the_package(self, monkeypatch):
        monkeypatch.setattr(speech, "LIBRARY", "libnosuchthing.so.9")
        monkeypatch.setattr(speech, "_opened", [])
        make_word.cache_clear()
        with pytest.raises(SpeechUnavailableError, match="speech package is missing"):
            make_word("hop")
        bank = VoiceBank()
        assert bank("1").sound == "word:1"  # what ships needs nothing
        assert bank("hop").sound == NOTHING
        assert voices.sounds_of("hop", "hop", "en") == (1, 2)
        make_word.cache_clear()


class TestRecordings:
    @staticmethod
    def take_of(reading: str, *, rate: int = 48000, before_s: float = 0.4, noise: float = 0.0005) -> bytes:
        """A word as a microphone gives it: in a quiet room, with silence around it, at the machine's own rate."""
        word = resampled_to(pack_samples(f"word:{reading}"), rate)
        whole = np.concatenate([np.zeros(int(before_s * rate)), 0.5 * word, np.zeros(int(0.5 * rate))])
        return wav_bytes(whole + noise * np.random.default_rng(1).normal(size=len(whole)), rate)

    @pytest.mark.parametrize("reading", ["1", "2", "4", "8", "and", "trip", "ta", "go"])
    def test_trimmed_and_placed_by_the_same_measure(self, reading):
        own = read_recording(self.take_of(reading), reading, reading, "en")
        place = pack_places()[f"word:{reading}"]
        assert len(own.samples) / PACK_RATE == pytest.approx(place.length_s, abs=0.03)
        assert own.vowel_s == pytest.approx(place.beat_s, abs=0.010)

    @pytest.mark.parametrize("kind", ["FLAC", "OGG", "MP3"])
    def test_in_other_formats(self, kind):
        out = io.BytesIO()
        samples, rate = soundfile.read(io.BytesIO(self.take_of("ta", rate=44100)))
        soundfile.write(out, samples, rate, format=kind)
        own = read_recording(out.getvalue(), "ta", "ta", "en")
        assert own.vowel_s == pytest.approx(pack_places()["word:ta"].beat_s, abs=0.012)

    def test_in_another_language_its_own_sounds_count(self):
        """German *eins* begins with its vowel, English *one* does not."""
        assert voices.sounds_of("eins", "1", "de")[0] == 0
        assert voices.sounds_of("1", "1", "en")[0] == 1

    @pytest.mark.parametrize(
        ("data", "match"),
        [
            (b"", "no sound file"),
            (b"RIFF0000WAVEnonsense", "no sound file"),
            (b"\x00" * 3_000_000, "too large"),
            (wav_bytes(np.zeros(44100), 44100), "nothing is heard"),
            (wav_bytes(0.2 * np.ones(44100 * 7), 44100), "up to 6 seconds"),
        ],
    )
    def test_what_is_no_word_is_refused(self, data, match):
        with pytest.raises(OptionError, match=match):
            read_recording(data, "1", "1", "en")

    def test_mutated_recordings_are_read_or_refused(self):
        good, random = self.take_of("2"), np.random.default_rng(5)
        for _ in range(sampled(60, 200)):
            broken = bytearray(good[: random.integers(20, 4000)] if random.random() < 0.3 else good)
            for at in random.integers(0, min(len(broken), 200), 4):
                broken[at] = random.integers(0, 256)
            try:
                own = read_recording(bytes(broken), "2", "2", "en")
            except OptionError:
                continue
            assert 0 <= own.vowel_s <= len(own.samples) / PACK_RATE

    def test_resampling_keeps_pitch_and_strength(self):
        time = np.arange(48000) / 48000
        bent = resampled(np.sin(2 * np.pi * 440 * time), 48000)
        assert len(bent) == PACK_RATE
        assert np.argmax(np.abs(np.fft.rfft(bent))) == 440
        assert np.abs(bent[2000:-2000]).max() == pytest.approx(1, abs=0.01)


def resampled_to(samples: np.ndarray, rate: int) -> np.ndarray:
    at = np.arange(int(len(samples) * rate / PACK_RATE)) * PACK_RATE / rate
    return np.interp(at, np.arange(len(samples)), samples)
