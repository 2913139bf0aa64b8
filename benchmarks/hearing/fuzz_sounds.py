"""Mutated sound files through the decoder and the ear: each ends in sound, in a take, or in one of our own errors.

A take is encoded in every kind; bytes are changed, cut out, doubled, the end cut off. Told: what came of them, the
longest time, the largest memory of this process.

Run: .venv/bin/python -m benchmarks.hearing.fuzz_sounds [--files 2000] [--seed 1]
"""

from __future__ import annotations

import argparse
import resource
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools")]

from helpers import demo_score
from laptick.core.base.errors import LapTickError
from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.formats.audio.decoding import decode
from laptick.formats.audio.take import write_wav_take

KINDS = (
    (".wav", ()),
    (".flac", ()),
    (".mp3", ("-b:a", "64k")),
    (".ogg", ("-c:a", "libvorbis")),
    (".webm", ("-c:a", "libopus")),
    (".m4a", ("-c:a", "aac")),
)


def encoded(wav: bytes) -> list[bytes]:
    found = []
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "take.wav"
        source.write_bytes(wav)
        for suffix, how in KINDS:
            out = Path(folder) / f"encoded{suffix}"
            subprocess.run(["ffmpeg", "-nostdin", "-v", "error", "-i", str(source), *how, str(out)], check=True)
            found.append(out.read_bytes())
    return found


def mutated(data: bytes, rng: np.random.Generator) -> bytes:
    changed = bytearray(data)
    for _ in range(int(rng.integers(1, 4))):
        at = int(rng.integers(len(changed)))
        how = int(rng.integers(5))
        if how == 0:
            for place in rng.integers(0, len(changed), size=int(rng.integers(1, 200))):
                changed[place] = int(rng.integers(256))
        elif how == 1:
            del changed[at : at + int(rng.integers(1, 5000))]
        elif how == 2:
            changed[at:at] = changed[at : at + int(rng.integers(1, 5000))]
        elif how == 3:
            changed = changed[: max(1, at)]
        else:  # where containers keep their lengths
            for place in range(min(len(changed), 200)):
                if rng.uniform() < 0.1:
                    changed[place] = int(rng.choice((0, 255, 127, rng.integers(256))))
    return bytes(changed)


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--files", type=int, default=2000)
    options.add_argument("--seed", type=int, default=1)
    asked = options.parse_args()
    task = lap_task(demo_score("five-stones"), assigned_bpm=120, with_pitches=True)
    whole = encoded(write_wav_take(simulate(task, level=Level.ELEMENTARY, seed=1, faults=[], source=Source.MIDI)))
    rng = np.random.default_rng(asked.seed)
    outcomes: Counter[str] = Counter()
    slowest = 0.0
    for number in range(asked.files):
        data = mutated(whole[number % len(whole)], rng)
        begun = time.monotonic()
        try:
            sound = decode(data)
            take = hear_take(sound, task, rate=sound.rate)
            outcomes["heard" if take.heard and take.heard.is_recognised else "not recognised"] += 1
        except LapTickError as told:
            outcomes[f"{told.code}: {told.what}"] += 1
        slowest = max(slowest, time.monotonic() - begun)
    for what, count in outcomes.most_common():
        print(f"{count:6d}  {what}")
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    children = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    print(f"slowest {slowest:.1f} s; memory {memory:.0f} MB, of the decoder {children:.0f} MB")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
