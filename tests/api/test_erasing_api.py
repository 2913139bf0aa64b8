"""A student who left is erased: gone from every table, from what is answered and from what was made, at once; the log keeps
that it was done and nothing more. And the log itself."""

from __future__ import annotations

import hashlib

import pytest

from helpers import demo_bytes
from laptick.db.engine.connect import connect, transaction
from signing_in import link_cookies, teacher_cookies

NAME, NOTE = "Ottilie Marrow", "left wrist high"


@pytest.fixture
def piece(client) -> int:
    files = {"file": ("harbour-steps.musicxml", demo_bytes("harbour-steps"))}
    return int(client.post("/api/pieces", files=files).json()["id"])


def lived(client, piece: int, name: str) -> dict[str, int]:
    """A student with everything that there can be of one."""
    student = client.post("/api/students", json={"name": name, "note": NOTE}).json()["id"]
    client.post("/api/studies", json={"student_ids": [student], "piece_id": piece})
    study = client.get(f"/api/pieces/{piece}/study", params={"student": student}).json()["id"]
    take = {"activity": "lap", "bpm": 60, "study_id": study, "seed": 3, "rung": "lap:1-4:both", "measures": "1-4"}
    made = client.post(f"/api/pieces/{piece}/takes/simulated", json=take).json()["id"]
    client.put(f"/api/takes/{made}/overrule", json={"status": "steady", "reason": f"{name} was tired"})
    agreed = {"student_id": student, "given_by": f"{name}’s mother", "purpose": "lessons", "given_on": "2026-11-01"}
    consent = client.post("/api/consents", json=agreed).json()["id"]
    asked = {"activity": "lap", "bpm": 60, "study_id": study, "consent_id": consent, "filename": f"{name}.wav"}
    recording = client.post(f"/api/pieces/{piece}/recordings", json=asked).json()["id"]
    sound = b"sound of " + name.encode()
    head = {"Content-Type": "application/octet-stream"}
    client.put(f"/api/recordings/{recording}/chunks/0", content=sound, headers=head)
    client.post(f"/api/recordings/{recording}/complete", json={"sha256": hashlib.sha256(sound).hexdigest()})
    client.post(f"/api/studies/{study}/words", json={"rung": "hear:1-4:both", "why": f"{name} knows it"})
    sheet = client.get(f"/api/pieces/{piece}/practice-sheet", params={"shows": "week", "student": student})
    assert sheet.status_code in (200, 202), sheet.text
    return {"student": student, "study": study, "take": made, "recording": recording, "consent": consent}


def everything(db) -> dict[str, str]:
    """All that is stored, table by table."""
    connection = connect(db)
    with connection.cursor() as cursor:
        cursor.execute("SELECT table_name AS t FROM information_schema.tables WHERE table_schema = DATABASE()")
        tables = [row["t"] for row in cursor.fetchall()]
        found = {}
        for table in tables:
            cursor.execute(f"SELECT * FROM {table}")
            found[table] = repr(cursor.fetchall())
    connection.close()
    return found


def test_nothing_of_an_erased_student_is_left_and_all_of_the_others(client, db, piece):
    gone, stays = lived(client, piece, NAME), lived(client, piece, "Bo Reed Junior")
    phone = link_cookies(db, gone["student"])
    assert sum(NAME in text for text in everything(db).values()) >= 5
    refused = client.post(f"/api/students/{gone['student']}/erase")
    assert refused.status_code == 409  # who is here is not erased by a slip
    client.delete(f"/api/students/{gone['student']}")
    assert [one["name"] for one in client.get("/api/who-left").json()] == [NAME]
    before = everything(db)
    assert client.post(f"/api/students/{gone['student']}/erase").status_code == 204
    after = everything(db)
    assert [table for table, text in after.items() if NAME in text] == []
    assert client.get("/api/who-left").json() == []
    assert "'job_key': 'make" not in after["job"]  # what was made may hold a name that nobody finds in it
    assert after["made"] == "()"
    for path in (f"students/{gone['student']}", f"takes/{gone['take']}", f"recordings/{gone['recording']}"):
        assert client.get(f"/api/{path}").status_code == 404
    assert client.post(f"/api/students/{gone['student']}/restore").status_code == 404
    assert client.post(f"/api/students/{gone['student']}/erase").status_code == 404
    own = client.__class__(client.app, base_url="http://127.0.0.1", cookies=phone)
    assert own.get(f"/api/students/{gone['student']}/tonight").status_code == 401
    # Of the other one nothing is gone, nor of the piece that both had.
    for table in ("take", "recording", "recording_chunk", "rung_event", "consent", "study"):
        assert before[table].count("'studio_id'") == 2 * after[table].count("'studio_id'"), table
    assert client.get(f"/api/takes/{stays['take']}").status_code == 200
    assert client.get(f"/api/pieces/{piece}").status_code == 200
    lines = client.get("/api/audit").json()["items"]
    assert (lines[0]["what"], lines[0]["of_id"], lines[0]["of_name"]) == ("erased", gone["student"], None)


