"""Sound files of a play-along: clicks found by a detector that knows nothing of how they are made, words by their own
samples; MIDI read back by mido."""

from __future__ import annotations

import io
import wave
from dataclasses import replace

import mido
import numpy as np
import pytest

from helpers import DEMO, demo_score
from laptick.core.base.errors import LimitError
from laptick.core.play_along.rounds import LONGEST_S, EchoBy, EchoIn, echo_parts, play_parts
from laptick.core.play_along.schedule import Schedule, Sounding, Track
from laptick.core.play_along.scheduling import make_schedule
from laptick.formats.sound.kit import KIT, hertz_of
from laptick.formats.sound.play_along import LEAD_S, MIX, sound_midi, sound_wav
from laptick.formats.sound.sound_pack import PACK_RATE
from laptick.formats.sound.voices import VoiceBank

BANK = VoiceBank()


def schedule_of(name: str, bpm: float, *, rounds: int = 1, **how) -> Schedule:
    score = demo_score(name)
    return make_schedule(
        score, play_parts(score, score.measures, bpm, rounds=rounds), sounding=Sounding(voice=BANK, **how)
    )


def samples_of(data: bytes) -> np.ndarray:
    with wave.open(io.BytesIO(data)) as file:
        assert (file.getnchannels(), file.getsampwidth(), file.getframerate()) == (1, 2, PACK_RATE)
        return np.frombuffer(file.readframes(file.getnframes()), "<i2") / 32768


def onsets_in(samples: np.ndarray) -> list[float]:
    """Seconds after the schedule's zero at which it grows loud: where the loudest sample of the next 2 ms is six times
    that of the 8 ms before, and stands out of the quiet."""
    ahead, behind, quiet = int(0.002 * PACK_RATE), int(0.008 * PACK_RATE), 0.004
    loud = np.abs(np.concatenate([np.zeros(behind), samples, np.zeros(ahead)]))
    found: list[float] = []
    at = behind
    while at < len(loud) - ahead:
        if loud[at] > quiet and loud[at : at + ahead].max() > 6 * max(loud[at - behind : at].max(), quiet / 2):
            found.append((at - behind) / PACK_RATE - LEAD_S)
            at += int(0.03 * PACK_RATE)
        else:
            at += 1
    return found


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("bpm", [60, 92.5])
def test_every_click_is_where_the_schedule_has_it(name, bpm):
    schedule = schedule_of(name, bpm)
    found = onsets_in(samples_of(sound_wav(schedule, BANK, {Track.CLICK: 0.8})))
    expected = sorted({sound.at_s for sound in schedule.of(Track.CLICK)})
    assert len(found) == len(expected)
    assert max(abs(a - b) for a, b in zip(found, expected, strict=True)) < 0.001


def test_every_knock_too():
    schedule = schedule_of("harbour-steps", 60, knocks=True)
    found = onsets_in(samples_of(sound_wav(schedule, BANK, {Track.RIGHT: 0.8})))
    expected = [sound.at_s for sound in schedule.of(Track.RIGHT)]
    assert len(found) == len(expected)
    assert max(abs(a - b) for a, b in zip(found, expected, strict=True)) < 0.001


def test_every_word_has_its_vowel_on_its_beat():
    """Where the file is most like the word's own samples, to the sample; the vowel lies in those as the table says."""
    schedule = schedule_of("kite-over-the-orchard", 72)
    samples = samples_of(sound_wav(schedule, BANK, {Track.STRIKE: 1.0}))
    for sound in schedule.of(Track.STRIKE)[:24]:
        word, vowel_s = BANK.samples(sound.sound)
        around = round((LEAD_S + sound.at_s - vowel_s) * PACK_RATE)
        window = samples[max(0, around - 400) : around + 400 + len(word)]
        likeness = np.correlate(window, word, "valid")
        begin = max(0, around - 400) + int(np.argmax(likeness))
        assert abs(begin / PACK_RATE + vowel_s - LEAD_S - sound.at_s) < 0.001


