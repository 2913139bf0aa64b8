"""Standard MIDI as a score: grid, bars, hands, spelling; and what cannot be read. Hand-worked."""

from __future__ import annotations

import io
from fractions import Fraction as F

import mido
import pytest

from helpers import demo_score
from laptick.core.base.errors import InputError
from laptick.core.editing.changes import AddCue, AddPedal, PencilChange, Spot
from laptick.core.editing.pencil import apply_pencil
from laptick.core.score.hands_split import split_hands
from laptick.core.score.score import Hand
from laptick.formats.midi.quantise import HeldKey, quantise
from laptick.formats.midi.score_reader import open_midi_score, read_midi_score
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.parts.reading import Reading
from laptick.formats.score_files import open_score


def midi(*tracks, ticks=480, meta=()):
    """Tracks of (name, [(start, end, pitch[, channel])]) in ticks."""
    file = mido.MidiFile(type=1, ticks_per_beat=ticks, charset="utf-8")
    file.tracks.append(mido.MidiTrack(list(meta)))
    for name, notes in tracks:
        track = mido.MidiTrack([mido.MetaMessage("track_name", name=name, time=0)])
        events = []
        for start, end, pitch, *channel in notes:
            chosen = channel[0] if channel else 0
            events.append((start, 1, mido.Message("note_on", note=pitch, velocity=64, channel=chosen)))
            events.append((end, 0, mido.Message("note_off", note=pitch, velocity=0, channel=chosen)))
        now = 0
        for at, _, message in sorted(events, key=lambda event: event[:2]):
            track.append(message.copy(time=at - now))
            now = at
        file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def meta(kind, **values):
    return mido.MetaMessage(kind, time=0, **values)


def told(score):
    return " / ".join(notice.text for notice in score.notices)


def test_two_tracks_are_two_hands_by_name():
    score = read_midi_score(midi(("left hand", [(0, 1920, 72)]), ("right hand", [(0, 1920, 48)])))
    assert {(n.pitch, n.hand) for n in score.notes} == {(72, Hand.LEFT), (48, Hand.RIGHT)}


def test_two_tracks_without_names_are_hands_by_height():
    score = read_midi_score(midi(("", [(0, 1920, 48)]), ("", [(0, 1920, 72)])))
    assert {(n.pitch, n.hand) for n in score.notes} == {(72, Hand.RIGHT), (48, Hand.LEFT)}


def test_two_channels_of_one_track_are_two_hands():
    score = read_midi_score(midi(("piano", [(0, 1920, 48, 1), (0, 1920, 72, 0)])))
    assert {(n.pitch, n.hand) for n in score.notes} == {(72, Hand.RIGHT), (48, Hand.LEFT)}


def test_one_track_is_split_where_the_hands_fit_and_that_is_said():
    bass = [(i * 480, i * 480 + 480, 40 + i) for i in range(4)]
    tune = [(i * 480, i * 480 + 480, 67 + 2 * i) for i in range(4)]
    score = read_midi_score(midi(("piano", bass + tune)))
    assert {n.pitch for n in score.notes if n.hand is Hand.LEFT} == {40, 41, 42, 43}
    assert "one track split into two hands, where the hands fit best" in told(score)
    fixed = read_midi_score(midi(("piano", bass + tune)), reading=Reading(split_pitch=42))
    assert {n.pitch for n in fixed.notes if n.hand is Hand.LEFT} == {40, 41}


SPLITS = [
    # (onset, pitch) …, hands expected, why
    ([(0, 40), (0, 52), (0, 76)], "LLR", "an octave and more below"),
    ([(0, 48), (0, 64), (0, 67), (0, 72)], "LRRR", "a bass note under a chord"),
    ([(0, 60), (1, 62), (2, 64), (3, 65)], "RRRR", "a tune at the middle stays in one hand"),
    ([(0, 43), (0, 47), (0, 50), (1, 74), (2, 76)], "LLLRR", "a low chord, then a tune"),
    ([(0, 36), (1, 43), (2, 48), (3, 43)], "LLLL", "a bass line"),
]


@pytest.mark.parametrize(("notes", "hands", "why"), SPLITS)
def test_splitting_by_reach_and_place(notes, hands, why):
    assert "".join(hand.value[0].upper() for hand in split_hands([(F(t), p) for t, p in notes])) == hands


def test_a_long_line_is_split_in_time_that_grows_with_its_length_only():
    notes = [(F(i), pitch) for i in range(700) for pitch in (45 + i % 5, 70 + i % 7)]
    hands = split_hands(notes)
    assert all((hand is Hand.LEFT) == (pitch < 60) for hand, (_, pitch) in zip(hands, notes, strict=True))


QUANTISED = [
    # played (start, end) in quarters, expected
    ([(F(1, 100), F(98, 100))], [(0, 1)], "a quarter a little late and short"),
    ([(F(0), F(1, 3)), (F(34, 100), F(65, 100)), (F(66, 100), F(1))], [(0, F(1, 3)), (F(1, 3), F(2, 3)), (F(2, 3), 1)], "a triplet"),
    ([(F(0), F(24, 100)), (F(26, 100), F(1, 2)), (F(1, 2), F(3, 4)), (F(3, 4), F(1))], [(0, F(1, 4)), (F(1, 4), F(1, 2)), (F(1, 2), F(3, 4)), (F(3, 4), 1)], "sixteenths"),
    ([(F(0), F(1, 4)), (F(1), F(3, 2))], [(0, F(1, 4)), (1, F(3, 2))], "a staccato stays short"),
    ([(F(0), F(19, 20)), (F(1), F(2))], [(0, 1), (1, 2)], "what all but reaches the next reaches it"),
    ([(F(0), F(1, 50)), (F(1), F(2))], [(0, F(1, 4)), (1, 2)], "nothing is shorter than the grid"),
]  # fmt: skip


