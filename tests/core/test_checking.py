"""Checking: figures computed by hand from takes timed by hand."""

from __future__ import annotations

import pytest

from helpers import F, demo_score, played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.counting.counting import count_hand
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import Status, give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import count_task, lap_task

SCORE = demo_score("harbour-steps")
TASK = lap_task(SCORE, assigned_bpm=66)
QUARTERS = lap_task(
    score_of(" | ".join(["C5/q C5/q C5/q C5/q"] * 4), " | ".join(["C3/q C3/q C3/q C3/q"] * 4)), assigned_bpm=60
)


def judged(task, performance, level=Level.ELEMENTARY):
    checked = check_take(task, performance)
    findings = find_findings(checked, LIMITS[level])
    return checked, findings, give_verdict(checked, findings)


def codes(findings):
    return {finding.code for finding in findings}


def test_a_metronomic_take_has_no_deviation_and_is_steady_at_every_level():
    for level in Level:
        checked, findings, verdict = judged(TASK, played_by_hand(TASK, scale=0), level)
        assert findings == []
        assert verdict.status is Status.STEADY
        assert max(abs(note.deviation_ms) for note in checked.measured.notes) < 0.01
        assert checked.measured.median_bpm == pytest.approx(66, abs=0.01)
        assert checked.measured.drift == pytest.approx(0, abs=1e-4)


@pytest.mark.parametrize("level", list(Level))
def test_a_take_timed_by_hand_like_a_steady_player_is_blamed_for_nothing(level):
    _, findings, verdict = judged(TASK, played_by_hand(TASK), level)
    assert findings == []
    assert verdict.status is Status.STEADY


def test_hands_apart_by_hand():
    """Left 80 ms after right at every one of the 16 instants."""
    late = {i: 80.0 for i, e in enumerate(QUARTERS.expected) if e.hand is Hand.LEFT}
    checked, findings, verdict = judged(QUARTERS, played_by_hand(QUARTERS, scale=0, shifts_ms=late))
    gaps = [point.gap_ms for point in checked.measured.asynchronies]
    assert gaps == pytest.approx([-80.0] * 16)
    assert codes(findings) == {"hands-apart"}
    assert verdict.main.text == "Your hands do not land together: the right hand comes first."
    assert findings[0].amount == pytest.approx(80)


def test_evenness_by_hand():
    """Eighths played 400, 600, 400, 600 … ms at an eighth of 500 ms: CV of (0.8, 1.2) is
    sqrt(n/(n−1))·0.2; pairs short-long, (0.8 − 1.2)/2 = −0.2; nPVI 100·0.4/1.0 = 40."""
    score = score_of(" | ".join(["C5/e C5/e C5/e C5/e C5/e C5/e C5/e C5/e"] * 4))
    task = lap_task(score, assigned_bpm=60)
    early = {i: -100.0 for i in range(len(task.expected)) if i % 2}
    checked, findings, _ = judged(task, played_by_hand(task, scale=0, shifts_ms=early))
    [figure] = group_figures(checked.measured.runs)
    assert figure.interval_quarters == F(1, 2)
    assert figure.limp() == pytest.approx(-0.2, abs=0.01)
    [run] = figure.runs
    assert run.npvi == pytest.approx(40, abs=1.0)
    assert run.cv == pytest.approx(0.2, abs=0.01)
    assert codes(findings) == {"limping"}
    assert not findings[0].positive


def test_tempo_and_drift_by_hand():
    """Every bar one per cent shorter than the one before: tempo up by 1/0.99 a bar, over three bars
    0.99**-3 − 1 = 3.06 %."""
    strikes, time = [], 0.0
    lengths = [4.0 * 0.99**bar for bar in range(4)]
    for bar in range(4):
        for beat in range(4):
            at = time + lengths[bar] * beat / 4
            strikes += [Strike(at, Hand.RIGHT), Strike(at, Hand.LEFT)]
        time += lengths[bar]
    checked, _, _ = judged(QUARTERS, Performance(Source.TAPS, tuple(strikes)))
    assert checked.measured.drift == pytest.approx(0.99**-3 - 1, abs=0.004)
    assert [round(t.bpm, 1) for t in checked.measured.bar_tempos] == pytest.approx([60, 60.6, 61.2, 61.8], abs=0.25)