@pytest.mark.parametrize("pitch", [36, 48, 60, 69, 84])
def test_a_tone_has_its_pitch(pitch):
    """The strongest line of its spectrum, by the discrete Fourier transform, is its fundamental (A4 = 440 Hz)."""
    from laptick.formats.sound.kit import render_tone

    wave_form = render_tone(pitch, 1.0, PACK_RATE)[:PACK_RATE]
    spectrum = np.abs(np.fft.rfft(wave_form * np.hanning(len(wave_form)), 8 * len(wave_form)))
    assert np.argmax(spectrum) / 8 == pytest.approx(hertz_of(pitch), abs=0.6)
    assert hertz_of(69) == 440


def test_nothing_is_too_loud_and_it_ends_in_silence():
    samples = samples_of(sound_wav(schedule_of("copper-kettle-parade", 100), BANK))
    assert 0.3 < np.abs(samples).max() < 0.9
    assert np.abs(samples[-PACK_RATE // 10 :]).max() < 0.01


def test_tracks_that_are_not_wanted_are_silent():
    schedule = schedule_of("harbour-steps", 60)
    assert not np.abs(samples_of(sound_wav(schedule, BANK, {}))).any()
    only = {sound.sound for sound in schedule.of(Track.BACKING)}
    assert only <= set(KIT)


def test_an_echo_leaves_its_room_to_the_beat():
    score = demo_score("harbour-steps")
    parts = echo_parts(score, score.measures[:2], 60, by=EchoBy.BAR, given_in=EchoIn.TONES)
    schedule = make_schedule(score, parts, sounding=Sounding(voice=BANK))
    samples = samples_of(sound_wav(schedule, BANK, {Track.RIGHT: 1.0, Track.LEFT: 1.0}))
    model, room = schedule.stretches[0], schedule.stretches[1]

    def strength(start_s: float, end_s: float) -> float:
        return float(np.abs(samples[round((LEAD_S + start_s) * PACK_RATE) : round((LEAD_S + end_s) * PACK_RATE)]).max())

    assert strength(model.first_beat_s, model.end_s) > 0.1
    assert strength(room.start_s + 0.4, room.end_s) < 0.01


def test_midi_says_the_same_times_and_the_words():
    schedule = schedule_of("kite-over-the-orchard", 96)
    levels = {Track.CLICK: 0.8, Track.BACKING: 0.5, Track.LEFT: 0.9, Track.STRIKE: 1.0}
    midi = mido.MidiFile(file=io.BytesIO(sound_midi(schedule, levels)), charset="utf-8")
    now, struck, ended, words = 0.0, [], [], []
    for message in midi:  # in seconds, by the file's own tempo
        now += message.time
        if message.type == "note_on":
            struck.append((round(now, 3), message.channel, message.note))
        elif message.type == "note_off":
            ended.append((now, message.channel, message.note))
        elif message.type == "lyrics":
            words.append((now, message.text.strip()))
    expected = [(s.at_s, 9, KIT[s.sound].midi_key) for s in schedule.of(Track.CLICK, Track.BACKING)]
    expected += [(s.at_s, 1, int(s.sound[5:])) for s in schedule.of(Track.LEFT)]
    assert len(struck) == len(expected) == len(ended)
    for (at_s, *what), (wanted_s, *wanted) in zip(
        sorted(struck), sorted((round(a, 3), *rest) for a, *rest in expected), strict=True
    ):
        assert what == wanted
        assert at_s == pytest.approx(wanted_s, abs=0.0011)
    assert [word for _, word in words] == [w.say for w in schedule.words]
    assert [at for at, _ in words] == pytest.approx([w.at_s for w in schedule.words], abs=0.0006)


def test_a_sound_file_has_a_limit():
    long = replace(schedule_of("harbour-steps", 60), end_s=LONGEST_S * 1.2)
    with pytest.raises(LimitError, match="minutes of sound"):
        sound_wav(long, BANK)
    with pytest.raises(LimitError, match="minutes of sound"):
        sound_midi(long)


def test_every_track_has_a_level():
    assert set(MIX) == set(Track)
    assert all(0 < level <= 1 for level in MIX.values())
