"""Questions to the student through the API: no answer is given away before one is given."""

from __future__ import annotations

import pytest

from helpers import demo_bytes


@pytest.fixture
def url(client) -> str:
    data = demo_bytes("harbour-steps")
    piece = client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"]
    return f"/api/pieces/{piece}/questions"


def test_asked_answered_and_kept(client, url):
    kinds = {kind["kind"]: kind for kind in client.get(url).json()}
    assert kinds["names"]["title"] == "Names of notes"
    assert (kinds["names"]["asked"], kinds["names"]["right"]) == (0, 0)
    asked = client.get(f"{url}/names").json()
    assert len(asked) == 10
    assert not {"answer", "said"} & set(asked[0])
    answer = client.post(f"{url}/names/answers", json={"key": asked[0]["key"], "given": ["C"]}).json()
    assert answer == {"is_right": True, "answer": ["C"], "said": "C"}
    wrong = client.post(f"{url}/names/answers", json={"key": asked[1]["key"], "given": ["A"]}).json()
    assert wrong["is_right"] is False
    kinds = {kind["kind"]: kind for kind in client.get(url).json()}
    assert (kinds["names"]["asked"], kinds["names"]["right"]) == (2, 1)
    assert asked[0]["key"] not in [one["key"] for one in client.get(f"{url}/names").json()]


def test_what_is_no_answer_is_refused(client, url):
    asked = client.get(f"{url}/skips").json()[0]
    for given in ([], ["a jump"], ["a step up", "a hop"]):
        answer = client.post(f"{url}/skips/answers", json={"key": asked["key"], "given": given})
        assert (answer.status_code, answer.json()["error"]["kept"]) == (422, "Nothing was stored.")
    assert client.post(f"{url}/skips/answers", json={"key": "skips:x", "given": ["a step up"]}).status_code == 404
    assert client.get(f"{url}/riddles").status_code == 404
    assert {kind["asked"] for kind in client.get(url).json()} == {0}


def test_questions_follow_the_pencil(client, url):
    pencil = url.replace("questions", "pencil")
    note = client.get(pencil).json()["items"][0]["id"]
    change = {"kind": "pitch", "note": note, "pitch": "Bb4"}
    assert client.post(pencil, json={"version": None, "change": change}).status_code == 200
    asked = next(one for one in client.get(f"{url}/names").json() if one["notes"] == [note])
    assert "B♭" in asked["options"]
    answer = client.post(f"{url}/names/answers", json={"key": asked["key"], "given": ["B♭"]}).json()
    assert answer["is_right"] is True
