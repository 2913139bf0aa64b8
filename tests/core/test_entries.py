"""Rests as played: entries after them and sound that runs on, by hand-worked takes; late entries planted and found."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import DEMO, demo_score, played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.counting.counting import default_bpm
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from sampling import sampled

#: The right hand rests on 2 of every bar; the left never.
RESTS = score_of(
    "C5/q r/q D5/q E5/q | C5/q r/q D5/h | E5/q r/q F5/e G5/e A5/q | C5/q r/q D5/q E5/q | G5/q r/q F5/q E5/q | C5/w",
    "C3/q D3/q E3/q F3/q | C3/q D3/q E3/q F3/q | C3/q D3/q E3/q F3/q | C3/q D3/q E3/q F3/q | C3/q D3/q E3/q F3/q | C3/w",
)


def entries(score, take, **task):
    measured = check_take(lap_task(score, **task), take).measured
    assert measured is not None
    return measured.entries


class TestByHand:
    def test_where_they_are(self):
        task = lap_task(RESTS, assigned_bpm=60)
        found = entries(RESTS, played_by_hand(task, scale=0), assigned_bpm=60)
        assert [(e.hand, e.rest_quarters, e.onset_quarters) for e in found] == [
            (Hand.RIGHT, 4 * bar + 1, 4 * bar + 2) for bar in range(5)
        ]
        assert [e.entry_ms for e in found] == pytest.approx([0] * 5, abs=1e-6)
        assert all(e.ran_over_ms is None for e in found)  # taps have no key-up

    def test_how_late(self):
        """The right hand alone 90 ms late on every 3; the left hand, on the beat, keeps the beat where it is."""
        task = lap_task(RESTS, assigned_bpm=60)
        late = {
            i: 90.0
            for i, e in enumerate(task.expected)
            if e.hand is Hand.RIGHT and e.onset_quarters % 4 == 2 and e.onset_quarters < 20
        }
        found = entries(RESTS, played_by_hand(task, scale=0, shifts_ms=late), assigned_bpm=60)
        # Both hands strike on 3: the fitted beat lies on their mean, so half of it at most is taken up there.
        assert all(60 < e.entry_ms <= 90.5 for e in found)

    def test_sound_that_runs_on(self):
        """MIDI keys let go half a beat into each rest: 500 ms too long; one let go in time: 0."""
        task = lap_task(RESTS, assigned_bpm=60, with_pitches=True)
        take = played_by_hand(task, scale=0, source=Source.MIDI)
        start = take.strikes[0].played_s
        held = []
        for strike in take.strikes:
            beat = round(strike.played_s - start)
            own = 1.5 if strike.pitch >= 72 and beat % 4 == 0 and beat != 8 else 1.0
            held.append(replace(strike, released_s=strike.played_s + own))
        found = entries(RESTS, replace(take, strikes=tuple(held)), assigned_bpm=60, with_pitches=True)
        assert [e.ran_over_ms for e in found] == pytest.approx([500, 500, 0, 500, 500], abs=1)

    def test_a_stop_in_the_rest_is_a_stop(self):
        task = lap_task(RESTS, assigned_bpm=60)
        take = played_by_hand(task, scale=0)
        begin = take.strikes[0].played_s + 5.5
        late = tuple(replace(s, played_s=s.played_s + (2 if s.played_s > begin else 0)) for s in take.strikes)
        assert len(entries(RESTS, replace(take, strikes=late), assigned_bpm=60)) == 4


class TestFindings:
    @staticmethod
    def findings(score, level, seed, *faults, bpm=60.0):
        task = lap_task(score, assigned_bpm=bpm)
        checked = check_take(task, simulate(task, level=level, seed=seed, faults=[parse_fault(f) for f in faults]))
        return checked, find_findings(checked, LIMITS[level])

    @pytest.mark.parametrize(
        ("level", "late_ms"), [(Level.FIRST_YEAR, 260), (Level.ELEMENTARY, 200), (Level.ADVANCED, 120)]
    )
    def test_late_entries_are_named_with_their_cure(self, level, late_ms):
        named = 0
        for seed in range(20):
            checked, found = self.findings(RESTS, level, seed, f"late-after-rest={late_ms}")
            if "late-entry" in {f.code for f in found}:
                named += 1
                alone = give_verdict(checked, [f for f in found if f.code == "late-entry"])
                assert "late after rests" in alone.main.text
                assert "say the rest aloud" in alone.cure.text
        assert named >= 18

    @pytest.mark.parametrize("level", list(Level))
    def test_clean_takes_are_left_alone(self, level):
        for score in (RESTS, *(demo_score(name) for name in DEMO)):
            for seed in range(sampled(8, 25)):
                _, found = self.findings(score, level, seed, bpm=0.8 * (default_bpm(score) or 72))
                assert "late-entry" not in {f.code for f in found}

    def test_two_entries_are_too_few(self):
        two = score_of(
            "C5/q r/q D5/h | C5/q r/q D5/h | C5/h D5/h", "C3/q D3/q E3/q F3/q | " * 2 + "C3/q D3/q E3/q F3/q"
        )
        for seed in range(10):
            _, found = self.findings(two, Level.ADVANCED, seed, "late-after-rest=200")
            assert "late-entry" not in {f.code for f in found}

    def test_only_entries_move(self):
        task = lap_task(RESTS, assigned_bpm=60)
        plain, late = simulate(task, seed=2), simulate(task, seed=2, faults=[parse_fault("late-after-rest=50")])
        for hand, entering in ((Hand.RIGHT, 5), (Hand.LEFT, 0)):
            moved = [b - a for a, b in zip(_times(plain, hand), _times(late, hand), strict=True) if b != a]
            assert moved == pytest.approx([0.05] * entering)


def _times(take, hand):
    return sorted(s.played_s for s in take.strikes if s.hand is hand)
