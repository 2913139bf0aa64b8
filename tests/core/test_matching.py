"""Matching: which strike is which. Takes timed by hand (tests/helpers.py) and the simulated student."""

from __future__ import annotations

import itertools
import random
from dataclasses import replace

import pytest

from helpers import DEMO, demo_score, played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.following.key_order import pair_in_order
from laptick.core.following.matching import match
from laptick.core.following.score_events import score_events
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task
from laptick.formats.documents.check import check_document

TASK = lap_task(demo_score("harbour-steps"), assigned_bpm=66)


def pairs(task, performance):
    """Matched strikes as (index asked, time played)."""
    return {m.expected_index: performance.strikes[m.strike_index].played_s for m in match(task, performance).matches}


def without(performance: Performance, *indices: int) -> Performance:
    kept = tuple(s for i, s in enumerate(performance.strikes) if i not in indices)
    return replace(performance, strikes=kept)


def with_strikes(performance: Performance, *extra: Strike) -> Performance:
    return replace(performance, strikes=tuple(sorted((*performance.strikes, *extra), key=lambda s: s.played_s)))


@pytest.mark.parametrize("scale", [0.0, 1.0, 2.5])
def test_a_steady_take_is_matched_strike_by_strike(scale):
    performance = played_by_hand(TASK, scale=scale)
    found = pairs(TASK, performance)
    assert len(found) == len(TASK.expected)
    for index, expected in enumerate(TASK.expected):
        assert abs(found[index] - 2.0 - float(expected.onset_quarters) * TASK.quarter_s) < 0.05


@pytest.mark.parametrize("bpm", [46, 55, 80, 95])
def test_another_tempo_than_asked_for_is_followed(bpm):
    result = match(TASK, played_by_hand(TASK, bpm=bpm))
    assert (len(result.matches), result.missing, result.extra) == (len(TASK.expected), (), ())


def test_missing_strikes_shift_nothing_after_them():
    full = played_by_hand(TASK)
    left_out = (4, 17, 30)
    result = match(TASK, without(full, *left_out))
    gone = {full.strikes[i].played_s for i in left_out}
    assert len(result.missing) == 3
    assert not result.extra
    for index in result.missing:
        asked_s = 2.0 + float(TASK.expected[index].onset_quarters) * TASK.quarter_s
        assert min(abs(asked_s - time) for time in gone) < 0.05


def test_an_extra_strike_is_extra_and_adds_nothing_else():
    performance = with_strikes(played_by_hand(TASK), Strike(2.0 + 5.3 * TASK.quarter_s, Hand.LEFT))
    result = match(TASK, performance)
    assert [performance.strikes[i].played_s for i in result.extra] == [2.0 + 5.3 * TASK.quarter_s]
    assert not result.missing


def test_the_other_zone_is_wrong_not_missing_and_extra():
    performance = played_by_hand(TASK)
    right_alone_s = 2.0 + float(TASK.expected[2].onset_quarters) * TASK.quarter_s  # bar 1, beat 2
    flipped = min(range(len(performance.strikes)), key=lambda i: abs(performance.strikes[i].played_s - right_alone_s))
    strikes = list(performance.strikes)
    strikes[flipped] = replace(strikes[flipped], hand=Hand.LEFT)
    result = match(TASK, replace(performance, strikes=tuple(strikes)))
    assert [strike for _, strike in result.wrong] == [flipped]
    assert (result.missing, result.extra) == ((), ())


def test_a_pause_shifts_nothing_after_it():
    bar_5 = next(i for i, e in enumerate(TASK.expected) if e.measure_index == 4)
    performance = played_by_hand(TASK, shifts_ms=dict.fromkeys(range(bar_5, len(TASK.expected)), 1500))
    checked = check_take(TASK, performance)
    assert len(checked.matching.matches) == len(TASK.expected)
    [stop] = checked.measured.hesitations
    assert (stop.expected.measure_index, stop.expected.offset_quarters) == (4, 0)
    assert stop.excess_ms == pytest.approx(1500, abs=60)
    assert stop.causes == ("line-change", "bar-line")
    assert max(abs(note.deviation_ms) for note in checked.measured.notes) < 60


@pytest.mark.parametrize("bar", ["3", "5"])
@pytest.mark.parametrize("seed", range(5))
def test_going_back_is_a_restart_and_the_last_playing_counts(bar, seed):
    performance = simulate(TASK, level=Level.FIRST_YEAR, seed=seed, faults=[parse_fault(f"restart={bar}")])
    result = match(TASK, performance)
    [restart] = result.restarts
    assert TASK.place(TASK.expected[restart.expected_index]).measure == bar
    assert TASK.expected[restart.expected_index].offset_quarters == 0
    assert len(result.matches) == len(TASK.expected)
    assert len(result.matches) + len(result.repeats) == len(performance.strikes)


def test_stopping_before_the_end_leaves_the_rest_missing():
    performance = played_by_hand(TASK)
    kept = replace(performance, strikes=performance.strikes[:40])
    result = match(TASK, kept)
    assert len(result.matches) == 40
    assert set(result.missing) == set(range(40, len(TASK.expected)))


def test_noise_cannot_be_followed_and_says_where_it_was_lost():
    numbers = random.Random(4)
    times = sorted(numbers.uniform(0, 40) for _ in range(60))
    taps = tuple(Strike(t, numbers.choice((Hand.LEFT, Hand.RIGHT))) for t in times)
    checked = check_take(TASK, Performance(Source.TAPS, taps))
    assert not checked.followed
    assert checked.lost_at is not None


