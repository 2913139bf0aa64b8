"""Where the score bends the beat: rit., accel., fermata, breath, caesura, the ends of phrases. Worked by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import F, score_of
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings, look_at
from laptick.core.judging.tempo_findings import broadens
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.measuring.played_bends import find_bends
from laptick.core.score.score import Mark, MarkKind
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task

PLAIN = score_of(" | ".join(["C5/q D5/q E5/q F5/q", "G5/q F5/q E5/q D5/q"] * 4))


def take(score, seconds_of):
    """Every quarter for as long as ``seconds_of(its position)`` says."""
    task = lap_task(score, assigned_bpm=60, with_pitches=True)
    now, strikes = 2.0, []
    for expected in task.expected:
        strikes.append(Strike(now, None, expected.pitch, 64, now + 0.5))
        now += seconds_of(float(expected.onset_quarters))
    return check_take(task, Performance(Source.MIDI, tuple(strikes)))


def codes(checked):
    return [finding.code for finding in find_findings(checked, LIMITS[Level.ADVANCED])]


def rit(start, end):
    return Mark(MarkKind.SLOWER, F(start), "rit.", F(end))


#: The last bar and a half slower and slower: 5 % a quarter.
def slowing(quarters):
    return 1.0 if quarters < 26 else 1.05 ** (quarters - 25)


class TestARit:
    def test_written_it_is_no_drift_and_its_direction_is_told(self):
        checked = take(replace(PLAIN, marks=(rit(26, 32),)), slowing)
        [bend] = checked.measured.bends
        assert (bend.went, bend.as_written) == ("slower", True)
        # Five per cent a quarter over the five quarters between its strikes: 1.05⁻⁵ of the speed is left, about −22 %.
        assert bend.change == pytest.approx(1.05**-5 - 1, abs=0.02)
        assert codes(checked) == []
        assert checked.measured.drift == pytest.approx(0, abs=1e-6)

    def test_unwritten_it_is_told_as_a_slowing_and_is_no_stop(self):
        """Broader from beat to beat to the end of all: who halts is sudden."""
        checked = take(PLAIN, slowing)
        assert codes(checked) == []
        _, judging = look_at(checked, LIMITS[Level.ELEMENTARY])
        assert checked.measured.hesitations
        assert all(broadens(judging, stop) for stop in checked.measured.hesitations)

    def test_not_taken_is_said_and_blamed_for_nothing(self):
        checked = take(replace(PLAIN, marks=(rit(26, 32),)), lambda quarters: 1.0)
        [bend] = checked.measured.bends
        assert (bend.went, bend.as_written) == ("same", False)
        assert codes(checked) == []

    def test_a_break_after_it_is_no_stop(self):
        checked = take(
            replace(PLAIN, marks=(rit(12, 16),)), lambda q: 1.05 ** max(0, q - 11) if q < 15 else 1.0 + 1.2 * (q == 15)
        )
        assert checked.measured.hesitations == ()


def checked_bars(checked):
    return [round(bar.bpm) for bar in checked.measured.bar_tempos]


@pytest.mark.parametrize("kind", [MarkKind.FERMATA, MarkKind.BREATH, MarkKind.CAESURA])
def test_a_held_or_breathed_place_may_wait(kind):
    note = next(n for n in PLAIN.notes if n.onset_quarters == 7)
    marked = replace(PLAIN, marks=(Mark(kind, F(8) if kind is MarkKind.CAESURA else F(7), note_id=note.id),))
    waits = take(marked, lambda quarters: 1.0 + 1.5 * (quarters == 7))
    assert waits.measured.hesitations == ()
    assert max(abs(note.deviation_ms) for note in waits.measured.notes) < 1
    elsewhere = take(marked, lambda quarters: 1.0 + 1.5 * (quarters == 11))
    [stop] = elsewhere.measured.hesitations
    assert float(stop.expected.onset_quarters) == 12


def test_a_phrase_may_breathe_a_little_and_not_long():
    phrase = replace(PLAIN, marks=(Mark(MarkKind.SLUR, F(0), "", F(15)),))
    assert find_bends(lap_task(phrase, assigned_bpm=60)).lifts == (16.0,)
    assert take(phrase, lambda quarters: 1.0 + 0.5 * (quarters == 15)).measured.hesitations == ()
    assert len(take(phrase, lambda quarters: 1.0 + 1.5 * (quarters == 15)).measured.hesitations) == 1


def test_a_phrase_played_out_broadly_and_the_breath_after_it_are_no_halt():
    """Unmarked: the last two quarters of the first four bars a fifth longer, then half a beat of breath. The same breath
    without the broadening is a halt, and so is it inside a phrase."""
    broad = take(PLAIN, lambda q: 1.2 if q == 13 or q == 14 else 1.7 if q == 15 else 1.0)
    sudden = take(PLAIN, lambda q: 1.5 if q == 15 else 1.0)
    inside = take(PLAIN, lambda q: 1.2 if q in (5, 6) else 1.7 if q == 7 else 1.0)
    assert "hesitation" not in codes(broad)
    assert "hesitation" in codes(sudden)
    assert "hesitation" in codes(inside)


def test_a_bend_over_most_of_the_passage_is_measured_as_if_it_were_not_there():
    assert checked_bars(take(replace(PLAIN, marks=(rit(2, 32),)), lambda q: 1.0)) == [60] * 8
