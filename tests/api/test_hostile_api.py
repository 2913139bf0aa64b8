"""The cheap ones of the hostile requests (``benchmarks/solid/hostile.py`` sends all, to a running application, and measures)."""

from __future__ import annotations

import pytest

from helpers import demo_bytes
from hostile import Hostile, hostile

#: Uploads of more than this are left to the benchmark.
SMALL_BYTES = 200_000

#: What is asked for, by the first word of a request's name.
KINDS = ("4,000", "a", "address", "an", "another", "bars", "number", "quarters", "score", "take", "words")


def kind_of(one: Hostile) -> str:
    return one.name.partition(":")[0].partition(" ")[0]


@pytest.fixture(scope="module")
def cheap() -> list[Hostile]:
    return [
        one
        for one in hostile()
        if sum(len(content) for _, content in one.files.values()) < SMALL_BYTES
        and "empty" not in one.name
        and "without end" not in one.name
        and "bomb" not in one.name
    ]


def test_there_are_many(cheap):
    assert len(cheap) > 120
    assert sorted({kind_of(one) for one in cheap}) == sorted(KINDS)


@pytest.mark.parametrize("kind", KINDS)
def test_each_is_answered_in_words(client, cheap, kind):
    piece = client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    asked = [one for one in cheap if kind_of(one) == kind]
    assert [one.name for one in asked if not _is_answered(client, one, piece)] == []


def _is_answered(client, one: Hostile, piece: int) -> bool:
    answer = client.request(one.method, one.path.replace("{piece}", str(piece)), **one.options())
    words = answer.status_code < 400 or answer.json()["error"]["what"]
    return answer.status_code in one.may and bool(words)
