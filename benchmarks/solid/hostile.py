"""A table of hostile requests to a running application: what was answered, after how long, how much memory it took, and
how soon the health endpoint answered meanwhile.

Run: .venv/bin/python benchmarks/solid/hostile.py [--slowest 30]
"""

from __future__ import annotations

import argparse
import statistics
import sys
import threading
import time
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from running import Running, memory_mb

from helpers import demo_bytes
from hostile import Hostile, hostile

#: What is asked of each: seconds, and megabytes of the process that answers.
MOST_S, MOST_MB, MOST_HEALTH_S = 3.0, 300.0, 0.2


class Health:
    """Asks every 50 ms, from another thread."""

    def __init__(self, url: str) -> None:
        self.url, self.worst_s, self.over = url, 0.0, threading.Event()
        self.all: list[float] = []
        threading.Thread(target=self._ask, daemon=True).start()

    def _ask(self) -> None:
        with httpx2.Client(timeout=30) as client:
            while not self.over.wait(0.05):
                begun = time.perf_counter()
                try:
                    ok = client.get(f"{self.url}/api/health").status_code == 200
                except httpx2.HTTPError:
                    ok = False
                taken = time.perf_counter() - begun if ok else 99.0
                self.worst_s = max(self.worst_s, taken)
                self.all.append(taken)

    def take_worst(self) -> float:
        worst, self.worst_s = self.worst_s, 0.0
        return worst


def send(client: httpx2.Client, one: Hostile, piece: int) -> tuple[int, str]:
    path = one.path.replace("{piece}", str(piece))
    try:
        answer = client.request(one.method, path, **one.options())
        told = answer.text[:110] if answer.headers.get("content-type", "").startswith("application/json") else ""
        return answer.status_code, told
    except (httpx2.HTTPError, httpx2.InvalidURL, ValueError) as error:
        return 0, repr(error)[:100]


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--slowest", type=int, default=25)
    parser.add_argument("--only", default="")
    options = parser.parse_args()
    bad = 0
    with Running() as running, running.client() as client:
        upload = client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))})
        piece, health, rows = upload.json()["id"], Health(running.url), []
        for one in hostile():
            if options.only not in one.name:
                continue
            health.take_worst()
            begun = time.perf_counter()
            status, told = send(client, one, piece)
            taken = time.perf_counter() - begun
            memory, worst = max(memory_mb(pid) for pid in running.app_pids()), health.take_worst()
            ok = status in one.may and taken <= MOST_S and memory <= MOST_MB and worst <= MOST_HEALTH_S
            bad += not ok
            mark = "" if ok else "**"
            figures = f"{status} | {taken:.2f} | {memory:.0f} | {1000 * worst:.0f}"
            rows.append((taken, f"| {mark}{one.name}{mark} | {figures} | {told} |"))
            if not ok:
                print(rows[-1][1], flush=True)
        print("\n| request | answer | seconds | MB | health, ms | words |\n| --- | ---: | ---: | ---: | ---: | --- |")
        for _, row in sorted(rows, reverse=True)[: options.slowest]:
            print(row)
        slowest, largest = max(rows)[0], max(memory_mb(pid) for pid in running.app_pids())
        print(
            f"\n{len(rows)} requests, {bad} not as they should be; slowest {slowest:.2f} s; at the end {largest:.0f} MB"
        )
        middle, worst = 1000 * statistics.median(health.all), 1000 * max(health.all)
        print(f"health, asked {len(health.all)} times: median {middle:.1f} ms, worst {worst:.0f} ms")
        health.over.set()
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
