"""A studio under load: 50 clients, each waiting a second between requests, on 500 pieces and 20,000 takes.

90 % reads, 8 % takes of up to 64 bars, 1 % sheets, 1 % uploads. Told: how long reads took, how long until a take was
judged, the memory of every process before and after, and (``--until-full``) at how many clients reads get slow.

Run: .venv/bin/python benchmarks/solid/load.py [--seconds 60] [--clients 50] [--pieces 500] [--takes 20000]
    [--until-full]
"""

from __future__ import annotations

import argparse
import random
import statistics
import sys
import threading
import time
from collections import defaultdict
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from filling import fill
from running import Running, memory_mb, signed_in

from helpers import demo_bytes

READS = (
    ("shelf", 20, lambda rng, p, t: "/api/pieces"),
    ("piece", 25, lambda rng, p, t: f"/api/pieces/{rng.choice(p)}"),
    ("ladder", 20, lambda rng, p, t: f"/api/pieces/{rng.choice(p)}/study"),
    ("takes", 15, lambda rng, p, t: f"/api/pieces/{rng.choice(p)}/takes"),
    ("take", 10, lambda rng, p, t: f"/api/takes/{rng.choice(t)}"),
    ("counts", 10, lambda rng, p, t: f"/api/pieces/{rng.choice(p)}/counts?bpm=60"),
)


class Told:
    def __init__(self) -> None:
        self.taken: dict[str, list[float]] = defaultdict(list)
        self.bad: dict[str, int] = defaultdict(int)
        self.lock = threading.Lock()

    def add(self, kind: str, taken: float, ok: bool) -> None:
        with self.lock:
            self.taken[kind].append(taken)
            self.bad[kind] += not ok


def p95(values: list[float]) -> float:
    return statistics.quantiles(values, n=20)[-1] if len(values) > 1 else sum(values)


def client_of(url: str, pieces: list[int], takes: list[int], told: Told, number: int, over: threading.Event) -> None:
    rng = random.Random(number)
    with httpx2.Client(base_url=url, cookies=signed_in(url), timeout=60) as client:
        over.wait(rng.random())
        while not over.is_set():
            begun, chance = time.perf_counter(), rng.random()
            try:
                if chance < 0.9:
                    name, _, address = rng.choices(READS, [weight for _, weight, _ in READS])[0]
                    ok, kind = client.get(address(rng, pieces, takes)).status_code == 200, f"read: {name}"
                elif chance < 0.98:
                    ok, kind = play(client, rng, rng.choice(pieces)), "take, until judged"
                elif chance < 0.99:
                    piece = rng.choice(pieces)
                    ok, kind = made(client, f"/api/pieces/{piece}/sheet?bpm=60&shows=both"), "sheet, until made"
                else:
                    files = {"file": ("boat.musicxml", demo_bytes("lantern-boat"))}
                    ok, kind = client.post("/api/pieces", files=files).status_code == 201, "upload"
            except httpx2.HTTPError:
                ok, kind = False, "unanswered"
            told.add(kind, time.perf_counter() - begun, ok)
            over.wait(1)


def play(client: httpx2.Client, rng: random.Random, piece: int) -> bool:
    """A simulated student's take, until it is judged."""
    answer = client.post(
        f"/api/pieces/{piece}/takes/simulated", json={"activity": "lap", "bpm": 60, "seed": rng.randrange(99)}
    )
    while answer.status_code in (200, 201) and answer.json()["state"] == "waiting":
        time.sleep(0.2)
        answer = client.get(f"/api/takes/{answer.json()['id']}")
    return answer.status_code in (200, 201)


def made(client: httpx2.Client, url: str) -> bool:
    while (answer := client.get(url)).status_code == 202:
        time.sleep(0.3)
    return answer.status_code == 200


def load(running: Running, clients: int, seconds: float, pieces: list[int], takes: list[int]) -> Told:
    told, over = Told(), threading.Event()
    threads = [
        threading.Thread(target=client_of, args=(running.url, pieces, takes, told, number, over))
        for number in range(clients)
    ]
    for thread in threads:
        thread.start()
    time.sleep(seconds)
    over.set()
    for thread in threads:
        thread.join()
    return told


def reads_of(told: Told) -> list[float]:
    return [taken for kind, all_taken in told.taken.items() if kind.startswith("read") for taken in all_taken]


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--clients", type=int, default=50)
    parser.add_argument("--seconds", type=float, default=60)
    parser.add_argument("--pieces", type=int, default=500)
    parser.add_argument("--takes", type=int, default=20_000)
    parser.add_argument("--until-full", action="store_true")
    options = parser.parse_args()
    with Running(apps=2, workers=2) as running:
        begun = time.monotonic()
        pieces, takes = fill(running.home / "home" / "database", options.pieces, options.takes)
        print(f"{len(pieces)} pieces, {options.takes} takes, after {time.monotonic() - begun:.0f} s", flush=True)
        processes = {"app": "laptick.serving", "worker": "worker --child", "database": "mariadbd"}
        load(running, 10, 5, pieces, takes)  # what is done once is done
        before = {name: max(map(memory_mb, running.pids(of)), default=0) for name, of in processes.items()}
        told = load(running, options.clients, options.seconds, pieces, takes)
        after = {name: max(map(memory_mb, running.pids(of)), default=0) for name, of in processes.items()}
        print("\n| what | asked | not answered well | median, ms | p95, ms | slowest, ms |")
        print("| --- | ---: | ---: | ---: | ---: | ---: |")
        for kind, taken in sorted(told.taken.items()):
            figures = [1000 * one for one in (statistics.median(taken), p95(taken), max(taken))]
            print(
                f"| {kind} | {len(taken)} | {told.bad[kind]} | {figures[0]:.0f} | {figures[1]:.0f} | {figures[2]:.0f} |"
            )
        reads = reads_of(told)
        judged = told.taken["take, until judged"]
        print(f"\nreads: p95 {1000 * p95(reads):.0f} ms (wanted 300); takes judged: p95 {p95(judged):.2f} s (wanted 3)")
        print(
            "memory, MB, before → after: "
            + ", ".join(f"{name} {before[name]:.0f} → {after[name]:.0f}" for name in processes)
        )
        clients = options.clients
        while options.until_full and p95(reads) < 0.3 and clients < 1000:
            clients = int(clients * 1.5)
            reads = reads_of(load(running, clients, 15, pieces, takes))
            print(f"{clients} clients: reads p95 {1000 * p95(reads):.0f} ms", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())
