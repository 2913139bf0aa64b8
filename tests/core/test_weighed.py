"""What is kept by weight: the last things, made once, never more than is allowed."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.base.weighed import Weighed


def test_the_last_used_stay():
    kept: Weighed[str, str] = Weighed(6, len)
    for key in ("aaa", "bbb", "aaa", "ccc"):
        kept.of(key, lambda key=key: key)
    assert (len(kept), kept.weight) == (2, 6)
    made = []
    for key in ("aaa", "ccc", "bbb"):
        kept.of(key, lambda key=key: made.append(key) or key)
    assert made == ["bbb"]


def test_one_that_is_too_heavy_is_kept_alone():
    kept: Weighed[str, str] = Weighed(6, len)
    kept.of("a", lambda: "a")
    assert kept.of("b", lambda: "b" * 10) == "b" * 10
    assert (len(kept), kept.weight) == (1, 10)
    kept.of("c", lambda: "c")
    assert (len(kept), kept.weight) == (1, 1)


def test_asked_for_by_many_at_once_it_is_made_once():
    kept: Weighed[str, int] = Weighed(6, lambda _: 1)
    made, together = [], threading.Barrier(8)

    def make() -> int:
        made.append(1)
        return 7

    def ask(_: int) -> int:
        together.wait()
        return kept.of("a", make)

    with ThreadPoolExecutor(8) as eight:
        assert list(eight.map(ask, range(8))) == [7] * 8
    assert len(made) == 1


def test_what_cannot_be_made_is_tried_again():
    kept: Weighed[str, int] = Weighed(6, lambda _: 1)
    for _ in range(2):
        with pytest.raises(ZeroDivisionError):
            kept.of("a", lambda: 1 // 0)
    assert kept.of("a", lambda: 3) == 3


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 12)), max_size=60), st.integers(1, 20))
def test_never_heavier_than_allowed_but_for_one(asked, most):
    kept: Weighed[int, int] = Weighed(most, lambda weight: weight)
    weights: dict[int, int] = {}
    for key, weight in asked:
        value = kept.of(key, lambda weight=weight: weight)
        weights[key] = value
        assert kept.weight <= most or len(kept) == 1
