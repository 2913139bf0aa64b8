"""What takes longer than a request: made by a job, kept, told how far it is; a take kept before it is judged."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from fastapi.testclient import TestClient

from applications import app_at
from conftest import a_worker
from helpers import demo_bytes
from laptick.api.app import AppSettings
from laptick.api.request import waiting
from laptick.core.base.errors import NotFoundError, ScoreError, StorageError
from laptick.db import jobs, made
from laptick.db.engine.connect import connect, transaction
from laptick.studio.jobs import makers, making
from laptick.studio.takes import first_judging, takes
from laptick.studio.use_case import Studio
from signing_in import teacher_cookies


@pytest.fixture
def alone(db):
    """An application beside which no worker runs."""
    with TestClient(
        app_at(AppSettings(db)),
        base_url="http://127.0.0.1",
        cookies=teacher_cookies(db),
        raise_server_exceptions=False,
    ) as opened:
        yield opened


@pytest.fixture
def at_once(monkeypatch):
    """Nothing is waited for, nothing is small enough to be made in the request."""
    monkeypatch.setattr(waiting, "WAIT_S", 0.0)
    monkeypatch.setattr(making, "MOST_BARS_AT_ONCE", 0)


def upload(client, name: str = "harbour-steps") -> int:
    return int(client.post("/api/pieces", files={"file": (f"{name}.musicxml", demo_bytes(name))}).json()["id"])


def until(look, wanted, within_s: float = 90.0):
    end = time.monotonic() + within_s
    while not wanted(found := look()):
        assert time.monotonic() < end, found
        time.sleep(0.02)
    return found


def over(client, job: dict) -> dict:
    return until(
        lambda: client.get(f"/api/jobs/{job['id']}").json(), lambda j: j["state"] not in ("waiting", "running")
    )


@pytest.mark.parametrize(
    ("path", "kind"),
    [
        ("sheet?bpm=60&shows=both", "application/pdf"),
        ("sheet?bpm=60&format=html", "text/html; charset=utf-8"),
        ("ruler-picture?bpm=60", "image/svg+xml"),
        ("notation?bpm=60", "application/json"),
        ("sound?bpm=60", "audio/wav"),
        ("practice-sheet?shows=week", "application/pdf"),
        ("practice-sheet?shows=colouring", "application/pdf"),
        ("session", "audio/wav"),
    ],
)
def test_asked_for_made_by_a_worker_and_there_from_then_on(alone, at_once, db, path, kind):
    url = f"/api/pieces/{upload(alone)}/{path}"
    first = alone.get(url)
    job = first.json()
    assert (first.status_code, job["state"], first.headers["location"]) == (202, "waiting", f"/api/jobs/{job['id']}")
    assert alone.get(url).json()["id"] == job["id"]  # asked twice, made once
    with a_worker(db):
        assert over(alone, job)["state"] == "done"
    answer = alone.get(url)
    assert (answer.status_code, answer.headers["content-type"]) == (200, kind)
    assert alone.get(url).content == answer.content


def test_many_ask_for_the_same_at_once_and_it_is_made_once(alone, at_once, db):
    url = f"/api/pieces/{upload(alone)}/notation?bpm=60"
    with ThreadPoolExecutor(16) as crowd:
        answers = list(crowd.map(alone.get, [url] * 48))
    assert {answer.status_code for answer in answers} == {202}
    assert len({answer.json()["id"] for answer in answers}) == 1


def test_a_job_that_is_forgotten_while_it_is_waited_for_is_asked_for_again(client, monkeypatch):
    monkeypatch.setattr(making, "MOST_BARS_AT_ONCE", 0)
    looked = []

    def forgotten(studio, job_id):
        looked.append(job_id)
        raise NotFoundError("this job is not here any more.")

    monkeypatch.setattr(waiting, "get_job", forgotten)
    assert client.get(f"/api/pieces/{upload(client)}/notation?bpm=60").status_code == 200
    assert looked


def test_what_is_small_is_made_at_once(alone):
    assert alone.get(f"/api/pieces/{upload(alone)}/notation?bpm=60").status_code == 200


def test_what_changed_is_made_anew(alone, at_once, db):
    piece = upload(alone)
    url = f"/api/pieces/{piece}/ruler-picture?bpm=60"
    with a_worker(db):
        over(alone, alone.get(url).json())
        before = alone.get(url)
        assert alone.put("/api/choices", json={"studio": {"density": "steady"}}).status_code == 200
        assert alone.get(url).status_code == 202
        after = until(lambda: alone.get(url), lambda answer: answer.status_code == 200)
    assert before.content != after.content


def test_a_job_that_breaks_is_tried_three_times_then_says_so_and_can_be_tried_again(alone, at_once, db, monkeypatch):
    tried = []

    def broken(piece, options):
        tried.append(1)
        raise ZeroDivisionError

    piece = upload(alone)
    monkeypatch.setitem(makers.MAKERS, "picture", makers._of_piece(broken))
    job = alone.get(f"/api/pieces/{piece}/ruler-picture?bpm=60").json()
    with a_worker(db):
        failed = over(alone, job)
        assert (failed["state"], len(tried)) == ("failed", jobs.MOST_TRIES)
        assert "fault of ours" in failed["error"]["what"]
        monkeypatch.undo()
        assert alone.post(f"/api/jobs/{job['id']}/retry").json()["state"] == "waiting"
        assert over(alone, job)["state"] == "done"
        assert alone.post(f"/api/jobs/{job['id']}/retry").status_code == 409


def test_what_cannot_be_made_says_why_and_is_not_tried_again(client, monkeypatch):
    monkeypatch.setattr(making, "MOST_BARS_AT_ONCE", 0)

    def refused(piece, options):
        raise ScoreError("this score cannot be drawn as notation.", todo="Use the ruler instead.")

    piece = upload(client)
    monkeypatch.setitem(makers.MAKERS, "notation", makers._of_piece(refused))
    answer = client.get(f"/api/pieces/{piece}/notation?bpm=60")
    assert answer.status_code == 422
    assert answer.json()["error"]["todo"] == "Use the ruler instead."


def test_a_job_of_another_studio_is_not_there(alone, at_once, db):
    job = alone.get(f"/api/pieces/{upload(alone)}/notation?bpm=60").json()
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("INSERT INTO studio (name) VALUES ('Another')")
        cursor.execute("UPDATE job SET studio_id = %s", (cursor.lastrowid,))
    connection.close()
    for ask in (alone.get, lambda url: alone.post(f"{url}/stop"), lambda url: alone.post(f"{url}/retry")):
        assert ask(f"/api/jobs/{job['id']}").status_code == 404


def test_what_is_kept_is_bounded(alone, db, monkeypatch):
    monkeypatch.setattr(made, "MOST_BYTES", 1000)
    monkeypatch.setattr(made, "MOST_BYTES_EACH", 700)
    connection = connect(db)
    for number in range(6):
        with transaction(connection):
            made.add_made(connection, 1, f"{number:064}", made.Made("text/plain", bytes(300)))
    with transaction(connection):
        made.add_made(connection, 1, "f" * 64, made.Made("text/plain", bytes(701)))
        kept = [number for number in range(6) if made.get_made(connection, 1, f"{number:064}")]
        assert (kept, made.get_made(connection, 1, "f" * 64)) == ([3, 4, 5], None)
    connection.close()


# -- takes ----------------------------------------------------------------------------------------------------------


def taps(count: int, **more) -> dict:
    strikes = [{"t": 2 + number / 2, "hand": "right"} for number in range(count)]
    return {"activity": "lap", "bpm": 60, "taps": strikes, **more}


def test_a_long_take_is_kept_and_judged_by_a_job(alone, db, monkeypatch):
    monkeypatch.setattr(takes, "JUDGED_AT_ONCE", 20)
    piece = upload(alone)
    take = alone.post(f"/api/pieces/{piece}/takes", json=taps(30)).json()
    assert (take["state"], take["verdict"]) == ("waiting", None)
    assert [t["state"] for t in alone.get(f"/api/pieces/{piece}/takes").json()["items"]] == ["waiting"]
    with a_worker(db):
        judged = until(lambda: alone.get(f"/api/takes/{take['id']}").json(), lambda t: t["state"] == "judged")
    assert judged["verdict"]["status"]


def test_a_request_that_breaks_off_leaves_its_take_to_a_worker(alone, db, monkeypatch):
    """What was played is committed before it is judged: whatever ends the process in between, it is judged later."""
    monkeypatch.setattr(takes, "LEFT_TO_WORKER_S", 0.0)
    piece = upload(alone)

    def ended(*_: object) -> None:
        raise StorageError("the database cannot be reached.")

    with monkeypatch.context() as patched:
        patched.setattr(takes, "judge_first", ended)
        assert alone.post(f"/api/pieces/{piece}/takes", json=taps(20)).status_code == 503
    [kept] = alone.get(f"/api/pieces/{piece}/takes").json()["items"]
    assert kept["state"] == "waiting"
    with a_worker(db):
        until(lambda: alone.get(f"/api/takes/{kept['id']}").json(), lambda t: t["state"] == "judged")


def test_of_two_that_judge_one_take_only_one_tells_its_study(alone, db):
    piece = upload(alone)
    take = alone.post(f"/api/pieces/{piece}/takes", json=taps(20)).json()
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("SELECT COUNT(*) AS told FROM rung_event WHERE take_id = %s", (take["id"],))
        told = cursor.fetchone()["told"]
        cursor.execute("SELECT COUNT(*) AS waiting FROM job")
        assert cursor.fetchone()["waiting"] == 0
    for _ in range(2):
        first_judging.judge_first(Studio(connection, 1), take["id"])
    with transaction(connection) as cursor:
        cursor.execute("SELECT COUNT(*) AS told FROM rung_event WHERE take_id = %s", (take["id"],))
        assert cursor.fetchone()["told"] == told
        cursor.execute("SELECT COUNT(*) AS judged FROM judgement WHERE take_id = %s", (take["id"],))
        assert cursor.fetchone()["judged"] == 1
    connection.close()


def test_the_same_take_sent_six_times_at_once_is_kept_once(alone):
    piece, start = upload(alone), threading.Barrier(6)

    def send(_: int):
        start.wait()
        return alone.post(f"/api/pieces/{piece}/takes", json=taps(20, client_key="one-take"))

    with ThreadPoolExecutor(6) as six:
        answers = list(six.map(send, range(6)))
    assert {answer.status_code for answer in answers} == {201}
    assert len({answer.json()["id"] for answer in answers}) == 1
    assert len(alone.get(f"/api/pieces/{piece}/takes").json()["items"]) == 1


@pytest.mark.parametrize("strikes", [5000, 11_999])
def test_more_strikes_than_a_take_can_hold_are_refused_in_words(alone, strikes):
    piece, begun = upload(alone), time.monotonic()
    at_once = {"activity": "lap", "bpm": 60, "taps": [{"t": 1.0, "hand": "right"}] * strikes}
    for body in (at_once, taps(strikes)):
        body["taps"] = [{**tap, "t": min(tap["t"], 3600)} for tap in body["taps"]]
        answer = alone.post(f"/api/pieces/{piece}/takes", json=body)
        assert answer.status_code == 413
        assert "strikes" in answer.json()["error"]["what"]
    assert alone.get(f"/api/pieces/{piece}/takes").json()["items"] == []
    assert time.monotonic() - begun < 60  # of old it took minutes


# -- all takes judged anew --------------------------------------------------------------------------------------------


def test_judging_all_can_be_stopped_and_gone_on_with(alone, db):
    piece = upload(alone)
    for _ in range(6):
        alone.post(f"/api/pieces/{piece}/takes", json=taps(20))
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute(
            "UPDATE judgement JOIN take ON take.id = judgement.take_id"
            " SET judgement.checker_version = '1', take.checker_version = '1'"
        )
    assert alone.get("/api/judge-all").json() is None
    job = alone.post("/api/judge-all").json()
    assert alone.post("/api/judge-all").json()["id"] == job["id"]
    assert alone.post(f"/api/jobs/{job['id']}/stop").json()["state"] == "stopped"
    with a_worker(db):
        time.sleep(0.2)
        assert alone.get("/api/outdated-takes").json()["takes"] == 6
        assert alone.post("/api/judge-all").json()["state"] in ("waiting", "running")
        done = over(alone, job)
    assert (done["progress"], done["whole"], done["judged"]["judged"]) == (6, 6, 6)
    assert alone.get("/api/outdated-takes").json()["takes"] == 0
    connection.close()


def test_judging_all_goes_on_where_a_worker_died(alone, db):
    """Half of it is done, then the worker is gone: another goes on when the lease has run out, and judges none twice."""
    piece = upload(alone)
    for _ in range(4):
        alone.post(f"/api/pieces/{piece}/takes", json=taps(20))
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute(
            "UPDATE judgement JOIN take ON take.id = judgement.take_id"
            " SET judgement.checker_version = '1', take.checker_version = '1'"
        )
    job = alone.post("/api/judge-all").json()
    with transaction(connection, reads="READ COMMITTED"):
        claim = jobs.claim(connection, "dead")
    first = {"judged": 1, "unread": 0, "changed": [], "more": 0, "last_id": 0}
    with transaction(connection) as cursor:
        assert jobs.get_further(connection, claim, 1, 4, first)
        cursor.execute("UPDATE job SET lease_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")
    with a_worker(db):
        done = over(alone, job)
    assert (done["progress"], done["judged"]["judged"]) == (5, 5)  # one was said to be judged, and four were left
    with transaction(connection):
        assert not jobs.finish(connection, claim)  # the dead one comes back, and has no say any more
    connection.close()
