"""Typed passages through the API: begun empty, stored while unfinished, used like any other score."""

from __future__ import annotations

import pytest

from laptick.formats.musicxml.file import read_musicxml

NEW = {"title": "A Little Waltz", "beats": 3, "beat_type": 4, "bpm": 96, "bars": [{}, {}]}


@pytest.fixture
def piece(client) -> int:
    answer = client.post("/api/entries", json=NEW)
    assert answer.status_code == 201, answer.json()
    return int(answer.json()["id"])


def event(length: str, *pitches: str, **more) -> dict:
    return {"length": length, "pitches": list(pitches), **more}


def put(client, piece, bars, **changes):
    now = client.get(f"/api/pieces/{piece}/entry").json()
    body = {name: now[name] for name in ("title", "beats", "beat_type", "pickup", "bpm", "version")}
    return client.put(f"/api/pieces/{piece}/entry", json={**body, "bars": bars, **changes})


def test_a_passage_begins_empty_and_every_view_of_it_answers(client, piece):
    assert client.get("/api/pieces").json()["items"][0]["title"] == "A Little Waltz"
    now = client.get(f"/api/pieces/{piece}/entry").json()
    assert (now["version"], now["bar_quarters"], now["faults"], len(now["bars"])) == (0, "3", [], 2)
    for view in ("counts?bpm=60", "roadmap", "pencil", "reading", "questions", "notation?bpm=60", "schedule?bpm=60",
                 "sheet?bpm=60", "export?format=musicxml", "export?format=mid", "choices", "questions/names"):  # fmt: skip
        answer = client.get(f"/api/pieces/{piece}/{view}")
        assert answer.status_code == 200, (view, answer.text[:300])


def test_a_bar_too_long_is_kept_said_and_left_out_of_the_score(client, piece):
    bars = [{"right": [event("2", "C5"), event("2", "D5")]}, {"right": [event("1")]}]
    now = put(client, piece, bars).json()
    assert [f["text"] for f in now["faults"]] == [
        "bar 1 is one quarter too long, right hand",
        "bar 2 is one half short, right hand",
    ]
    assert now["bars"][0]["right"][1]["length"] == "2"
    score = read_musicxml(client.get(f"/api/pieces/{piece}/export", params={"format": "musicxml"}).content)
    assert [(n.name, n.duration_quarters) for n in score.notes] == [("C5", 2), ("D5", 1), ("x", 1)]
    said = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "hand": "right"}).json()["counts"]
    assert [c["say"] for c in said] == ["1", "2", "3", "1", "2", "3"]


def test_a_finished_passage_is_practised_and_checked_and_its_takes_keep_what_was_played(client, piece):
    bars = [{"right": [event("1", "C5")] * 3, "left": [event("3", "C3")]}] * 4
    assert put(client, piece, bars).status_code == 200
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json={"activity": "lap", "bpm": 72, "seed": 2}).json()
    assert take["status"] == "steady"
    assert put(client, piece, [{"right": [event("1/2", "E5")] * 6}] * 2, title="Changed").status_code == 200
    assert client.get(f"/api/pieces/{piece}").json()["title"] == "Changed"
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert (again["status"], again["ruler"]) == ("steady", take["ruler"])
    assert "entry" not in again["settings"]


def test_two_windows(client, piece):
    assert put(client, piece, [{"right": [event("3")]}]).json()["version"] == 1
    stale = put(client, piece, [{"right": []}], version=0)
    assert (stale.status_code, stale.json()["error"]["code"]) == (409, "conflict")
    assert client.get(f"/api/pieces/{piece}/entry").json()["bars"][0]["right"][0]["length"] == "3"


@pytest.mark.parametrize(
    ("bars", "changes"),
    [
        ([{"right": [event("1", "H2")]}], {}), ([{"right": [event("lots")]}], {}), ([{"right": [event("1/0")]}], {}),
        ([], {}), ([{}], {"beats": 3, "beat_type": 5}), ([{}], {"pickup": "7"}), ([{"right": [event("-1")]}], {}),
    ],
)  # fmt: skip
def test_what_cannot_be_stored_leaves_what_was(client, piece, bars, changes):
    before = client.get(f"/api/pieces/{piece}/entry").json()
    assert put(client, piece, bars, **changes).status_code in (413, 422)
    assert client.get(f"/api/pieces/{piece}/entry").json() == before


def test_a_file_is_no_typed_passage(client):
    from helpers import demo_bytes

    piece = client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    assert client.get(f"/api/pieces/{piece}/entry").status_code == 404
