"""What sounds beside the playing and is known: a click of the recorder's own, the count-in, the room; other bars than
asked for; a hand far from the other. Sounds of our own arithmetic (``test_ear.py``)."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest
from test_ear import SCORE, TASK, heard, played, sounded

from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.hearing.clicks import delay_of, without_clicks
from laptick.core.hearing.groups import Group
from laptick.core.hearing.quality import MOST_LEVELS, envelope_of, noise_db_of
from laptick.core.hearing.sound import RATE, Sound
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand, Mark, MarkKind
from laptick.core.takes.beat_times import beat_times
from laptick.core.takes.heard import Heard, KnownClick, SoundLevel
from laptick.core.takes.heard_words import heard_words, room_words
from laptick.core.takes.task import lap_task


def clicked(sound: Sound, times_s: list[float], size: float = 0.1) -> Sound:
    at = np.arange(int(0.12 * RATE)) / RATE
    click = (size * np.sin(2 * np.pi * 1420 * at) * np.exp(-at / 0.025)).astype(np.float32)
    samples = sound.samples.copy()
    for at_s in times_s:
        begin = int(at_s * RATE)
        if 0 <= begin < len(samples) - len(click):
            samples[begin : begin + len(click)] += click
    return Sound(samples, RATE)


# -- the click ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("delay_s", [-0.03, 0.0, 0.09, 0.31])
def test_the_way_through_the_room_is_found_by_most_of_the_clicks(delay_s):
    clicks = [2 + 0.7 * k for k in range(12)]
    rng = np.random.default_rng(2)
    others = [Group(float(at_s), 0.5) for at_s in rng.uniform(0, 12, 15)]
    beats = [Group(at_s + delay_s + float(rng.normal(0, 0.003)), 0.3) for at_s in clicks[:-3]]
    groups = sorted([*others, *beats], key=lambda group: group.at_s)
    assert delay_of(groups, clicks) == pytest.approx(delay_s, abs=0.006)
    left = without_clicks(groups, clicks)
    assert set(beats).isdisjoint(left)
    assert len(left) >= 10


def test_no_delay_is_told_where_no_click_is_heard():
    clicks = [2 + 0.7 * k for k in range(12)]
    rng = np.random.default_rng(3)
    groups = [Group(float(at_s), 0.5) for at_s in np.sort(rng.uniform(0, 12, 8))]
    assert delay_of(groups, clicks) is None
    assert without_clicks(groups, clicks) == groups
    assert delay_of([], clicks) is delay_of(groups, clicks[:3]) is None


def test_a_count_in_and_a_click_of_the_recorders_own_are_not_played_notes():
    first_beat_s = 1.0
    beats = [first_beat_s + 0.75 * k for k in range(-4, 17)]
    lead_s = 3.0
    music = sounded([(at_s + lead_s, pitch, held) for at_s, pitch, held in played(TASK)], 19.0)
    clicks = [at_s + lead_s for at_s in beats]
    sound = clicked(music, [at_s + 0.11 for at_s in clicks], 0.3)
    click = KnownClick(first_beat_s + lead_s, tuple(at_s for at_s in clicks if at_s >= first_beat_s + lead_s))
    take = hear_take(sound, TASK, rate=44_100, click=click)
    checked = check_take(TASK, take)
    assert not checked.matching.extra
    assert not checked.matching.missing
    assert take.strikes[0].played_s == pytest.approx(first_beat_s + lead_s, abs=0.01)  # on the recording's own clock


# -- hands far apart, other bars ------------------------------------------------------------------------


@pytest.mark.parametrize("late_ms", [-115, 85, 105, 130])
def test_one_hand_far_from_the_other_is_neither_left_out_nor_too_many(late_ms):
    notes = played(TASK)
    moved = [
        (at_s + (late_ms / 1000 if one.hand is Hand.LEFT and one.onset_quarters == 8 else 0), pitch, held)
        for one, (at_s, pitch, held) in zip(TASK.expected, notes, strict=True)
    ]
    checked = check_take(TASK, heard(moved))
    assert not checked.matching.missing
    assert not checked.matching.extra


def test_other_bars_than_asked_for_are_told():
    whole = lap_task(SCORE, assigned_bpm=80, with_pitches=True)
    asked = lap_task(SCORE, assigned_bpm=80, measures=SCORE.measures[:1], with_pitches=True)
    later = lap_task(SCORE, assigned_bpm=80, measures=SCORE.measures[2:], with_pitches=True)
    take = hear_take(sounded(played(later), 8.0), asked, rate=44_100, whole=lambda: whole)
    assert take.heard is not None
    assert take.heard.is_recognised
    judged = judge_take(asked, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole)
    assert judged.passage is not None
    assert judged.passage.words == "bars 3 to 4"


def test_another_piece_is_not_advised_to_be_played_slower():
    other = [(0.5 + 0.4 * number, 41 + 5 * number % 31, 0.3) for number in range(30)]
    take = heard(other)
    judged = judge_take(TASK, take, LIMITS[Level.ELEMENTARY], whole=lambda: TASK)
    assert take.heard is not None
    assert not take.heard.is_recognised
    assert judged.verdict.cure is not None
    assert judged.verdict.cure.code == "other-piece"


@pytest.mark.parametrize("asked", ["1-2", "3-4", "2-3"])
def test_all_bars_where_some_are_asked_for_are_told_from_the_first_on(asked):
    whole = lap_task(SCORE, assigned_bpm=80, with_pitches=True)
    some = lap_task(SCORE, assigned_bpm=80, measures=SCORE.select_measures(asked), with_pitches=True)
    take = hear_take(sounded(played(whole), 15.0), some, rate=44_100, whole=lambda: whole)
    judged = judge_take(some, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole)
    assert judged.passage is not None
    assert judged.passage.words == "bars 1 to 4"
    matching = judge_take(whole, take, LIMITS[Level.ELEMENTARY]).checked.matching
    assert (matching.missing, matching.extra, matching.wrong) == ((), (), ())


# -- the recording --------------------------------------------------------------------------------------


def test_a_room_is_told_by_noise_and_not_by_tones_that_die_away():
    notes = played(TASK)
    quiet = sounded(notes, 15.0, noise=1e-3)
    assert noise_db_of(quiet) is not None
    sounding = sounded([(0.05 + 0.3 * k, 48 + k % 5, 2.0) for k in range(40)], 12.0, noise=1e-4)
    assert noise_db_of(Sound(sounding.samples[RATE:], RATE)) is None


def test_the_shape_of_a_sound_follows_its_strength():
    samples = np.zeros(10 * RATE, np.float32)
    samples[5 * RATE : 5 * RATE + 100] = 0.5
    samples[7 * RATE : 7 * RATE + 100] = 0.05  # 20 dB below
    shape = envelope_of(Sound(samples, RATE))
    assert shape.levels[round(5 / shape.step_s)] == 100
    assert shape.levels[round(7 / shape.step_s)] == pytest.approx(100 * (1 - 20 / 45), abs=1)
    assert sum(level > 0 for level in shape.levels) == 2
    long = envelope_of(Sound(np.zeros(1000 * 8000, np.float32), 8000))
    assert len(long.levels) == MOST_LEVELS


def test_a_recording_is_told_in_words_only_where_there_is_something_to_say():
    good = Heard(30.0, 44_100, 50.0, SoundLevel.GOOD, tuning_cents=3.0, told=10, chances=12)
    assert heard_words(good) == ()
    for change, word in (
        ({"level": SoundLevel.TOO_QUIET}, "nearer"), ({"level": SoundLevel.CLIPPING}, "further away"),
        ({"noise_db": 10.0}, "loud"), ({"noise_db": 20.0}, "a little noisy"), ({"rate": 8000}, "8 kHz"),
        ({"tuning_cents": -24.0}, "24 cents below"), ({"told": 2}, "2 of 12"),
    ):  # fmt: skip
        (sentence,) = heard_words(replace(good, **change))
        assert word in sentence
    # What is another piece has no hands that could be told apart.
    assert heard_words(replace(good, told=2, is_recognised=False)) == ()
    assert [room_words(one) for one in (None, 5.0, 20.0, 40.0)] == [None, "loud", "a little noisy", "quiet"]


# -- the click that is heard beside it ------------------------------------------------------------------


def test_beats_lie_between_the_strikes_that_are_known():
    # Quarters at 1, 2 and 4 s: the second is twice as long.
    beats = beat_times(SCORE, [(0.0, 1.0), (1.0, 2.0), (2.0, 4.0), (5.0, 7.0)])
    assert [beat.at_s for beat in beats] == [1.0, 2.0, 4.0, 5.0, 6.0, 7.0]
    assert [beat.begins_bar for beat in beats] == [True, False, False, False, True, False]
    assert beat_times(SCORE, [(0.0, 1.0)]) == ()
    assert float(SCORE.measures[1].start_quarters) == Fraction(4)


# -- other keys, and ornaments ----------------------------------------------------------------------------


@pytest.mark.parametrize("by", [-2, -1, 1, 3])  # two up from the second one is the key that sounded before
@pytest.mark.parametrize("index", [4, 8])
def test_a_key_beside_the_one_that_was_asked_for_is_told(index, by):
    notes = played(TASK)
    at_s, pitch, held = notes[index]
    notes[index] = (at_s, pitch + by, held)
    take = heard(notes)
    checked = check_take(TASK, take)
    told = {take.strikes[i].pitch for _, i in checked.matching.wrong}
    assert told == {pitch + by}
    assert not checked.matching.missing
    assert not checked.matching.extra


def test_an_ornament_that_begins_beside_its_key_begins_there():
    """A trill from above on the third note: its event lies at the first of its strikes, and none of them is too many."""
    index = next(i for i, one in enumerate(TASK.expected) if one.hand is Hand.RIGHT and one.onset_quarters == 2)
    own = next(
        note for note in SCORE.notes if note.hand is Hand.RIGHT and note.onset_quarters == 2 and note.pitch is not None
    )
    score = replace(SCORE, marks=(*SCORE.marks, Mark(MarkKind.ORNAMENT, Fraction(2), "trill-mark", note_id=own.id)))
    task = lap_task(score, assigned_bpm=80, with_pitches=True)
    notes = played(task)
    at_s, pitch, _ = notes[index]
    trill = [(at_s + 0.1 * k, pitch + (2 if k % 2 == 0 else 0), 0.08) for k in range(4)]
    take = hear_take(sounded([*notes[:index], *notes[index + 1 :], *trill], 15.0), task, rate=44_100)
    checked = check_take(task, take)
    assert not checked.matching.missing
    assert not checked.matching.extra
    found = {m.expected_index: take.strikes[m.strike_index].played_s for m in checked.matching.matches}
    assert found[index] == pytest.approx(at_s, abs=0.03)
