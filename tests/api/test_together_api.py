"""The together map over the API: what a screen needs, computed from the stored piece."""

from __future__ import annotations

import pytest

from helpers import demo_bytes, demo_score
from laptick.core.score.score import HANDS
from laptick.core.together.events import events_of
from laptick.core.together.seams import seams_of
from laptick.core.together.shifts import shifts_of
from laptick.core.together.spans import OCTAVE


@pytest.fixture
def piece(client) -> int:
    files = {"file": ("harbour-steps.musicxml", demo_bytes("harbour-steps"))}
    return client.post("/api/pieces", files=files).json()["id"]


def test_it_says_what_core_works_out(client, piece):
    told = client.get(f"/api/pieces/{piece}/map").json()
    score = demo_score("harbour-steps")
    strikes = [event for bar in events_of(score) for event in bar.events]
    assert [event["letter"] for event in told["events"]] == [event.letter.value for event in strikes]
    assert sum(len(event["struck"]) for event in told["events"]) == sum(len(event.struck) for event in strikes)
    assert len(told["bars"]) == 8
    assert told["bars"][2]["same"] == "bar 1 again"
    assert len(told["seams"]) == len(seams_of(score, told["quarter_bpm"], OCTAVE))
    assert len(told["shifts"]) == sum(len(shifts_of(score, hand)) for hand in HANDS)
    assert [place["difficulty"] for place in told["hardest"]] == sorted(
        (place["difficulty"] for place in told["hardest"]), reverse=True
    )
    assert told["positions"][0] == {
        "hand": "right", "from_quarters": 0.0, "to_quarters": 15.0, "name": "C position", "moved": None,
    }  # fmt: skip


def test_a_smaller_hand_has_reaches_with_what_can_be_done(client):
    music = demo_bytes("harbour-steps")
    piece = client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", music)}).json()["id"]
    assert client.get(f"/api/pieces/{piece}/map", params={"span": 8}).json()["reaches"] == []
    change = {"kind": "add", "at": {"measure": "1", "offset": "0"}, "hand": "right", "pitch": "C6"} | {
        "length_quarters": "1"
    }
    answer = client.post(f"/api/pieces/{piece}/pencil", json={"version": None, "change": change})
    assert answer.status_code < 300, answer.text
    small = client.get(f"/api/pieces/{piece}/map", params={"span": 5}).json()
    assert small["span"] == 5
    reach = small["reaches"][0]
    assert (reach["hand"], reach["onset_quarters"], reach["steps"]) == ("right", 0.0, 7)
    assert reach["choices"][0] == "roll it"


@pytest.mark.parametrize("span", [4, 11, "wide"])
def test_a_span_that_no_hand_has_is_refused(client, piece, span):
    answer = client.get(f"/api/pieces/{piece}/map", params={"span": span})
    assert answer.status_code == 422
    assert answer.json()["error"]["what"]


def test_no_such_piece(client):
    assert client.get("/api/pieces/999/map").status_code == 404
