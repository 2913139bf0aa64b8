"""How hard bars are to join, beside two published measures of how complex they are, worked out by amads from the same
notes: neither measures joining, and neither is part of the model, but what is complex is seldom easy.

Weighted note-to-beat distance of each hand's rhythm: Gómez, Melvin, Rappaport & Toussaint, “Mathematical measures of
syncopation”, BRIDGES 2005. Entropy of the keys in bits: Shannon, Bell System Technical Journal 27, 1948, a feature of
how hard piano music is in Chiu & Chen, IEEE International Symposium on Multimedia 2012 (from memory). The scores are
those for two hands on two staves in music21's corpus; docs/difficulty.md reports the figures.
"""

from __future__ import annotations

import warnings
from collections import Counter
from collections.abc import Sequence
from fractions import Fraction

import numpy as np
import pytest
from scipy.stats import spearmanr

from corpus import files
from laptick.core.score.score import HANDS, Measure, Note
from laptick.core.together.difficulty import bar_difficulties
from laptick.formats.score_files import open_score

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from amads.algorithms.entropy import entropy
    from amads.time.meter.syncopation import SyncopationMetric

SCORES = ("maple_leaf_rag", "polonaise_op1n1", "polonaise_op1n2", "polonaise_op1n3", "polonaise_op1n4")


def syncopation(measure: Measure, notes: Sequence[Note]) -> float:
    """Of both hands, each by itself."""
    beat, found = measure.meter.beat_quarters, 0.0
    for hand in HANDS:
        onsets = sorted({(n.onset_quarters - measure.start_quarters) / beat for n in notes if n.hand is hand})
        length = Fraction(measure.length_quarters / beat)
        if onsets:
            found += float(SyncopationMetric().weighted_note_to_beat_distance(onsets, cycle_length=length))
    return found


def surprise(notes: Sequence[Note]) -> float:
    pitches = Counter(note.pitch for note in notes)
    return float(entropy(list(pitches.values()), in_bits=True))


@pytest.fixture(scope="module")
def bars() -> dict[str, np.ndarray]:
    """Of every bar in which something is struck: our points, each measure, and its strikes."""
    found: dict[str, list[float]] = {"points": [], "syncopation": [], "surprise": [], "strikes": []}
    for path in files():
        if path.stem not in SCORES:
            continue
        score = open_score(path.read_bytes(), filename=path.name).score
        for measure, bar in zip(score.measures, bar_difficulties(score), strict=True):
            if notes := [note for note in score.notes_of_measure(measure.index) if note.is_strike]:
                found["points"].append(bar.points_alone)
                found["syncopation"].append(syncopation(measure, notes))
                found["surprise"].append(surprise(notes))
                found["strikes"].append(len(notes))
    return {name: np.array(values) for name, values in found.items()}


@pytest.mark.parametrize(("measure", "least"), [("syncopation", 0.45), ("surprise", 0.4)])
def test_rank_correlation_with_a_published_measure(bars, measure, least):
    assert len(bars["points"]) == 245
    rho = spearmanr(bars["points"], bars[measure]).statistic
    # A count of the strikes goes along with the points far less.
    assert rho > least
    assert rho > spearmanr(bars["points"], bars["strikes"]).statistic + 0.1
