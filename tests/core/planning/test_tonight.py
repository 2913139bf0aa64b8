"""What is practised tonight, worked out by hand. Source of the rules: docs/trade.md 3.3, 3.6 and 5 (common practice)."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import demo_score
from laptick.core.base.levels import Level
from laptick.core.planning.tonight import DONE_SOUNDS, MOST_THINGS, Going, minutes_of, things_for, try_s
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.gates import RungState
from laptick.core.practice.ladder.stages import Ladder, Stage

SCORE = demo_score("harbour-steps")
BARS = [measure.length_quarters for measure in SCORE.measures]
LADDER = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88, 0, len(BARS) - 1))


def going(key: int, idle: int | None, passed: int = 0, ladder: Ladder = LADDER) -> Going:
    states = {rung.key: RungState(passed_day=1, passed_by="the teacher") for rung in ladder.rungs[:passed]}
    return Going(key, BARS, ladder, states, {rung.key: 60 for rung in ladder.rungs}, idle)


def test_a_try_lasts_its_bars_as_often_as_they_go_round_with_a_bar_before():
    two_bars = next(rung for rung in LADDER.rungs if (rung.first, rung.last, rung.rounds) == (0, 1, 4))
    # 4 × 8 quarters and a bar of 4 at 60 quarters a minute: 36 s, and 4.5 s until the next.
    assert try_s(BARS, two_bars, 60) == pytest.approx(40.5)
    assert minutes_of(going(1, None), two_bars) == 2  # three tries: 121.5 s
    line = next(rung for rung in LADDER.rungs if (rung.first, rung.last, rung.stage) == (0, 3, Stage.RIGHT))
    # 16 quarters and 4 at 60: 20 s and 4.5; three tries: 73.5 s.
    assert minutes_of(going(1, None), line) == 1


def test_one_study_gives_its_next_three():
    things = things_for([going(1, 2)], 10, 30)
    assert [thing.rung.key for thing in things] == [rung.key for rung in LADDER.rungs[:3]]


def test_what_lay_longest_comes_first_and_each_study_before_a_second_of_one():
    things = things_for([going(1, 0), going(2, 5), going(3, None), going(4, 1)], 10, 60)
    assert [thing.study for thing in things] == [3, 2, 4]
    things = things_for([going(1, 0, passed=3), going(2, 5)], 10, 60)
    # The second of study 2 is next to its first: nobody changes pieces and back.
    assert [thing.study for thing in things] == [2, 2, 1]
    assert [thing.rung.key for thing in things[:2]] == [rung.key for rung in LADDER.rungs[:2]]


def test_what_does_not_fit_is_left_but_one_thing_there_is():
    long = going(1, 3, passed=len(LADDER.rungs) - 1)
    [only] = things_for([long], 10, 1)
    assert only.minutes > 1
    assert len(things_for([long, going(2, 2)], 10, only.minutes)) == 1
    assert len(things_for([long, going(2, 2)], 10, None)) == 3


def test_nothing_is_for_who_has_nothing_or_all_of_it():
    assert things_for([], 10, 10) == []
    assert things_for([going(1, 2, passed=len(LADDER.rungs))], 10, 10) == []


def test_every_stage_says_how_done_sounds():
    assert DONE_SOUNDS.keys() == set(Stage)


STUDIES = st.lists(st.tuples(st.none() | st.integers(0, 40), st.integers(0, len(LADDER.rungs))), max_size=5).map(
    lambda drawn: [going(key, idle, passed) for key, (idle, passed) in enumerate(drawn)]
)


@given(STUDIES, st.none() | st.integers(1, 90), st.integers(1, 60))
def test_at_most_three_within_the_minutes_each_once_and_open(studies, minutes, day):
    things = things_for(studies, day, minutes)
    assert len(things) <= MOST_THINGS
    assert len({(thing.study, thing.rung.key) for thing in things}) == len(things)
    assert bool(things) == any(one.states.keys() != {rung.key for rung in LADDER.rungs} for one in studies)
    if minutes is not None and len(things) > 1:
        # Beside the first, which there always is, all fit.
        first = max(things, key=lambda thing: thing.minutes)
        assert sum(thing.minutes for thing in things) <= max(minutes, first.minutes)
    for thing in things:
        own = next(one for one in studies if one.key == thing.study)
        assert thing.rung.key not in own.states
        assert isinstance(thing.minutes, int)
        assert thing.minutes >= 1
    at = [thing.study for thing in things]
    assert all(at[i] == at[i + 1] or at[i] not in at[i + 1 :] for i in range(len(at) - 1))


def test_lengths_are_exact():
    rung = LADDER.rungs[-1]
    assert try_s([Fraction(1, 3)] * len(BARS), rung, 60) > 0
