"""Planted faults found, and clean takes blamed: the tables of docs/checking-figures.md, by one command.

Every fault at once, twice and three times its limit × four levels × the four demo pieces × seeds, from
the simulated student; and the same at twice the limit on timing written by hand (tests/helpers.py), not
by the simulator. A fault counts as found when it is the main or the second finding.

Run: .venv/bin/python benchmarks/planted_faults.py [seeds a piece, default 13] > docs/checking-figures.md
"""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

from helpers import DEMO, demo_score  # noqa: E402
from laptick.core.checking import CHECKER_VERSION, check_take  # noqa: E402
from laptick.core.counting import default_bpm  # noqa: E402
from laptick.core.faults import Fault  # noqa: E402
from laptick.core.findings import find_findings  # noqa: E402
from laptick.core.limits import LEVEL_NAMES, LIMITS, Level, Limits  # noqa: E402
from laptick.core.performance import SOURCE_UNCERTAINTY_MS, Performance, Source, Task, lap_task  # noqa: E402
from laptick.core.planting import short_runs  # noqa: E402
from laptick.core.student import simulate  # noqa: E402
from laptick.core.verdict import give_verdict  # noqa: E402

#: Practice tempo as a share of the printed one.
PRACTICE = 0.8


def interval_limit(task: Task, limits: Limits) -> float:
    """The evenness limit on the task's shortest run, the source's uncertainty included."""
    interval_ms = 1000 * min(length for _, _, length in short_runs(task)) * task.quarter_s
    return limits.evenness(interval_ms) + 1.414 * SOURCE_UNCERTAINTY_MS[Source.TAPS] / interval_ms


def beat_ms(task: Task) -> float:
    return 1000 * float(task.beat_quarters) * task.quarter_s


@dataclass(frozen=True)
class Planted:
    """How a fault is planted at ``times`` its limit, and the code that names it."""

    code: str
    words: str
    plant: Callable[[Task, Limits, float], Fault]


def _limp(task: Task, limits: Limits, times: float) -> Fault:
    share = min(0.75, times * interval_limit(task, limits))
    return Fault("limp", (1 + share) / (1 - share))


PLANTED = (
    Planted("rushed-run", "short notes rushed",
            lambda t, x, k: Fault("rush-runs", max(0.45, 1 - k * interval_limit(t, x)))),
    Planted("limping", "pairs limp", _limp),
    Planted("hands-apart", "left hand late", lambda t, x, k: Fault("spread", k * (x.hands_apart_ms + 7))),
    Planted("hesitation", "a stop before bar 4",
            lambda t, x, k: Fault("hesitate", k * x.hesitation_ms(beat_ms(t)) / beat_ms(t), "4")),
    Planted("drift", "faster to the end", lambda t, x, k: Fault("drift", 100 * k * x.drift_share)),
    Planted("drift", "slower to the end", lambda t, x, k: Fault("drift", -100 * k * x.drift_share)),
    Planted("missing", "strikes left out", lambda t, x, k: Fault("miss", 100 * k * x.slips_share)),
    Planted("extra", "strikes too many", lambda t, x, k: Fault("extra", 100 * k * x.slips_share)),
    Planted("wrong-notes", "the other side", lambda t, x, k: Fault("wrong", 100 * k * x.slips_share)),
    Planted("restart", "back to bar 3", lambda t, x, k: Fault("restart", 1, "3")),
    Planted("uneven", "unsteady throughout", lambda t, x, k: Fault("jitter", k * x.spread_ms(beat_ms(t)))),
)  # fmt: skip


def tasks() -> list[Task]:
    scores = [demo_score(name) for name in DEMO]
    return [lap_task(score, assigned_bpm=PRACTICE * (default_bpm(score) or 60)) for score in scores]


def codes_of(task: Task, performance: Performance, level: Level) -> tuple[str, ...]:
    """What the verdict names: main and second finding; ``("not followed",)`` when it could not be."""
    checked = check_take(task, performance)
    if not checked.followed:
        return ("not followed",)
    verdict = give_verdict(checked, find_findings(checked, LIMITS[level]))
    return tuple(said.finding.code for said in (verdict.main, verdict.also) if said)


def share_found(planted: Planted, level: Level, times: float, seeds: range) -> tuple[int, int]:
    found = tried = 0
    for task in tasks():
        for seed in seeds:
            fault = planted.plant(task, LIMITS[level], times)
            tried += 1
            found += planted.code in codes_of(task, simulate(task, level=level, seed=seed, faults=[fault]), level)
    return found, tried


def clean(level: Level, seeds: range) -> tuple[Counter[str], int]:
    blamed: Counter[str] = Counter()
    tried = 0
    for task in tasks():
        for seed in seeds:
            tried += 1
            blamed.update(codes_of(task, simulate(task, level=level, seed=1000 + seed), level))
    return blamed, tried


def main() -> None:
    seeds = range(int(sys.argv[1]) if len(sys.argv) > 1 else 13)
    print("# How well the checker finds planted faults\n")
    print(
        f"Made by `benchmarks/planted_faults.py {len(seeds)}`, checker version {CHECKER_VERSION}: taps, the four demo"
        f" pieces at {PRACTICE:.0%} of their printed tempo, {len(seeds)} seeds a piece and cell"
        f" ({len(seeds) * len(DEMO)} takes a cell). Found means named as main or second finding.\n"
    )
    for times in (1, 2, 3):
        print(f"## Faults at {times} × the limit\n")
        print("| fault | code | " + " | ".join(LEVEL_NAMES[level] for level in Level) + " |")
        print("| --- | --- |" + " ---: |" * len(Level))
        for planted in PLANTED:
            cells = []
            for level in Level:
                found, tried = share_found(planted, level, times, seeds)
                cells.append(f"{100 * found / tried:.0f} %")
            print(f"| {planted.words} | `{planted.code}` | " + " | ".join(cells) + " |", flush=True)
        print()
    print("## Clean takes of the level's skill\n")
    print("| level | takes | blamed for anything | for what |\n| --- | ---: | ---: | --- |")
    for level in Level:
        blamed, tried = clean(level, range(4 * len(seeds)))
        what = ", ".join(f"{code} {n}" for code, n in blamed.items()) or "–"
        print(f"| {LEVEL_NAMES[level]} | {tried} | {100 * sum(blamed.values()) / tried:.1f} % | {what} |", flush=True)


if __name__ == "__main__":
    main()
