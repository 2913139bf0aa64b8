"""Quarters that are asked for over and over are fractions in all they do (Python's documentation of ``Fraction`` and of
hashing)."""

from __future__ import annotations

import copy
import pickle
from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from laptick.core.base.kept_quarters import KeptQuarters, keeper

quarters = st.fractions(min_value=-50, max_value=50, max_denominator=480)


@given(quarters, quarters)
def test_they_are_the_fractions_they_are_made_from(one, other):
    kept = KeptQuarters(one)
    assert (kept, hash(kept), float(kept), str(kept)) == (one, hash(one), float(one), str(one))
    assert (kept == other, kept < other, kept >= other) == (one == other, one < other, one >= other)
    assert (other == kept, KeptQuarters(other) == kept) == (one == other, one == other)
    assert (kept + other, other - kept, kept * other) == (one + other, other - one, one * other)
    assert {one: "found"}[kept] == "found"
    assert pickle.loads(pickle.dumps(kept)) == copy.deepcopy(kept) == one


def test_of_equal_quarters_one_object_is_kept():
    kept = keeper()
    assert kept(Fraction(1, 2)) is kept(Fraction(2, 4))
    assert kept(Fraction(1, 2)) is not kept(Fraction(1, 3))
    assert KeptQuarters(3, 6) == Fraction(1, 2)
    assert KeptQuarters(1) == 1
    assert KeptQuarters(1) != "1"
