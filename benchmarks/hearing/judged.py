"""What is said of takes that were heard: faults of the second performer, and takes without any, through sound.

Every take is the one of ``benchmarks/operating_curve.py`` at the keys, sounded by an instrument of others under one of
the conditions in turn, heard as the product hears a file, and judged. Told: which share of faults at a multiple of
their limit is named, of those a recording can tell; which share of clean takes is blamed for anything; which is not
followed; and the same of the takes as MIDI, in the same run.

Run: .venv/bin/python -m benchmarks.hearing.judged [--takes 10] [--clean 40] [--seed 500] [--times 2]
"""

from __future__ import annotations

import argparse
import sys
import zlib
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks")]

from benchmarks.hearing.conditions import CONDITIONS, recorded
from benchmarks.hearing.playing import Played
from benchmarks.hearing.sounding import fonts, sounded
from performer.faults import FAULTS
from performer.takes import Case, codes_of, made

from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task
from laptick.formats.audio.decoding import decode

#: Conditions in turn: what a phone beside a piano gives.
USUAL = ("clean", "room", "opus, webm", "phone", "noise 20 dB", "16 kHz")

#: What a recording cannot tell, by its name: how long keys are held.
OF_KEY_UPS = ("long-cut", "rest-run-over")


@dataclass(frozen=True)
class Told:
    case: Case
    condition: str
    by_ear: tuple[str, ...]
    by_midi: tuple[str, ...]


def told(number_and_case: tuple[int, Case]) -> Told | None:
    number, case = number_and_case
    take = made(case)
    if take is None:
        return None
    task, performance = take
    name = USUAL[number % len(USUAL)]
    heard = heard_of(task, performance, name, number)
    return Told(case, name, codes_of(task, heard, case.level), codes_of(task, performance, case.level))


def heard_of(task: Task, performance: Performance, name: str, number: int) -> Performance:
    """The take through sound."""
    condition = next(one for one in CONDITIONS if one.name == name)
    notes = [
        Played(None, s.played_s, s.pitch or 60, s.velocity or 64, s.released_s or s.played_s + 0.3)
        for s in performance.strikes
    ]
    rng = np.random.default_rng([number, zlib.crc32(name.encode())])
    instruments = fonts()
    samples = sounded(notes, performance.pedal, instruments[number % len(instruments)])
    beats = np.linspace(notes[0].at_s, notes[-1].at_s, max(2, int(task.length_quarters / task.beat_quarters)))
    sound = decode(recorded(samples, beats.tolist(), condition, rng))
    return hear_take(sound, task, rate=sound.rate)


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=10, help="of each fault")
    options.add_argument("--clean", type=int, default=40)
    options.add_argument("--seed", type=int, default=500)
    options.add_argument("--times", type=float, default=2.0, help="the limit")
    asked = options.parse_args()
    levels = list(Level)
    cases = [
        Case(None, "", 0.0, levels[i % 4], Source.MIDI, asked.seed + i) for i in range(asked.clean)
    ] + [
        Case(number, fault.wheres[i % len(fault.wheres)], asked.times, levels[i % 4], Source.MIDI, asked.seed + i)
        for number, fault in enumerate(FAULTS)
        for i in range(asked.takes)
    ]  # fmt: skip
    with ProcessPoolExecutor(2) as pool:
        results = [one for one in pool.map(told, enumerate(cases)) if one is not None]
    clean = [one for one in results if one.case.fault is None]
    print(f"clean takes: {len(clean)}; blamed by ear {_blamed(clean, 'by_ear')}, by MIDI {_blamed(clean, 'by_midi')}")
    print("  for:", Counter(code for one in clean for code in one.by_ear))
    by_fault: dict[int, list[Told]] = defaultdict(list)
    for one in results:
        if one.case.fault is not None:
            by_fault[one.case.fault].append(one)
    print(f"\n| fault at {asked.times:g} × its limit | takes | named by ear | by MIDI | not followed |")
    print("|---|---|---|---|---|")
    total = named = midi = 0
    for fault, own in by_fault.items():
        what = FAULTS[fault]
        ear = sum(what.code in one.by_ear for one in own)
        keys = sum(what.code in one.by_midi for one in own)
        lost = sum(one.by_ear == ("not followed",) for one in own)
        print(f"| {what.code}: {what.words} | {len(own)} | {ear} | {keys} | {lost} |")
        if what.code not in OF_KEY_UPS:
            total, named, midi = total + len(own), named + ear, midi + keys
    print(
        f"\nnamed, of what a recording can tell: {named} of {total} ({100 * named / max(1, total):.0f} %); MIDI {midi}"
    )
    return 0


def _blamed(takes: list[Told], way: str) -> str:
    bad = [one for one in takes if getattr(one, way) and getattr(one, way) != ("not followed",)]
    lost = [one for one in takes if getattr(one, way) == ("not followed",)]
    return f"{len(bad)} ({100 * len(bad) / max(1, len(takes)):.1f} %), not followed {len(lost)}"


if __name__ == "__main__":
    raise SystemExit(main())
