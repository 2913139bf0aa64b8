"""The API against a real MariaDB: the journey, bad input, failing commits, its own description."""

from __future__ import annotations

import json
import time
from pathlib import Path

import pymysql
import pytest
from fastapi.testclient import TestClient

from helpers import DEMO, demo_bytes, demo_score, played_by_hand
from laptick.api.app import AppSettings, create_app
from laptick.api.request.limits import MAX_BODY_BYTES
from laptick.core.base.errors import OptionError
from laptick.core.student.faults import parse_fault
from laptick.core.takes.task import lap_task
from laptick.db.engine.connect import DbSettings, connect, transaction
from signing_in import teacher_cookies

ERROR_PARTS = {"code", "what", "where", "kept", "todo"}


def upload(client, data, name="piece.musicxml"):
    return client.post("/api/pieces", files={"file": (name, data)})


@pytest.fixture
def piece(client) -> int:
    return upload(client, demo_bytes("harbour-steps")).json()["id"]


def taps(bpm=66, **options):
    performance = played_by_hand(lap_task(demo_score("harbour-steps"), assigned_bpm=bpm), **options)
    return [{"t": s.played_s, "hand": s.hand.value} for s in performance.strikes]


def take_body(**change):
    return {"activity": "lap", "bpm": 66, "taps": taps(), "first_beat_s": 2.0} | change


def test_from_a_score_to_a_checked_take_and_again_after_a_reload(client, piece):
    sent = client.post(f"/api/pieces/{piece}/takes", json=take_body())
    assert sent.status_code == 201
    take = sent.json()
    assert take["verdict"]["status"] == "steady"
    assert take["document"]["tempo"]["median_bpm"] == pytest.approx(66, abs=0.5)
    assert take.pop("next") is None  # no rung asks for all of it on the lap
    assert client.get(f"/api/takes/{take['id']}").json() == take
    [listed] = client.get(f"/api/pieces/{piece}/takes").json()["items"]
    assert (listed["id"], listed["verdict"]) == (take["id"], take["verdict"])


def test_a_take_that_cannot_be_followed_is_kept(client, piece):
    body = take_body(taps=[{"t": 3.0 + i * i / 9, "hand": "left"} for i in range(12)])
    take = client.post(f"/api/pieces/{piece}/takes", json=body).json()
    assert take["status"] == "could-not-follow"
    assert take["document"]["notes"] == []
    assert take["verdict"]["place_text"]
    assert len(client.get(f"/api/takes/{take['id']}").json()["strikes"]) == 12


def test_taps_along_with_the_count_in_are_kept_but_not_judged(client, piece):
    along = [{"t": t, "hand": "right"} for t in (0.1, 0.5, 1.0)]
    take = client.post(f"/api/pieces/{piece}/takes", json=take_body(taps=along + taps())).json()
    assert take["document"]["extra"] == []
    assert len(take["strikes"]) == len(along) + len(taps())


@pytest.mark.parametrize("name", DEMO)
@pytest.mark.parametrize("rung", ["count", "lap"])
def test_every_demo_piece_on_both_rungs_with_the_simulated_student(client, name, rung):
    piece_id = upload(client, demo_bytes(name)).json()["id"]
    body = {"activity": rung, "bpm": 60, "seed": 3, "density": "bar"}
    take = client.post(f"/api/pieces/{piece_id}/takes/simulated", json=body).json()
    assert take["status"] == "steady"
    assert take["played_by"] == "simulated"


def test_a_planted_stop_is_said_with_place_and_cure(client, piece):
    body = {"activity": "lap", "bpm": 66, "seed": 1, "faults": [{"kind": "hesitate", "amount": 1.5, "measure": "5"}]}
    verdict = client.post(f"/api/pieces/{piece}/takes/simulated", json=body).json()["verdict"]
    assert verdict["finding"] == {"code": "hesitation", "text": "You stop before bar 5."}
    assert verdict["place"] == {"measure": "5", "offset": "0", "pass": 1}
    assert verdict["place_text"] == "bar 5 · line 2, bar 1"


def test_a_passage_of_one_hand(client, piece):
    body = {"activity": "lap", "bpm": 60, "hands": "left", "measures": "3-6", "seed": 2}
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json=body).json()
    assert {note["hand"] for note in take["document"]["notes"]} == {"left"}
    assert {note["measure"] for note in take["document"]["notes"]} == {"3", "4", "5", "6"}
    assert min(note["onset_quarters"] for note in take["document"]["notes"]) == 8


def test_notes_deleting_and_undo(client, piece):
    take = client.post(f"/api/pieces/{piece}/takes", json=take_body()).json()["id"]
    assert (
        client.patch(f"/api/takes/{take}", json={"note": "slower ♩ next week"}).json()["note"] == "slower ♩ next week"
    )
    assert client.delete(f"/api/takes/{take}").status_code == 204
    assert client.get(f"/api/takes/{take}").status_code == 404
    assert client.post(f"/api/takes/{take}/restore").status_code == 204
    assert client.get(f"/api/takes/{take}").json()["note"] == "slower ♩ next week"
    assert client.delete(f"/api/pieces/{piece}").status_code == 204
    assert client.get("/api/pieces").json()["items"] == []
    assert client.post(f"/api/pieces/{piece}/restore").status_code == 200
    assert len(client.get(f"/api/pieces/{piece}/takes").json()["items"]) == 1


