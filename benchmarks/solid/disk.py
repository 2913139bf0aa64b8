"""A disk that fills up and has room again, one that is read-only; a database stopped for twenty seconds. Whatever
happens is answered in words, nothing hangs, and everything goes on by itself.

Needs root, for a small file system of its own in memory. Run: .venv/bin/python benchmarks/solid/disk.py
"""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parents[2] / name) for name in ("src", "tests", "tools")]

import httpx2
from running import ROOT, Running

from helpers import demo_bytes

FILES = {"file": ("h.musicxml", demo_bytes("harbour-steps"))}


def asked(client: httpx2.Client) -> tuple[str, str, float]:
    """What a write and a read are answered, and how long the slower took."""
    slowest, found = 0.0, []
    for ask in (lambda: client.post("/api/pieces", files=FILES), lambda: client.get("/api/pieces")):
        begun = time.monotonic()
        try:
            answer = ask()
            words = "" if answer.status_code < 400 else f" {answer.json()['error']['what']}"
            found.append(f"{answer.status_code}{words}")
        except (httpx2.HTTPError, ValueError, KeyError) as error:
            found.append(repr(error))
        slowest = max(slowest, time.monotonic() - begun)
    return found[0], found[1], slowest


def told(what: str, client: httpx2.Client) -> tuple[str, str]:
    write, read, slowest = asked(client)
    print(f"{what:<28} write: {write} | read: {read} | slowest {slowest:.2f} s", flush=True)
    return write, read


def main() -> int:
    if os.getuid() != 0:
        print("this needs root")
        return 2
    place = Path(tempfile.mkdtemp(prefix="laptick-disk-"))
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=700m,mode=755", "laptick-bench", place], check=True)
    bad = []
    try:
        with Running(home=place) as running, running.client(timeout=60) as client:
            filler = place / "filler"

            def expect(what: str, write: str, read: str = "200") -> None:
                found = told(what, client)
                if not (found[0].startswith(write) and found[1].startswith(read)):
                    bad.append(what)

            expect("at first", "201")
            with filler.open("wb") as file:
                try:
                    while True:
                        file.write(bytes(2**20))
                except OSError:
                    pass
            time.sleep(1.5)
            expect("the disk is full", "507")
            filler.unlink()
            time.sleep(1.5)
            expect("there is room again", "201")
            [database] = running.pids("mariadbd")
            os.kill(database, signal.SIGSTOP)
            begun = time.monotonic()
            expect("the database is stopped", "503", "503")
            time.sleep(max(0.0, 20 - (time.monotonic() - begun)))
            os.kill(database, signal.SIGCONT)
            expect("it goes on", "201")
        # What is being written to cannot become read-only here: so it is found so at a start, and is not at the next.
        subprocess.run(["mount", "-o", "remount,ro", place], check=True)
        read_only = subprocess.run(
            [str(ROOT / ".venv" / "bin" / "laptick"), "serve", "--port", "0"],
            env={**os.environ, "LAPTICK_HOME": str(place / "home")}, capture_output=True, text=True, check=False,
        )  # fmt: skip
        print(f"read-only at the start: exit {read_only.returncode}: {read_only.stderr.strip()}")
        if read_only.returncode != 1 or len(read_only.stderr.strip().splitlines()) != 1:
            bad.append("read-only")
        subprocess.run(["mount", "-o", "remount,rw", place], check=True)
        with Running(home=place) as running, running.client(timeout=60) as client:
            expect("writable again", "201")
    finally:
        subprocess.run(["umount", "-l", place], check=False)
        place.rmdir()
    print("all as it should be" if not bad else f"not as it should be: {bad}")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
