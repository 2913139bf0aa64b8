"""Takes in and out: taps as JSON, Standard MIDI."""

from __future__ import annotations

import io
import json
from dataclasses import replace

import mido
import pytest

from helpers import demo_score, played_by_hand
from laptick.core.base.errors import InputError, LimitError, TakeError
from laptick.core.score.score import Hand
from laptick.core.student.student import simulate
from laptick.core.takes.performance import MAX_STRIKES, Source
from laptick.core.takes.task import lap_task
from laptick.formats.documents.take import performance_of_stored, read_taps, stored_strikes, write_taps
from laptick.formats.midi.take import write_midi_take
from laptick.formats.take_files import read_take

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


class TestMidiTakes:
    def file(self, tracks, tempo=500_000):
        midi = mido.MidiFile(type=1, ticks_per_beat=480)
        head = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=tempo, time=0)])
        midi.tracks.append(head)
        for track in tracks:
            midi.tracks.append(mido.MidiTrack(track))
        out = io.BytesIO()
        midi.save(file=out)
        return out.getvalue()

    def notes(self, *pitches, channel=0):
        result = []
        for pitch in pitches:
            result.append(mido.Message("note_on", note=pitch, velocity=70, time=0, channel=channel))
            result.append(mido.Message("note_off", note=pitch, time=480, channel=channel))
        return result

    def test_two_tracks_are_two_hands_the_higher_the_right(self):
        take = read_take(self.file([self.notes(48, 50), self.notes(72, 74)]))
        assert [(s.pitch, s.hand, s.played_s) for s in take.strikes] == [
            (48, Hand.LEFT, 0.0), (72, Hand.RIGHT, 0.0), (50, Hand.LEFT, 0.5), (74, Hand.RIGHT, 0.5),
        ]  # fmt: skip

    def test_two_channels_of_one_track_too_and_one_of_either_says_nothing(self):
        both = self.file([[*self.notes(48, channel=1), *self.notes(72, channel=0)]])
        assert [s.hand for s in read_take(both).strikes] == [Hand.LEFT, Hand.RIGHT]
        assert {s.hand for s in read_take(self.file([self.notes(48, 72)])).strikes} == {None}

    def test_key_ups_the_pedal_and_tempo_changes(self):
        track = [
            mido.Message("control_change", control=64, value=127, time=0),
            *self.notes(60),
            mido.MetaMessage("set_tempo", tempo=1_000_000, time=0),
            mido.Message("control_change", control=64, value=0, time=480),
            *self.notes(62),
        ]
        take = read_take(self.file([track]))
        assert [(s.played_s, s.released_s) for s in take.strikes] == [(0.0, 0.5), (1.5, 2.5)]
        assert take.pedal == ((0.0, True), (1.5, False))
        assert [take.pedal_down(at) for at in (0.2, 1.4, 1.6)] == [True, True, False]

    def test_what_is_written_is_read_back(self):
        task = lap_task(demo_score("harbour-steps"), assigned_bpm=66, with_pitches=True)
        played = replace(simulate(task, seed=2, source=Source.MIDI), pedal=((2.5, True), (3.0, False)))
        back = read_take(write_midi_take(played, task))
        assert len(back.strikes) == len(played.strikes)
        by_key = [sorted(take.strikes, key=lambda s: (s.pitch, s.played_s)) for take in (played, back)]
        for mine, theirs in zip(*by_key, strict=True):
            assert theirs.played_s == pytest.approx(mine.played_s, abs=0.001)
            assert theirs.released_s == pytest.approx(mine.released_s, abs=0.002)
        assert [down for _, down in back.pedal] == [True, False]

    def test_stored_and_read_again_it_is_the_same(self):
        task = lap_task(demo_score("harbour-steps"), assigned_bpm=66, with_pitches=True)
        played = replace(simulate(task, seed=2, source=Source.MIDI), pedal=((2.5, True),))
        stored = json.loads(json.dumps(stored_strikes(played)))
        assert performance_of_stored(stored) == played
        assert len(performance_of_stored(stored, begin_s=5.0).strikes) < len(played.strikes)

    def test_several_songs_in_one_file_are_refused(self):
        midi = mido.MidiFile(type=2, ticks_per_beat=480)
        midi.tracks.append(mido.MidiTrack(self.notes(60)))
        out = io.BytesIO()
        midi.save(file=out)
        with pytest.raises(TakeError, match="several songs"):
            read_take(out.getvalue())