def test_judging_again_gives_the_same_with_the_same_checker(client, piece):
    take = client.post(f"/api/pieces/{piece}/takes", json=take_body()).json()
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert again["document"] == take["document"]
    assert again["checker_is_current"]


def test_sending_a_take_twice_stores_it_once(client, piece):
    body = take_body(client_key="a1b2")
    first = client.post(f"/api/pieces/{piece}/takes", json=body).json()
    assert client.post(f"/api/pieces/{piece}/takes", json=body).json()["id"] == first["id"]
    assert len(client.get(f"/api/pieces/{piece}/takes").json()["items"]) == 1


def test_counts_and_schedule(client, piece):
    counts = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "hand": "right"}).json()
    assert [c["say"] for c in counts["counts"]][:5] == ["1", "2", "&", "3", "4"]
    assert {s["name"] for s in counts["syncopations"]} == {"off-beat held over 2", "anticipation of 3"}
    schedule = client.get(f"/api/pieces/{piece}/schedule", params={"bpm": 60, "measures": "2"}).json()
    assert (schedule["first_beat_s"], schedule["end_s"]) == (4, 8)


def test_the_original_comes_back_to_the_byte(client):
    name = "Étude “1”.musicxml"
    piece_id = upload(client, demo_bytes("lantern-boat"), name).json()["id"]
    answer = client.get(f"/api/pieces/{piece_id}/original")
    assert answer.content == demo_bytes("lantern-boat")
    assert "filename*=UTF-8''%C3%89tude" in answer.headers["content-disposition"]


def test_level_and_target_are_the_teachers(client, piece):
    changed = client.patch(f"/api/pieces/{piece}", json={"level": "advanced", "target_bpm": 100}).json()
    assert (changed["level"], changed["target_bpm"], changed["start_bpm"]) == ("advanced", 100, 63)
    assert client.patch(f"/api/pieces/{piece}", json={"target_bpm": 9000}).status_code == 422


BAD_TAKES = {
    "no taps": {"taps": []},
    "negative": {"taps": [{"t": -1}]},
    "unsorted": {"taps": [{"t": 5}, {"t": 4}]},
    "text": {"taps": [{"t": "soon"}]},
    "too slow": {"bpm": 1},
    "too fast": {"bpm": 4000},
    "other activity": {"activity": "finish"},
    "other hand": {"hands": "third"},
    "no such bar": {"measures": "77"},
    "backwards": {"measures": "5-2"},
    "unknown field": {"colour": "red"},
    "only the count-in": {"taps": [{"t": 0.2}]},
    "a day": {"taps": [{"t": 86_400}]},
}


@pytest.mark.parametrize("change", BAD_TAKES.values(), ids=BAD_TAKES.keys())
def test_bad_takes_change_nothing(client, piece, change):
    answer = client.post(f"/api/pieces/{piece}/takes", json=take_body(**change))
    assert answer.status_code in (413, 422)
    assert set(answer.json()["error"]) == ERROR_PARTS
    assert answer.json()["error"]["what"]
    assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []


@pytest.mark.parametrize("value", ["NaN", "Infinity", "-Infinity", "1e999"])
def test_numbers_that_are_none_are_refused(client, piece, value):
    text = json.dumps(take_body()).replace('"bpm": 66', f'"bpm": {value}')
    for body in (text, json.dumps(take_body()).replace('{"t": 2.0', f'{{"t": {value}', 1)):
        answer = client.post(f"/api/pieces/{piece}/takes", content=body, headers={"content-type": "application/json"})
        assert answer.status_code == 422
        assert set(answer.json()["error"]) == ERROR_PARTS


@pytest.mark.parametrize("data", [b"", b"<x/>", b"PK\x03\x04", b"\xff" * 50, demo_bytes("harbour-steps")[:500]])
def test_bad_scores_leave_nothing_on_the_shelf(client, data):
    answer = upload(client, data)
    assert answer.status_code == 422
    assert answer.json()["error"]["where"].startswith("piece.musicxml")
    assert client.get("/api/pieces").json()["items"] == []


def test_too_large_bodies_are_refused_with_the_limit(client, piece):
    assert upload(client, b" " * (MAX_BODY_BYTES + 10)).status_code == 413

    def endless():
        for _ in range(12):
            yield b" " * 2**20

    answer = client.post(f"/api/pieces/{piece}/takes", content=endless(), headers={"content-type": "application/json"})
    assert (answer.status_code, answer.json()["error"]["code"]) == (413, "too-large")
    many = take_body(taps=[{"t": i / 100} for i in range(100_000)])
    assert client.post(f"/api/pieces/{piece}/takes", json=many).status_code in (413, 422)


@pytest.mark.parametrize("path", ["/api/pieces/999", "/api/takes/999", "/api/pieces/999/takes", "/api/nothing"])
def test_what_is_not_there_is_a_404_in_the_same_shape(client, path):
    answer = client.get(path)
    assert answer.status_code == 404
    assert set(answer.json()["error"]) == ERROR_PARTS


