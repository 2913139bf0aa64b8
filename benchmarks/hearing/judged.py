"""What is said of takes that were heard: faults of either performer, and takes without any, through sound.

Every take is the one at the keys of ``benchmarks/operating_curve.py`` (second performer) or of
``benchmarks/planted_faults.py`` (first: the simulated student), sounded by an instrument of others under one of the
conditions in turn, heard as the product hears a file, and judged. Told: which share of faults at a multiple of their
limit is named, of those a recording can tell; which share of clean takes is blamed for anything; which is not followed;
and the same of the takes as MIDI, in the same run.

Run: python -m benchmarks.hearing.judged [--performer second] [--takes 10] [--clean 40] [--seed 500] [--times 2]
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
from pieces import task_of
from planted_faults import PLANTED

from laptick.core.base.levels import Level
from laptick.core.following.by_ear.take import hear_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task
from laptick.formats.audio.decoding import decode

#: Conditions in turn: what a phone beside a piano gives.
USUAL = ("clean", "room", "opus, webm", "phone", "noise 20 dB", "16 kHz")

#: What a recording cannot tell, by its name: how long keys are held.
OF_KEY_UPS = ("long-cut", "rest-run-over")


#: What the first performer plays without a fault, in turn.
PIECES = ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade",
          "dotted", "triplets", "rests", "long notes", "sixteenths", "compound")  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """One take: of which performer, with which fault of its table (``None``: without), the how-manieth of it."""

    performer: str
    fault: int | None
    turn: int
    times: float
    seed: int

    @property
    def level(self) -> Level:
        return list(Level)[self.turn % 4]

    @property
    def code_and_words(self) -> tuple[str, str]:
        if self.fault is None:
            return "", ""
        what = FAULTS[self.fault] if self.performer == "second" else PLANTED[self.fault]
        return what.code, what.words


@dataclass(frozen=True)
class Told:
    asked: Asked
    by_ear: tuple[str, ...]
    by_midi: tuple[str, ...]


def taken(asked: Asked, source: Source = Source.MIDI) -> tuple[Task, Performance] | None:
    """The take at the keys, or as taps; ``None`` when no piece had room for the fault."""
    level, turn, seed = asked.level, asked.turn, asked.seed + asked.turn
    if asked.performer == "second":
        wheres = ("",) if asked.fault is None else FAULTS[asked.fault].wheres
        times = 0.0 if asked.fault is None else asked.times
        return made(Case(asked.fault, wheres[turn % len(wheres)], times, level, source, seed))
    if asked.fault is None:
        task = task_of(PIECES[turn % len(PIECES)], source is Source.MIDI)
        return task, simulate(task, level=level, seed=seed, source=source)
    planted = PLANTED[asked.fault]
    task = task_of(planted.pieces[turn % len(planted.pieces)], source is Source.MIDI)
    fault = planted.plant(task, LIMITS[level], asked.times, source)
    return task, simulate(task, level=level, seed=seed, faults=[fault], source=source)


def told(number_and_asked: tuple[int, Asked]) -> Told | None:
    number, asked = number_and_asked
    take = taken(asked)
    if take is None:
        return None
    task, performance = take
    heard = heard_of(task, performance, USUAL[number % len(USUAL)], number)
    return Told(asked, codes_of(task, heard, asked.level), codes_of(task, performance, asked.level))


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
    options.add_argument("--performer", choices=("first", "second"), default="second")
    asked = options.parse_args()
    faults = range(len(FAULTS if asked.performer == "second" else PLANTED))
    wanted = [
        Asked(asked.performer, fault, turn, asked.times, asked.seed)
        for fault, takes in ((None, asked.clean), *((one, asked.takes) for one in faults))
        for turn in range(takes)
    ]
    with ProcessPoolExecutor(2) as pool:
        results = [one for one in pool.map(told, enumerate(wanted)) if one is not None]
    clean = [one for one in results if one.asked.fault is None]
    print(f"clean takes: {len(clean)}; blamed by ear {_blamed(clean, 'by_ear')}, by MIDI {_blamed(clean, 'by_midi')}")
    print("  for:", Counter(code for one in clean for code in one.by_ear))
    print(f"\n| fault at {asked.times:g} × its limit | takes | named by ear | by MIDI | not followed |")
    print("|---|---|---|---|---|")
    by_fault: dict[int, list[Told]] = defaultdict(list)
    for one in results:
        if one.asked.fault is not None:
            by_fault[one.asked.fault].append(one)
    total = named = midi = 0
    for own in by_fault.values():
        code, words = own[0].asked.code_and_words
        ear = sum(code in one.by_ear for one in own)
        keys = sum(code in one.by_midi for one in own)
        lost = sum(one.by_ear == ("not followed",) for one in own)
        print(f"| {code}: {words} | {len(own)} | {ear} | {keys} | {lost} |")
        if code not in OF_KEY_UPS:
            total, named, midi = total + len(own), named + ear, midi + keys
    print(
        f"\nnamed, of what a recording can tell: {named} of {total} ({100 * named / max(1, total):.1f} %); MIDI {midi}"
    )
    return 0


def _blamed(takes: list[Told], way: str) -> str:
    bad = [one for one in takes if getattr(one, way) and getattr(one, way) != ("not followed",)]
    lost = [one for one in takes if getattr(one, way) == ("not followed",)]
    return f"{len(bad)} ({100 * len(bad) / max(1, len(takes)):.1f} %), not followed {len(lost)}"


if __name__ == "__main__":
    raise SystemExit(main())
