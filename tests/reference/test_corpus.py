"""A sample of twenty scores that nobody here wrote, through everything (the whole: ``benchmarks/corpus.py``)."""

from __future__ import annotations

import pytest

from corpus import files, name_of, opened, outcome_of, spread

#: Packed files of more bytes are whole quartets.
LARGE = 40_000
SAMPLE = spread([path for path in files() if path.suffix != ".mxl" or path.stat().st_size < LARGE], 20)


@pytest.mark.parametrize("path", SAMPLE, ids=name_of)
def test_a_score_that_nobody_here_wrote(path):
    outcome = outcome_of(path)
    assert outcome.faults == ()
    assert outcome.blamed == ()


def test_the_sample_holds_what_is_read_and_what_is_refused_with_a_reason():
    assert len(files()) >= 150
    refused = [why for why in map(opened, SAMPLE) if isinstance(why, str)]
    assert len(refused) <= 4
    assert all(len(why) > 20 for why in refused)
