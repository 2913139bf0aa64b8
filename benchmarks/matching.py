"""Matching beside a general alignment library: accuracy and cost on a recorded performance disturbed in known ways, and
how the cost grows with length. Everything of one run.

The recording and its alignment lie in the test-only package parangonar; both of its matchers for notes are run: the
one it recommends (AutomaticNoteMatcher) and the plainer one (DualDTWNoteMatcher). F counts pairs of written and played
notes; a written note that was played several times counts as found when any of its playings is.

Run: .venv/bin/python benchmarks/matching.py [versions a class, default 20] > docs/matching-figures.md
"""

from __future__ import annotations

import sys
import time
import warnings
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from pathlib import Path
from statistics import median

import numpy as np

warnings.simplefilter("ignore")
sys.path[:0] = [str(Path(__file__).resolve().parent.parent / name) for name in ("src", "tests", "tools")]

import compose_demo

from laptick.core.base.levels import Level
from laptick.core.following.matching import match
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import CHECKER_VERSION, check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import Task, lap_task
from laptick.formats.musicxml.file import read_musicxml
from recording import CLASSES, Recording, counted, disturbed, f_measure, recording

Pairs = Sequence[tuple[int, int]]


def ours(take: Recording) -> Pairs:
    return [(m.expected_index, m.strike_index) for m in match(take.task, take.performance).matches]


def note_arrays(take: Recording) -> tuple[np.ndarray, np.ndarray]:
    """The score and the take in the library's form; ids are indices."""
    score = np.array(
        [
            (float(e.onset_quarters), 0.25, float(e.onset_quarters), 0.25, e.pitch, str(i), False)
            for i, e in enumerate(take.task.expected)
        ],
        dtype=[("onset_beat", "f4"), ("duration_beat", "f4"), ("onset_quarter", "f4"), ("duration_quarter", "f4"),
               ("pitch", "i4"), ("id", "U16"), ("is_grace", "b")],
    )  # fmt: skip
    played = np.array(
        [
            (s.played_s, (s.released_s or s.played_s + 0.1) - s.played_s, s.pitch, s.velocity or 64, str(i))
            for i, s in enumerate(take.performance.strikes)
        ],
        dtype=[("onset_sec", "f4"), ("duration_sec", "f4"), ("pitch", "i4"), ("velocity", "i4"), ("id", "U16")],
    )
    return score, played


def library(name: str) -> Callable[[Recording], Pairs]:
    def run(take: Recording) -> Pairs:
        import parangonar

        matcher = getattr(parangonar, name)()
        pairs = matcher(*note_arrays(take))
        return [(int(p["score_id"]), int(p["performance_id"])) for p in pairs if p["label"] == "match"]

    return run


MATCHERS: dict[str, Callable[[Recording], Pairs]] = {
    "ours": ours,
    "automatic": library("AutomaticNoteMatcher"),
    "dual DTW": library("DualDTWNoteMatcher"),
}


@dataclass
class Tally:
    right: int = 0
    wrong: int = 0
    not_found: int = 0
    seconds: list[float] = field(default_factory=list)
    failed: int = 0

    def add(self, truth: Sequence[int | None], pairs: Pairs, taken_s: float) -> None:
        right, wrong, not_found = counted(truth, pairs)
        self.right, self.wrong, self.not_found = self.right + right, self.wrong + wrong, self.not_found + not_found
        self.seconds.append(taken_s)

    @property
    def f(self) -> float:
        return f_measure((self.right, self.wrong, self.not_found))


def tally(kind: str, name: str, versions: int) -> Tally:
    """One matcher on all versions of a class; what it throws at counts as nothing found."""
    found = Tally()
    MATCHERS[name](recording())  # warm
    for seed in range(1000, 1000 + versions):
        take = disturbed(CLASSES[kind], seed)
        begun = time.perf_counter()
        try:
            pairs = MATCHERS[name](take)
        except Exception:  # the library's own failure is a result here
            pairs, found.failed = [], found.failed + 1
        found.add(take.truth, pairs, time.perf_counter() - begun)
    return found


def judged_ms(task: Task, source: Source) -> tuple[int, float]:
    performance = simulate(task, seed=1, source=source)
    taken = []
    for _ in range(6):
        begun = time.perf_counter()
        checked = check_take(task, performance)
        give_verdict(checked, find_findings(checked, LIMITS[Level.ELEMENTARY]))
        taken.append(1000 * (time.perf_counter() - begun))
    return len(performance.strikes), median(taken[1:])


def long_piece(bars: int) -> Task:
    piece = dict(compose_demo.PIECES["harbour-steps"])
    piece["right"], piece["left"] = piece["right"] * (bars // 8), piece["left"] * (bars // 8)
    score = read_musicxml(compose_demo.write(piece).encode())
    return lap_task(score, assigned_bpm=88, with_pitches=True)


def main() -> None:
    versions = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    kinds, names = list(CLASSES), list(MATCHERS)
    cells = [(kind, name) for kind in kinds for name in names]
    with ProcessPoolExecutor() as pool:
        results = dict(zip(cells, pool.map(tally, *zip(*cells, strict=True), [versions] * len(cells)), strict=True))
    print("# Matching, beside a general alignment library\n")
    print(
        f"Made by `benchmarks/matching.py {versions}`, checker version {CHECKER_VERSION}: a recorded performance of 218"
        f" notes, {versions} versions of each disturbance, {versions * len(kinds)} in all; new seeds, none that"
        " anything was tuned on. F of written–played pairs; the time of one matching (median, warm).\n"
    )
    heads = [f"{what}, {name}" for what in ("F", "ms") for name in names]
    print("| disturbance | " + " | ".join(heads) + " |\n| --- |" + " ---: |" * len(heads))
    for kind in kinds:
        row = [results[kind, name] for name in names]
        scores = " | ".join(f"{one.f:.4f}" + (f" ({one.failed} failed)" if one.failed else "") for one in row)
        print(f"| {kind} | {scores} | " + " | ".join(f"{1000 * median(one.seconds):.0f}" for one in row) + " |")
    take = recording()
    task = replace(take.task, assigned_bpm=126)
    taken = []
    for _ in range(61):
        begun = time.perf_counter()
        checked = check_take(task, take.performance)
        verdict = give_verdict(checked, find_findings(checked, LIMITS[Level.ADVANCED]))
        taken.append(1000 * (time.perf_counter() - begun))
    warm = sorted(taken[1:])
    print(
        f"\nThe recording itself, matched, measured and judged as *advanced*: {median(warm):.0f} ms warm (median of"
        f" {len(warm)}; nine in ten within {warm[len(warm) * 9 // 10]:.0f} ms); verdict: {verdict.status.value}.\n"
    )
    print("| bars | minutes | notes | matched and judged | ms a note |\n| ---: | ---: | ---: | ---: | ---: |")
    for bars in (8, 80, 320, 656):
        piece = long_piece(bars)
        notes, ms = judged_ms(piece, Source.MIDI)
        minutes = float(piece.length_quarters) * piece.quarter_s / 60
        print(f"| {bars} | {minutes:.1f} | {notes:,} | {ms:,.0f} ms | {ms / notes:.2f} |")


if __name__ == "__main__":
    main()
