"""A sample of twenty scores that nobody here wrote, through everything (the whole: ``benchmarks/corpus.py``)."""

from __future__ import annotations

import pytest

from corpus import files, name_of, outcome_of, spread

SAMPLE = spread(files(), 20)


@pytest.mark.parametrize("path", SAMPLE, ids=name_of)
def test_a_score_that_nobody_here_wrote(path):
    outcome = outcome_of(path)
    assert outcome.faults == ()
    assert outcome.blamed == ()


def test_the_sample_holds_what_is_read_and_what_is_refused_with_a_reason():
    assert len(files()) >= 150
    refused = [one for one in map(outcome_of, SAMPLE) if one.refused]
    assert len(refused) <= 4
    assert all(len(one.refused) > 20 for one in refused)
