"""Kills at any moment: application, worker and database in turn, amid writes of every kind. What was acknowledged must
be there, nothing by halves, and everything back within six seconds.

Run: .venv/bin/python benchmarks/solid/kills.py [--kills 100]
"""

from __future__ import annotations

import argparse
import os
import random
import signal
import statistics
import sys
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from running import Running, signed_in

from helpers import demo_bytes

#: Within so many seconds of a kill the application answers again.
MOST_S = 6.0

#: What is killed, by what its command line holds.
VICTIMS = ("laptick.serving", "worker --child", "laptick.worker", "mariadbd")


@dataclass
class Ledger:
    """What the server acknowledged."""

    takes: set[str] = field(default_factory=set)
    notes: dict[int, str] = field(default_factory=dict)
    pieces: set[int] = field(default_factory=set)
    deleted: set[int] = field(default_factory=set)
    unclear: set[int] = field(default_factory=set)
    refused: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def __len__(self) -> int:
        return len(self.takes) + len(self.notes) + len(self.pieces) + len(self.deleted)


def taps(rng: random.Random, key: str) -> dict:
    strikes = [{"t": round(2 + n / 2 + rng.gauss(0, 0.02), 4), "hand": "right"} for n in range(rng.randint(8, 40))]
    return {"activity": "lap", "bpm": 60, "taps": sorted(strikes, key=lambda one: one["t"]), "client_key": key}


def write(running: Running, piece: int, ledger: Ledger, number: int, over: threading.Event) -> None:
    """One client: takes, notes beside them, pieces put on the shelf and taken off it."""
    rng, sent, known = random.Random(number), 0, []
    with httpx2.Client(base_url=running.url, cookies=signed_in(running.url), timeout=20) as client:
        while not over.is_set():
            kind = rng.random()
            try:
                if kind < 0.6 or not known:
                    key = f"c{number}-{sent}"
                    answer = client.post(f"/api/pieces/{piece}/takes", json=taps(rng, key))
                    if answer.status_code == 201:
                        with ledger.lock:
                            ledger.takes.add(key)
                        known.append(answer.json()["id"])
                elif kind < 0.85:
                    take, note = rng.choice(known), f"note {number} {sent}"
                    with ledger.lock:
                        ledger.unclear.add(take)  # until it is answered, either note may stand
                    answer = client.patch(f"/api/takes/{take}", json={"note": note})
                    if answer.status_code == 200:
                        with ledger.lock:
                            ledger.notes[take] = note
                            ledger.unclear.discard(take)
                else:
                    files = {"file": (f"{number}-{sent}.musicxml", demo_bytes("lantern-boat"))}
                    answer = client.post("/api/pieces", files=files)
                    if answer.status_code == 201:
                        made = answer.json()["id"]
                        with ledger.lock:
                            ledger.pieces.add(made)
                        if rng.random() < 0.5 and client.delete(f"/api/pieces/{made}").status_code == 204:
                            with ledger.lock:
                                ledger.deleted.add(made)
                if answer.status_code >= 400:
                    ledger.refused += 1
                    time.sleep(0.2)
            except httpx2.HTTPError:
                ledger.refused += 1
                time.sleep(0.2)
            sent += 1


def until_answering(url: str, since: float) -> float:
    while time.monotonic() - since < 60:
        try:
            if httpx2.get(f"{url}/api/pieces", cookies=signed_in(url), timeout=3).status_code == 200:
                return time.monotonic() - since
        except httpx2.HTTPError:
            pass
        time.sleep(0.03)
    return 99.0


def sql(running: Running, query: str) -> list[dict]:
    from laptick.db.engine.connect import connect
    from laptick.db.engine.server import MariaDb

    connection = connect(MariaDb(running.home / "home" / "database").settings())
    with connection.cursor() as cursor:
        cursor.execute(query)
        rows = list(cursor.fetchall())
    connection.close()
    return rows


