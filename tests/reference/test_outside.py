"""Against references outside the project.

- Meter: order of metrical weights against music21's ``beatStrength`` (music21, test-only).
- Tempo and beats: mir_eval's beat and tempo measures on taps of known tempo.
- nPVI: a worked example of the published formula (Grabe & Low 2002; formula from memory).
- Scores: onsets, pitches and durations of the demo pieces against music21's own reading of the files.
"""

from __future__ import annotations

import warnings
from fractions import Fraction
from itertools import combinations

import mir_eval
import numpy as np
import pytest
import scipy.stats
from amads.time.variability import normalized_pairwise_variability_index

from helpers import DEMO, demo_bytes, demo_score, played_by_hand
from laptick.core.base.statistics import npvi
from laptick.core.measuring.checking import check_take
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.score import Hand
from laptick.core.student.student import simulate
from laptick.core.takes.task import lap_task

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import music21

#: 3/8 is left out: music21 counts it in one dotted quarter, this product in three eighths by choice.
SIGNATURES = [(2, 4), (3, 4), (4, 4), (2, 2), (3, 2), (6, 8), (9, 8), (12, 8), (6, 4)]


@pytest.mark.parametrize("signature", SIGNATURES, ids=str)
def test_metrical_weights_are_in_the_order_of_music21(signature):
    """Where music21 says one position is stronger than another, so do we or they are equal with us."""
    ours = meter_of(TimeSignature(*signature))
    theirs = music21.meter.TimeSignature(f"{signature[0]}/{signature[1]}")
    step = ours.unit_quarters if ours.is_compound else ours.beat_quarters / 2
    positions = [step * i for i in range(int(ours.bar_quarters / step))]
    told_apart = 0
    for a, b in combinations(positions, 2):
        strength_a, strength_b = (theirs.getAccentWeight(float(x)) for x in (a, b))
        if strength_a > strength_b:
            assert ours.weight(a) >= ours.weight(b), (a, b)
            told_apart += 1
        elif strength_b > strength_a:
            assert ours.weight(b) >= ours.weight(a), (a, b)
            told_apart += 1
    assert told_apart > len(positions) - 2


@pytest.mark.parametrize("signature", SIGNATURES, ids=str)
def test_beats_and_divisions_agree_with_music21(signature):
    ours = meter_of(TimeSignature(*signature))
    theirs = music21.meter.TimeSignature(f"{signature[0]}/{signature[1]}")
    assert len(ours.beats) == theirs.beatCount
    assert ours.beat_quarters == Fraction(theirs.beatDuration.quarterLength)
    assert ours.beats[0].division == theirs.beatDivisionCount


@pytest.mark.parametrize("name", DEMO)
def test_scores_are_read_as_music21_reads_them(name):
    ours = demo_score(name)
    theirs = music21.converter.parse(demo_bytes(name).decode(), format="musicxml")
    pickup = ours.measures[0].lead_quarters
    read = set()
    for part, hand in zip(theirs.parts, (Hand.RIGHT, Hand.LEFT), strict=True):
        first = part.getElementsByClass(music21.stream.Measure)[0]
        shift = Fraction(first.offset)
        for element in part.flatten().notes:
            tie_goes_on = element.tie is not None and element.tie.type in ("stop", "continue")
            for pitch in element.pitches:
                onset = Fraction(element.offset).limit_denominator(48) - shift
                length = Fraction(element.quarterLength).limit_denominator(48)
                read.add((hand, onset, length, pitch.midi, tie_goes_on))
    mine = {(n.hand, n.onset_quarters, n.duration_quarters, n.pitch, n.tied_from_before) for n in ours.notes}
    assert mine == read
    assert pickup in (0, 2)


@pytest.mark.parametrize("asked", [60, 80])
@pytest.mark.parametrize("bpm", [50, 66, 88, 112])
def test_tempo_and_beats_against_mir_eval(bpm, asked):
    """Taps of a known tempo with deviations written by hand, checked against another assigned tempo: the
    tempo is right to 1 % and every fitted beat within 20 ms of the true one (mir_eval's own window: 70)."""
    task = lap_task(demo_score("harbour-steps"), assigned_bpm=asked)
    measured = check_take(task, played_by_hand(task, bpm=bpm, start_s=6.0)).measured
    p_score, one, both = mir_eval.tempo.detection(
        np.array([bpm / 2, bpm]), 0.5, np.array([measured.median_bpm / 2, measured.median_bpm]), tol=0.01
    )
    assert (p_score, one, both) == (1.0, True, True)
    true_s = np.array([6.0 + q * 60 / bpm for q in range(31)])
    fitted_s = np.array([_at(measured, float(q)) for q in range(31)])
    assert mir_eval.beat.f_measure(true_s, fitted_s, f_measure_threshold=0.02) == 1.0
    assert mir_eval.beat.continuity(true_s, fitted_s)[0] == 1.0


def _at(measured, quarters: float) -> float:
    onsets = [event.onset_quarters for event in measured.fit.events]
    return float(np.interp(quarters, onsets, measured.fit.expected_s))


def test_tempo_of_exact_taps_is_exact():
    """A metronome at 72.5 tapped through: hand arithmetic, no tolerance but the floating point's."""
    task = lap_task(demo_score("copper-kettle-parade"), assigned_bpm=60)
    measured = check_take(task, played_by_hand(task, scale=0, bpm=72.5)).measured
    assert measured.median_bpm == pytest.approx(72.5, abs=0.01)


def test_npvi_by_the_published_formula():
    """nPVI = 100/(m−1) · Σ |d_k − d_k+1| / ((d_k + d_k+1)/2), worked for 100, 200, 150, 150 ms:
    |−100|/150, |50|/175, 0 → (0.66667 + 0.28571 + 0)/3 · 100 = 31.746."""
    assert npvi([100, 200, 150, 150]) == pytest.approx(31.746, abs=0.001)


def test_npvi_of_the_published_example():
    """Daniele & Patel, “An empirical study of historical patterns in musical rhythm”, Music Perception
    31(1), 2013, appendix: the durations and the value as quoted in the documentation of amads 1.4."""
    durations = [1, 1/2, 1/2, 1, 1/2, 1/2, 1/3, 1/3, 1/3, 2, 1/3, 1/3, 1/3, 1/3, 1/3, 1/3, 3/2, 1, 1/2]  # fmt: skip
    assert npvi(durations) == pytest.approx(42.2, abs=0.05)


@pytest.mark.parametrize("seed", range(6))
def test_evenness_of_a_take_against_amads_and_scipy(seed):
    """The figures of every run of a simulated take: nPVI as amads 1.4 computes it from the same intervals, the
    coefficient of variation as scipy does (amads has none)."""
    task = lap_task(demo_score("copper-kettle-parade"), assigned_bpm=60)
    measured = check_take(task, simulate(task, seed=seed)).measured
    assert len(measured.runs) > 5
    for run in measured.runs:
        assert run.npvi == pytest.approx(normalized_pairwise_variability_index(list(run.ratios)), rel=1e-9)
        assert run.cv == pytest.approx(float(scipy.stats.variation(run.ratios, ddof=1)), rel=1e-9)
