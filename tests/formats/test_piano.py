"""The synthesized piano and takes written as sound: pitches and strikes against numbers worked by hand, onsets scored by
mir_eval with a plain detector of the test's own."""

from __future__ import annotations

import io

import mir_eval
import numpy as np
import pytest
import soundfile

from helpers import demo_score
from laptick.core.base.errors import LimitError, TakeError
from laptick.core.base.levels import Level
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task
from laptick.formats.audio.piano import Note, render_note, strike_offset_s
from laptick.formats.audio.take import RATE, write_wav_take


def heard(performance: Performance) -> np.ndarray:
    samples, rate = soundfile.read(io.BytesIO(write_wav_take(performance)))
    assert rate == RATE
    return samples


def keys(*strikes: tuple[float, int, float], pedal=()) -> Performance:
    """(when, which key, until when)"""
    played = tuple(Strike(at, None, pitch, 70, until) for at, pitch, until in strikes)
    return Performance(Source.MIDI, played, pedal=pedal)


def level_db(samples: np.ndarray, at_s: float, of_s: float = 0.03) -> float:
    piece = samples[int(at_s * RATE) : int((at_s + of_s) * RATE)]
    return 10 * np.log10(np.mean(piece**2) + 1e-12)


@pytest.mark.parametrize(
    ("pitch", "number", "hertz"),
    # n·f·√(1 + B·n²): B = 1.2e-4 at and below C3, doubled every ten keys above it.
    [(48, 1, 130.82), (48, 10, 1315.97), (69, 1, 440.11), (69, 4, 1767.24), (93, 1, 1764.79), (33, 6, 330.71)],
)
def test_partials_are_those_of_a_stiff_string(pitch, number, hertz):
    wave = render_note(Note(pitch, 4.0, 80), RATE)[int(0.02 * RATE) :][: 2 * RATE]
    spectrum = np.abs(np.fft.rfft(wave * np.hanning(len(wave)), 1 << 20))
    near = np.abs(np.fft.rfftfreq(1 << 20, 1 / RATE) - hertz) < 0.03 * hertz
    found = np.fft.rfftfreq(1 << 20, 1 / RATE)[near][np.argmax(spectrum[near])]
    assert abs(1200 * np.log2(found / hertz)) < 3


@pytest.mark.parametrize("pitch", [21, 33, 48, 60, 72, 88, 108])
@pytest.mark.parametrize("velocity", [20, 64, 120])
def test_a_strike_is_where_the_attack_has_a_twentieth_of_its_strength(pitch, velocity):
    note = Note(pitch, 0.5, velocity)
    wave = np.abs(render_note(note, RATE)[: int(0.02 * RATE)])
    loud = np.maximum.accumulate(wave)
    # The wave itself swings through nothing; a tenth of its largest swing is passed within the next millisecond.
    early, late = (np.argmax(loud >= share * loud[-1]) / RATE for share in (0.01, 0.2))
    assert early - 0.001 <= strike_offset_s(note) <= late + 0.001


def test_a_key_let_go_is_damped_and_the_highest_are_not():
    for pitch in (36, 60, 84):
        gone = heard(keys((0.1, pitch, 0.5), (3.0, 60, 3.1)))
        stays = heard(keys((0.1, pitch, 2.5), (3.0, 60, 3.1)))
        assert level_db(gone, 0.48) - level_db(gone, 1.0) > 20
        assert level_db(stays, 0.48) - level_db(stays, 1.0) < 15
    top = heard(keys((0.1, 96, 0.15), (3.0, 60, 3.1)))
    held = heard(keys((0.1, 96, 2.0), (3.0, 60, 3.1)))
    assert np.allclose(top[: 2 * RATE], held[: 2 * RATE], atol=1e-3)


def test_the_pedal_holds_what_is_let_go():
    dry = heard(keys((0.1, 60, 0.3), (3.0, 60, 3.1)))
    wet = heard(keys((0.1, 60, 0.3), (3.0, 60, 3.1), pedal=((0.2, True), (1.5, False))))
    assert level_db(wet, 1.2) - level_db(dry, 1.2) > 20
    assert level_db(wet, 1.45) - level_db(wet, 2.2) > 20


def test_a_key_struck_again_stops_what_it_sounded():
    alone, again = heard(keys((1.0, 48, 2.0))), heard(keys((0.2, 48, 1.9), (1.0, 48, 2.0)))
    assert abs(level_db(alone, 1.2, 0.2) - level_db(again, 1.2, 0.2)) < 1


def test_a_harder_stroke_is_louder_and_brighter():
    def centroid(wave: np.ndarray) -> float:
        power = np.abs(np.fft.rfft(wave[: RATE // 4])) ** 2
        return float((np.fft.rfftfreq(RATE // 4, 1 / RATE)[: len(power)] * power).sum() / power.sum())

    soft, hard = (render_note(Note(60, 1.0, velocity), RATE) for velocity in (30, 100))
    assert np.abs(hard).max() > 3 * np.abs(soft).max()
    assert centroid(hard) > 1.1 * centroid(soft)


def test_nothing_clips_and_the_same_take_is_the_same_file():
    crowd = keys(*((0.1, pitch, 2.0) for pitch in range(40, 80)))
    assert np.abs(heard(crowd)).max() <= 0.91
    assert write_wav_take(crowd) == write_wav_take(crowd)


def test_a_strike_at_the_very_first_moment_is_there():
    assert np.abs(heard(keys((0.0, 60, 0.4)))[: RATE // 10]).max() > 0.05


@pytest.mark.parametrize(("what", "error"), [("taps", TakeError), ("half an hour", LimitError)])
def test_what_cannot_be_sounded_is_refused_in_words(what, error):
    if what == "taps":
        take = Performance(Source.TAPS, (Strike(0.5),))
    else:
        take = keys((1.0, 60, 1.2), (1800.0, 60, 1800.2))
    with pytest.raises(error):
        write_wav_take(take)


@pytest.mark.parametrize(("piece", "level"), [("harbour-steps", Level.ELEMENTARY), ("lantern-boat", Level.ADVANCED)])
def test_strikes_are_heard_where_the_student_played_them(piece, level):
    task = lap_task(demo_score(piece), assigned_bpm=66, with_pitches=True)
    performance = simulate(task, level=level, seed=11, source=Source.MIDI)
    samples = heard(performance)
    hop, size = 220, 1024  # 5 ms, 23 ms
    frames = np.lib.stride_tricks.sliding_window_view(samples, size)[::hop] * np.hanning(size)
    level_now = np.log1p(100 * np.abs(np.fft.rfft(frames)))
    flux = np.maximum(0, level_now[2:] - level_now[:-2]).sum(axis=1)
    peaks = [
        i for i in range(6, len(flux) - 6)
        if flux[i] == flux[i - 6 : i + 7].max() and flux[i] > 0.15 * flux.max()
    ]  # fmt: skip
    found = (np.array(peaks) + 1) * hop / RATE + size / 2 / RATE
    played = np.array(sorted({round(strike.played_s, 3) for strike in performance.strikes}))
    apart = played[np.insert(np.diff(played) > 0.05, 0, True)]  # both hands at once are one
    f, _, _ = mir_eval.onset.f_measure(apart, found, window=0.03)
    assert f > 0.95
    nearest = found[np.abs(found[:, None] - apart[None, :]).argmin(axis=0)] - apart
    assert abs(np.median(nearest)) < 0.012
