"""What was removed can be put back for a month, and is gone for good after it. Common practice, no source."""

from __future__ import annotations

import pytest

from helpers import demo_bytes
from laptick.db.engine.connect import connect, transaction
from laptick.db.people.removed import KEPT_DAYS, forget_removed

TABLES = ("piece", "student", "take", "listening", "study", "judgement", "pencil_version", "rung_event")


@pytest.fixture
def connection(db):
    opened = connect(db)
    yield opened
    opened.close()


@pytest.fixture
def ids(client) -> dict[str, int]:
    piece = client.post("/api/pieces", files={"file": ("a.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    student = client.post("/api/students", json={"name": "Ilmi Oak"}).json()["id"]
    [study] = client.post("/api/studies", json={"student_ids": [student], "piece_id": piece}).json()["study_ids"]
    take = {"activity": "lap", "bpm": 60, "study_id": study, "seed": 3}
    cue = {"kind": "cue", "at": {"measure": "1", "offset": "0"}, "text": "breathe"}
    assert client.post(f"/api/pieces/{piece}/pencil", json={"version": None, "change": cue}).status_code < 300
    heard = {"activity": "lap", "bpm": 60, "slips": [4.0], "first_beat_s": 2.0}
    return {
        "piece": piece,
        "student": student,
        "take": client.post(f"/api/pieces/{piece}/takes/simulated", json=take).json()["id"],
        "listening": client.post(f"/api/pieces/{piece}/listenings", json=heard).json()["id"],
    }


PATHS = {"piece": "pieces", "student": "students", "take": "takes", "listening": "listenings"}


def removed(client) -> list[tuple[str, int]]:
    answer = client.get("/api/removed")
    assert answer.status_code == 200, answer.text
    assert answer.json()["kept_days"] == KEPT_DAYS == 30
    return [(one["kind"], one["id"]) for one in answer.json()["items"]]


def counts(connection) -> dict[str, int]:
    found = {}
    with transaction(connection) as cursor:
        for table in TABLES:
            cursor.execute(f"SELECT COUNT(*) AS n FROM {table}")
            found[table] = cursor.fetchone()["n"]
    return found


def pass_days(connection, days: int) -> None:
    with transaction(connection) as cursor:
        for table in PATHS:
            cursor.execute(f"UPDATE {table} SET deleted_at = deleted_at - INTERVAL %s DAY", (days,))


@pytest.mark.parametrize("kind", PATHS)
def test_each_is_listed_and_put_back(client, ids, kind):
    assert removed(client) == []
    assert client.delete(f"/api/{PATHS[kind]}/{ids[kind]}").status_code == 204
    assert removed(client) == [(kind, ids[kind])]
    assert client.post(f"/api/{PATHS[kind]}/{ids[kind]}/restore").status_code in (200, 204)
    assert removed(client) == []


def test_what_hangs_on_another_comes_back_with_it(client, ids):
    for kind in ("take", "listening", "piece"):
        client.delete(f"/api/{PATHS[kind]}/{ids[kind]}")
    assert removed(client) == [("piece", ids["piece"])]
    client.post(f"/api/pieces/{ids['piece']}/restore")
    assert set(removed(client)) == {("take", ids["take"]), ("listening", ids["listening"])}


@pytest.mark.parametrize("kind", PATHS)
def test_a_day_before_its_time_all_is_there_and_a_day_after_it_is_gone(client, ids, connection, kind):
    client.delete(f"/api/{PATHS[kind]}/{ids[kind]}")
    before = counts(connection)
    pass_days(connection, KEPT_DAYS - 1)
    with transaction(connection):
        assert forget_removed(connection) == 0
    assert counts(connection) == before
    pass_days(connection, 2)
    with transaction(connection):
        assert forget_removed(connection) == 1
    after = counts(connection)
    assert after[kind] == before[kind] - 1
    assert removed(client) == []
    if kind == "piece":
        assert after["take"] == after["judgement"] == after["pencil_version"] == after["study"] == 0
    if kind == "student":
        assert after["take"] == 0
        assert after["piece"] == before["piece"]


def test_what_was_not_removed_stays(client, ids, connection):
    before = counts(connection)
    with transaction(connection):
        assert forget_removed(connection) == 0
    assert counts(connection) == before


def test_another_studios_is_not_listed(client, ids, connection):
    with transaction(connection) as cursor:
        cursor.execute("INSERT INTO studio (id, name) VALUES (2, 'Another')")
        cursor.execute("INSERT INTO student (studio_id, name, deleted_at) VALUES (2, 'Sten', UTC_TIMESTAMP(6))")
    assert removed(client) == []
