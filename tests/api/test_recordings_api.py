"""Recordings: sent in chunk by chunk, heard by a job, kept only where somebody agreed."""

from __future__ import annotations

import hashlib
import io
import subprocess

import numpy as np
import pytest
import soundfile
from fastapi.testclient import TestClient
from test_jobs_api import until

from applications import app_at
from conftest import a_worker
from helpers import demo_bytes, demo_score
from laptick.api.app import AppSettings
from laptick.core.base.levels import Level
from laptick.core.score.roadmap import in_played_order
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.db import recordings
from laptick.db.engine.connect import connect, transaction
from laptick.formats.audio.take import write_wav_take
from laptick.formats.drills import make_drill
from laptick.studio.recordings import hearing, sending
from signing_in import teacher_cookies

CHUNK = sending.CHUNK_BYTES


@pytest.fixture
def client(db):
    with TestClient(
        app_at(AppSettings(db)),
        base_url="http://127.0.0.1",
        cookies=teacher_cookies(db),
        raise_server_exceptions=False,
    ) as opened:
        yield opened


@pytest.fixture
def piece(client) -> int:
    files = {"file": ("five-stones.musicxml", demo_bytes("five-stones"))}
    return int(client.post("/api/pieces", files=files).json()["id"])


@pytest.fixture(scope="module")
def sound() -> bytes:
    """The demo piece as the simulated student plays it on the product's own piano."""
    task = lap_task(in_played_order(demo_score("five-stones")), assigned_bpm=80, with_pitches=True)
    return write_wav_take(simulate(task, level=Level.ELEMENTARY, seed=3, faults=[], source=Source.MIDI))


def agreed_by(client, **more) -> dict:
    """A consent for the student who came with the studio."""
    student = client.get("/api/students").json()["items"][0]["id"]
    noted = {"student_id": student, "given_by": "her mother", "purpose": "lessons", "given_on": "2026-11-01"}
    return noted | more


def begun(client, piece: int, **more) -> dict:
    answer = client.post(f"/api/pieces/{piece}/recordings", json={"activity": "play", "bpm": 80, **more})
    assert answer.status_code == 201, answer.text
    return answer.json()


def put(client, recording: dict, number: int, data: bytes):
    return client.put(
        f"/api/recordings/{recording['id']}/chunks/{number}",
        content=data,
        headers={"Content-Type": "application/octet-stream"},
    )


