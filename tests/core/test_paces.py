"""Where the score prints another tempo, going on at that one is right. Source: common practice, no source; figures worked
by hand."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction as F

import pytest

from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import TempoMark
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task

RIGHT = "C5/e D5/e E5/e F5/e G5/q E5/q | C5/q D5/e E5/e F5/h | E5/q D5/q C5/q D5/q | C5/h G5/e F5/e E5/q"
LEFT = "C3/h G3/h | C3/q E3/q G3/q E3/q | C3/h G3/h | C3/q E3/q G3/q E3/q"


def task_with(*tempos: tuple[int, float], bpm: float = 80.0):
    """Sixteen bars of 4/4; ``tempos``: (quarter it stands at, bpm)."""
    score = score_of(" | ".join([RIGHT] * 4), " | ".join([LEFT] * 4))
    marks = tuple(TempoMark(F(at), bpm, F(1)) for at, bpm in tempos)
    return lap_task(replace(score, tempos=marks), assigned_bpm=bpm, with_pitches=True)


def exact(task, second_half_bpm: float) -> Performance:
    """80 to the middle (quarter 32), then another tempo, not a millisecond off."""

    def at_s(onset: F) -> float:
        return min(float(onset), 32.0) * 60 / 80 + max(0.0, float(onset) - 32) * 60 / second_half_bpm

    return Performance(
        Source.MIDI,
        tuple(
            Strike(2 + at_s(e.onset_quarters), e.hand, e.pitch, 64, 2 + at_s(e.onset_quarters) + 0.2)
            for e in task.expected
        ),
    )


def codes(task, take, level=Level.ELEMENTARY) -> set[str]:
    return {str(finding.code) for finding in find_findings(check_take(task, take), LIMITS[level])}


class TestPaces:
    def test_by_hand(self):
        paces = task_with((0, 80), (32, 120), (48, 60)).paces
        assert [paces.at(onset) for onset in (0, 31.9, 32, 47, 48, 64)] == [1, 1, 1.5, 1.5, 0.75, 0.75]
        # 32 quarters at 80, 16 at half as fast again last as long as 10⅔ of those, 16 at three quarters as 21⅓.
        assert [round(paces.due_quarters(onset), 9) for onset in (0, 32, 48, 64)] == [0, 32, 42.666666667, 64]
        assert paces.mean_between(32, 64) == pytest.approx(1)

    def test_one_tempo_is_one_pace_and_a_passage_begins_with_its_own(self):
        task = task_with((0, 80), (32, 120))
        later = lap_task(task.score, assigned_bpm=120.0, measures=task.measures[8:], with_pitches=True)
        assert later.paces.shares == (1.0,)
        assert task_with((0, 80), (32, 80)).paces.starts == (0.0,)


class TestAWrittenTempoIsFollowed:
    @pytest.mark.parametrize("bpm", [50.0, 60.0, 100.0, 120.0, 160.0])
    def test_as_written_is_neither_a_drift_nor_another_tempo(self, bpm):
        task = task_with((0, 80), (32, bpm))
        assert not codes(task, exact(task, bpm)) & {"drift", "off-tempo", "hesitation", "rushed-run", "long-rushed"}

    @pytest.mark.parametrize("bpm", [60.0, 120.0])
    def test_who_goes_on_at_the_old_tempo_has_a_step(self, bpm):
        task = task_with((0, 80), (32, bpm))
        assert "drift" in codes(task, exact(task, 80))

    @pytest.mark.parametrize("bpm", [60.0, 120.0])
    def test_the_simulated_student_follows_it(self, bpm):
        task = task_with((0, 80), (32, bpm))
        for seed in range(4):
            take = simulate(task, level=Level.ELEMENTARY, seed=seed, source=Source.MIDI)
            assert not codes(task, take) & {"drift", "off-tempo", "hesitation", "long-rushed"}
            times = [strike.played_s for strike in take.strikes]
            middle = next(
                s.played_s for s, e in zip(take.strikes, task.expected, strict=False) if e.onset_quarters == 32
            )
            share = (times[-1] - middle) / (middle - times[0]) * 32 / float(task.expected[-1].onset_quarters - 32)
            assert share == pytest.approx(80 / bpm, rel=0.08)

    def test_every_bar_shows_what_was_played(self):
        task = task_with((0, 80), (32, 120))
        measured = check_take(task, exact(task, 120)).measured
        assert [round(tempo.bpm) for tempo in measured.bar_tempos] == [80] * 8 + [120] * 8
        assert max(abs(note.deviation_ms) for note in measured.notes) < 3
        assert measured.median_bpm == pytest.approx(80, abs=0.5)
