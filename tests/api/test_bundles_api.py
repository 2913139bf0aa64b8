"""A studio saved as a file and brought in again, through the API. Common practice, no source."""

from __future__ import annotations

import io
import time
import zipfile

import pytest
from fastapi.testclient import TestClient

from conftest import a_worker
from databases import new_database
from helpers import demo_bytes
from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import connect, transaction
from signing_in import teacher_cookies


def waited(client, job: dict) -> dict:
    end = time.monotonic() + 60
    while job["state"] in ("waiting", "running"):
        assert time.monotonic() < end, job
        time.sleep(0.05)
        job = client.get(f"/api/jobs/{job['id']}").json()
    return job


def saved(client, student: int | None = None) -> bytes:
    answer = client.post("/api/bundles", json={"student_id": student})
    assert answer.status_code == 202, answer.text
    assert waited(client, answer.json()["job"])["state"] == "done"
    bundle = client.get(f"/api/bundles/{answer.json()['bundle']['id']}").json()
    assert bundle["is_complete"]
    file = client.get(f"/api/bundles/{bundle['id']}/file")
    assert file.status_code == 200, file.text
    assert len(file.content) == bundle["size"] == int(file.headers["content-length"])
    assert "attachment" in file.headers["content-disposition"]
    return file.content


def entries(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        return {name: opened.read(name) for name in opened.namelist()}


def sent(client, data: bytes, part: int = 2**20) -> dict:
    bundle = client.post("/api/bundles/coming", json={"filename": "../a studio.zip"}).json()
    assert bundle["filename"] == "a studio.zip"
    for number, first in enumerate(range(0, len(data), part)):
        answer = client.put(
            f"/api/bundles/{bundle['id']}/chunks/{number}",
            content=data[first : first + part],
            headers={"Content-Type": "application/octet-stream"},
        )
        assert answer.status_code == 204, answer.text
    return client.post(f"/api/bundles/{bundle['id']}/complete").json() | {"id": bundle["id"]}


@pytest.fixture
def elsewhere(mariadb, template):
    """Another machine."""
    with new_database(mariadb) as db:
        template.copied_to(db)
        with a_worker(db), TestClient(
            create_app(AppSettings(db)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)
        ) as opened:  # fmt: skip
            yield opened


@pytest.fixture
def studio(client) -> dict[str, int]:
    piece = client.post("/api/pieces", files={"file": ("steps.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    student = client.post("/api/students", json={"name": "Ilmi Oak"}).json()["id"]
    [study] = client.post("/api/studies", json={"student_ids": [student], "piece_id": piece}).json()["study_ids"]
    take = {"activity": "play", "bpm": 60, "study_id": study, "seed": 3}
    assert client.post(f"/api/pieces/{piece}/takes/simulated", json=take).status_code == 201
    return {"piece": piece, "student": student, "study": study}


def test_a_studio_moves_to_another_machine(client, studio, elsewhere):
    data = saved(client)
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        assert opened.testzip() is None
        names = opened.namelist()
    assert any(name.endswith(".musicxml") for name in names)
    assert any(name.endswith(".mid") for name in names)
    assert any(name.endswith(".csv") for name in names)
    bundle = sent(elsewhere, data)
    assert bundle["is_first"]
    assert bundle["contents"]["counted"]["takes"] == 1
    assert elsewhere.get("/api/pieces").json()["items"] == []  # looked at, and nothing brought in
    assert waited(elsewhere, elsewhere.post(f"/api/bundles/{bundle['id']}/bring-in").json())["state"] == "done"
    assert elsewhere.get(f"/api/bundles/{bundle['id']}").json()["brought"] == {"pieces": 1, "students": 2, "takes": 1}
    [piece] = elsewhere.get("/api/pieces").json()["items"]
    names = [one["name"] for one in elsewhere.get("/api/students").json()["items"]]
    assert "Ilmi Oak" in names
    student = next(one for one in elsewhere.get("/api/students").json()["items"] if one["name"] == "Ilmi Oak")
    shown = elsewhere.get(f"/api/students/{student['id']}").json()
    assert [study["piece_id"] for study in shown["studies"]] == [piece["id"]]
    takes = elsewhere.get(f"/api/students/{student['id']}/takes").json()["items"]
    assert len(takes) == 1
    before = client.get(f"/api/students/{studio['student']}/takes").json()["items"]
    ours, theirs = (client.get(f"/api/takes/{before[0]['id']}").json(), elsewhere.get(f"/api/takes/{takes[0]['id']}").json())  # fmt: skip
    assert theirs["verdict"] == ours["verdict"]
    again = saved(elsewhere)
    assert entries(again) == entries(data)
    assert again == data

    taken_back = elsewhere.post(f"/api/bundles/{bundle['id']}/take-back")
    assert taken_back.status_code == 200
    assert elsewhere.get("/api/pieces").json()["items"] == []
    assert "Ilmi Oak" not in [one["name"] for one in elsewhere.get("/api/students").json()["items"]]
    assert elsewhere.post(f"/api/pieces/{piece['id']}/restore").status_code == 200


def test_a_file_that_is_none_is_told_when_it_came(client):
    answer = sent(client, b"a letter" * 1000)
    assert answer["error"]["code"] == "bad-bundle"
    assert answer["error"]["todo"]


def test_one_that_lies_fails_in_words_and_leaves_nothing(client, studio):
    data = saved(client)
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as opened, zipfile.ZipFile(out, "w") as lying:
        for name in opened.namelist():
            part = opened.read(name)
            lying.writestr(name, part.replace(b'"elementary"', b'"heavenly"') if name.endswith("jsonl") else part)
    before = len(client.get("/api/pieces").json()["items"])
    bundle = sent(client, out.getvalue())
    job = waited(client, client.post(f"/api/bundles/{bundle['id']}/bring-in").json())
    assert (job["state"], job["error"]["code"]) == ("failed", "bad-bundle")
    assert "takes.jsonl[1].level" in job["error"]["where"]
    assert len(client.get("/api/pieces").json()["items"]) == before


@pytest.mark.parametrize("cut", [0, 1])
def test_what_did_not_come_whole_is_not_brought_in(client, studio, cut):
    data = saved(client)
    bundle = client.post("/api/bundles/coming", json={"filename": "a.zip"}).json()["id"]
    if cut:
        client.put(f"/api/bundles/{bundle}/chunks/1", content=data[:100],
                   headers={"Content-Type": "application/octet-stream"})  # fmt: skip
    assert client.post(f"/api/bundles/{bundle}/bring-in").status_code == 409
    assert client.post(f"/api/bundles/{bundle}/complete").status_code == 409


def test_a_file_that_goes_out_is_not_filled_from_outside(client, studio):
    bundle = client.post("/api/bundles", json={}).json()["bundle"]["id"]
    answer = client.put(
        f"/api/bundles/{bundle}/chunks/0", content=b"x", headers={"Content-Type": "application/octet-stream"}
    )
    assert answer.status_code == 409
    assert client.post(f"/api/bundles/{bundle}/bring-in").status_code == 409


def test_who_saved_a_copy_is_in_the_log(client, studio):
    saved(client, studio["student"])
    assert "saved a copy" in [line["what"] for line in client.get("/api/audit").json()["items"]]


def test_one_students_share(client, studio):
    other = client.post("/api/students", json={"name": "Runa Birch"}).json()["id"]
    with zipfile.ZipFile(io.BytesIO(saved(client, other))) as opened:
        whole = b"".join(opened.read(name) for name in opened.namelist())
    assert b"Runa Birch" in whole
    assert b"Ilmi Oak" not in whole


def test_while_one_is_packed_or_brought_in(client, studio, db):
    """The one that is asked for again is the one that is being made; another is in its place. What comes in waits."""
    connection = connect(db)

    def is_at_it(job: dict, table: str, change: str) -> None:
        with transaction(connection) as cursor:
            cursor.execute("UPDATE job SET state = 'running', lease_until = UTC_TIMESTAMP(6) + INTERVAL 1 HOUR"
                           " WHERE id = %s", (job["id"],))  # fmt: skip
            cursor.execute(f"UPDATE {table} SET {change}")

    first = client.post("/api/bundles", json={}).json()
    waited(client, first["job"])
    is_at_it(first["job"], "bundle", "completed_at = NULL")
    again = client.post("/api/bundles", json={})
    assert (again.status_code, again.json()["bundle"]["id"]) == (202, first["bundle"]["id"])
    other = client.post("/api/bundles", json={"student_id": studio["student"]})
    assert other.status_code == 202
    assert client.get(f"/api/bundles/{first['bundle']['id']}").status_code == 404
    with transaction(connection) as cursor:
        cursor.execute("UPDATE job SET state = 'done'")
    bundle = sent(client, saved(client))
    job = client.post(f"/api/bundles/{bundle['id']}/bring-in").json()
    waited(client, job)
    is_at_it(job, "bundle", "brought = NULL")
    assert client.post("/api/bundles/coming", json={"filename": "b.zip"}).status_code == 409
    connection.close()
