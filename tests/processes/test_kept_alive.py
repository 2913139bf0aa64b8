"""The whole application as one command starts it: killed in its parts, and as a whole; the short version of
``benchmarks/solid/kills.py`` and ``benchmarks/disk.py``."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import httpx2
import pytest

ROOT = Path(__file__).resolve().parents[2]
sys.path.append(str(ROOT / "benchmarks" / "solid"))

import kills  # noqa: E402
from running import Running, signed_in  # noqa: E402

pytestmark = pytest.mark.skipif(
    not (ROOT / "web" / "dist" / "index.html").is_file(), reason="the interface is not built"
)


def test_five_kills_amid_writes_lose_nothing():
    assert kills.run(5, seed=7, writers=3, most_s=90) == 0


def test_everything_dies_with_the_parent_and_comes_back_on_the_same_data(tmp_path):
    (tmp_path / "home").mkdir()
    with Running(home=tmp_path) as running:
        end = time.monotonic() + 60
        # the parent, the application, a worker with its child (they begin when the application answers), the database
        while len(everything := running.pids("")) < 5:
            assert time.monotonic() < end, everything
            time.sleep(0.05)
        assert not (tmp_path / "home").stat().st_mode & 0o077
        os.kill(running.process.pid, signal.SIGKILL)
        running.process.wait()
        end = time.monotonic() + 60
        while any(Path(f"/proc/{pid}").exists() and _runs(pid) for pid in everything):
            assert time.monotonic() < end, [pid for pid in everything if Path(f"/proc/{pid}").exists()]
            time.sleep(0.05)
    with Running(home=tmp_path) as again:
        assert httpx2.get(f"{again.url}/api/pieces", cookies=signed_in(again.url), timeout=10).status_code == 200


def _runs(pid: int) -> bool:
    """A process that ended and that nobody has asked after is gone for all purposes."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False


def test_a_stopped_database_is_answered_in_words_and_gone_on_with():
    with Running() as running, running.client(timeout=60) as client:
        assert client.get("/api/pieces").status_code == 200
        [database] = running.pids("mariadbd")
        os.kill(database, signal.SIGSTOP)
        try:
            begun = time.monotonic()
            answer = client.get("/api/pieces")
            assert (answer.status_code, answer.json()["error"]["code"]) == (503, "storage")
            assert time.monotonic() - begun < 60  # it does not hang
        finally:
            os.kill(database, signal.SIGCONT)
        assert client.get("/api/pieces").status_code == 200


def laptick(*words: str, home: Path) -> subprocess.CompletedProcess[str]:
    """The command from a shell, on a folder, to its end."""
    environment = {**os.environ, "LAPTICK_HOME": str(home)}
    command = [str(ROOT / ".venv" / "bin" / "laptick"), *words]
    return subprocess.run(command, env=environment, capture_output=True, text=True, timeout=60, check=False)


def test_a_data_folder_that_cannot_be_used_is_said_in_one_line(tmp_path):
    in_the_way = tmp_path / "home"
    in_the_way.write_text("a file, not a folder")
    told = laptick("serve", "--port", "0", home=in_the_way)
    assert told.returncode == 1
    assert len(told.stderr.strip().splitlines()) == 1
    assert "cannot be written to" in told.stderr


def test_a_worker_needs_a_database_and_says_so(tmp_path):
    told = laptick("worker", home=tmp_path)
    assert (told.returncode, "no database" in told.stderr) == (2, True)


def test_a_worker_ends_on_a_signal_after_its_job(db):
    worker = subprocess.Popen(
        [str(ROOT / ".venv" / "bin" / "laptick"), "worker", "--db",
         f"mysql://{db.user}:{db.password}@{db.host}:{db.port}/{db.database}"],
    )  # fmt: skip
    end = time.monotonic() + 60
    while not Path(f"/proc/{worker.pid}/task/{worker.pid}/children").read_text().split():
        assert worker.poll() is None  # it is at work once it has a child
        assert time.monotonic() < end
        time.sleep(0.05)
    worker.terminate()
    assert worker.wait(30) == 0
