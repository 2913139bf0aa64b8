"""Mutated files give a score, a verdict or one of our own errors. The long runs are benchmarks/fuzz_scores.py and
fuzz_takes.py."""

from __future__ import annotations

import sys
from pathlib import Path

import pytest

from sampling import sampled

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "benchmarks"))
import fuzz_scores
import fuzz_takes


def test_mutated_scores_give_an_answer_or_one_of_our_errors():
    outcomes = fuzz_scores.run(400, 7)
    assert outcomes["read"] > 20
    assert outcomes["refused: ScoreError"] > 200


def test_mutated_takes_give_a_verdict_or_one_of_our_errors():
    outcomes = [fuzz_takes.run(seed) for seed in range(30_000, 30_000 + sampled(20, 60))]
    broken = [outcome for outcome, _, _ in outcomes if "seed" in outcome]
    assert broken == []
    assert {"refused", "could-not-follow"} <= {outcome for outcome, _, _ in outcomes}


@pytest.mark.parametrize("seed", [711, 2145, 11171, 15828])
def test_takes_that_once_broke_it(seed):
    """Many strikes at the very same moment: no interval and no rate to divide by."""
    outcome, _, _ = fuzz_takes.run(seed)
    assert outcome in {"could-not-follow", "not-yet", "nearly", "steady", "refused"}
