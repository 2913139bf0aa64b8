"""Names of lengths and limits through the API."""

from __future__ import annotations

import pytest

from helpers import demo_bytes


@pytest.fixture
def piece(client) -> int:
    return int(client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))}).json()["id"])


def test_the_studios_names_of_lengths_are_used_everywhere(client, piece):
    assert client.get(f"/api/pieces/{piece}").json()["beat_name"] == "quarter"
    assert client.put("/api/choices", json={"length_names": "british"}).status_code == 200
    assert client.get(f"/api/pieces/{piece}").json()["beat_name"] == "crotchet"
    assert client.get("/api/pieces").json()["items"][0]["beat_name"] == "crotchet"
    counts = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60}).json()
    assert {w["length"] for w in counts["worth"]} == {"quaver", "crotchet", "dotted crotchet", "minim"}
    roadmap = client.get(f"/api/pieces/{piece}/roadmap").json()
    pencil = client.get(f"/api/pieces/{piece}/pencil").json()
    sheet = client.get(f"/api/pieces/{piece}/sheet", params={"bpm": 60, "format": "html"}).text
    words = str([b["difference"] for b in roadmap["bars"]]) + str(pencil["items"]) + sheet
    assert "crotchet" in words
    assert "quarter =" not in sheet
    note = pencil["items"][0]["id"]
    change = {"kind": "length", "note": note, "length_quarters": "1/2"}
    made = client.post(f"/api/pieces/{piece}/pencil", json={"version": None, "change": change}).json()
    assert made["changes"][0]["words"] == "C5: crotchet becomes quaver"
    systems = {s["key"]: s for s in client.get("/api/count-systems").json()}
    assert "quaver, crotchet, quaver" in {e["meaning"] for e in systems["duration"]["entries"]}
    take = {"activity": "lap", "bpm": 88, "seed": 5, "faults": []}
    verdict = client.post(f"/api/pieces/{piece}/takes/simulated", json=take).json()["verdict"]
    assert "eighth" not in str(verdict)
    assert client.put("/api/choices", json={"length_names": "klingon"}).status_code == 422


def test_own_limits_judge_new_takes_and_those_judged_again(client, piece):
    usual = {limit["name"]: limit for limit in client.get("/api/limits").json()}
    assert usual["tempo_share"]["usual"] == {
        "first-year": 0.08, "elementary": 0.06, "intermediate": 0.04, "advanced": 0.03,
    }  # fmt: skip
    fault = {"kind": "drift", "amount": 16}
    take = client.post(
        f"/api/pieces/{piece}/takes/simulated", json={"activity": "lap", "bpm": 88, "seed": 5, "faults": [fault]}
    ).json()
    assert "drift" in {finding["code"] for finding in take["document"]["findings"]}
    wide = {"elementary": {"drift_share": 0.5, "tempo_share": 0.5}}
    assert client.put("/api/choices", json={"limits": wide}).json()["limits"] == wide
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert "drift" not in {finding["code"] for finding in again["document"]["findings"]}
    assert again["document"]["limits"]["drift_percent"] == 50
    refused = client.put("/api/choices", json={"limits": {"elementary": {"drift_share": 7}}})
    assert (refused.status_code, refused.json()["error"]["where"]) == (422, "limits.elementary.drift_share")
    assert client.get("/api/choices").json()["limits"] == wide