#: Rows that only a broken transaction leaves, by what they would be.
HALVES = {
    "a judged take without a judgement": "SELECT id FROM take WHERE state = 'judged' AND NOT EXISTS"
    " (SELECT 1 FROM judgement WHERE judgement.take_id = take.id)",
    "a judgement of a take that waits": "SELECT take.id FROM take JOIN judgement ON judgement.take_id = take.id"
    " WHERE take.state = 'waiting'",
    "a waiting take that nobody will judge": "SELECT id FROM take WHERE state = 'waiting' AND NOT EXISTS"
    " (SELECT 1 FROM job WHERE job.job_key = CONCAT('judge:', take.id) AND job.state IN ('waiting', 'running'))",
    "a take that was judged twice": "SELECT take_id FROM judgement GROUP BY take_id HAVING COUNT(*) > 1",
    "a take told twice": "SELECT take_id FROM rung_event WHERE kind = 'try' GROUP BY take_id, rung HAVING COUNT(*) > 1",
    "a key kept twice": "SELECT client_key FROM take WHERE client_key IS NOT NULL GROUP BY client_key"
    " HAVING COUNT(*) > 1",
}


def lost(running: Running, ledger: Ledger) -> list[str]:
    """Everything that was acknowledged and is not there, or not as it was acknowledged."""
    keys = {row["client_key"] for row in sql(running, "SELECT client_key FROM take")}
    notes = {row["id"]: row["note"] for row in sql(running, "SELECT id, note FROM take")}
    pieces = {row["id"]: row["deleted_at"] for row in sql(running, "SELECT id, deleted_at FROM piece")}
    found = [f"take {key}" for key in ledger.takes - keys]
    found += [
        f"note of {take}"
        for take, note in ledger.notes.items()
        if notes.get(take) != note and take not in ledger.unclear
    ]
    found += [f"piece {piece}" for piece in ledger.pieces - pieces.keys()]
    found += [f"deleting {piece}" for piece in ledger.deleted if pieces.get(piece) is None]
    return found


def run(kills: int, *, seed: int = 1, writers: int = 4, most_s: float = MOST_S) -> int:
    rng, ledger, back, bad = random.Random(seed), Ledger(), [], 0
    with Running() as running:
        files = {"file": ("h.musicxml", demo_bytes("harbour-steps"))}
        upload = httpx2.post(f"{running.url}/api/pieces", files=files, cookies=signed_in(running.url))
        piece, over = upload.json()["id"], threading.Event()
        clients = [
            threading.Thread(target=write, args=(running, piece, ledger, number, over), daemon=True)
            for number in range(writers)
        ]
        for client in clients:
            client.start()
        for number in range(kills):
            time.sleep(rng.uniform(0.3, 2.0))
            victim = VICTIMS[number % len(VICTIMS)]
            pids = running.pids(victim)
            begun = time.monotonic()
            for pid in pids[:1]:
                os.kill(pid, signal.SIGKILL)
            taken = until_answering(running.url, begun)
            back.append(taken)
            if not pids or taken > most_s:
                bad += 1
                print(f"kill {number + 1}: {victim} {pids[:1]}: back after {taken:.1f} s", flush=True)
        time.sleep(1)
        over.set()
        for client in clients:
            client.join()
        # A request that broke off leaves its take to a worker: after a while none waits.
        end = time.monotonic() + 60
        while sql(running, "SELECT 1 FROM take WHERE state = 'waiting'") and time.monotonic() < end:
            time.sleep(0.5)
        missing = lost(running, ledger)
        halves = {words: len(rows) for words, query in HALVES.items() if (rows := sql(running, query))}
        waiting = len(sql(running, "SELECT 1 FROM take WHERE state = 'waiting'"))
    print(f"{kills} kills, {len(ledger)} writes acknowledged, {ledger.refused} refused or unanswered.")
    print(f"lost: {len(missing)} {missing[:5]}; by halves: {halves or 'none'}; still waiting to be judged: {waiting}")
    print(f"back: median {statistics.median(back):.2f} s, slowest {max(back):.2f} s (wanted {most_s:g}).")
    return 1 if bad or missing or halves or waiting else 0


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--kills", type=int, default=100)
    sys.exit(run(parser.parse_args().kills))
