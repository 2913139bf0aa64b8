"""The cheap ones of the hostile requests (``benchmarks/solid/hostile.py`` sends all, to a running application, and measures)."""

from __future__ import annotations

import pytest

from helpers import demo_bytes
from hostile import Hostile, hostile

#: Uploads of more than this are left to the benchmark.
SMALL_BYTES = 200_000

CHEAP = [
    one
    for one in hostile()
    if sum(len(content) for _, content in one.files.values()) < SMALL_BYTES
    and "empty" not in one.name
    and "without end" not in one.name
    and "bomb" not in one.name
]


def test_there_are_many():
    assert len(CHEAP) > 120


@pytest.mark.parametrize("kind", sorted({one.name.partition(":")[0].partition(" ")[0] for one in CHEAP}))
def test_each_is_answered_in_words(client, kind):
    piece = client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    wrong = []
    for one in CHEAP:
        if one.name.partition(":")[0].partition(" ")[0] == kind and not _is_answered(client, one, piece):
            wrong.append(one.name)
    assert wrong == []


def _is_answered(client, one: Hostile, piece: int) -> bool:
    answer = client.request(one.method, one.path.replace("{piece}", str(piece)), **one.options())
    words = answer.status_code < 400 or answer.json()["error"]["what"]
    return answer.status_code in one.may and bool(words)
