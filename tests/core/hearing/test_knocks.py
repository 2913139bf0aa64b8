"""Knocks on lap or lid: bursts of noise at known times. How well faults are told by them is measured by
``benchmarks.hearing.knocks``."""

from __future__ import annotations

from collections import Counter

import numpy as np
import pytest

from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.hearing.sound import RATE, Sound
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.telling import tell
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import lap_task

SCORE = score_of(
    "C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q | E5/e F5/e G5/q E5/q C5/q | D5/q B4/q C5/h",
    "C3/h G3/h | E3/h G3/h | C3/h E3/h | G3/h C3/h",
)
LAP = lap_task(SCORE, assigned_bpm=80)


def knocked(times: list[float], seed: int = 2) -> Performance:
    rng = np.random.default_rng(seed)
    total = 1e-4 * rng.normal(size=15 * RATE)
    at = np.arange(int(0.04 * RATE)) / RATE
    for at_s in times:
        begin = round(at_s * RATE)
        total[begin : begin + len(at)] += 0.3 * rng.normal(size=len(at)) * np.exp(-at / 0.008)
    return hear_take(Sound(total.astype(np.float32), RATE), LAP, rate=44_100)


def test_where_few_are_asked_for_noise_between_them_is_no_knock():
    """Four half notes of one hand, and twice as many faint rises between them; and a door that slams is not the measure
    of all."""
    few = lap_task(SCORE, assigned_bpm=40, measures=SCORE.select_measures("1-2"), hands=(Hand.LEFT,))
    rng = np.random.default_rng(3)
    total = 1e-4 * rng.normal(size=18 * RATE)
    at = np.arange(int(0.04 * RATE)) / RATE
    due = [1.0 + 3.0 * number for number in range(4)]
    for loud, times in ((0.3, due), (0.0012, [d + by for d in due for by in (0.7, 1.1, 2.3)]), (3.0, [16.0])):
        for at_s in times:
            begin = round(at_s * RATE)
            total[begin : begin + len(at)] += loud * rng.normal(size=len(at)) * np.exp(-at / 0.008)
    take = hear_take(Sound(total.astype(np.float32), RATE), few, rate=44_100)
    assert [strike.played_s for strike in take.strikes[:4]] == pytest.approx(due, abs=0.02)
    assert len(take.strikes) <= 5


def hands_at() -> dict[float, int]:
    """When the lap is to be struck, by how many hands."""
    return Counter(1.0 + float(one.onset_quarters) * 0.75 for one in LAP.expected)


def test_knocks_are_taken_in_the_order_of_the_score():
    take = knocked(sorted(hands_at()))
    assert not take.knows.pitch
    checked = check_take(LAP, take)
    assert checked.followed
    assert not checked.matching.missing
    assert not checked.matching.extra
    assert checked.measured is not None
    assert not checked.measured.asynchronies  # one knock for both hands tells nothing of how far apart they are


@pytest.mark.parametrize("apart_s", [0.06, 0.08, 0.09])
def test_two_knocks_where_both_hands_are_asked_for_are_one_of_either(apart_s):
    """Of which hand is not to be heard: both stand midway, and nothing is told of how far apart they are."""
    times = [
        at_s + side * apart_s / 2 for at_s, hands in hands_at().items() for side in ((-1, 1) if hands > 1 else (0,))
    ]
    checked = check_take(LAP, knocked(times))
    assert checked.followed
    assert not checked.matching.missing
    assert not checked.matching.extra
    assert checked.measured is not None
    assert not checked.measured.asynchronies
    for at_s, hands in hands_at().items():
        near = [one for one in checked.performance.strikes if abs(one.played_s - at_s) < 0.012]
        assert len(near) == hands
    withheld = {
        one.what: one.why for one in tell(judge_take(LAP, checked.performance, LIMITS[Level.ELEMENTARY])).withheld
    }
    assert "whose it is" in withheld["together"]
    assert "passes for both" in withheld["missing"]


def test_a_knock_too_many_is_no_second_hand():
    """Far from what is asked for, or where one hand is."""
    both = next(at_s for at_s, hands in hands_at().items() if hands > 1)
    alone = next(at_s for at_s, hands in hands_at().items() if hands == 1)
    for more_s in (both + 0.19, alone + 0.09):
        assert len(check_take(LAP, knocked(sorted([*hands_at(), more_s]))).matching.extra) == 1


LATE_S = 0.22


@pytest.mark.parametrize("late_s", [0.12, 0.22])
@pytest.mark.parametrize("late", [Hand.RIGHT, Hand.LEFT])
def test_of_hands_that_are_apart_again_and_again_the_one_that_goes_on_sooner_is_late(late, late_s):
    """Here the right hand: it has the quarters. That it is late is not to be heard, whichever it was."""
    times = [
        1.0 + float(one.onset_quarters) * 0.75 + (late_s if at_both(one.onset_quarters) and one.hand is late else 0.0)
        for one in LAP.expected
    ]
    checked = check_take(LAP, knocked(sorted(set(times))))
    assert checked.followed
    assert not checked.matching.missing
    assert not checked.matching.extra
    last = max(one.onset_quarters for one in LAP.expected)
    for match in checked.matching.matches:
        one, strike = LAP.expected[match.expected_index], checked.performance.strikes[match.strike_index]
        away_s = strike.played_s - 1.0 - float(one.onset_quarters) * 0.75
        if not at_both(one.onset_quarters):
            wanted_s = 0.0
        elif one.onset_quarters == last:
            wanted_s = late_s / 2  # neither goes on
        else:
            wanted_s = late_s if one.hand is Hand.RIGHT else 0.0
        assert away_s == pytest.approx(wanted_s, abs=0.015)


def at_both(onset_quarters) -> bool:
    return sum(one.onset_quarters == onset_quarters for one in LAP.expected) > 1


def test_a_hand_that_is_late_now_and_then_is_a_knock_too_many():
    """Three times are not again and again."""
    both = [at_s for at_s, hands in hands_at().items() if hands > 1]
    times = sorted([*hands_at(), *(at_s + LATE_S for at_s in both[1:4])])
    assert len(check_take(LAP, knocked(times)).matching.extra) == 3


def test_knocks_among_many_too_many_are_nobodys():
    """A few of them fall after places of both hands, but most of them do not."""
    both = [at_s for at_s, hands in hands_at().items() if hands > 1]
    alone = [at_s for at_s, hands in hands_at().items() if hands == 1]
    more = [*(at_s + LATE_S for at_s in both[1:5]), *(at_s + 0.3 for at_s in alone[:4])]
    assert len(check_take(LAP, knocked(sorted([*hands_at(), *more]))).matching.extra) == len(more)
