"""Mutated takes: nothing but our own errors, none over its time and memory, whatever was played.

MIDI files and taps of the demo pieces change at random (seeded): bytes, numbers, notes moved, doubled, dropped, turned
round, thrown together from two takes. Each is read, and what can be read is followed, measured, judged and written out.

Run: .venv/bin/python benchmarks/fuzz_takes.py [files, default 20000] [first seed, default 0]
"""

from __future__ import annotations

import json
import random
import resource
import sys
import time
import warnings
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from helpers import demo_score
from laptick.core.base.errors import InputError
from laptick.core.base.levels import Level
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task
from laptick.formats.documents.check import check_document
from laptick.formats.documents.take import write_taps
from laptick.formats.midi.take import write_midi_take
from laptick.formats.take_files import read_take

MOST_S, MOST_MB = 3.0, 400
NUMBERS = (0, 1, -1, 1e9, 0.333, 3600, 1e-9, "x", None, True, [], 7)


def tasks(source: Source) -> list[Task]:
    names = ("harbour-steps", "lantern-boat")
    return [lap_task(demo_score(name), assigned_bpm=66, with_pitches=source is Source.MIDI) for name in names]


def played(task: Task, source: Source, rng: random.Random) -> Performance:
    """A take whose strikes were thrown about."""
    strikes = list(simulate(task, seed=rng.randrange(50), source=source).strikes)
    for _ in range(rng.randint(1, 12)):
        index = rng.randrange(len(strikes))
        kind = rng.randrange(7)
        if kind == 0:
            strikes[index] = replace(strikes[index], played_s=rng.uniform(0, 120))
        elif kind == 1:
            strikes += [replace(strikes[index], played_s=strikes[index].played_s + rng.uniform(0, 0.01))] * rng.randint(
                1, 40
            )
        elif kind == 2:
            del strikes[index : index + rng.randint(1, 30)]
        elif kind == 3:
            strikes = [replace(s, played_s=round(s.played_s, 1)) for s in strikes]
        elif kind == 4:
            strikes = [replace(s, played_s=s.played_s * rng.choice((0.01, 0.4, 2, 20))) for s in strikes]
        elif kind == 5:
            last = max(s.played_s for s in strikes)
            strikes = [replace(s, played_s=last - s.played_s) for s in strikes]
        else:
            strikes += list(simulate(task, seed=rng.randrange(50), source=source).strikes)
        if not strikes:
            strikes = [Strike(1.0, None, 60 if source is Source.MIDI else None, 64, None)]
    ordered = sorted((s for s in strikes if s.played_s <= 3600), key=lambda s: s.played_s)
    return Performance(source, tuple(ordered) or (Strike(1.0, None, 60, 64, None),))


def mutated(rng: random.Random) -> tuple[Source, Task, bytes]:
    source = rng.choice((Source.MIDI, Source.TAPS))
    task = rng.choice(tasks(source))
    performance = played(task, source, rng)
    data = write_midi_take(performance, task) if source is Source.MIDI else write_taps(performance).encode()
    if rng.random() < 0.5:
        return source, task, data
    if source is Source.TAPS and rng.random() < 0.6:
        document = json.loads(data)
        for _ in range(rng.randint(1, 4)):
            tap = rng.choice(document["taps"])
            tap[rng.choice(("t", "hand", "pitch"))] = rng.choice(NUMBERS)
            document[rng.choice(("first_beat_s", "click_bpm", "taps2"))] = rng.choice(NUMBERS)
        return source, task, json.dumps(document).encode()
    raw = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        if not raw:
            break
        at = rng.randrange(len(raw))
        kind = rng.randrange(4)
        if kind == 0:
            raw[at] = rng.randrange(256)
        elif kind == 1:
            del raw[at : at + rng.randint(1, 40)]
        elif kind == 2:
            raw[at:at] = bytes(rng.randrange(256) for _ in range(rng.randint(1, 20)))
        else:
            raw = raw[:at] or bytearray(b"\0")
    return source, task, bytes(raw)


def run(seed: int) -> tuple[str, float, int]:
    """What became of one file, the seconds it took, and the process's memory in MB."""
    warnings.simplefilter("error")
    rng = random.Random(seed)
    _, task, data = mutated(rng)
    begun = time.perf_counter()
    try:
        performance = read_take(data)
        bare = performance.source is Source.TAPS
        asked = lap_task(task.score, assigned_bpm=66, with_pitches=not bare)
        judged = judge_take(asked, performance, LIMITS[rng.choice(list(Level))], whole=lambda: asked)
        json.dumps(check_document(judged), allow_nan=False)
        outcome = judged.verdict.status.value
    except InputError:
        outcome = "refused"
    except Exception as error:  # what this hunt is for
        outcome = f"{type(error).__name__} (seed {seed}): {error}"
    taken = time.perf_counter() - begun
    return outcome, taken, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
    first = int(sys.argv[2]) if len(sys.argv) > 2 else 0
    outcomes: Counter[str] = Counter()
    longest, memory = (0.0, 0), 0
    with ProcessPoolExecutor() as pool:
        for number, (outcome, taken, mb) in enumerate(pool.map(run, range(first, first + count), chunksize=50)):
            outcomes[outcome] += 1
            longest, memory = max(longest, (taken, first + number)), max(memory, mb)
    for outcome, times in outcomes.most_common():
        print(f"{times:7,}  {outcome}")
    print(f"longest {longest[0]:.2f} s (seed {longest[1]}), most memory {memory} MB, of {count:,} files")
    bad = [outcome for outcome in outcomes if "seed" in outcome]
    return 1 if bad or longest[0] > MOST_S or memory > MOST_MB else 0


if __name__ == "__main__":
    raise SystemExit(main())
