"""Takes written by hand whose fault looks like another one: which name it is told by. Each figure is worked out here.

Common practice, no source; the deviations round each place are ``HAND_WRITTEN_MS`` (helpers.py), an ordinary player's.
"""

from __future__ import annotations

import pytest

from hand_written import found, keys, played
from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.effects.beyond import MARGINS
from laptick.core.effects.places import Kind
from laptick.core.effects.pooling import apart, ask
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand

#: One run of 24 eighths in bars 3 to 5; else quarters and halves.
ONE_LONG_RUN = score_of(
    "C5/q D5/q E5/q D5/q | E5/q D5/q C5/h | C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e"
    " | C5/e D5/e E5/e F5/e G5/e A5/e G5/e F5/e | E5/e F5/e G5/e F5/e E5/e D5/e C5/e B4/e"
    " | C5/q E5/q D5/q E5/q | F5/q E5/q D5/q E5/q | C5/w",
    " | ".join(["C3/q G3/q E3/q G3/q"] * 7 + ["C3/w"]),
)


class TestOneLongRun:
    def test_the_beat_hurries_along_with_it(self):
        """Each eighth 80 ms short of 500, 16 %, and the left hand goes along: the limit is 9 %."""
        task = keys(ONE_LONG_RUN)
        rushed = found(task, played(task, clock=lambda at: at - 0.16 * min(max(at - 8, 0.0), 12.0)))
        assert "rushed-run" in rushed
        assert rushed["rushed-run"] == pytest.approx(0.16, abs=0.03)

    def test_even_it_is_not_blamed(self):
        assert found(keys(ONE_LONG_RUN), played(keys(ONE_LONG_RUN))) == {}

    def test_a_short_one_by_itself_is_not_judged(self):
        """Of one run, 15 intervals are too few and 16 enough."""
        margins = MARGINS[Kind.RUN]
        assert ask(apart([2.0], [0.05], [15.0]), margins) is None
        answer = ask(apart([2.0], [0.05], [16.0]), margins)
        assert answer is not None
        assert answer.amount == 2.0


#: Sixteen bars of quarters over halves.
STEADY = score_of(
    " | ".join(["C5/q D5/q E5/q D5/q", "E5/q F5/q G5/q E5/q"] * 8),
    " | ".join(["C3/h G3/h", "E3/h G3/h"] * 8),
)


class TestASlopeThatLooksLikeAStep:
    @pytest.mark.parametrize("change", [0.12, -0.12])
    def test_it_is_told_with_its_whole_height(self, change):
        """The tempo changes by 12 % from the third quarter of the piece's sixteen bars to the last: the limit is 6 %.
        The best step, in the middle of it, has some half of that."""
        task = keys(STEADY)

        def clock(quarters: float) -> float:
            seconds, step = 0.0, 0.25
            for i in range(round(quarters / step)):
                along = min(1.0, max(0.0, (i * step - 12) / 40))
                seconds += step / (1 + change * along)
            return seconds

        moved = found(task, played(task, clock=clock))
        assert "drift" in moved
        assert not moved.keys() - {"drift", "off-tempo"}
        assert moved["drift"] == pytest.approx(abs(change), abs=0.035)


#: Where both hands strike, on 1 and 3, and where the right hand strikes alone.
TOGETHER = score_of(
    " | ".join(["C5/q D5/q E5/q D5/q", "E5/e D5/e C5/q G5/e F5/e E5/q"] * 6),
    " | ".join(["C3/h G3/h"] * 12),
)


def test_a_hand_that_is_late_where_both_strike_is_late_and_not_uneven():
    """The right hand 75 ms late on 1 and 3 and on time on 2 and 4: quarters of 1075 and 925 ms. The limit of hands
    apart is 45 ms at the elementary level."""
    task = keys(TOGETHER)
    late = found(task, played(task, moved=lambda e: 0.075 * (e.hand is Hand.RIGHT and e.onset_quarters % 2 == 0)))
    assert late.keys() == {"hands-apart"}
    assert late["hands-apart"] == pytest.approx(75, abs=12)


#: Eight intervals of eighths, eleven of quarters, five of halves in the right hand: few of each.
FEW_OF_EACH = score_of(
    "C5/q D5/q E5/h | E5/e D5/e C5/q D5/h | E5/q F5/q G5/q F5/q | E5/e D5/e C5/q C5/h | G5/q F5/q E5/h"
    " | E5/e F5/e G5/q E5/h | D5/q E5/q F5/q D5/q | E5/e D5/e C5/q C5/h",
    "C3/q G3/q E3/q G3/q | C3/h G3/h | E3/h G3/h | G3/q E3/q C3/h | C3/q G3/q E3/q G3/q | C3/h G3/h | D3/h G3/h"
    " | G3/q E3/q C3/h",
)

#: Centiseconds from the beat at every instant that is struck: drawn from a normal distribution with an SD of 14, twice
#: the limit of 7 % of a beat.
UNEVEN_CS = (
    (18, 20, 1, -11, -15, 0, -14, -20, 3, 2, 8, -13, 0, -1, -21, 8, 4, 25, 3, -2, 17, 3, 13, -5, 3, 14, 10, 2,
     -15, 6, 1, 10),
    (-17, 5, 14, -7, -19, -1, 7, 15, -17, -18, 10, 7, 21, 14, -1, -4, 25, -4, -11, -16, 1, 2, -5, -1, 4, 10,
     15, 3, -25, 10, -20, -2),
    (25, -16, 5, -4, -12, -8, -7, -1, 5, 14, 3, 15, 6, 1, -4, -14, -23, -2, -3, 4, 4, -18, -11, -16, 13, -2, 1,
     -13, -19, -9, -2, 5),
)  # fmt: skip


@pytest.mark.parametrize("late_cs", UNEVEN_CS)
def test_uneven_notes_of_many_lengths_are_told_where_none_is_many(late_cs):
    task = keys(FEW_OF_EACH)
    onsets = sorted({e.onset_quarters for e in task.expected})
    late_s = {onset: late / 100 for onset, late in zip(onsets, late_cs, strict=True)}
    assert set(found(task, played(task, moved=lambda e: late_s[e.onset_quarters]))) == {"uneven"}


def test_a_tempo_beyond_the_limit_by_gaps_and_pace_alike():
    """A ninth too slow throughout, 60 to 53⅓: the limit is 6 % at the elementary level."""
    task = keys(STEADY)
    slow = found(task, played(task, clock=lambda quarters: quarters * 1.125))
    assert slow.keys() == {"off-tempo"}
    assert slow["off-tempo"] == pytest.approx(1 / 9, abs=0.01)
    assert LIMITS[Level.ELEMENTARY].tempo_share < 1 / 9
