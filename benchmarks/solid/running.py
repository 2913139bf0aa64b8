"""A running application for benchmarks: its own folder, port, database and processes, all gone at the end."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx2

ROOT = Path(__file__).resolve().parents[2]


#: Who is set up in a server that a benchmark started.
TEACHER = {"name": "Ada Brook", "password": "four small grey stones"}
_signing, _signed_in = threading.Lock(), dict[str, dict[str, str]]()


def signed_in(url: str) -> dict[str, str]:
    """What a browser keeps of its teacher, who is set up at the first asking; one session for all of a benchmark."""
    with _signing:
        if url not in _signed_in:
            with httpx2.Client(base_url=url, timeout=60) as client:
                if client.get("/api/me").json()["is_set_up"]:
                    client.post("/api/sign-in", json=TEACHER).raise_for_status()
                else:
                    client.post("/api/set-up", json={"studio": "Bench", **TEACHER}).raise_for_status()
                _signed_in[url] = dict(client.cookies)
        return _signed_in[url]


def memory_mb(pid: int) -> float:
    """The memory that a process holds."""
    try:
        pages = int(Path(f"/proc/{pid}/statm").read_text().split()[1])
    except (OSError, ValueError, IndexError):
        return 0.0
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20


def children(pid: int) -> list[int]:
    found = subprocess.run(["ps", "-o", "pid=", "--ppid", str(pid)], capture_output=True, text=True, check=False)
    return [int(one) for one in found.stdout.split()]


def command_of(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
    except OSError:
        return ""


class Running:
    """``laptick serve`` with so many processes. ``home``: its folder, made anew where none is named;
    ``more``: of its command line."""

    def __init__(
        self, *, apps: int = 1, workers: int = 1, home: Path | None = None, more: tuple[str, ...] = ()
    ) -> None:
        self.home = home or Path(tempfile.mkdtemp(prefix="laptick-bench-"))
        self.is_own, self.apps, self.workers, self.more = home is None, apps, workers, more
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"

    def start(self, wait_s: float = 60.0) -> float:
        """Seconds until the first answer."""
        begun = time.monotonic()
        self.log = (self.home / "bench.log").open("ab")
        self.process = subprocess.Popen(
            [str(ROOT / ".venv" / "bin" / "laptick"), "serve", "--port", str(self.port), "--apps", str(self.apps),
             "--workers", str(self.workers), *self.more],
            env={**os.environ, "LAPTICK_HOME": str(self.home / "home"), "OPENBLAS_NUM_THREADS": "1"},
            stdout=self.log, stderr=self.log, start_new_session=True,
        )  # fmt: skip
        while time.monotonic() - begun < wait_s:
            try:
                if httpx2.get(f"{self.url}/api/health", timeout=2).status_code == 200:
                    return time.monotonic() - begun
            except httpx2.HTTPError:
                pass
            if self.process.poll() is not None:
                break
            time.sleep(0.02)
        self.stop()  # one that is only late would run on, with nobody who knows of it
        raise RuntimeError((self.home / "bench.log").read_text()[-2000:])

    def client(self, timeout: float = 120) -> httpx2.Client:
        """Of its teacher."""
        return httpx2.Client(base_url=self.url, cookies=signed_in(self.url), timeout=timeout)

    def pids(self, of: str) -> list[int]:
        """The processes of the tree whose command line holds ``of``."""
        found, todo = [], [self.process.pid]
        while todo:
            pid = todo.pop()
            todo += children(pid)
            if of in command_of(pid):
                found.append(pid)
        return sorted(found)

    def app_pids(self) -> list[int]:
        return self.pids("laptick.serving")

    def stop(self) -> None:
        if self.process.poll() is None:
            self.process.send_signal(signal.SIGTERM)
            self.process.wait(60)
        self.log.close()

    def __enter__(self) -> Running:
        (self.home / "home").mkdir(parents=True, exist_ok=True)
        self.start()
        return self

    def __exit__(self, *_: object) -> None:
        self.stop()
        if self.is_own:
            shutil.rmtree(self.home, ignore_errors=True)


sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools")]
