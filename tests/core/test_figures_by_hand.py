"""More takes written by hand: dotted pairs as triplets, runs that hurry and wait, one hand so far ahead that only its
own order tells which strike is which, trills, entries that are late half the time. Each figure is worked out here.

Common practice, no source.
"""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from hand_written import found, keys, played
from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.following.matching import match
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task

#: A dotted pair in every second bar, six in all; quarters besides.
DOTTED = score_of(" | ".join(["C5/e. D5/s E5/q F5/q E5/q", "C5/q D5/q E5/q F5/q"] * 6), " | ".join(["C3/h G3/h"] * 12))


class TestDottedPairs:
    @pytest.mark.parametrize("level", list(Level))
    def test_two_to_one_six_of_six(self, level):
        """Three quarters of a beat and one, played two thirds and one third: the second strike 1/12 beat early, which is
        all the way to 2:1 (its limit is half of it)."""
        task = keys(DOTTED, 72)
        early_s = task.quarter_s / 12
        take = played(task, moved=lambda e: -early_s * (e.onset_quarters % 8 == F(3, 4)))
        assert found(task, take, level) == {"dot-flattened": pytest.approx(1.0, abs=0.3)}

    @pytest.mark.parametrize("level", list(Level))
    def test_three_to_one_is_no_fault(self, level):
        task = keys(DOTTED, 72)
        assert found(task, played(task), level) == {}


#: A beat of sixteenths in every bar, and the quarter after it.
FOURS = score_of(" | ".join(["C5/s D5/s E5/s F5/s G5/q E5/h"] * 12), " | ".join(["C3/q G3/q E3/q G3/q"] * 12))


class TestRunsThatHurryAndWait:
    def test_are_rushed_and_wait_and_do_not_limp(self):
        """Of 250 ms each: 190, 195, 197.5 and then 417.5 until the beat (0.76, 0.78, 0.79 and 1.67)."""
        task = keys(FOURS, 60)
        early = {F(1, 4): 0.060, F(1, 2): 0.115, F(3, 4): 0.1675}
        take = played(task, moved=lambda e: -early.get(e.onset_quarters % 4, 0.0) * (e.hand is Hand.RIGHT))
        findings = find_findings(check_take(task, take), LIMITS[Level.ELEMENTARY])
        assert [str(f.code) for f in findings] == ["rushed-run"]
        assert findings[0].waits
        assert findings[0].amount == pytest.approx(0.22, abs=0.05)


#: Sixteenths in the right hand for four beats, four times, over quarters; a bar of quarters after each.
LONG = score_of(
    " | ".join(["C5/s D5/s E5/s F5/s " * 3 + "G5/s F5/s E5/s D5/s", "C5/q E5/q G5/q E5/q"] * 4),
    " | ".join(["C3/q G3/q E3/q G3/q"] * 8),
)


def one_hand_ahead(task: Task, share: float, source: Source) -> Performance:
    """The right hand so much too fast inside its sixteenths, its landing with it, and back at the next quarter."""
    strikes = []
    for index, e in enumerate(task.expected):
        inside = float(e.onset_quarters % 8)
        early = share * inside * task.quarter_s if e.hand is Hand.RIGHT and inside <= 4 else 0.0
        on_s = 2 + float(e.onset_quarters) * task.quarter_s - early + (-0.004, 0.003, 0.0, 0.005)[index % 4]
        is_taps = source is Source.TAPS
        strikes.append(Strike(on_s, e.hand) if is_taps else Strike(on_s, None, e.pitch, 64, on_s + 0.1))
    ordered = tuple(sorted(strikes, key=lambda s: s.played_s))
    return Performance(source, ordered, *((2.0, task.assigned_bpm) if source is Source.TAPS else ()))


@pytest.mark.parametrize("source", [Source.MIDI, Source.TAPS])
@pytest.mark.parametrize("share", [0.3, 0.4])
class TestOneHandFarAhead:
    """At 102 beats a minute, sixteenths of 147 ms, of which 28 ms are 19 % (and with what taps leave open 24 %): it lands
    1.2 or 1.6 beats before the left hand, whose strikes it overtakes."""

    def take(self, share: float, source: Source) -> tuple[Task, Performance]:
        task = lap_task(LONG, assigned_bpm=102, with_pitches=source is Source.MIDI)
        return task, one_hand_ahead(task, share, source)

    def test_every_strike_is_that_one(self, share, source):
        task, take = self.take(share, source)
        matching = match(task, take)
        assert (matching.missing, matching.extra, matching.restarts) == ((), (), ())
        for hand in (Hand.RIGHT, Hand.LEFT):
            own = [m.strike_index for m in matching.matches if task.expected[m.expected_index].hand is hand]
            assert own == sorted(own)

    def test_that_is_told_and_no_slips(self, share, source):
        task, take = self.take(share, source)
        codes = {str(f.code) for f in find_findings(check_take(task, take), LIMITS[Level.INTERMEDIATE])}
        assert "rushed-run" in codes
        assert not codes & {"missing", "extra", "restart", "limping", "hands-apart"}


def test_a_tap_left_out_and_another_too_many_stay_that():
    """Equal counts alone do not make taps the written ones: every tap too many leaves a gap far too short."""
    task = lap_task(LONG, assigned_bpm=80)
    taps = [Strike(2 + float(e.onset_quarters) * task.quarter_s, e.hand) for e in task.expected]
    left = [i for i, strike in enumerate(taps) if strike.hand is Hand.LEFT]
    out = {left[n] for n in (5, 12, 19, 26)}
    more = [Strike(taps[left[n]].played_s + task.quarter_s / 2, Hand.LEFT) for n in (8, 15, 22, 29)]
    strikes = sorted([*(s for i, s in enumerate(taps) if i not in out), *more], key=lambda s: s.played_s)
    matching = match(task, Performance(Source.TAPS, tuple(strikes), 2.0, 80))
    assert set(matching.missing) == out
    assert len(matching.extra) == 4


#: Both hands rest on 3 and come in on 4.
RESTING = score_of(" | ".join(["C5/q D5/q r/q E5/q"] * 16), " | ".join(["C3/q G3/q r/q E3/q"] * 16))


class TestEntriesLateHalfTheTime:
    def test_one_hand_s_are_told_as_that(self):
        """The left hand 160 ms late in every second bar; 70 ms of a beat of a second are its limit."""
        task = keys(RESTING, 60)

        def late(e) -> float:
            return 0.16 * (e.hand is Hand.LEFT and e.onset_quarters % 8 == 7)

        told = found(task, played(task, moved=late))
        assert set(told) == {"late-entry"}
        assert told["late-entry"] == pytest.approx(160, abs=40)

    def test_both_hands_of_one_moment_are_one_place(self):
        """Twice in sixteen bars both are 160 ms late: two moments are no habit, though four strikes are late."""
        task = keys(RESTING, 60)
        assert found(task, played(task, moved=lambda e: 0.16 * (e.onset_quarters in (19, 43)))) == {}
