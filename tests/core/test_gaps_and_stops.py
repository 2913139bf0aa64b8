"""Two strikes at one time have no tempo, and one late strike stops nothing. Figures worked by hand; common practice, no
source."""

from __future__ import annotations

from helpers import played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.judging.findings import look_at
from laptick.core.judging.tempo_findings import _gaps
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.takes.task import lap_task

TASK = lap_task(score_of(" | ".join(["C5/q C5/q C5/q C5/q"] * 8)), assigned_bpm=60)


def test_two_strikes_at_one_time_are_no_gap():
    # Strike 9 comes a whole beat early, at the moment of strike 8 (less what was written down for both).
    exact = played_by_hand(TASK, scale=0.0, shifts_ms={9: -1000.0})
    measured = check_take(TASK, exact).measured
    assert measured is not None
    assert all(rate > 0 for rate, _ in _gaps(measured, TASK.paces))
    look_at(check_take(TASK, exact), LIMITS[Level.ELEMENTARY])


def test_one_late_strike_is_no_stop_and_a_beat_that_waits_is():
    late = played_by_hand(TASK, shifts_ms={12: 500.0})
    waits = played_by_hand(TASK, shifts_ms=dict.fromkeys(range(12, 32), 500.0))
    codes = [
        {str(finding.code) for finding in look_at(check_take(TASK, take), LIMITS[Level.ELEMENTARY])[0]}
        for take in (late, waits)
    ]
    assert "hesitation" not in codes[0]
    assert "hesitation" in codes[1]
