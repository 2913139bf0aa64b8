"""Recordings queued by several clients at once on two applications and two workers, a worker killed in the middle:
every one is answered, each once.

The take is the demo's, on the product's own piano: what is measured is the queue, not the ear.

Run: .venv/bin/python -m benchmarks.hearing.queued [--clients 10] [--takes 5]
"""

from __future__ import annotations

import argparse
import hashlib
import os
import signal
import statistics
import sys
import threading
import time
from collections import Counter
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks/solid")]

import httpx2
from kills import sql
from running import Running, signed_in

from helpers import demo_bytes, demo_score
from laptick.core.base.levels import Level
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.formats.audio.take import write_wav_take

CHUNK = 2**20
PIECE = "harbour-steps"
#: A take is waited for so long.
MOST_S = 600.0


def sound() -> bytes:
    task = lap_task(demo_score(PIECE), assigned_bpm=80, with_pitches=True)
    return write_wav_take(simulate(task, level=Level.ELEMENTARY, seed=1, faults=[], source=Source.MIDI))


class Client(threading.Thread):
    """Sends its takes one after the other, then waits for all of them. ``waited_s``: from whole to judged."""

    def __init__(self, url: str, piece: int, number: int, takes: int, data: bytes) -> None:
        super().__init__(daemon=True)
        self.url, self.piece, self.number, self.takes, self.data = url, piece, number, takes, data
        self.states: list[str] = []
        self.waited_s: list[float] = []

    def run(self) -> None:
        with httpx2.Client(base_url=self.url, cookies=signed_in(self.url), timeout=60) as client:
            sent = {}
            for turn in range(self.takes):
                asked = {"activity": "play", "bpm": 80, "client_key": f"c{self.number}-{turn}"}
                coming = client.post(f"/api/pieces/{self.piece}/recordings", json=asked).json()
                for at in range(0, len(self.data), CHUNK):
                    client.put(
                        f"/api/recordings/{coming['id']}/chunks/{at // CHUNK}",
                        content=self.data[at : at + CHUNK],
                        headers={"Content-Type": "application/octet-stream"},
                    ).raise_for_status()
                whole = {"sha256": hashlib.sha256(self.data).hexdigest()}
                client.post(f"/api/recordings/{coming['id']}/complete", json=whole).raise_for_status()
                sent[coming["take_id"]] = time.monotonic()
            for take_id, since in sent.items():
                state = "waiting"
                while state == "waiting" and time.monotonic() - since < MOST_S:
                    time.sleep(0.5)
                    state = client.get(f"/api/takes/{take_id}").json()["state"]
                self.states.append(state)
                self.waited_s.append(time.monotonic() - since)


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--clients", type=int, default=10)
    parser.add_argument("--takes", type=int, default=5, help="of each client")
    asked = parser.parse_args()
    data = sound()
    with Running(apps=2, workers=2) as running:
        files = {"file": (f"{PIECE}.musicxml", demo_bytes(PIECE))}
        upload = httpx2.post(f"{running.url}/api/pieces", files=files, cookies=signed_in(running.url))
        piece = upload.json()["id"]
        clients = [Client(running.url, piece, number, asked.takes, data) for number in range(asked.clients)]
        for client in clients:
            client.start()
        time.sleep(8)
        killed = running.pids("worker --child")[:1] or running.pids("laptick.worker")[:1]
        for pid in killed:
            os.kill(pid, signal.SIGKILL)
        for client in clients:
            client.join()
        states = Counter(state for client in clients for state in client.states)
        waited = [one for client in clients for one in client.waited_s]
        judged = sql(running, "SELECT take_id, COUNT(*) AS n FROM judgement GROUP BY take_id")
        twice = sum(row["n"] > 1 for row in judged)
        kept = sql(running, "SELECT COUNT(*) AS n FROM recording_chunk")[0]["n"]
    total = asked.clients * asked.takes
    print(
        f"{total} recordings by {asked.clients} clients, worker {killed} killed: {dict(states)}; judged twice: {twice}"
    )
    print(f"waited: median {statistics.median(waited):.1f} s, longest {max(waited):.1f} s; chunks left: {kept}")
    return 0 if states == {"judged": total} and len(judged) == total and not twice and not kept else 1


if __name__ == "__main__":
    sys.exit(main())
