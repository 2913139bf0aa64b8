"""Planted faults at twice their limit, 12 seeds each (24 in the full samples), and clean takes: shares as measured by
benchmarks/planted_faults.py (docs/checking-figures.md), with room for nothing much worse.

The second half plants the faults into timing written by hand, which does not come from the simulator.
"""

from __future__ import annotations

import sys
from fractions import Fraction
from pathlib import Path

import pytest

from helpers import demo_score, played_by_hand, score_of

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "benchmarks"))
import planted_faults as bench

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.judging.finding import FindingCode
from laptick.core.judging.findings import is_unsteady, look_at
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from sampling import sampled

#: Least share found at twice the limit over 12 takes of taps, where they tell less than keys.
LEAST_TAPS = {"late-then-compensated": 0.85, "uneven": 0.8, "wrong-notes": 0.9, "drift": 0.9, "long-rushed": 0.9}


@pytest.mark.parametrize("planted", bench.PLANTED, ids=lambda p: p.words)
class TestFaultsAtTwiceTheirLimit:
    def test_are_found_on_midi_and_nothing_besides(self, planted):
        takes = sampled(12, 24)
        cell = bench.named(planted, Level.ELEMENTARY, 2, Source.MIDI, range(takes))
        assert cell.tried == takes
        assert cell.found >= takes * 22 / 24, cell.instead
        assert sum(cell.besides.values()) <= 1, cell.besides

    def test_are_found_in_taps(self, planted):
        if planted.code in ("long-cut", "rest-run-over"):
            with pytest.raises(OptionError, match="no key-up"):
                bench.named(planted, Level.ELEMENTARY, 2, Source.TAPS, range(1))
            return
        cell = bench.named(planted, Level.ELEMENTARY, 2, Source.TAPS, range(12))
        assert cell.found >= LEAST_TAPS.get(planted.code, 0.95) * cell.tried, cell.instead

    def test_are_found_on_timing_written_by_hand(self, planted):
        cell = bench.named_by_hand(planted, Level.INTERMEDIATE, Source.MIDI, range(8))
        assert cell.found >= 0.9 * cell.tried, cell.instead


@pytest.mark.parametrize("level", list(Level))
def test_clean_takes_written_by_hand_are_blamed_for_nothing(level):
    blamed, tried = bench.clean_by_hand(level, Source.MIDI, range(4))
    assert tried == 40
    assert blamed == {}


@pytest.mark.parametrize("source", [Source.MIDI, Source.TAPS])
@pytest.mark.parametrize("level", list(Level))
def test_clean_takes_are_blamed_for_nothing(level, source):
    blamed, tried = bench.clean(level, source, range(sampled(3, 6)))
    assert tried == sampled(30, 60)
    assert sum(blamed.values()) <= 1, blamed


# -- faults in timing written by hand -------------------------------------------------------------------

HARBOUR = lap_task(demo_score("harbour-steps"), assigned_bpm=66)
KETTLE = lap_task(demo_score("copper-kettle-parade"), assigned_bpm=60)
EIGHTHS = lap_task(
    score_of(" | ".join(["C5/e C5/e C5/e C5/e C5/q C5/q"] * 6), " | ".join(["C3/q C3/q C3/q C3/q"] * 6)), assigned_bpm=66
)  # fmt: skip


def from_bar(task, bar, shift_ms):
    return {i: shift_ms for i, e in enumerate(task.expected) if e.measure_index >= bar - 1}


def in_left(task, shift_ms):
    return {i: shift_ms for i, e in enumerate(task.expected) if e.hand is Hand.LEFT}


def off_beats(task, shift_ms):
    return {i: shift_ms for i, e in enumerate(task.expected) if e.onset_quarters.denominator == 2}


def rushed_eighths(task, factor):
    """Four eighths a bar in ``factor`` of their time; everything after comes earlier for good."""
    shifts, gained_ms = {}, 0.0
    two_beats_ms = 2000 * task.quarter_s
    for index, expected in enumerate(task.expected):
        bars, inside = divmod(float(expected.onset_quarters), 4)
        gained_ms = (1 - factor) * two_beats_ms * (bars + min(inside, 2) / 2)
        shifts[index] = -gained_ms
    return shifts


