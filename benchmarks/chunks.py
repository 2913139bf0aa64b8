"""One or two bars played round and round as one take by the second performer: what is found, and who is blamed.

The bars are drawn from scores composed by chance; a fault is everywhere it can be. Fresh takes: give another
``--from``.

Run: .venv/bin/python benchmarks/chunks.py [--takes 24] [--from 0] [--rounds 4] [--times 2]
"""

from __future__ import annotations

import argparse
import sys
import zlib
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent / name) for name in (".", "../src")]

import numpy as np
from operating_curve import CLEAN, SOURCES, share
from performer.compose import task_by_chance
from performer.faults import FAULTS
from performer.player import begin, play
from performer.takes import SHARE, TRIES, codes_of

from laptick.core.base.errors import LapTickError
from laptick.core.base.levels import Level
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.roadmap import laid_round
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task

#: Fewer strikes than this, all rounds together, are no passage.
LEAST_STRIKES = 6


@dataclass(frozen=True)
class Chunk:
    """``fault``: its number, ``None`` for a clean take at ``skill`` of the limits."""

    fault: int | None
    bars: int
    rounds: int
    times: float
    level: Level
    source: Source
    seed: int
    skill: float = SHARE


def named(chunk: Chunk) -> tuple[str, ...] | None:
    """The codes of all findings; ``None`` when no bars had room for the fault."""
    fault = None if chunk.fault is None else FAULTS[chunk.fault]
    name = f"{chunk.fault} {chunk.bars} {chunk.rounds} {chunk.level} {chunk.source} {chunk.seed} {chunk.skill}"
    for turn in range(TRIES):
        rng = np.random.default_rng([zlib.crc32(name.encode()), turn])
        on_keys = chunk.source is Source.MIDI
        piece = task_by_chance(rng, fault.needs if fault else "any", on_keys=on_keys)
        bars = piece.score.measures
        if len(bars) <= chunk.bars:
            continue
        start = int(rng.integers(0, len(bars) - chunk.bars))
        try:
            score = laid_round(piece.score, bars[start : start + chunk.bars], chunk.rounds)
            task = lap_task(score, assigned_bpm=piece.assigned_bpm, with_pitches=on_keys)
        except LapTickError:
            continue  # bars of rests
        if len(task.expected) < LEAST_STRIKES:
            continue
        plan = begin(task, LIMITS[chunk.level], chunk.source, rng, chunk.skill, fault.free if fault else "")
        if fault is not None and not _planted(fault, plan, chunk.times):
            continue
        return codes_of(task, play(plan), chunk.level)
    return None


def _planted(fault, plan, times) -> bool:
    try:
        return fault.plant(plan, times, fault.wheres[0])
    except ValueError:  # too few bars to choose a place from
        return False


def chunks(takes: int, first: int, rounds: int, times: float) -> list[Chunk]:
    levels = list(Level)
    found = [
        Chunk(index, bars, rounds, times, levels[i % 4], source, first + i)
        for index, fault in enumerate(FAULTS)
        for source in SOURCES
        if not (fault.keys_only and source is not Source.MIDI)
        for bars in (1, 2)
        for i in range(takes)
        if not (fault.code == "long-cut" and LIMITS[levels[i % 4]].cut_share_of_beat >= 1)
    ]
    return found + [
        Chunk(None, bars, rounds, 0.0, levels[i % 4], source, first + i, skill)
        for skill in CLEAN
        for source in SOURCES
        for bars in (1, 2)
        for i in range(6 * takes)
    ]


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=24)
    options.add_argument("--from", type=int, default=0, dest="first")
    options.add_argument("--rounds", type=int, default=4)
    options.add_argument("--times", type=float, default=2.0)
    asked = options.parse_args()
    every = chunks(asked.takes, asked.first, asked.rounds, asked.times)
    with ProcessPoolExecutor() as pool:
        results = list(zip(every, pool.map(named, every, chunksize=16), strict=True))
    cells: dict[tuple[str, str, int], list[tuple[str, ...]]] = defaultdict(list)
    for chunk, codes in results:
        if codes is not None:
            fault = None if chunk.fault is None else FAULTS[chunk.fault]
            words = fault.words if fault else f"clean, at {100 * chunk.skill:.0f} % of the limits"
            cells[words, fault.code if fault else "", chunk.bars].append(codes)
            if fault:
                cells["all faults", "", chunk.bars].append((fault.code,) if fault.code in codes else ())
    print(
        f"Made by `benchmarks/chunks.py --takes {asked.takes} --from {asked.first} --rounds {asked.rounds} --times"
        f" {asked.times:g}`, checker version {CHECKER_VERSION}. Shares in %, with 95 % intervals.\n"
    )
    print("| fault | bars | found (clean: blamed) | named instead (clean: for what) |\n| --- | ---: | ---: | --- |")
    for (words, code, bars), many in cells.items():
        found = [codes for codes in many if (code in codes if code else codes)]
        told = Counter(" ".join(c) or "nothing" for c in many if (code not in c if code else c))
        rest = ", ".join(f"{w} {n}" for w, n in told.most_common(4)) if words != "all faults" else ""
        print(f"| {words}{f' (`{code}`)' if code else ''} | {bars} | {share(len(found), len(many))} | {rest} |")


if __name__ == "__main__":
    main()
