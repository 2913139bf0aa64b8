"""The ear on sounds whose strikes are known because they were made: decaying partials of our own arithmetic, not the
product's piano. What instruments of others do is in tests/reference/test_heard_takes.py."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import score_of
from laptick.core.base.errors import TakeError
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.following.by_ear.transcribing import first_strike, transcribe
from laptick.core.hearing.groups import flux_of, groups_of
from laptick.core.hearing.listening import Fine
from laptick.core.hearing.partials import own_partials, partials_of, tuning_of
from laptick.core.hearing.quality import level_of, noise_db_of
from laptick.core.hearing.sound import RATE, Sound
from laptick.core.hearing.spectrum import HOP_S, spectrum_of
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.telling import tell
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.heard import Heard, SoundLevel
from laptick.core.takes.performance import UNKNOWN_KEY, Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task
from tones import sounded

SCORE = score_of(
    "C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q | E5/e F5/e G5/q E5/q C5/q | D5/q B4/q C5/h",
    "C3/h G3/h | E3/h G3/h | C3/h E3/h | G3/h C3/h",
)
TASK = lap_task(SCORE, assigned_bpm=80, with_pitches=True)


def played(
    task: Task, left_late_s: float = 0.0, leave_out: frozenset[int] = frozenset()
) -> list[tuple[float, int, float]]:
    return [
        (
            1.0 + float(one.onset_quarters) * 0.75 + (left_late_s if one.hand is Hand.LEFT else 0.0),
            one.pitch or 60,
            0.9 * float(one.until_next_quarters or 1) * 0.75,
        )
        for index, one in enumerate(task.expected)
        if index not in leave_out
    ]  # fmt: skip


def heard(notes: list[tuple[float, int, float]], **how: float) -> Performance:
    return hear_take(sounded(notes, 15.0, **how), TASK, rate=44_100)


# -- strikes in a sound ---------------------------------------------------------------------------------


@pytest.mark.parametrize("pitch", [40, 52, 64, 76, 88])
def test_a_strike_is_found_within_a_few_milliseconds_over_the_keyboard(pitch):
    times = [0.5 + 0.4 * i for i in range(10)]
    sound = sounded([(at_s, pitch, 0.3) for at_s in times], 5.0)
    spectrum = spectrum_of(sound)
    found = groups_of(sound, spectrum, flux_of(spectrum))
    strong = [group.at_s for group in found if group.strength > 0.3]
    assert len(strong) == 10
    fine = Fine(sound)
    off = [fine.refine(at_s, partials_of([pitch], 0.0)) - true for at_s, true in zip(strong, times, strict=True)]
    assert max(abs(one) for one in off) < 0.006
    assert np.std(off) < 0.001


def test_frames_lie_where_they_say():
    sound = sounded([(1.0, 69, 0.5)], 2.0)
    spectrum = spectrum_of(sound)
    assert spectrum.hop_s == pytest.approx(HOP_S, rel=0.01)
    place = round(440 / spectrum.bin_hz)
    level = spectrum.magnitudes[:, place].astype(float)
    half = int(np.argmax(level > level.max() / 2))
    assert spectrum.time_of(half) == pytest.approx(1.0, abs=0.006)


@pytest.mark.parametrize("cents", [-40, -12, 0, 21, 40])
def test_an_instrument_out_of_tune_is_found_and_followed(cents):
    notes = played(TASK)
    sound = sounded(notes, 15.0, cents)
    found = tuning_of(sound, [pitch for _, pitch, _ in notes])
    assert found.clear
    assert found.cents == pytest.approx(cents, abs=4)
    take = hear_take(sound, TASK, rate=44_100)
    checked = check_take(TASK, take)
    assert len(checked.matching.matches) == len(TASK.expected)


def test_partials_that_two_hands_share_are_nobodys_own():
    # The n-th partial of C4 is the 2n-th of C3, which is far weaker only from the fifth on, where it is ten places up;
    # of C3's twelve, C4 takes every other. By hand, without stretching: 40 Hz is less than a third of C3.
    upper = own_partials([60], [48], 0.0, 40.0)
    lower = own_partials([48], [60], 0.0, 40.0)
    assert np.round(upper / 261.63).tolist() == [5, 6, 7, 8, 9, 10, 11, 12]
    assert np.round(lower / 130.81).tolist() == [1, 3, 5, 7, 9, 11]


def test_a_key_has_no_partials_of_its_own_beside_itself():
    assert not len(own_partials([60], [60], 0.0, 40.0))
    assert len(own_partials([60], [], 0.0, 40.0)) == 12


# -- a take ---------------------------------------------------------------------------------------------


def test_a_take_is_heard_note_by_note():
    notes = played(TASK)
    take = heard(notes)
    checked = check_take(TASK, take)
    assert checked.followed
    assert not checked.matching.missing
    assert not checked.matching.extra
    off = [
        take.strikes[m.strike_index].played_s - notes[m.expected_index][0]
        for m in checked.matching.matches
    ]  # fmt: skip
    assert max(abs(one) for one in off) < 0.008
    assert checked.measured is not None
    assert checked.measured.median_bpm == pytest.approx(80, rel=0.003)


@pytest.mark.parametrize("late_ms", [-60, -30, 0, 30, 60])
def test_the_hands_are_told_apart(late_ms):
    take = heard(played(TASK, late_ms / 1000))
    checked = check_take(TASK, take)
    assert checked.measured is not None
    gaps = [one.gap_ms for one in checked.measured.asynchronies]
    assert len(gaps) >= 6
    assert float(np.median(gaps)) == pytest.approx(-late_ms, abs=7)


@pytest.mark.parametrize("index", [3, 9, 14, 20])
def test_a_note_that_was_not_played_is_missing_and_no_other(index):
    take = heard(played(TASK, leave_out=frozenset({index})))
    checked = check_take(TASK, take)
    assert list(checked.matching.missing) == [index]


def test_a_soft_bar_is_no_bar_of_missing_notes():
    notes = played(TASK)
    loud = sounded(notes[: len(notes) // 2], 15.0)
    soft = sounded(notes[len(notes) // 2 :], 15.0, noise=0.0)
    sound = Sound(loud.samples + 0.2 * soft.samples, RATE)  # 14 dB softer
    checked = check_take(TASK, hear_take(sound, TASK, rate=44_100))
    assert not checked.matching.missing


def test_what_sounds_long_after_the_end_is_not_the_note_that_was_left_out():
    """The last event is left out; somebody knocks about, and its keys are tried by themselves eight seconds later."""
    notes = played(TASK)
    last = max(one.onset_quarters for one in TASK.expected)
    out = frozenset(i for i, one in enumerate(TASK.expected) if one.onset_quarters == last)
    later = [(at_s + 8.0, pitch, held) for i, (at_s, pitch, held) in enumerate(notes) if i in out]
    samples = sounded([*played(TASK, leave_out=out), *later], 26.0).samples.copy()
    rng = np.random.default_rng(2)
    for knock in range(18):
        begin = round((notes[-1][0] + 0.6 + 0.38 * knock) * RATE)
        samples[begin : begin + 900] += (0.3 * rng.normal(size=900) * np.exp(-np.arange(900) / 200)).astype(np.float32)
    strikes = [strike for strike in transcribe(Sound(samples, RATE), TASK).strikes if strike.hand is not None]
    assert len(strikes) == len(TASK.expected) - len(out)
    assert all(strike.played_s < notes[-1][0] for strike in strikes)


def test_a_restart_is_followed():
    notes = played(TASK)
    cut = 1.0 + 6 * 0.75 - 0.1
    again = [(at_s + cut - 1.0 + 1.5, pitch, held) for at_s, pitch, held in notes]
    take = hear_take(sounded([n for n in notes if n[0] < cut] + again, 22.0), TASK, rate=44_100)
    checked = check_take(TASK, take)
    assert checked.followed
    assert not checked.matching.missing
    assert len(checked.matching.restarts) == 1


def test_other_music_cannot_be_followed():
    rng = np.random.default_rng(5)
    others = [(at_s, int(rng.integers(50, 80)), held) for at_s, _, held in played(TASK)]
    take = heard(others)
    assert take.heard is not None
    assert not take.heard.is_recognised
    assert {strike.pitch for strike in take.strikes} == {UNKNOWN_KEY}
    assert not check_take(TASK, take).followed
    judged = judge_take(TASK, take, LIMITS[Level.ELEMENTARY])
    told = tell(judged)
    assert told.verdict.status == "could-not-follow"
    assert {one.pitch for one in told.extra} <= {None}
    assert told.audio is not None
    assert told.audio.lost_s == pytest.approx(take.strikes[0].played_s, abs=0.001)  # nothing of it is what is written


def test_where_the_place_was_lost_is_told_in_the_sound_too():
    take = heard(played(TASK))
    checked = check_take(TASK, take)
    onsets = [one.onset_quarters for one in TASK.expected]
    for place in (onsets[0], onsets[7], onsets[-1]):
        lost = replace(checked, measured=None, lost_at=place)
        first = min(
            take.strikes[m.strike_index].played_s for m in checked.matching.matches if onsets[m.expected_index] >= place
        )
        assert lost.lost_s == first
    beyond = replace(checked, measured=None, lost_at=onsets[-1] + 1)  # nothing was played there: with the last before
    assert beyond.lost_s == max(strike.played_s for strike in take.strikes)


def test_what_was_followed_was_lost_nowhere():
    told = tell(judge_take(TASK, heard(played(TASK)), LIMITS[Level.ELEMENTARY]))
    assert told.audio is not None
    assert told.audio.lost_s is None


def test_silence_is_told():
    with pytest.raises(TakeError, match="nothing is struck"):
        hear_take(Sound(np.zeros(3 * RATE, np.float32), RATE), TASK, rate=44_100)


def test_what_a_recording_was_like_is_told():
    quiet = Sound(0.01 * np.ones(RATE, np.float32) * np.sin(np.arange(RATE)).astype(np.float32), RATE)
    assert level_of(quiet) is SoundLevel.TOO_QUIET
    sound = sounded(played(TASK), 15.0)
    assert level_of(sound) is SoundLevel.GOOD
    clipped = Sound(np.clip(8 * sound.samples, -1, 1), RATE)
    assert level_of(clipped) is SoundLevel.CLIPPING
    noisy = sounded(played(TASK), 15.0, noise=0.02)
    assert (noise_db_of(sound) or 0) > (noise_db_of(noisy) or 0) + 20
    assert noise_db_of(Sound(np.ones(400, np.float32), RATE)) is None


def test_hands_are_compared_only_where_enough_of_them_were_told_apart():
    few = Heard(10.0, 44_100, 30.0, SoundLevel.GOOD, told=5, chances=8)
    share = Heard(10.0, 44_100, 30.0, SoundLevel.GOOD, told=7, chances=20)
    enough = Heard(10.0, 44_100, 30.0, SoundLevel.GOOD, told=8, chances=20)
    assert [one.tells_hands for one in (few, share, enough)] == [False, False, True]
    strikes = tuple(
        Strike(at_s, one.hand, one.pitch)
        for (at_s, _, _), one in sorted(
            zip(played(TASK, 0.05), TASK.expected, strict=True), key=lambda both: both[0][0]
        )
    )
    for told, points in ((few, 0), (enough, 8)):
        checked = check_take(TASK, Performance(Source.AUDIO, strikes, heard=told))
        assert checked.measured is not None
        assert len(checked.measured.asynchronies) == points
        withheld = {one.what for one in tell(judge_take(TASK, checked.performance, LIMITS[Level.ELEMENTARY])).withheld}
        assert ("together" in withheld) == (points == 0)


# -- any sound ------------------------------------------------------------------------------------------


@settings(max_examples=25, deadline=None)
@given(
    seed=st.integers(0, 2**31),
    seconds=st.floats(0.5, 6),
    rate=st.sampled_from([8_000, 16_000, 22_050]),
    kind=st.sampled_from(["noise", "hum", "clicks", "one sample", "full scale"]),
)
def test_no_sound_breaks_the_ear(seed, seconds, rate, kind):
    rng = np.random.default_rng(seed)
    count = int(seconds * rate)
    at = np.arange(count) / rate
    samples = {
        "noise": 0.1 * rng.normal(size=count),
        "hum": 0.5 * np.sin(2 * np.pi * 50 * at),
        "clicks": (rng.uniform(size=count) > 0.999).astype(float),
        "one sample": (np.arange(count) == count // 2).astype(float),
        "full scale": np.sign(np.sin(2 * np.pi * rng.uniform(50, 3000) * at)),
    }[kind]
    sound = Sound(samples.astype(np.float32), rate)
    heard = transcribe(sound, TASK)
    times = [strike.played_s for strike in heard.strikes]
    assert times == sorted(times)
    assert all(0 <= one <= seconds + 1 for one in times)
    assert heard.told <= heard.chances
    try:
        take = hear_take(sound, TASK, rate=rate)
    except TakeError:
        return
    assert not check_take(TASK, take).followed


def test_an_ornament_began_with_the_first_of_its_strikes():
    """Worked by hand: strikes a tenth apart from 2.0 s on, one of which was heard; before them another note."""
    groups = np.array([1.2, 2.0, 2.1, 2.19, 2.3, 2.42, 3.0])
    assert first_strike(groups, 2.42, 1.5) == 2.0
    assert first_strike(groups, 2.42, 2.15) == 2.19  # it should not have begun before
    assert first_strike(groups, 3.0, 0.0) == 3.0  # what is far apart is another note
    assert first_strike(groups, 1.2, 0.0) == 1.2