def test_the_student_of_every_studio_is_not_erased(client):
    [own] = client.get("/api/students").json()["items"]
    client.delete(f"/api/students/{own['id']}")
    assert client.post(f"/api/students/{own['id']}/erase").status_code == 409


class TestTheLog:
    def test_says_who_did_what_to_whom_and_not_what_was_refused(self, client):
        student = client.post("/api/students", json={"name": NAME, "note": NOTE}).json()["id"]
        facts = {"version": 0, "facts": {"name": NAME, "note": NOTE}}
        assert client.put(f"/api/students/{student}", json=facts).status_code == 200
        assert client.put(f"/api/students/{student}", json=facts).status_code == 409  # an old version
        client.delete(f"/api/students/{student}")
        told = [(one["who"], one["what"], one["of_name"]) for one in client.get("/api/audit").json()["items"]]
        assert told == [
            ("Ada Brook", "let leave", NAME), ("Ada Brook", "changed", NAME), ("Ada Brook", "added a student", None),
        ]  # fmt: skip

    def test_holds_no_content(self, client, db, piece):
        lived(client, piece, NAME)
        kept = everything(db)["audit"]
        assert "'what': 'noted a consent'" in kept
        for content in (NAME, NOTE, "mother", "tired", "lessons"):
            assert content not in kept

    def test_notes_what_is_seen_again_and_again_once_in_a_while(self, client, db):
        student = client.post("/api/students", json={"name": NAME}).json()["id"]
        for _ in range(3):
            client.get(f"/api/students/{student}")
        assert [one["what"] for one in client.get("/api/audit").json()["items"]] == ["looked at", "added a student"]
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("UPDATE audit SET at = at - INTERVAL 11 MINUTE")
        connection.close()
        client.get(f"/api/students/{student}")
        assert [one["what"] for one in client.get("/api/audit").json()["items"]][:2] == ["looked at", "looked at"]

    def test_what_is_too_old_goes(self, client, db):
        client.post("/api/students", json={"name": NAME})
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("UPDATE audit SET at = at - INTERVAL 401 DAY")
        connection.close()
        client.post("/api/students", json={"name": "Another"})
        assert len(client.get("/api/audit").json()["items"]) == 1

    def test_is_told_page_by_page(self, client):
        for n in range(5):
            client.post("/api/students", json={"name": f"{NAME} {n}"})
        first = client.get("/api/audit?limit=3").json()
        rest = client.get(f"/api/audit?limit=3&before={first['next']}").json()
        assert [len(first["items"]), len(rest["items"]), rest["next"]] == [3, 2, None]

    def test_tells_a_students_own_hand(self, client, db, piece):
        """What a student deletes by a link is the student's doing."""
        ids = lived(client, piece, NAME)
        own = client.__class__(client.app, base_url="http://127.0.0.1", cookies=link_cookies(db, ids["student"]))
        own.delete(f"/api/recordings/{ids['recording']}/sound")
        lines = client.get("/api/audit").json()["items"]
        deleted = [one for one in lines if one["what"] == "deleted the sound of"]
        assert all((one["role"], one["who"]) == ("student", NAME) for one in deleted)

    def test_of_another_studio_is_another(self, client, db):
        client.post("/api/students", json={"name": NAME})
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("INSERT INTO studio (id, name) VALUES (2, 'Weir')")
        connection.close()
        cookies = teacher_cookies(db, studio_id=2, name="Bo Reed")
        far = client.__class__(client.app, base_url="http://127.0.0.1", cookies=cookies)
        assert far.get("/api/audit").json()["items"] == []