@pytest.mark.parametrize(("played", "expected", "why"), QUANTISED)
def test_quantising(played, expected, why):
    found = quantise([HeldKey(start, end, 60 + i) for i, (start, end) in enumerate(played)], F(1, 4), F(1, 3))
    assert [(note.start, note.end) for note in found.notes] == expected


def test_what_was_rounded_is_listed():
    late = read_midi_score(midi(("right", [(30, 480, 72), (480, 960, 74), (990, 1440, 76)])))
    assert [n.onset_quarters for n in late.notes] == [0, 1, 2]
    assert "quantised to parts of 1/4 of a quarter, or 1/3" in told(late)
    assert "2 of 3 strikes were moved to the grid, at most by 0.062 of a quarter" in told(late)
    triplet = midi(("right", [(0, 160, 72), (160, 320, 74), (320, 480, 76)]))
    plain = read_midi_score(triplet, reading=Reading(grid="sixteenths-no-triplets"))
    assert [n.onset_quarters for n in plain.notes] == [0, F(1, 4), F(3, 4)]


def test_bars_meters_tempo_and_spelling():
    signs = [
        meta("time_signature", numerator=3, denominator=4),
        meta("key_signature", key="Eb"),
        meta("set_tempo", tempo=500000),
    ]
    score = read_midi_score(midi(("right", [(0, 480, 75), (1440, 4320, 68)]), meta=signs))
    assert [(m.number, str(m.signature), m.start_quarters) for m in score.measures] == [
        ("1", "3/4", 0),
        ("2", "3/4", 3),
        ("3", "3/4", 6),
    ]
    assert [n.name for n in score.notes] == ["E♭5", "A♭4", "A♭4"]
    assert [(n.tied_from_before, n.tied_onward) for n in score.notes] == [(False, False), (False, True), (True, False)]
    assert (score.tempos[0].bpm, score.tempos[0].beat_quarters) == (120, 1)


def test_drums_are_strikes_without_pitch():
    score = read_midi_score(midi(("claps", [(0, 240, 39, 9), (480, 720, 39, 9)])))
    assert [n.pitch for n in score.notes] == [None, None]


def test_one_chooses_from_more_tracks():
    data = midi(
        ("flute", [(0, 480, 84)]), ("right", [(0, 480, 72), (480, 960, 74)]), ("left", [(0, 480, 48), (480, 960, 50)])
    )
    score, parts = open_midi_score(data)
    assert [(p.id, p.name, p.is_read) for p in parts] == [
        ("2", "flute", False),
        ("3", "right", True),
        ("4", "left", True),
    ]
    assert "1 more track(s): flute" in told(score)
    chosen = read_midi_score(data, reading=Reading(parts=("2", "4")))
    assert {n.pitch for n in chosen.notes} == {84, 48, 50}


def test_a_teacher_gives_a_note_to_the_other_hand():
    data = midi(("right", [(0, 480, 60), (480, 960, 72)]), ("left", [(0, 480, 48)]))
    score = read_midi_score(data)
    moved = next(n.id for n in score.notes if n.pitch == 60)
    again = read_midi_score(data, reading=Reading(note_hands={moved: Hand.LEFT}))
    assert {n.pitch for n in again.notes if n.hand is Hand.LEFT} == {48, 60}


BAD = {
    "no notes": midi(("empty", [])),
    "cut off": midi(("right", [(0, 480, 60)]))[:40],
    "rubbish": b"MThd" + bytes(range(200)),
    "smpte": b"MThd\x00\x00\x00\x06\x00\x00\x00\x01\xe7\x28MTrk\x00\x00\x00\x04\x00\xff\x2f\x00",
    "endless": midi(("right", [(0, 480 * 4 * 5000, 60)])),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_give_one_clear_error(name):
    with pytest.raises(InputError) as caught:
        open_score(BAD[name], filename="song.mid")
    assert "song.mid" in caught.value.one_line()
    assert "Traceback" not in caught.value.one_line()


def test_cue_words_and_the_pedal_go_into_the_file():
    score = demo_score("harbour-steps")
    changes = [
        PencilChange("1", AddCue(Spot("3", F(0)), "move")),
        PencilChange("2", AddPedal(Spot("1", F(0)), Spot("1", F(2)))),
    ]
    written = mido.MidiFile(file=io.BytesIO(write_midi(apply_pencil(score, changes).score)))
    at = {}
    for track in written.tracks:
        now = 0
        for message in track:
            now += message.time
            if message.type == "cue_marker":
                at[message.text] = now / written.ticks_per_beat
            elif message.type == "control_change" and message.channel == 0:
                at[message.control, message.value] = now / written.ticks_per_beat
    assert at == {"move": 8, (64, 127): 0, (64, 0): 2}
