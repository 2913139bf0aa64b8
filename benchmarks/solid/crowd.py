"""Many at the same thing in the same moment: what an application with two processes and two workers answers.

Takes, words, changes and sheets of one piece, uploads of one file, choices of one studio; each burst begins at one
moment. Everything has to be answered well.

Run: .venv/bin/python benchmarks/solid/crowd.py [--times 1]
"""

from __future__ import annotations

import argparse
import statistics
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from running import Running, signed_in

from helpers import demo_bytes

Ask = Callable[[httpx2.Client, int], httpx2.Response]


def bursts(piece: int, study: dict[str, object]) -> list[tuple[str, int, Ask]]:
    """(what, how many at once, what each of them asks)"""
    keys = [rung["key"] for rung in study["rungs"]]  # type: ignore[index, attr-defined]
    words, boat = f"/api/studies/{study['id']}/words", demo_bytes("lantern-boat")

    def play(client: httpx2.Client, number: int) -> httpx2.Response:
        take = {"activity": "lap", "bpm": 60, "seed": number}
        return client.post(f"/api/pieces/{piece}/takes/simulated", json=take)

    def takes_come_and_go(client: httpx2.Client, number: int) -> httpx2.Response:
        match number % 4:
            case 0:
                return play(client, number)
            case 1:
                return client.delete(f"/api/takes/{1 + number % 30}")
            case 2:
                return client.post(f"/api/takes/{1 + number % 30}/restore")
        return client.get(f"/api/pieces/{piece}/study")

    return [
        ("takes of one piece", 40, play),
        ("one file uploaded", 30, lambda c, n: c.post("/api/pieces", files={"file": ("b.musicxml", boat)})),
        ("the studio's choices", 30,
         lambda c, n: c.put("/api/choices", json={"studio": {"density": ("steady", "beat")[n % 2]}})),
        ("a word on five rungs", 30, lambda c, n: c.post(words, json={"rung": keys[n % 5]})),
        ("the piece taken off and put back", 30,
         lambda c, n: c.delete(f"/api/pieces/{piece}") if n % 2 else c.post(f"/api/pieces/{piece}/restore")),
        ("takes made, deleted, brought back; the ladder", 60, takes_come_and_go),
        ("three sheets", 24, lambda c, n: c.get(f"/api/pieces/{piece}/sheet?bpm={60 + n % 3}&shows=both")),
        ("three pages of notes", 24, lambda c, n: c.get(f"/api/pieces/{piece}/notation?bpm=60&width={700 + n % 3}")),
    ]  # fmt: skip


def at_once(url: str, count: int, ask: Ask) -> tuple[Counter[int], list[float]]:
    answers: Counter[int] = Counter()
    taken: list[float] = []
    lock, begin = threading.Lock(), threading.Barrier(count)

    def one(number: int) -> None:
        with httpx2.Client(base_url=url, cookies=signed_in(url), timeout=120) as client:
            begin.wait()
            begun = time.perf_counter()
            answer = ask(client, number)
            with lock:
                answers[answer.status_code] += 1
                taken.append(time.perf_counter() - begun)

    threads = [threading.Thread(target=one, args=(number,)) for number in range(count)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return answers, taken


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--times", type=int, default=1)
    options = parser.parse_args()
    bad = 0
    with Running(apps=2, workers=2) as running, running.client() as client:
        upload = client.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))})
        piece = upload.json()["id"]
        study = client.get(f"/api/pieces/{piece}/study").json()
        print("| at once | answers | median, s | slowest, s |\n| --- | --- | ---: | ---: |")
        for what, count, ask in bursts(piece, study) * options.times:
            client.post(f"/api/pieces/{piece}/restore")
            answers, taken = at_once(running.url, count, ask)
            bad += sum(times for status, times in answers.items() if status >= 400)
            told = ", ".join(f"{times} × {status}" for status, times in sorted(answers.items()))
            print(f"| {count} × {what} | {told} | {statistics.median(taken):.2f} | {max(taken):.2f} |", flush=True)
    print(f"\n{bad} not answered well")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
