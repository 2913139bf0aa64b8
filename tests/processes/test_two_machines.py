"""Two machines at one database: each with an application and a worker, started at once on an empty one. What is stored
by one is answered by the other, and one that is gone leaves nothing undone."""

from __future__ import annotations

import os
import signal
import sys
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from urllib.parse import quote

import httpx2
import pytest

from helpers import demo_bytes
from laptick.db.engine.connect import connect, transaction

ROOT = Path(__file__).resolve().parents[2]
sys.path.append(str(ROOT / "benchmarks" / "solid"))

from running import TEACHER, Running  # noqa: E402

pytestmark = pytest.mark.skipif(
    not (ROOT / "web" / "dist" / "index.html").is_file(), reason="the interface is not built"
)


def until(look: Callable[[], object], seconds: float = 90) -> object:
    end = time.monotonic() + seconds
    while not (found := look()):
        assert time.monotonic() < end, "it did not come"
        time.sleep(0.1)
    return found


def at(machine: Running, token: str) -> httpx2.Client:
    """Of a teacher who signed in at either of them."""
    cookies = {f"laptick-session-{machine.port}": token}
    return httpx2.Client(base_url=machine.url, cookies=cookies, timeout=60)


@pytest.fixture
def machines(empty_db, tmp_path):
    address = f"{quote(empty_db.user)}:{quote(empty_db.password)}@{empty_db.host}:{empty_db.port}/{empty_db.database}"
    both = [Running(home=tmp_path / name, more=("--db", f"mysql://{address}")) for name in ("one", "other")]
    for machine in both:
        (machine.home / "home").mkdir(parents=True)
    with ThreadPoolExecutor(2) as at_once:
        list(at_once.map(Running.start, both))
    yield both
    for machine in both:
        machine.stop()


def test_two_machines_at_one_database(machines, empty_db):
    one, other = machines
    connection = connect(empty_db)
    with transaction(connection) as cursor:  # what a migration puts in is there once, whoever came first
        cursor.execute("SELECT (SELECT COUNT(*) FROM studio) AS studios, (SELECT COUNT(*) FROM student) AS students")
        found = cursor.fetchone()
    connection.close()
    assert found == {"studios": 1, "students": 1}
    with httpx2.Client(base_url=one.url, timeout=60) as stranger:
        stranger.post("/api/set-up", json={"studio": "Two", **TEACHER}).raise_for_status()
        [token] = [value for name, value in stranger.cookies.items() if "session" in name]
    with at(one, token) as here, at(other, token) as there:
        files = {"file": ("harbour-steps.musicxml", demo_bytes("harbour-steps"))}
        piece = here.post("/api/pieces", files=files).raise_for_status().json()["id"]
        take = {"activity": "lap", "bpm": 60, "seed": 3}
        made = there.post(f"/api/pieces/{piece}/takes/simulated", json=take).raise_for_status().json()
        assert here.get(f"/api/takes/{made['id']}").json() == there.get(f"/api/takes/{made['id']}").json()

        # Both workers at work: each job is done once, whoever does it, and answered by both.
        sheets = ("week", "colouring")
        paths = [f"/api/pieces/{piece}/practice-sheet?shows={shows}" for shows in sheets]
        with ThreadPoolExecutor(4) as at_once:
            list(at_once.map(lambda asked: asked[0].get(asked[1]), [(who, p) for who in (here, there) for p in paths]))
        for path in paths:
            until(lambda path=path: here.get(path).status_code == there.get(path).status_code == 200)
            assert here.get(path).content == there.get(path).content
        job = here.post("/api/bundles", json={}).raise_for_status().json()
        until(lambda: there.get(f"/api/jobs/{job['job']['id']}").json()["state"] == "done")
        assert there.get(f"/api/bundles/{job['bundle']['id']}/file").content.startswith(b"PK")

        # One goes at once, with all it held: the other does it.
        job = here.post("/api/bundles", json={}).raise_for_status().json()
        os.killpg(one.process.pid, signal.SIGKILL)
        one.process.wait()
        until(lambda: there.get(f"/api/jobs/{job['job']['id']}").json()["state"] == "done")
        assert there.get(f"/api/bundles/{job['bundle']['id']}/file").content.startswith(b"PK")
        assert there.post(f"/api/pieces/{piece}/takes/simulated", json=take).status_code == 201