def send(client, recording: dict, data: bytes) -> dict:
    for number in range((len(data) + CHUNK - 1) // CHUNK):
        answer = put(client, recording, number, data[number * CHUNK : (number + 1) * CHUNK])
        assert answer.status_code == 204, answer.text
    answer = complete(client, recording, data)
    assert answer.status_code == 200, answer.text
    return answer.json()


def complete(client, recording: dict, data: bytes):
    return client.post(f"/api/recordings/{recording['id']}/complete", json={"sha256": hashlib.sha256(data).hexdigest()})


def take_of(client, recording: dict) -> dict:
    return client.get(f"/api/takes/{recording['take_id']}").json()


def heard(client, recording: dict) -> dict:
    return until(lambda: take_of(client, recording), lambda take: take["state"] not in ("coming", "waiting"))


def chunks_of(db, recording: dict) -> int:
    connection = connect(db)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT COUNT(*) AS n FROM recording_chunk WHERE recording_id = %s", (recording["id"],))
            return cursor.fetchone()["n"]
    finally:
        connection.close()


FORM = {"bars": "I,IV,V,I", "fill": "two-claps", "walk": "no"}


def test_claps_of_a_form_are_heard_and_judged_again_without_the_sound(client, db):
    """Eight claps among the keys of four bars: strikes like any other, of no key."""
    piece = client.post("/api/drills", json={"kind": "form", "options": FORM}).json()["id"]
    task = lap_task(
        make_drill("form", FORM, demo_score).score, assigned_bpm=80, with_pitches=True, with_claps=True
    )  # fmt: skip
    played = simulate(task, level=Level.ELEMENTARY, seed=3, faults=[], source=Source.MIDI)
    recording = begun(client, piece)
    send(client, recording, write_wav_take(played))
    with a_worker(db):
        take = heard(client, recording)
    claps = [note for note in take["document"]["notes"] if note["pitch"] is None]
    assert len(claps) == 8
    assert take["document"]["missing"] == []
    assert client.post(f"/api/takes/{recording['take_id']}/judge").status_code == 200
    again = take_of(client, recording)["document"]
    assert sum(note["pitch"] is None for note in again["notes"]) == 8


def test_a_recording_is_heard_judged_and_not_kept(client, db, piece, sound):
    assert len(sound) > 2 * CHUNK  # it takes more than one
    recording = begun(client, piece, filename="second-try.m4a")
    assert take_of(client, recording)["state"] == "coming"
    assert send(client, recording, sound)["is_complete"]
    assert take_of(client, recording)["state"] == "waiting"
    with a_worker(db):
        take = heard(client, recording)
    assert take["state"] == "judged"
    assert take["status"] == "steady"
    listed = client.get(f"/api/pieces/{piece}/takes").json()["items"]
    assert [(one["id"], one["filename"]) for one in listed] == [(take["id"], "second-try.m4a")]
    document = take["document"]
    assert document["source"] == "audio"
    assert document["matched"] == 78
    assert document["audio"]["level"] == "good"
    assert document["audio"]["is_recognised"]
    assert {one["what"] for one in document["withheld"]} >= {"touch", "balance", "wrong"}
    assert chunks_of(db, recording) == 0  # nobody agreed to keep it
    # What was heard stays, and can be judged again without the sound.
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert again["document"]["matched"] == 78


def test_a_recording_is_kept_where_somebody_agreed_until_that_is_withdrawn(client, db, piece, sound):
    consent = client.post(
        "/api/consents",
        json=agreed_by(client),
    ).json()
    recording = begun(client, piece, consent_id=consent["id"])
    send(client, recording, sound)
    with a_worker(db):
        heard(client, recording)
    assert chunks_of(db, recording) == (len(sound) + CHUNK - 1) // CHUNK
    listed = client.get("/api/consents").json()
    assert [one["student"] for one in listed["items"]] == ["The student"]
    assert listed["stored_bytes"] == len(sound) + len(client.get(f"/api/recordings/{recording['id']}/playback").content)
    assert client.delete(f"/api/consents/{consent['id']}").json() == {"dropped": 1}
    assert chunks_of(db, recording) == 0
    assert client.get("/api/consents").json()["stored_bytes"] == 0
    assert take_of(client, recording)["state"] == "judged"
    refused = client.post(
        f"/api/pieces/{piece}/recordings", json={"activity": "play", "bpm": 80, "consent_id": consent["id"]}
    )
    assert refused.status_code == 404


def test_the_copy_that_is_played_is_made_anew_when_the_take_is_judged_anew(client, db, piece, sound):
    agreed = agreed_by(client)
    recording = begun(client, piece, consent_id=client.post("/api/consents", json=agreed).json()["id"])
    send(client, recording, sound)
    path = f"/api/recordings/{recording['id']}/playback"
    with a_worker(db):
        until(lambda: heard(client, recording)["recording"]["can_play"], bool)
        first = client.get(path).content
        connection = connect(db)
        try:
            with connection.cursor() as cursor:  # as if it had another click
                cursor.execute("UPDATE playback_chunk SET bytes = REPEAT('x', LENGTH(bytes))")
            connection.commit()
        finally:
            connection.close()
        assert client.get(path).content != first
        assert client.post(f"/api/takes/{recording['take_id']}/judge").status_code == 200
        until(lambda: client.get(path).content, lambda content: content == first)
    # Of a sound that is kept no longer none is made.
    assert client.delete(f"/api/recordings/{recording['id']}/sound").status_code in (200, 204)
    assert client.post(f"/api/takes/{recording['take_id']}/judge").status_code == 200
    with a_worker(db):
        until(lambda: waiting_jobs(db), lambda count: count == 0)
    assert client.get(path).status_code == 404


def waiting_jobs(db) -> int:
    connection = connect(db)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT COUNT(*) AS n FROM job WHERE state IN ('waiting', 'running')")
            return cursor.fetchone()["n"]
    finally:
        connection.close()


def test_consent_withdrawn_before_it_was_heard(client, db, piece, sound):
    """It is heard all the same; its sound goes then."""
    agreed = agreed_by(client)
    consent = client.post("/api/consents", json=agreed).json()
    recording = begun(client, piece, consent_id=consent["id"])
    send(client, recording, sound)
    assert client.delete(f"/api/consents/{consent['id']}").json() == {"dropped": 1}
    with a_worker(db):
        assert heard(client, recording)["status"] == "steady"
    assert chunks_of(db, recording) == 0


def test_an_ear_that_breaks_says_so(client, db, piece, sound, monkeypatch):
    def breaks(*_args, **_more):
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr(hearing, "hear_take", breaks)
    recording = begun(client, piece)
    send(client, recording, sound)
    with a_worker(db):
        take = heard(client, recording)
    assert (take["state"], "Send the recording again" in take["failure"]) == ("failed", True)


@pytest.mark.parametrize(
    "damage",
    [
        "UPDATE recording_chunk SET bytes = CONCAT(SUBSTRING(bytes, 1, 5000), 'x', SUBSTRING(bytes, 5002))",
        "UPDATE recording_chunk SET bytes = ''",
        "DELETE FROM recording_chunk",
    ],
)
def test_what_is_stored_of_a_recording_may_be_damaged(client, db, piece, sound, damage):
    recording = begun(client, piece)
    send(client, recording, sound)
    connection = connect(db)
    try:
        with connection.cursor() as cursor:
            cursor.execute(f"{damage} WHERE recording_id = %s AND number = 0", (recording["id"],))
        connection.commit()
    finally:
        connection.close()
    with a_worker(db):
        take = heard(client, recording)
    assert take["state"] == "failed"
    assert "damaged" in take["failure"]
    assert "Send the recording again" in take["failure"]
    assert client.get(f"/api/pieces/{piece}/takes").json()["items"][0]["id"] == recording["take_id"]


def test_two_send_at_once_and_each_is_heard_once(client, db, piece, sound):
    """Chunks of two recordings come in turn, and two workers listen."""
    first, second = begun(client, piece), begun(client, piece)
    for recording in (first, second, first):
        assert put(client, recording, 0, sound[:CHUNK]).status_code == 204
    for recording in (second, first):
        for number in range(1, (len(sound) + CHUNK - 1) // CHUNK):
            assert put(client, recording, number, sound[number * CHUNK : (number + 1) * CHUNK]).status_code == 204
    with a_worker(db), a_worker(db):
        for recording in (first, second):
            assert complete(client, recording, sound).status_code == 200
        takes = [heard(client, recording) for recording in (first, second)]
    assert [take["status"] for take in takes] == ["steady", "steady"]
    assert [chunks_of(db, recording) for recording in (first, second)] == [0, 0]


def test_what_is_sent_twice_is_kept_once_and_what_broke_off_is_gone_on_with(client, db, piece, sound):
    first = begun(client, piece, client_key="take-0001")
    put(client, first, 0, b"half of it")
    put(client, first, 0, sound[:CHUNK])
    again = begun(client, piece, client_key="take-0001")
    assert (again["id"], again["here"]) == (first["id"], [0])
    for number in (2, 1):
        put(client, first, number, sound[number * CHUNK : (number + 1) * CHUNK])
    assert client.get(f"/api/recordings/{first['id']}").json()["here"] == [0, 1, 2]
    assert complete(client, first, sound).json()["is_complete"]
    assert complete(client, first, sound).json()["is_complete"]
    assert put(client, first, 0, b"late").status_code == 409
    with a_worker(db):
        assert heard(client, first)["state"] == "judged"
    assert len(client.get(f"/api/pieces/{piece}/takes").json()["items"]) == 1


def test_it_is_whole_only_when_it_is(client, piece):
    recording = begun(client, piece)
    none = complete(client, recording, b"")
    assert (none.status_code, none.json()["error"]["todo"]) == (422, "Send it again.")
    put(client, recording, 0, b"a")
    put(client, recording, 2, b"c")
    gap = complete(client, recording, b"abc")
    assert (gap.status_code, gap.json()["error"]["where"]) == (409, "chunks")
    put(client, recording, 1, b"x")
    other = complete(client, recording, b"abc")
    assert (other.status_code, other.json()["error"]["where"]) == (409, "sha256")
    put(client, recording, 1, b"b")
    assert complete(client, recording, b"abc").status_code == 200


def test_what_is_large_is_laid_beside_what_was_sent_by_the_job(client, db, piece, sound, monkeypatch):
    monkeypatch.setattr(sending, "COMPARED_AT_ONCE_BYTES", 1)
    recording = begun(client, piece)
    put(client, recording, 0, sound[:CHUNK])
    assert complete(client, recording, sound + b"more").status_code == 200
    with a_worker(db):
        take = heard(client, recording)
    assert (take["state"], "Send the recording again" in take["failure"]) == ("failed", True)


def test_what_cannot_be_heard_is_said_and_the_take_stays(client, db, piece):
    recording = begun(client, piece, filename="letter.wav")
    send(client, recording, b"no sound, but a letter to the teacher" * 50)
    with a_worker(db):
        take = heard(client, recording)
    assert take["state"] == "failed"
    assert "no sound that can be read" in take["failure"]
    assert take["document"] is None


def test_bounds(client, piece):
    recording = begun(client, piece)
    assert put(client, recording, 0, bytes(CHUNK)).status_code == 204
    assert put(client, recording, 0, bytes(CHUNK + 1)).status_code == 422
    assert put(client, recording, 256, b"a").status_code in (404, 422)
    assert put(client, {"id": 10**9}, 0, b"a").status_code == 404
    assert client.get("/api/recordings/99999").status_code == 404
    count = client.post(f"/api/pieces/{piece}/recordings", json={"activity": "count", "bpm": 80})
    assert count.status_code == 422
    nowhere = client.post(f"/api/pieces/{piece}/recordings", json={"activity": "play", "bpm": 80, "measures": "90-99"})
    assert nowhere.status_code == 422
    future = agreed_by(client, given_on="2999-01-01")
    assert client.post("/api/consents", json=future).status_code == 422


def test_the_sound_of_a_take_can_go_once_it_was_heard(client, db, piece, sound):
    consent = client.post(
        "/api/consents",
        json=agreed_by(client),
    ).json()
    recording = begun(client, piece, consent_id=consent["id"])
    assert client.delete(f"/api/recordings/{recording['id']}/sound").status_code == 409
    send(client, recording, sound)
    assert client.delete(f"/api/recordings/{recording['id']}/sound").status_code == 409
    with a_worker(db):
        heard(client, recording)
    assert client.delete(f"/api/recordings/{recording['id']}/sound").status_code == 204
    assert chunks_of(db, recording) == 0
    assert take_of(client, recording)["status"] == "steady"


def test_a_take_that_is_deleted_before_it_was_heard_is_let_go(client, db, piece, sound):
    recording = begun(client, piece)
    send(client, recording, sound)
    assert client.delete(f"/api/takes/{recording['take_id']}").status_code == 204
    with a_worker(db):
        jobs = until(lambda: _jobs(db), lambda found: not {"waiting", "running"} & set(found))
    assert jobs == ["done"]


def test_sound_that_nobody_waits_for_is_let_go(client, db, piece):
    """What never came whole, and what belongs to a deleted take and nobody agreed to keep, after a week; what came
    yesterday stays, and what is kept can be put back with its take."""
    old, deleted, new, kept = (begun(client, piece) for _ in range(4))
    for recording in (old, deleted, new, kept):
        put(client, recording, 0, b"sound")
    for recording in (deleted, kept):
        complete(client, recording, b"sound")
        assert client.delete(f"/api/takes/{recording['take_id']}").status_code == 204
    connection = connect(db)
    try:
        with transaction(connection) as cursor:
            cursor.execute("UPDATE recording SET created_at = created_at - INTERVAL 8 DAY WHERE id = %s", (old["id"],))
            cursor.execute("UPDATE take SET deleted_at = deleted_at - INTERVAL 8 DAY WHERE deleted_at IS NOT NULL")
            cursor.execute("UPDATE recording SET is_kept = TRUE WHERE id = %s", (kept["id"],))
        with transaction(connection):
            recordings.forget_abandoned(connection)
    finally:
        connection.close()
    assert [chunks_of(db, one) for one in (old, deleted, new, kept)] == [0, 0, 1, 1]
    assert client.get(f"/api/recordings/{old['id']}").json()["here"] == []
    assert put(client, old, 0, b"sound").status_code == 409


def _jobs(db) -> list[str]:
    connection = connect(db)
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT state FROM job WHERE kind = 'hear'")
            return [row["state"] for row in cursor.fetchall()]
    finally:
        connection.close()


def judged(client, db, recording: dict) -> dict:
    with a_worker(db):
        return until(lambda: take_of(client, recording), lambda take: take["state"] == "judged")


class TestPlaying:
    @pytest.fixture
    def kept(self, client, db, piece, sound) -> dict:
        consent = agreed_by(client)
        consent_id = client.post("/api/consents", json=consent).json()["id"]
        recording = begun(client, piece, consent_id=consent_id)
        send(client, recording, sound)
        with a_worker(db):
            until(lambda: take_of(client, recording), lambda take: take["recording"]["can_play"])
        return recording

    def test_a_kept_recording_is_played_in_parts_from_any_place(self, client, kept):
        url = f"/api/recordings/{kept['id']}/playback"
        whole = client.get(url)
        assert whole.status_code == 200
        assert whole.headers["content-type"] == "audio/mpeg"
        size = len(whole.content)
        for asked, first, last in (
            ("bytes=0-99", 0, 99), ("bytes=100-", 100, min(size, CHUNK) - 1), ("bytes=-50", size - 50, size - 1),
            ("bytes=0-0, 5-9", 0, 0), (f"bytes=10-{size * 2}", 10, min(size, CHUNK) - 1),
        ):  # fmt: skip
            part = client.get(url, headers={"Range": asked})
            assert part.status_code == 206, asked
            assert part.headers["content-range"] == f"bytes {first}-{last}/{size}"
            assert part.content == whole.content[first : last + 1]
        for odd in ("lines=1-2", "bytes=9-1", "bytes=-", "bytes=x"):
            assert client.get(url, headers={"Range": odd}).status_code == 200
        assert client.get(url, headers={"Range": f"bytes={size}-"}).status_code == 404

    def test_beside_what_was_played_is_the_click_of_its_beat(self, client, kept, tmp_path):
        path = tmp_path / "copy.mp3"
        path.write_bytes(client.get(f"/api/recordings/{kept['id']}/playback").content)
        wav = tmp_path / "copy.wav"
        subprocess.run(["ffmpeg", "-v", "error", "-i", str(path), str(wav)], check=True)
        samples, rate = soundfile.read(wav)
        loud = np.flatnonzero(np.abs(samples[:, 1]) > 0.15)
        clicks = loud[np.r_[True, np.diff(loud) > 0.2 * rate]] / rate
        notes = take_of(client, kept)["document"]["notes"]
        in_bar = (0, 1.5)  # two beats in five eighths
        on_beats = {n["onset_quarters"]: n["expected_s"] for n in notes if n["onset_quarters"] % 2.5 in in_bar}
        for at_s in on_beats.values():
            assert min(abs(clicks - at_s)) < 0.004  # MP3 rounds off what it encodes
        assert len(clicks) >= len(on_beats)

    def test_without_its_sound_nothing_is_played(self, client, kept):
        assert client.delete(f"/api/recordings/{kept['id']}/sound").status_code == 204
        assert client.get(f"/api/recordings/{kept['id']}/playback").status_code == 404
        take = take_of(client, kept)
        assert not take["recording"]["can_play"]
        assert len(take["envelope"]["levels"]) == pytest.approx(take["document"]["audio"]["seconds"] / 0.05, abs=1)


class TestByTheMicrophone:
    def test_what_sounds_before_the_first_beat_is_not_listened_to(self, client, db, piece, sound):
        """A count-in of loud keys, as a device that sounds tones might have it, and clicks on every beat."""
        samples, rate = soundfile.read(io.BytesIO(sound))
        lead_s, beat_s = 4.0, 0.75
        total = np.zeros(int(lead_s * rate) + len(samples))
        total[int(lead_s * rate) :] = 0.7 * samples
        at = np.arange(int(0.12 * rate)) / rate
        first_beat_s = lead_s + 2.0  # where the simulated student begins
        clicks = [first_beat_s + k * beat_s for k in range(-4, 60)]
        for at_s in clicks:
            click = 0.25 * np.sin(2 * np.pi * 1420 * at) * np.exp(-at / 0.025)
            begin = int((at_s + 0.12) * rate)  # a loudspeaker's delay
            if begin + len(click) < len(total):
                total[begin : begin + len(click)] += click
        out = io.BytesIO()
        soundfile.write(out, total, rate, format="FLAC")
        heard = {}
        for name, more in {"known": {"first_beat_s": first_beat_s, "clicks_s": clicks}, "unknown": {}}.items():
            recording = begun(client, piece, **more)
            send(client, recording, out.getvalue())
            heard[name] = judged(client, db, recording)
        document = heard["known"]["document"]
        assert document["followed"]
        assert len(document["extra"]) == 0
        assert len(document["missing"]) <= 1
        assert min(tap["t"] for tap in heard["known"]["strikes"]) > first_beat_s - 0.4

    def test_what_a_take_leads_to_is_told_once_it_was_judged(self, client, db, piece, sound):
        rung = client.get(f"/api/pieces/{piece}/study").json()["rungs"][-1]["key"]
        recording = begun(client, piece, rung=rung)
        assert client.get(f"/api/takes/{recording['take_id']}/next").json() is None
        send(client, recording, sound)
        judged(client, db, recording)
        told = client.get(f"/api/takes/{recording['take_id']}/next").json()
        assert told["text"]

    def test_bounds(self, client, piece):
        asked = {"activity": "play", "bpm": 80}
        for odd in ({"first_beat_s": -1}, {"first_beat_s": 5, "clicks_s": [0.5] * 5000}, {"clicks_s": [1e9]}):
            assert client.post(f"/api/pieces/{piece}/recordings", json={**asked, **odd}).status_code == 422


def test_sound_goes_by_itself_after_the_days_that_the_studio_keeps_any(client, db, piece, sound):
    recording = begun(client, piece, consent_id=client.post("/api/consents", json=agreed_by(client)).json()["id"])
    send(client, recording, sound)
    with a_worker(db):
        heard(client, recording)

    def look(days_ago: int) -> int:
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("UPDATE recording SET completed_at = UTC_TIMESTAMP(6) - INTERVAL %s DAY", (days_ago,))
            gone = recordings.drop_too_old(connection)
        connection.close()
        return gone

    assert look(4000) == 0  # nothing was set
    studio = client.get("/api/studio").json()
    assert client.put("/api/studio", json=studio | {"sound_days": 0}).status_code == 422
    assert client.put("/api/studio", json=studio | {"sound_days": 30}).json()["sound_days"] == 30
    assert look(29) == 0
    assert chunks_of(db, recording) > 0
    assert look(31) == 1
    assert chunks_of(db, recording) == 0
    assert client.get(f"/api/recordings/{recording['id']}/playback").status_code == 404
    assert take_of(client, recording)["document"]["followed"]
    assert look(31) == 0
