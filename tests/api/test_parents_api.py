"""Whose ears a kept sound is for: the teacher's, the student's, and those of the parent who agreed; common practice, no
source."""

from __future__ import annotations

import hashlib

import pytest

from helpers import demo_bytes
from laptick.db.engine.connect import connect
from laptick.studio.recordings import playing
from laptick.studio.use_case import AskerRole, Studio
from signing_in import link_cookies

SOUND, COPY = b"sound", b"the copy that is played"


@pytest.fixture
def kept(client, db) -> dict[str, int]:
    """A recording of a student that is kept because her mother agreed, with its copy."""
    files = {"file": ("harbour-steps.musicxml", demo_bytes("harbour-steps"))}
    piece = client.post("/api/pieces", files=files).json()["id"]
    student = client.post("/api/students", json={"name": "Tuuli"}).json()["id"]
    client.post("/api/studies", json={"student_ids": [student], "piece_id": piece})
    study = client.get(f"/api/pieces/{piece}/study", params={"student": student}).json()["id"]
    agreed = {"student_id": student, "given_by": "Her  mother", "purpose": "lessons", "given_on": "2026-11-01"}
    consent = client.post("/api/consents", json=agreed).json()["id"]
    asked = {"activity": "lap", "bpm": 60, "study_id": study, "consent_id": consent}
    recording = client.post(f"/api/pieces/{piece}/recordings", json=asked).json()
    head = {"Content-Type": "application/octet-stream"}
    client.put(f"/api/recordings/{recording['id']}/chunks/0", content=SOUND, headers=head)
    whole = {"sha256": hashlib.sha256(SOUND).hexdigest()}
    assert client.post(f"/api/recordings/{recording['id']}/complete", json=whole).status_code == 200
    connection = connect(db)
    playing.keep_playback(Studio(connection, 1), recording["id"], COPY)
    connection.close()
    return {"student": student, "take": recording["take_id"], "recording": recording["id"]}


def as_seen(client, kept: dict[str, int], cookies: dict[str, str] | None) -> tuple[bool, bool, int]:
    """May it be heard, can it be played, and what is answered where it is asked for."""
    own = client if cookies is None else client.__class__(client.app, base_url="http://127.0.0.1", cookies=cookies)
    told = own.get(f"/api/takes/{kept['take']}").json()["recording"]
    answer = own.get(f"/api/recordings/{kept['recording']}/playback")
    assert (answer.content == COPY) == (answer.status_code == 200)
    return told["may_hear"], told["can_play"], answer.status_code


def test_the_teacher_and_the_student_hear_it(client, db, kept):
    assert as_seen(client, kept, None) == (True, True, 200)
    assert as_seen(client, kept, link_cookies(db, kept["student"])) == (True, True, 200)


@pytest.mark.parametrize(
    ("held_by", "hears"),
    [("her mother", True), (" HER MOTHER", True), ("her father", False), ("", False), ("her mothers", False)],
)
def test_of_the_parents_the_one_who_agreed(client, db, kept, held_by, hears):
    cookies = link_cookies(db, kept["student"], AskerRole.PARENT, held_by=held_by)
    assert as_seen(client, kept, cookies) == ((True, True, 200) if hears else (False, False, 403))


def test_it_is_said_whose_it_is(client, db, kept):
    cookies = link_cookies(db, kept["student"], AskerRole.PARENT, held_by="her father")
    another = client.__class__(client.app, base_url="http://127.0.0.1", cookies=cookies)
    refused = another.get(f"/api/recordings/{kept['recording']}/playback").json()["error"]
    assert (refused["code"], refused["what"]) == ("refused", "this sound is heard by the parent who agreed to it.")


def test_a_link_says_whether_a_consent_names_its_parent(client, kept):
    address = f"/api/students/{kept['student']}/links"
    for held_by in ("her MOTHER", "mother of Tuuli", ""):
        asked = {"role": "parent", "held_by": held_by, "origin": "http://127.0.0.1"}
        assert client.post(address, json=asked).status_code == 201
    client.post(address, json={"role": "student", "origin": "http://127.0.0.1"})
    told = {(one["role"], one["held_by"]): one["has_agreed"] for one in client.get(address).json()}
    others = [("parent", "mother of Tuuli"), ("parent", ""), ("student", "")]
    assert told == {("parent", "her MOTHER"): True} | dict.fromkeys(others, False)
    consent = client.get("/api/consents").json()["items"][0]["id"]
    assert client.delete(f"/api/consents/{consent}").status_code == 200
    assert not any(one["has_agreed"] for one in client.get(address).json())