def test_a_failing_commit_answers_503_and_stores_nothing(client, db, piece, monkeypatch):
    def fail(self):
        self.rollback()
        raise pymysql.err.OperationalError(2013, "lost")

    with monkeypatch.context() as broken:
        broken.setattr(pymysql.connections.Connection, "commit", fail)
        answer = client.post(f"/api/pieces/{piece}/takes", json=take_body())
        assert answer.status_code == 503
        assert "Nothing of it was stored" in answer.json()["error"]["kept"]
    with transaction(connect(db)) as cursor:
        cursor.execute("SELECT (SELECT COUNT(*) FROM take) + (SELECT COUNT(*) FROM judgement) AS n")
        assert cursor.fetchone()["n"] == 0


def test_a_database_that_is_away_answers_503():
    with TestClient(
        create_app(AppSettings(DbSettings(port=1))),
        base_url="http://127.0.0.1",
        cookies={"laptick-session-0": "any"},
        raise_server_exceptions=False,
    ) as client:
        assert client.get("/api/pieces").status_code == 503
        assert client.get("/api/health").status_code == 503


def test_two_applications_share_one_database(db):
    with (
        TestClient(create_app(AppSettings(db)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)) as one,
        TestClient(create_app(AppSettings(db)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)) as two,
    ):
        piece = upload(one, demo_bytes("harbour-steps")).json()["id"]
        take = two.post(f"/api/pieces/{piece}/takes", json=take_body()).json()
        assert {**one.get(f"/api/takes/{take['id']}").json(), "next": take["next"]} == take


def test_the_web_clients_description_is_the_applications_own():
    import export_openapi

    assert export_openapi.TARGET.read_text(encoding="utf-8") == export_openapi.describe(), "run tools/export_openapi.py"


def test_operation_ids_are_short():
    described = create_app(AppSettings(DbSettings())).openapi()
    ids = [op["operationId"] for path in described["paths"].values() for op in path.values()]
    assert len(set(ids)) == len(ids)
    assert max(map(len, ids)) <= 20
    assert "get_piece" in ids


def test_the_page_is_served_with_its_guards(db, tmp_path):
    (tmp_path / "index.html").write_text("<html>page</html>")
    (tmp_path / "assets").mkdir()
    (tmp_path / "assets" / "a.js").write_text("1")
    outside = Path(tmp_path).parent / "secret.txt"
    outside.write_text("secret")
    with TestClient(
        create_app(AppSettings(db, tmp_path)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)
    ) as client:
        assert client.get("/pieces/3?rung=lap").text == "<html>page</html>"
        assert "default-src 'self'" in client.get("/").headers["content-security-policy"]
        assert "immutable" in client.get("/assets/a.js").headers["cache-control"]
        assert client.get("/..%2fsecret.txt").text != "secret"
        assert client.get("/api/typo").status_code == 404
        # A page of before an update asks for a part that is gone: it is told so, and not given a page in its place.
        gone = client.get("/assets/before.js")
        assert (gone.status_code, gone.json()["error"]["code"]) == (404, "not-found")


@pytest.mark.parametrize("number", ["1e99999999", "1e2000000", "1/0", "-1", "0.5"])
def test_a_number_of_quarters_is_bounded_at_every_edge(client, number):
    """A hundred bytes used to freeze the application for good, or to be stored and cost every later request a second."""
    piece = upload(client, demo_bytes("harbour-steps")).json()["id"]
    base = f"/api/pieces/{piece}"
    note = client.get(f"{base}/pencil").json()["items"][0]["id"]
    begun = time.monotonic()
    answers = [
        client.put(f"{base}/choices", json={"syllables": [{"measure": "1", "offset": number, "say": "x"}]}),
        client.post(
            f"{base}/pencil",
            json={"version": None, "change": {"kind": "cue", "at": {"measure": "1", "offset": number}, "text": "x"}},
        ),
        client.post(
            f"{base}/pencil",
            json={"version": None, "change": {"kind": "length", "note": note, "length_quarters": number}},
        ),
        client.post(
            "/api/entries",
            json={
                "title": "A",
                "beats": 2,
                "beat_type": 4,
                "bpm": 60,
                "pickup": number,
                "bars": [{"right": [], "left": []}],
            },
        ),
        client.post(
            "/api/entries",
            json={
                "title": "A",
                "beats": 2,
                "beat_type": 4,
                "bpm": 60,
                "bars": [{"right": [{"length": number, "pitches": []}], "left": []}],
            },
        ),
        client.put(f"{base}/reading", json={"phrase_starts": [{"measure": "1", "offset": number}]}),
    ]
    assert [answer.status_code for answer in answers] == [422] * len(answers)
    said = [answer.json()["error"]["what"] for answer in answers]
    assert [f"“{number}” is no number of quarters" in what for what in said] == [True] * len(said), said
    assert time.monotonic() - begun < 20
    with pytest.raises(OptionError):
        parse_fault(f"hesitate=1@{number}:1")
