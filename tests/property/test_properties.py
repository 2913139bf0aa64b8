"""Properties that hold for any rhythm: counting, reading, matching, timing."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction as F

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from helpers import played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.counting.counting import Density, Kind, count_hand
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.hand_line import hand_line
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Strike
from laptick.core.takes.task import lap_task
from sampling import sampled

LENGTHS = {"h": F(2), "q.": F(3, 2), "q": F(1), "e.": F(3, 4), "e": F(1, 2), "s": F(1, 4)}

settings.register_profile("quiet", deadline=None, max_examples=sampled(20, 80), suppress_health_check=list(HealthCheck))
settings.load_profile("quiet")


@st.composite
def bars(draw, length=F(4)):
    words, left = [], length
    while left:
        code = draw(st.sampled_from([c for c, value in LENGTHS.items() if value <= left]))
        words.append(("r/" if draw(st.integers(0, 5)) == 0 else "C5/") + code)
        left -= LENGTHS[code]
    return " ".join(words)


@st.composite
def scores(draw, least=2, most=5):
    count = draw(st.integers(least, most))
    right = [draw(bars()) for _ in range(count)]
    left = [draw(bars()).replace("C5", "C3") for _ in range(count)]
    assume(any("C5" in bar for bar in right) or any("C3" in bar for bar in left))
    return score_of(" | ".join(right), " | ".join(left))


@given(scores())
def test_every_strike_is_counted_once_and_every_count_says_what_sounds(score):
    for hand in (Hand.RIGHT, Hand.LEFT, None):
        line = hand_line(score, hand)
        for density in Density:
            said = []
            for measure, bar in zip(score.measures, count_hand(score, hand, density=density).bars, strict=True):
                offsets = [count.offset_quarters for count in bar]
                assert offsets == sorted(set(offsets))
                for count in bar:
                    onset = measure.start_quarters + count.offset_quarters
                    assert (count.kind is Kind.STRIKE) == line.strikes_at(onset)
                    if count.kind is not Kind.STRIKE:
                        assert (count.kind is Kind.HOLD) == line.sounds_at(onset)
                    said.append((onset, count.kind))
            assert {o for o, kind in said if kind is Kind.STRIKE} == set(line.strikes)


@given(scores())
def test_a_denser_count_says_at_least_as_much(score):
    def positions(density):
        return [{c.offset_quarters for c in bar} for bar in count_hand(score, None, density=density).bars]

    beat, bar, steady = (positions(d) for d in (Density.BEAT, Density.BAR, Density.STEADY))
    assert all(a <= b <= c for a, b, c in zip(beat, bar, steady, strict=True))


@given(st.sampled_from([(2, 4), (3, 4), (4, 4), (5, 4), (3, 8), (6, 8), (9, 8), (12, 8), (7, 8)]), st.integers(0, 95))
def test_no_position_outweighs_the_bar_and_beats_outweigh_what_is_inside_them(signature, step):
    meter = meter_of(TimeSignature(*signature))
    position = (meter.bar_quarters * step / 96) % meter.bar_quarters
    weight = meter.weight(position)
    assert weight <= 0
    assert (weight == 0) == (position == 0)
    beat = meter.beat_at(position)
    if position != beat.start_quarters:
        assert weight < min(meter.weight(b.start_quarters) for b in meter.beats)


@given(scores(3, 4))
def test_the_score_itself_played_exactly_is_blamed_for_nothing(score):
    task = lap_task(score, assigned_bpm=60)
    assume(len(task.expected) >= 8)
    checked = check_take(task, played_by_hand(task, scale=0))
    assume(checked.followed)
    assert len(checked.matching.matches) == len(task.expected)
    for level in Level:
        assert find_findings(checked, LIMITS[level]) == []


@given(scores(3, 4), st.floats(0.1, 20), st.floats(0.8, 1.25))
def test_starting_later_or_playing_at_another_tempo_changes_no_evenness(score, later_s, factor):
    task = lap_task(score, assigned_bpm=60)
    assume(len({e.onset_quarters for e in task.expected}) >= 10)
    performance = played_by_hand(task)
    moved = replace(
        performance,
        first_beat_s=None,
        strikes=tuple(replace(s, played_s=later_s + factor * s.played_s) for s in performance.strikes),
    )
    ours, theirs = check_take(task, replace(performance, first_beat_s=None)), check_take(task, moved)
    assume(ours.followed and theirs.followed)
    assert len(ours.matching.matches) == len(theirs.matching.matches)
    for a, b in zip(group_figures(ours.measured.runs), group_figures(theirs.measured.runs), strict=False):
        assert a.pooled_cv() == pytest.approx(b.pooled_cv(), abs=0.02)
    assert theirs.measured.median_bpm == pytest.approx(ours.measured.median_bpm / factor, rel=0.01)


@given(scores(3, 4), st.data())
def test_one_added_strike_adds_one_extra_and_no_missing(score, data):
    task = lap_task(score, assigned_bpm=60)
    assume(len(task.expected) >= 12)
    performance = played_by_hand(task, scale=0)
    gaps = [
        (a.played_s, b.played_s)
        for a, b in zip(performance.strikes, performance.strikes[1:], strict=False)
        if 0.45 <= b.played_s - a.played_s <= 1.1
    ]
    assume(gaps)
    low, high = data.draw(st.sampled_from(gaps))
    added = Strike((low + high) / 2, data.draw(st.sampled_from([Hand.LEFT, Hand.RIGHT])))
    strikes = tuple(sorted((*performance.strikes, added), key=lambda s: s.played_s))
    checked = check_take(task, replace(performance, strikes=strikes))
    assert (len(checked.matching.extra), len(checked.matching.missing)) == (1, 0)