def test_off_tempo_is_said_with_its_direction():
    _, findings, verdict = judged(TASK, played_by_hand(TASK, bpm=58))
    assert codes(findings) == {"off-tempo"}
    assert verdict.main.text == "You play slower than the click asked for."
    assert verdict.status is Status.NEARLY


def test_a_stop_is_found_at_its_place_in_both_names():
    bar_7 = next(i for i, e in enumerate(TASK.expected) if e.measure_index == 6)
    shifts = dict.fromkeys(range(bar_7, len(TASK.expected)), 900)
    _, findings, verdict = judged(TASK, played_by_hand(TASK, shifts_ms=shifts))
    assert codes(findings) == {"hesitation"}
    assert verdict.status is Status.NOT_YET
    assert verdict.main.text == "You stop before bar 7."
    assert verdict.place_text == "bar 7 · line 2, bar 3"
    assert verdict.cure.text.startswith("Practise beat 4 of bar 6 into beat 1 of bar 7")


def test_a_single_late_strike_that_is_made_up_for_is_no_stop():
    _, findings, _ = judged(TASK, played_by_hand(TASK, shifts_ms={25: 140}))
    assert "hesitation" not in codes(findings)


def test_few_notes_are_shown_but_not_judged():
    score = score_of("C5/e C5/e C5/q C5/h")
    task = lap_task(score, assigned_bpm=60)
    checked, findings, _ = judged(task, played_by_hand(task, scale=0, shifts_ms={1: 130}))
    assert checked.measured.runs
    assert findings == []


def test_saying_the_count_is_checked_word_by_word():
    counts = count_hand(SCORE, None)
    task = count_task(SCORE, counts, SCORE.measures, 60)
    assert len(task.expected) == sum(len(bar) for bar in counts.bars)
    taps = tuple(Strike(s.played_s, Hand.RIGHT) for s in played_by_hand(task).strikes)
    checked, findings, verdict = judged(task, Performance(Source.TAPS, taps))
    assert len(checked.matching.matches) == len(task.expected)
    assert findings == []
    assert verdict.status is Status.STEADY


def test_click_deviations_only_where_clocks_agree():
    with_click = Performance(Source.TAPS, played_by_hand(TASK, scale=0, start_s=2.1).strikes, 2.0, 66)
    checked = check_take(TASK, with_click)
    assert {round(note.click_deviation_ms) for note in checked.measured.notes} == {100}
    without = check_take(TASK, Performance(Source.TAPS, with_click.strikes))
    assert {note.click_deviation_ms for note in without.measured.notes} == {None}


def test_better_than_last_time_is_said_first():
    checked = check_take(TASK, played_by_hand(TASK))
    verdict = give_verdict(checked, [], frozenset({"hesitation"}))
    assert verdict.good[0] == "Better than last time: the beat did not stop."


def test_what_cannot_be_followed_has_no_figures_and_a_cure():
    taps = tuple(Strike(0.1 * i * i, Hand.LEFT) for i in range(3))
    checked, findings, verdict = judged(TASK, Performance(Source.TAPS, taps))
    assert (checked.measured, findings) == (None, [])
    assert verdict.status is Status.COULD_NOT_FOLLOW
    assert verdict.cure is not None


def test_a_passage_that_begins_with_bars_of_rest_is_followed():
    """Found by scores of others: the tempo at the beginning was that of a bar in which nothing is played."""
    score = score_of("r/w | r/w | C5/q C5/q C5/q C5/q | C5/q C5/q C5/h | C5/q C5/q C5/q C5/q")
    task = lap_task(score, assigned_bpm=60)
    checked, findings, verdict = judged(task, played_by_hand(task, scale=0))
    assert checked.followed
    assert (findings, verdict.status) == ([], Status.STEADY)
    assert checked.measured.fit.quarter_s_at(0.0) == pytest.approx(1.0)
