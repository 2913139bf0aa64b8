"""Two faults at once, each at twice its limit: are they the two findings of the verdict, and is anything else named?

Every pair of faults that a demo piece has room for × two levels × seeds, on keys, from the simulated student.

Run: .venv/bin/python benchmarks/two_faults.py [seeds a pair and level, default 3]
"""

from __future__ import annotations

import itertools
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent / name) for name in (".", "../src", "../tests", "../tools")]

from pieces import task_of
from planted_faults import PLANTED, Planted, codes_of

from laptick.core.base.levels import Level
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source

_LEVELS = (Level.FIRST_YEAR, Level.INTERMEDIATE)


def pairs() -> list[tuple[int, int]]:
    """Indices into ``PLANTED`` of different faults that share a piece."""
    return [
        (one, other)
        for one, other in itertools.combinations(range(len(PLANTED)), 2)
        if PLANTED[one].code != PLANTED[other].code and shared(PLANTED[one], PLANTED[other])
    ]


def shared(one: Planted, other: Planted) -> list[str]:
    return [piece for piece in one.pieces if piece in other.pieces]


def named(pair: tuple[int, int], seeds: int) -> tuple[Counter[int], Counter[str]]:
    """How many takes name none, one and both of the two; and what else is named."""
    one, other = (PLANTED[index] for index in pair)
    pieces, found, else_named = shared(one, other), Counter[int](), Counter[str]()
    for level, seed in itertools.product(_LEVELS, range(seeds)):
        task = task_of(pieces[seed % len(pieces)], True)
        faults = [planted.plant(task, LIMITS[level], 2.0, Source.MIDI) for planted in (one, other)]
        take = simulate(task, level=level, seed=900 + seed, faults=faults, source=Source.MIDI)
        codes = set(codes_of(task, take, level))
        found[len(codes & {one.code, other.code})] += 1
        else_named.update(codes - {one.code, other.code})
    return found, else_named


def main() -> None:
    seeds = int(sys.argv[1]) if len(sys.argv) > 1 else 3
    tried = pairs()
    with ProcessPoolExecutor() as pool:
        results = list(pool.map(named, tried, [seeds] * len(tried)))
    found = sum((one for one, _ in results), Counter[int]())
    else_named = sum((one for _, one in results), Counter[str]())
    print(
        f"{len(tried)} pairs, {found.total()} takes: both named in {found[2]}, one in {found[1]}, none in {found[0]};"
    )
    print("else:", ", ".join(f"{code} {count}" for code, count in else_named.most_common()) or "nothing")
    for (one, other), (counts, _) in zip(tried, results, strict=True):
        if counts[0]:
            print(f"none of {PLANTED[one].words} and {PLANTED[other].words}: {counts[0]}")


if __name__ == "__main__":
    main()
