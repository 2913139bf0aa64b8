"""Properties of takes on keys: moving or scaling a take changes no deviation, the score against itself is steady at every
level, one added note adds one extra, seeds reproduce, and what is judged does not depend on who wrote the file."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st
from test_properties import scores

from helpers import DEMO, demo_score, played_by_hand
from laptick.core.base.levels import Level
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task
from laptick.formats.documents.check import check_document
from laptick.formats.midi.take import write_midi_take
from laptick.formats.take_files import read_take
from sampling import sampled

settings.register_profile("keys", deadline=None, max_examples=sampled(12, 50), suppress_health_check=list(HealthCheck))
settings.load_profile("keys")


def on_keys(score, **options):
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    return task, played_by_hand(task, source=Source.MIDI, **options)


@given(scores(3, 4), st.floats(0.1, 20), st.floats(0.8, 1.25))
def test_moving_and_scaling_a_take_scales_its_deviations_and_moves_nothing_else(score, later_s, factor):
    task, performance = on_keys(score)
    assume(len({e.onset_quarters for e in task.expected}) >= 10)
    strikes = tuple(replace(s, played_s=later_s + factor * s.played_s) for s in performance.strikes)
    ours, theirs = check_take(task, performance), check_take(task, replace(performance, strikes=strikes))
    assume(ours.followed and theirs.followed)
    assert [m.expected_index for m in ours.matching.matches] == [m.expected_index for m in theirs.matching.matches]
    assert theirs.measured.median_bpm == pytest.approx(ours.measured.median_bpm / factor, rel=0.01)
    # The smoothing knows seconds, so deviations scale to a few milliseconds, not to the last digit.
    for a, b in zip(ours.measured.notes, theirs.measured.notes, strict=True):
        assert b.deviation_ms == pytest.approx(factor * a.deviation_ms, abs=8)


@given(scores(3, 4))
def test_the_score_against_itself_is_steady_at_every_level(score):
    task, performance = on_keys(score, scale=0)
    assume(len({e.onset_quarters for e in task.expected}) >= 6)
    for level in Level:
        judged = judge_take(task, performance, LIMITS[level])
        assert judged.verdict.status is Status.STEADY
        assert max(abs(note.deviation_ms) for note in judged.checked.measured.notes) < 0.5


@given(scores(3, 4), st.integers(0, 10_000), st.integers(21, 108))
def test_one_added_note_adds_one_extra(score, at, pitch):
    task, performance = on_keys(score, scale=0)
    assume(len(task.expected) >= 12)
    assume(pitch not in {e.pitch for e in task.expected})
    before = performance.strikes[at % (len(performance.strikes) - 1)]
    added = Strike(before.played_s + 0.11, None, pitch, 64, None)
    strikes = tuple(sorted((*performance.strikes, added), key=lambda s: s.played_s))
    matching = check_take(task, replace(performance, strikes=strikes)).matching
    assert (len(matching.extra), matching.missing, matching.wrong) == (1, (), ())


@given(st.sampled_from(DEMO), st.integers(0, 10_000), st.sampled_from(list(Level)))
def test_seeds_reproduce_and_others_differ(name, seed, level):
    task = lap_task(demo_score(name), assigned_bpm=60, with_pitches=True)
    faults = [parse_fault("limp=1.4"), parse_fault("miss=5")]
    one, again, other = (
        simulate(task, level=level, seed=s, faults=faults, source=Source.MIDI) for s in (seed, seed, seed + 1)
    )
    assert one == again
    assert one.strikes != other.strikes


@given(st.sampled_from(DEMO), st.integers(0, 1000))
def test_a_take_written_to_a_file_and_read_is_judged_alike(name, seed):
    task = lap_task(demo_score(name), assigned_bpm=60, with_pitches=True)
    performance = simulate(task, seed=seed, source=Source.MIDI, faults=[parse_fault("spread=90")])
    back = read_take(write_midi_take(performance, task))
    limits = LIMITS[Level.ELEMENTARY]
    ours, theirs = judge_take(task, performance, limits), judge_take(task, back, limits)
    assert [f.code for f in ours.findings] == [f.code for f in theirs.findings]
    assert check_document(ours)["matched"] == check_document(theirs)["matched"]


def test_a_take_of_one_note_is_lost_and_not_an_error():
    task = lap_task(demo_score("harbour-steps"), assigned_bpm=60, with_pitches=True)
    checked = check_take(task, Performance(Source.MIDI, (Strike(1.0, None, 60, 64, None),)))
    assert not checked.followed
