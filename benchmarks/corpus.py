"""Scores that nobody here wrote, through everything: ``python benchmarks/corpus.py [how many, 200] [-o table.md]``.

Each is read, counted, written out with its counts and read in again, played by the simulated student without a fault
(on keys and in taps, its first forty bars), and checked. Printed: what was refused and why, what is wrong, whom a clean
take was blamed. The table is docs/corpus.md.
"""

from __future__ import annotations

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from corpus import Outcome, files, outcome_of, spread


def table(outcomes: list[Outcome]) -> str:
    read = [one for one in outcomes if not one.refused]
    takes = sum(one.takes for one in read)
    blamed = [one for one in read if one.blamed]
    share = 100 * sum(len({b.split(":")[0] for b in one.blamed}) for one in blamed) / max(1, takes)
    lines = [
        "# Scores that nobody here wrote",
        "",
        "Made by `benchmarks/corpus.py`: scores of the corpus and the conformance set that ship with music21,",
        "spread over their folders. Each was read, counted, written out with its counts and read in again, and",
        "its first forty bars were played by the simulated student without a fault, on keys and in taps, and",
        "checked (not those of fewer than four instants).",
        "",
        f"- {len(outcomes)} files: {len(read)} read, {len(outcomes) - len(read)} refused;"
        f" {sum(one.bars for one in read):,} bars, {sum(one.notes for one in read):,} notes.",
        f"- {takes} clean takes: {share:.2f} % blamed.",
        f"- Wrong counts or round trips: {sum(bool(one.faults) for one in read)}.",
        "",
        "## Refused",
        "",
        *(f"- `{one.name}`: {one.refused}" for one in outcomes if one.refused),
        "",
        "## Clean takes that were blamed",
        "",
        *([f"- `{one.name}`: {', '.join(one.blamed)}" for one in blamed] or ["None."]),
        "",
        "## What is wrong",
        "",
        *([f"- `{one.name}`: {'; '.join(one.faults[:3])}" for one in read if one.faults] or ["Nothing."]),
        "",
        "## Read",
        "",
        "| File | Bars | Notes |",
        "|---|---|---|",
        *(f"| `{one.name}` | {one.bars} | {one.notes} |" for one in read),
        "",
    ]
    return "\n".join(lines)


def main(wanted: int, target: Path | None) -> None:
    chosen = spread(files(), wanted)
    with ProcessPoolExecutor() as pool:
        outcomes = list(pool.map(outcome_of, chosen, chunksize=4))
    text = table(outcomes)
    if target is None:
        print(text)
    else:
        target.write_text(text, encoding="utf-8")
        print(text.split("## Read")[0])
    print(Counter(code for one in outcomes for code in one.blamed))


if __name__ == "__main__":
    given = sys.argv[1:]
    place = Path(given[given.index("-o") + 1]) if "-o" in given else None
    numbers = [int(one) for one in given if one.isdigit()]
    main(numbers[0] if numbers else 200, place)
