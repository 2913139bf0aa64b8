"""A simulated student who errs by seam difficulty stops where the map says: the rule (the hardest always, others by
chance) is the student's, what is heard is the checker's, and neither is told what the other does.

Common practice, no source; the pieces are the demo's.
"""

from __future__ import annotations

from collections import Counter

import pytest
from scipy.stats import spearmanr

from helpers import demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.core.together.seams import seams_of

TAKES = 40


def seams(score):
    """(bar by index, offset) → points, each place once."""
    found = {}
    for seam in seams_of(score):
        at = (seam.to.measure_index, seam.to.offset_quarters)
        found[at] = max(found.get(at, 0.0), seam.points)
    return found


@pytest.mark.parametrize("name", ["lantern-boat", "five-stones", "kite-over-the-orchard", "harbour-steps"])
def test_stops_where_the_map_says(name):
    score = demo_score(name)
    points = {at: value for at, value in seams(score).items() if at != (0, 0)}
    task = lap_task(score, assigned_bpm=66, with_pitches=True)
    index, offset = max(points, key=points.get)
    hardest = (score.measures[index].number, offset)
    heard: Counter[object] = Counter()
    worst = 0
    for seed in range(TAKES):
        take = simulate(task, seed=seed, faults=[parse_fault("stop-at-seams=2")], source=Source.MIDI)
        checked = check_take(task, take)
        assert checked.followed
        stops = [(s.expected.measure_index, s.expected.offset_quarters) for s in checked.measured.hesitations]
        heard.update(stops)
        told = [f.place for f in find_findings(checked, LIMITS[Level.ELEMENTARY]) if f.code == "hesitation"]
        worst += hardest in [(place.measure, place.offset_quarters) for place in told]
    assert set(heard) <= set(points)  # nowhere but at seams
    assert worst >= 0.95 * TAKES
    # The harder, the oftener: over all seams of the piece.
    assert spearmanr([points[at] for at in points], [heard[at] for at in points]).statistic > 0.8


def test_a_piece_without_seams_has_no_stop_to_play():
    with pytest.raises(OptionError, match="no seam"):
        simulate(
            lap_task(score_of("C5/q C5/q C5/q C5/q", ""), assigned_bpm=60), faults=[parse_fault("stop-at-seams=1")]
        )
