"""Claps among keys, heard by a microphone: bursts of noise between tones of our own arithmetic. Hand claps of sound
fonts and single people's are in benchmarks/hearing/claps.py."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import numpy as np
import pytest

from helpers import demo_score
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.hearing.sound import RATE, Sound
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.telling import tell
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand, Score
from laptick.core.score.within import Cut, parse_within
from laptick.core.student.student import simulate
from laptick.core.takes.performance import CLAP_KEY, KNOWS_OF_KNOCKS, Performance, Source, key_told
from laptick.core.takes.task import Task, lap_task
from laptick.formats.audio.decoding import decode
from laptick.formats.audio.take import write_wav_take
from laptick.formats.drills import make_drill
from tones import sounded

BEAT_S, BEGIN_S = 0.7, 0.8


def form(fill: str = "two-claps", bars: str = "I,IV,V,I") -> Score:
    return make_drill("form", {"bars": bars, "fill": fill, "walk": "no"}, demo_score).score


def by_ear(score: Score, **how: object) -> Task:
    return lap_task(score, assigned_bpm=60 / BEAT_S, with_pitches=True, with_claps=True, **how)


TASK = by_ear(form())
CLAPS = [index for index, one in enumerate(TASK.expected) if one.pitch == CLAP_KEY]


def at_s(task: Task, index: int) -> float:
    return BEGIN_S + BEAT_S * float(task.expected[index].onset_quarters)


def recorded(
    left_out: frozenset[int] = frozenset(), late_s: dict[int, float] | None = None, task: Task = TASK
) -> Sound:
    """Every key and clap of a task at its time, some left out, some late."""
    struck = {i: at_s(task, i) + (late_s or {}).get(i, 0.0) for i in range(len(task.expected)) if i not in left_out}
    keys = [
        (when, task.expected[i].pitch or 0, 0.5) for i, when in struck.items() if task.expected[i].pitch != CLAP_KEY
    ]
    sound = sounded(keys, max(struck.values()) + 2)
    rng, samples = np.random.default_rng(4), sound.samples.copy()
    time = np.arange(round(0.06 * RATE)) / RATE
    for i, when in struck.items():
        if task.expected[i].pitch == CLAP_KEY:
            begin = round(when * RATE)
            burst = 0.25 * rng.normal(size=len(time)) * np.exp(-time / 0.008)
            samples[begin : begin + len(burst)] += burst.astype(np.float32)
    return Sound(samples, RATE)


def heard(sound: Sound, task: Task = TASK) -> Performance:
    return hear_take(sound, task, rate=RATE)


def found_s(performance: Performance, task: Task = TASK) -> dict[int, float]:
    matching = check_take(task, performance).matching
    return {m.expected_index: performance.strikes[m.strike_index].played_s for m in matching.matches}


def test_claps_are_asked_for_where_they_can_be_heard():
    score = form()
    claps = {n.onset_quarters for n in score.notes if n.is_clap}
    written = {4 * bar + at for bar in range(4) for at in (Fraction(3), Fraction(7, 2))}
    assert {TASK.expected[i].onset_quarters for i in CLAPS} == claps == written
    keyed = lap_task(score, assigned_bpm=80, with_pitches=True)
    assert not claps & {one.onset_quarters for one in keyed.expected}
    assert Source.AUDIO.knows.claps
    assert not Source.MIDI.knows.claps
    assert not KNOWS_OF_KNOCKS.pitch


def test_a_passage_of_claps_alone_is_a_rhythm():
    """There is no key by which to follow it: it is told by when alone, as knocks are."""
    score = form()
    alone = lap_task(
        replace(score, notes=tuple(n for n in score.notes if n.is_clap)),
        assigned_bpm=80, with_pitches=True, with_claps=True,
    )  # fmt: skip
    assert {one.pitch for one in alone.expected} == {None}
    assert not alone.asks_pitches


def test_a_spot_of_claps_alone_is_a_rhythm_too():
    """From one clap to the next: no key in it, though there are some in its bar."""
    score = form()
    spot = by_ear(score, measures=score.measures[:1], cut=Cut(parse_within("3..7/2"), 1))
    assert [one.pitch for one in spot.expected] == [None, None]
    assert len(heard(recorded(task=TASK), spot).strikes) > 0


def test_every_clap_is_heard_when_it_fell():
    late = {CLAPS[1]: 0.06, CLAPS[4]: -0.03}
    found = found_s(heard(recorded(late_s=late)))
    assert sorted(found) == list(range(len(TASK.expected)))
    for index in CLAPS:
        assert found[index] == pytest.approx(at_s(TASK, index) + late.get(index, 0.0), abs=0.004)


@pytest.mark.parametrize("left_out", [0, 3, 7])
def test_a_clap_that_is_left_out_is_missing(left_out):
    index = CLAPS[left_out]
    checked = check_take(TASK, heard(recorded(frozenset({index}))))
    assert checked.matching.missing == (index,)
    assert not checked.matching.extra


def test_keys_alone_are_no_claps():
    checked = check_take(TASK, heard(recorded(frozenset(CLAPS))))
    assert set(checked.matching.missing) == set(CLAPS)
    assert not checked.matching.wrong


def test_a_left_hand_that_plays_under_a_clap_is_told_with_it():
    """What strikes together cannot be told apart: the clap passes with the key."""
    score = make_drill("form", {"bars": "I,V", "fill": "one-clap", "walk": "no"}, demo_score).score
    bass = next(n for n in score.notes if n.hand is Hand.LEFT)
    clap = next(n for n in score.notes if n.is_clap)
    under = replace(bass, id="under", onset_quarters=clap.onset_quarters, measure_index=clap.measure_index)
    task = by_ear(replace(score, notes=tuple(sorted((*score.notes, under), key=lambda n: n.onset_quarters))))
    found = found_s(heard(recorded(task=task), task), task)
    assert sorted(found) == list(range(len(task.expected)))


def test_a_clap_is_told_without_a_key():
    performance = heard(recorded(frozenset({CLAPS[2]})))
    told = tell(judge_take(TASK, performance, LIMITS[Level.ELEMENTARY]))
    assert [one.pitch for one in told.missing] == [None]
    assert sum(one.pitch is None for one in told.notes) == len(CLAPS) - 1
    assert "claps" in {one.what for one in told.withheld}
    assert key_told(CLAP_KEY) is None
    assert key_told(60) == 60


def test_the_simulated_student_claps():
    """Its sound, by the product's own piano and clap, comes back as what it played."""
    performance = simulate(TASK, level=Level.ELEMENTARY, seed=3, faults=[], source=Source.MIDI)
    assert sum(strike.pitch == CLAP_KEY for strike in performance.strikes) == len(CLAPS)
    found = found_s(heard(decode(write_wav_take(performance))))
    truth = found_s(performance)
    assert sorted(found) == sorted(truth)
    assert all(abs(found[index] - truth[index]) < 0.02 for index in CLAPS)
