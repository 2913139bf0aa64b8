"""Takes in and out: taps as JSON, Standard MIDI."""

from __future__ import annotations

import io
import json

import mido
import pytest

from helpers import demo_score, played_by_hand
from laptick.core.errors import InputError, LimitError
from laptick.core.performance import MAX_STRIKES, Source, lap_task
from laptick.core.score import Hand
from laptick.core.student import simulate
from laptick.formats.midi_takes import write_midi_take
from laptick.formats.takes import read_take, read_taps, write_taps

TASK = lap_task(demo_score("harbour-steps"), assigned_bpm=66)


def test_taps_round_trip():
    performance = simulate(TASK, seed=1)
    assert read_take(write_taps(performance).encode()) == performance


def test_midi_round_trip_keeps_pitches_and_times():
    task = lap_task(demo_score("lantern-boat"), assigned_bpm=50, with_pitches=True)
    performance = simulate(task, seed=1, source=Source.MIDI)
    again = read_take(write_midi_take(performance, task))
    assert again.source is Source.MIDI
    assert [s.pitch for s in again.strikes] == [s.pitch for s in performance.strikes]
    moved = [abs(a.played_s - b.played_s) for a, b in zip(performance.strikes, again.strikes, strict=True)]
    assert max(moved) < 0.001


def test_tempo_changes_of_a_midi_file_are_followed():
    midi = mido.MidiFile(type=0, ticks_per_beat=100)
    track = mido.MidiTrack()
    midi.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=1_000_000, time=0))
    track.append(mido.Message("note_on", note=60, velocity=64, time=100))
    track.append(mido.MetaMessage("set_tempo", tempo=500_000, time=0))
    track.append(mido.Message("note_off", note=60, velocity=0, time=100))
    track.append(mido.Message("note_on", note=62, velocity=64, time=100))
    out = io.BytesIO()
    midi.save(file=out)
    first, second = read_take(out.getvalue()).strikes
    assert (first.played_s, first.released_s, second.played_s) == pytest.approx((1.0, 1.5, 2.0))


BAD = {
    "not json": b"{",
    "no taps": b"{}",
    "taps no list": b'{"taps": 3}',
    "zero taps": b'{"taps": []}',
    "NaN": b'{"taps": [{"t": NaN}]}',
    "infinite": b'{"taps": [{"t": 1e999}]}',
    "negative": b'{"taps": [{"t": -1}]}',
    "unsorted": b'{"taps": [{"t": 2}, {"t": 1}]}',
    "text time": b'{"taps": [{"t": "1"}]}',
    "bool time": b'{"taps": [{"t": true}]}',
    "no object": b'{"taps": [1]}',
    "odd hand": b'{"taps": [{"t": 1, "hand": "foot"}]}',
    "absurd click": b'{"taps": [{"t": 1}], "click_bpm": 100000}',
    "hours": b'{"taps": [{"t": 99999}]}',
    "deep": b"[" * 100_000,
    "broken midi": b"MThd\x00\x00\x00\x06\x00\x01",
    "midi rubbish": b"MThd" + bytes(range(200)),
    "wav": b"RIFF....WAVE",
}


@pytest.mark.parametrize("data", BAD.values(), ids=BAD.keys())
def test_bad_takes_give_one_clear_error(data):
    with pytest.raises(InputError) as caught:
        read_take(data)
    assert caught.value.where
    assert "\n" not in caught.value.one_line()


def test_an_error_names_the_tap():
    with pytest.raises(InputError) as caught:
        read_taps(b'{"taps": [{"t": 1}, {"t": 0.5}]}')
    assert caught.value.where == "taps[1].t"


def test_a_hundred_thousand_taps_are_refused_with_the_limit():
    taps = json.dumps({"taps": [{"t": i / 100} for i in range(100_000)]})
    with pytest.raises(LimitError, match=f"{MAX_STRIKES:,}"):
        read_taps(taps)


def test_hands_are_kept():
    assert {s.hand for s in read_taps(write_taps(played_by_hand(TASK))).strikes} == {Hand.LEFT, Hand.RIGHT}


def test_smpte_time_is_refused():
    data = bytearray(write_midi_take(simulate(TASK, source=Source.MIDI), TASK))
    data[12:14] = b"\xe7\x28"
    with pytest.raises(InputError):
        read_take(bytes(data))