class TestKeysInOrder:
    """Who gropes from note to note strikes every key in its turn: what the times do not tell, their order does."""

    def groping(self, name, seed, choices=(0.2, 0.5, 1, 2, 3)):
        """Each interval at random between a fifth of its length and three times it."""
        numbers = random.Random(seed)
        task = lap_task(demo_score(name), assigned_bpm=60, with_pitches=True)
        written, times = played_by_hand(task, source=Source.MIDI, scale=0).strikes, [2.0]
        for before, here in itertools.pairwise(written):
            times.append(times[-1] + (here.played_s - before.played_s) * numbers.choice(choices))
        return task, tuple(replace(s, played_s=t, released_s=None) for s, t in zip(written, times, strict=True))

    @pytest.mark.parametrize("name", DEMO)
    @pytest.mark.parametrize("seed", range(4))
    def test_are_followed_however_wildly_they_are_timed_and_random_keys_are_not(self, name, seed):
        task, wild = self.groping(name, seed)
        checked = check_take(task, Performance(Source.MIDI, wild))
        assert checked.followed
        assert len(checked.matching.matches) >= len(task.expected) - 2
        assert (checked.matching.restarts, checked.matching.skips) == ((), ())
        numbers = random.Random(seed)
        anything = tuple(replace(s, pitch=numbers.randint(48, 84)) for s in wild)
        assert not check_take(task, Performance(Source.MIDI, anything)).followed

    @pytest.mark.parametrize("name", DEMO)
    def test_are_not_praised_for_a_beat(self, name):
        task, groped = self.groping(name, 1, (1, 2, 3, 5))
        judged = judge_take(task, Performance(Source.MIDI, groped), LIMITS[Level.FIRST_YEAR])
        verdict = judged.verdict
        assert verdict.status is Status.NOT_YET
        assert "Every note, nothing extra." in verdict.good
        assert not any("kept the beat" in word for word in verdict.good)

    @pytest.mark.parametrize("name", DEMO)
    def test_have_no_beat_and_nothing_is_measured_against_it(self, name):
        task, wild = self.groping(name, 3)
        before = frozenset({"long-cut", "off-tempo"})
        judged = judge_take(task, Performance(Source.MIDI, wild), LIMITS[Level.FIRST_YEAR], previous_codes=before)
        assert not any("Better" in word or "tempo" in word for word in judged.verdict.good)
        assert judged.verdict.main.text.startswith("There is no steady beat yet")
        assert (judged.verdict.place, judged.verdict.place_text) == (None, None)  # it is nowhere in particular
        assert (judged.verdict.cure.code, judged.verdict.cure.rung) == ("lap-first", "lap")
        assert {f.code for f in judged.findings} <= {"uneven", "missing", "extra", "wrong-notes", "hands-apart"}
        assert any(one["what"] == "findings" for one in check_document(judged)["withheld"])

    @pytest.mark.parametrize("seed", range(4))
    def test_a_wrong_a_missing_and_an_extra_key_are_those(self, seed):
        task, wild = self.groping("copper-kettle-parade", seed)
        strikes = list(wild)
        strikes[50] = replace(strikes[50], pitch=strikes[50].pitch + 1)
        strikes.insert(31, replace(strikes[30], pitch=100))
        del strikes[10]
        pairs = pair_in_order(task, Performance(Source.MIDI, tuple(strikes)), score_events(task), 4)
        owners = {id(strike): index for index, strike in enumerate(wild)}
        right = {i: owners.get(id(strike)) for i, strike in enumerate(strikes)}
        assert len(pairs) == 86
        assert all(task.expected[e].pitch == wild[right[s]].pitch for e, s in pairs.items())
        assert sum(right[s] == e for e, s in pairs.items()) >= 84  # the notes of a chord may change places

    def test_more_errors_than_allowed_are_no_pairing(self):
        task, wild = self.groping("harbour-steps", 1)
        events, five = score_events(task), Performance(Source.MIDI, wild[5:])
        assert pair_in_order(task, five, events, 4) is None
        assert len(pair_in_order(task, five, events, 5)) == len(wild) - 5

    def test_a_real_restart_stays_one(self):
        task = lap_task(demo_score("harbour-steps"), assigned_bpm=66, with_pitches=True)
        played = simulate(task, seed=2, faults=[parse_fault("restart=4")], source=Source.MIDI)
        assert len(match(task, played).restarts) == 1


def test_hands_that_overlap_in_order_are_told_apart():
    """Sixteenths in one hand and a late other hand: the strikes of two instants cross in time."""
    score = score_of("C5/s D5/s E5/s F5/s G5/q | C5/s D5/s E5/s F5/s G5/q", "C3/q C3/q | C3/q C3/q", time=(2, 4))
    task = lap_task(score, assigned_bpm=76)
    late = {i: 90.0 for i, e in enumerate(task.expected) if e.hand is Hand.LEFT}
    result = match(task, played_by_hand(task, shifts_ms=late))
    assert (result.missing, result.extra, result.wrong) == ((), (), ())


def test_midi_is_matched_by_pitch_with_wrong_and_missing_notes():
    task = lap_task(demo_score("copper-kettle-parade"), assigned_bpm=60, with_pitches=True)
    performance = played_by_hand(task, source=Source.MIDI)
    strikes = list(performance.strikes)
    strikes[20] = replace(strikes[20], pitch=strikes[20].pitch + 1)
    del strikes[40]
    result = match(task, replace(performance, strikes=tuple(strikes)))
    assert len(result.missing) == 1
    assert [strike for _, strike in result.wrong] == [20]
    assert not result.extra


def test_one_hand_alone():
    score = demo_score("harbour-steps")
    task = lap_task(score, assigned_bpm=60, hands=(Hand.LEFT,))
    result = match(task, played_by_hand(task))
    assert (len(result.matches), result.missing) == (len(task.expected), ())