HAND_PLANTED = [
    ("hesitation", HARBOUR, lambda level: from_bar(HARBOUR, 5, 2 * LIMITS[level].hesitation_ms(60_000 / 66))),
    ("hands-apart", HARBOUR, lambda level: in_left(HARBOUR, 2 * (LIMITS[level].hands_apart_ms + 7))),
    ("hands-apart", KETTLE, lambda level: in_left(KETTLE, -2 * (LIMITS[level].hands_apart_ms + 7))),
    ("limping", EIGHTHS, lambda level: off_beats(EIGHTHS, 2 * 500 * EIGHTHS.quarter_s * (LIMITS[level].evenness(454) + 0.02))),
    ("rushed-run", EIGHTHS, lambda level: rushed_eighths(EIGHTHS, 1 - 2 * (LIMITS[level].evenness(454) + 0.02))),
]  # fmt: skip


@pytest.mark.parametrize("level", list(Level))
@pytest.mark.parametrize(("code", "task", "shifts"), HAND_PLANTED, ids=lambda v: v if isinstance(v, str) else "")
def test_faults_in_timing_written_by_hand_are_found(code, task, shifts, level):
    assert code in bench.codes_of(task, played_by_hand(task, shifts_ms=shifts(level)), level)


@pytest.mark.parametrize("scale", [0.5, 1.0, 1.5])
@pytest.mark.parametrize("level", list(Level))
@pytest.mark.parametrize("task", [HARBOUR, KETTLE, EIGHTHS], ids=["harbour", "kettle", "eighths"])
def test_clean_timing_written_by_hand_is_blamed_for_nothing(task, level, scale):
    assert bench.codes_of(task, played_by_hand(task, scale=scale), level) == ()


#: Both hands in pairs, eighths against eighths and sixteenths against sixteenths, where nothing else is short.
PAIRS = lap_task(
    score_of(" | ".join(["C5/e C5/e C5/e C5/e C5/s C5/s C5/s C5/s C5/q"] * 6),
             " | ".join(["C3/e C3/e C3/e C3/e C3/s C3/s C3/s C3/s C3/q"] * 6)), assigned_bpm=60
)  # fmt: skip


@pytest.mark.parametrize("level", list(Level))
def test_who_keeps_to_the_beat_and_limps_is_no_unsteady_player(level):
    """From bar 4 on the second of every pair, of eighths and of sixteenths, is late by 2.5 limits of its length, all else
    by a quarter of the deviations by hand. Half of the pairs lean, so that all of them, their mean lean of 1.25 limits
    taken out, lie 1.25 limits off it on either side: notes of every length are uneven, but the beat is kept."""
    limits, shifts = LIMITS[level], {}
    for index, expected in enumerate(PAIRS.expected):
        at = expected.onset_quarters % 4
        unit = 0.5 if at < 2 else 0.25
        if expected.onset_quarters >= 12 and at < 3 and (at / Fraction(unit)) % 2 == 1:
            shifts[index] = 2.5 * 1000 * unit * (limits.evenness(1000 * unit) + 0.007 / unit)
    take = played_by_hand(PAIRS, scale=0.25, shifts_ms=shifts)
    found, judging = look_at(check_take(PAIRS, take), limits)
    assert judging.asked.player <= 0.5
    assert is_unsteady(judging, ())
    assert {f.code for f in found} == {FindingCode.LIMPING}


#: Six runs of eight eighths, and between them what is longer.
RUNS = lap_task(
    score_of(" | ".join(["C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e", "C5/q E5/q C5/h"] * 6),
             " | ".join(["C3/q G3/q C3/q G3/q"] * 12)), assigned_bpm=60
)  # fmt: skip


@pytest.mark.parametrize("level", list(Level))
def test_two_long_runs_that_limp_are_told(level):
    """The third and fourth of six runs, four pairs each, lean by twice the limit, the others by nothing."""
    limits = LIMITS[level]
    late_ms = 2 * 500 * (limits.evenness(500) + 0.014)
    shifts = {
        i: late_ms
        for i, e in enumerate(RUNS.expected)
        if e.hand is Hand.RIGHT and e.onset_quarters.denominator == 2 and 16 <= e.onset_quarters < 32
    }
    found, _ = look_at(check_take(RUNS, played_by_hand(RUNS, scale=0.5, shifts_ms=shifts)), limits)
    assert [(f.code, f.in_part) for f in found] == [(FindingCode.LIMPING, True)]
