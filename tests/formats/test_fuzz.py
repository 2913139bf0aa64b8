"""Mutated files give a score or one of our own errors. The long run is benchmarks/fuzz_scores.py."""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parents[2] / "benchmarks"))
import fuzz_scores


def test_mutated_scores_give_an_answer_or_one_of_our_errors():
    outcomes = fuzz_scores.run(400, 7)
    assert outcomes["read"] > 20
    assert outcomes["refused: ScoreError"] > 200
