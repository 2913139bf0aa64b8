"""Students who err where it is hard and get better with practice climb to the end through the real checker; one who
cannot is led to smaller pieces, has no more than six tries a day at any rung, and comes to the end of her day."""

from __future__ import annotations

import pytest
from climbing import Student

from helpers import demo_score
from laptick.core.base.levels import Level
from laptick.core.counting.counting import default_bpm
from laptick.core.practice.ladder.gates import TRIES_A_DAY


def student(name: str, level: Level, **how) -> Student:
    score = demo_score(name)
    return Student(score, level, default_bpm(score) or 60.0, **how)


@pytest.mark.parametrize(
    ("name", "level"), [("harbour-steps", Level.FIRST_YEAR), ("copper-kettle-parade", Level.INTERMEDIATE)]
)
def test_who_gets_better_climbs_to_the_end(name, level):
    climber = student(name, level, talent=0.5, seed=1)
    climb = climber.go()
    assert climb.is_done, climb
    assert climb.takes <= 90
    assert 2 <= climb.days <= 6  # the tempo is to be clean on two days
    assert max(climb.tries_a_day.values()) <= TRIES_A_DAY
    last = next(rung for rung in climber.ladder.rungs if rung.stage.value == "tempo")
    assert climb.tempos[last.key] >= climber.target - 2


def test_who_cannot_pass_comes_to_the_end_of_every_day():
    climber = student("harbour-steps", Level.FIRST_YEAR, talent=0.0, seed=2)
    climber.hard = [1.0] * len(climber.hard)  # she stops before every bar
    climb = climber.go(most_days=2)
    assert not climb.is_done
    assert climb.ends == ["enough for today"] * 2
    assert max(climb.tries_a_day.values()) <= TRIES_A_DAY
    tried = {key for _, key in climb.tries_a_day}
    assert "join:1-1:both" in tried  # a single bar is the smallest piece there is
    assert climb.takes <= TRIES_A_DAY * len(climber.ladder.rungs) * 2
