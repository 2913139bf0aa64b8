"""Sound files of a play-along: every sound where the schedule has it, found by a detector that knows nothing of how the
sounds are made; MIDI read back by mido."""

from __future__ import annotations

import io
import re
import wave
from dataclasses import replace
from pathlib import Path

import mido
import numpy as np
import pytest

from helpers import DEMO, demo_score
from laptick.core.errors import LimitError
from laptick.core.playing import make_schedule
from laptick.core.score import HANDS, Hand
from laptick.formats.sound import MAX_S, SAMPLE_RATE, TONES, sound_midi, sound_wav

PLAYER = Path(__file__).resolve().parents[2] / "web" / "src" / "sound" / "player.ts"


def samples_of(data: bytes) -> np.ndarray:
    with wave.open(io.BytesIO(data)) as file:
        assert (file.getnchannels(), file.getsampwidth(), file.getframerate()) == (1, 2, SAMPLE_RATE)
        return np.frombuffer(file.readframes(file.getnframes()), "<i2") / 32768


def onsets_in(samples: np.ndarray) -> list[float]:
    """Seconds at which it grows loud: where the loudest sample of the next 2 ms is six times that of the 8 ms before,
    and stands out of the quiet."""
    ahead, behind, quiet = int(0.002 * SAMPLE_RATE), int(0.008 * SAMPLE_RATE), 0.004
    loud = np.abs(np.concatenate([np.zeros(behind), samples, np.zeros(ahead)]))
    found: list[float] = []
    at = behind
    while at < len(loud) - ahead:
        if loud[at] > quiet and loud[at : at + ahead].max() > 6 * max(loud[at - behind : at].max(), quiet / 2):
            found.append((at - behind) / SAMPLE_RATE)
            at += int(0.03 * SAMPLE_RATE)
        else:
            at += 1
    return found


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("bpm", [60, 92.5])
def test_every_click_is_where_the_schedule_has_it(name, bpm):
    schedule = make_schedule(demo_score(name), bpm=bpm)
    found = onsets_in(samples_of(sound_wav(schedule)))
    expected = sorted({click.at_s for click in schedule.clicks})
    assert len(found) == len(expected)
    assert max(abs(a - b) for a, b in zip(found, expected, strict=True)) < 0.001


def test_the_rhythm_of_a_hand_alone_behind_the_count_in():
    schedule = make_schedule(demo_score("harbour-steps"), bpm=60)
    found = onsets_in(samples_of(sound_wav(schedule, click_through=False, hands=(Hand.RIGHT,))))
    counted_in = [c.at_s for c in schedule.clicks if c.is_count_in]
    struck = [k.at_s for k in schedule.knocks if k.hand is Hand.RIGHT]
    expected = sorted({*counted_in, *struck})
    assert len(found) == len(expected)
    assert max(abs(a - b) for a, b in zip(found, expected, strict=True)) < 0.001


def test_nothing_is_too_loud_and_it_ends_in_silence():
    samples = samples_of(sound_wav(make_schedule(demo_score("harbour-steps"), bpm=60), hands=HANDS))
    assert 0.5 < np.abs(samples).max() < 0.9
    assert np.abs(samples[-SAMPLE_RATE // 10 :]).max() < 0.01


def test_midi_says_the_same_times_and_the_words():
    schedule = make_schedule(demo_score("kite-over-the-orchard"), bpm=96)
    midi = mido.MidiFile(file=io.BytesIO(sound_midi(schedule, hands=(Hand.LEFT,))), charset="utf-8")
    now, struck, words = 0.0, [], []
    for message in midi:  # in seconds, by the file's own tempo
        now += message.time
        if message.type == "note_on":
            assert message.channel == 9
            struck.append((round(now, 3), message.note))
        elif message.type == "lyrics":
            words.append(message.text.strip())
    expected = [(c.at_s, TONES[c.accent].midi_key) for c in schedule.clicks]
    expected += [(k.at_s, TONES["left"].midi_key) for k in schedule.knocks if k.hand is Hand.LEFT]
    assert len(struck) == len(expected)
    for (at_s, key), (wanted_s, wanted) in zip(
        sorted(struck), sorted((round(a, 3), k) for a, k in expected), strict=True
    ):
        assert (key, abs(at_s - wanted_s) < 0.0011) == (wanted, True)
    assert words == [c.say for c in schedule.clicks if c.say]


def test_a_sound_file_has_a_limit():
    long = replace(make_schedule(demo_score("harbour-steps"), bpm=60), end_s=MAX_S + 1)
    for write in (sound_wav, sound_midi):
        with pytest.raises(LimitError, match="minutes of sound"):
            write(long)


def test_the_browser_plays_the_same_tones():
    text = PLAYER.read_text(encoding="utf-8")
    row = re.compile(r"(\w+): \{ hertz: ([\d.]+), decay_s: ([\d.]+), noise: ([\d.]+), level: ([\d.]+) \}")
    theirs = {name: tuple(map(float, values)) for name, *values in row.findall(text)}
    assert theirs == {name: (t.hertz, t.decay_s, t.noise, t.level) for name, t in TONES.items()}
