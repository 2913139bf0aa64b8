"""Planted faults found, and clean takes blamed: the tables of docs/checking-figures.md, by one command.

Every fault at a half of its limit, at one and a half times it and at twice × four levels × MIDI and taps × pieces that
have what the fault needs × seeds, from the simulated student. A fault counts as found when it is the main or the second
finding. Fresh takes: give another ``--from``.

Run: .venv/bin/python benchmarks/planted_faults.py [--takes 32] [--from 0] [--keep results.txt]
"""

from __future__ import annotations

import argparse
import itertools
import sys
from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

sys.path[:0] = [str(Path(__file__).resolve().parent / name) for name in (".", "../src", "../tests", "../tools")]

import numpy as np
from keeping import told
from operating_curve import share
from pieces import task_of

from helpers import HAND_WRITTEN_MS
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import CHECKER_VERSION, check_take
from laptick.core.measuring.limits import JUDGED_INTERVALS, LIMITS, Limits
from laptick.core.score.score import Hand
from laptick.core.student.faults import OF_KEY_UPS, Fault
from laptick.core.student.planting import TakeDraft, plant, short_runs
from laptick.core.student.student import simulate, strikes_of
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task

_DEMO = ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade")
_OWN = ("dotted", "triplets", "rests", "long notes", "sixteenths", "compound")
_SOURCES = (Source.MIDI, Source.TAPS)


def beat_ms(task: Task) -> float:
    return 1000 * float(task.beat_quarters) * task.quarter_s


def interval_limit(task: Task, limits: Limits, source: Source) -> float:
    """The evenness limit on the task's shortest run, the source's uncertainty included."""
    interval_ms = 1000 * min(length for _, _, length in short_runs(task)) * task.quarter_s
    return limits.evenness(interval_ms) + 1.414 * source.knows.uncertainty_ms / interval_ms


#: What is planted: the task, its limits, how many times the limit, the source.
Plant = Callable[[Task, Limits, float, Source], Fault]


@dataclass(frozen=True)
class Planted:
    """How a fault is planted at ``times`` its limit, the code that names it, and the pieces it can be planted in."""

    code: str
    words: str
    plant: Plant
    pieces: tuple[str, ...] = _DEMO


def _limp(task: Task, limits: Limits, times: float, source: Source) -> Fault:
    share = min(0.75, times * interval_limit(task, limits, source))
    return Fault("limp", (1 + share) / (1 - share))


def _short_quarters(task: Task, limits: Limits, times: float, source: Source) -> Fault:
    limit = limits.evenness(beat_ms(task)) + 1.414 * source.knows.uncertainty_ms / beat_ms(task)
    return Fault("short-quarters", 100 * min(0.55, times * limit))


def _cut(task: Task, limits: Limits, times: float, source: Source) -> Fault:
    """What the student's own habit (0.6 of the limit) lacks of ``times`` the limit, as a share of a beat."""
    return Fault("cut-holds", min(85.0, 100 * (times - 0.6) * limits.cut_ms(beat_ms(task)) / beat_ms(task)))


def _over(task: Task, limits: Limits, times: float, source: Source) -> Fault:
    return Fault("hold-rests", min(85.0, 100 * (times - 0.6) * limits.over_ms(beat_ms(task)) / beat_ms(task)))


def _way(kind: str, written: tuple[float, ...], other: tuple[float, ...]) -> Plant:
    """Part of the way to another figure: its limit is half of it."""

    def plant(task: Task, limits: Limits, times: float, source: Source) -> Fault:
        way = min(1.0, 0.5 * times) if times <= 2 else 1.25
        shares = [(1 - way) * w / sum(written) + way * o / sum(other) for w, o in zip(written, other, strict=True)]
        if kind == "flatten-dots":
            return Fault(kind, shares[0] / shares[1])
        return Fault(kind, 1.0, parts=tuple(shares))

    return plant


PLANTED = (
    Planted("rushed-run", "short notes rushed",
            lambda t, x, k, s: Fault("rush-runs", max(0.45, 1 - k * interval_limit(t, x, s)))),
    Planted("late-then-compensated", "runs begun late, then hurried",
            lambda t, x, k, s: Fault("late-then-hurry", k * (x.spread_ms(beat_ms(t)) + 5)), ("sixteenths",)),
    Planted("limping", "pairs limp", _limp,
            ("long notes", "sixteenths", "kite-over-the-orchard", "copper-kettle-parade")),
    Planted("dot-flattened", "dotted pairs towards 2:1",
            _way("flatten-dots", (3, 1), (2, 1)), ("dotted",)),
    Planted("triplet-bent", "triplets towards 2:1:1",
            _way("bend-triplets", (1, 1, 1), (2, 1, 1)), ("triplets",)),
    Planted("triplet-bent", "triplets towards 1:1:2",
            _way("bend-triplets", (1, 1, 1), (1, 1, 2)), ("triplets",)),
    Planted("long-rushed", "long notes rushed", _short_quarters, ("long notes", "harbour-steps")),
    Planted("long-cut", "long notes let go early", _cut, ("rests", "long notes")),
    Planted("rest-run-over", "held on into rests", _over, ("rests",)),
    Planted("late-entry", "late after rests",
            lambda t, x, k, s: Fault("late-after-rest", k * (x.spread_ms(beat_ms(t)) + 5)), ("rests",)),
    Planted("hands-apart", "left hand late", lambda t, x, k, s: Fault("spread", k * (x.hands_apart_ms + 7))),
    Planted("hesitation", "a stop before bar 4",
            lambda t, x, k, s: Fault("hesitate", k * x.hesitation_ms(beat_ms(t)) / beat_ms(t), "4")),
    Planted("drift", "faster to the end", lambda t, x, k, s: Fault("drift", 100 * k * x.drift_share)),
    Planted("drift", "slower to the end", lambda t, x, k, s: Fault("drift", -100 * k * x.drift_share)),
    Planted("missing", "strikes left out", lambda t, x, k, s: Fault("miss", 100 * k * x.slips_share)),
    Planted("extra", "strikes too many", lambda t, x, k, s: Fault("extra", 100 * k * x.slips_share)),
    Planted("wrong-notes", "the wrong key or side", lambda t, x, k, s: Fault("wrong", 100 * k * x.slips_share)),
    Planted("restart", "back to bar 3", lambda t, x, k, s: Fault("restart", 1, "3")),
    Planted("uneven", "unsteady throughout", lambda t, x, k, s: Fault("jitter", k * x.spread_ms(beat_ms(t)))),
)  # fmt: skip


def codes_of(task: Task, performance: Performance, level: Level) -> tuple[str, ...]:
    """What the verdict names: main and second finding; ``("not followed",)`` when it could not be."""
    checked = check_take(task, performance)
    if not checked.followed:
        return ("not followed",)
    verdict = give_verdict(checked, find_findings(checked, LIMITS[level]))
    return tuple(said.finding.code for said in (verdict.main, verdict.also) if said)


@dataclass
class Found:
    """How many takes of how many the fault was named in, what was named instead where it was not, and besides it where
    it was; ``truly``: of those named unsteady how many are, by a stopwatch."""

    found: int = 0
    tried: int = 0
    truly: int = 0
    instead: Counter[str] = field(default_factory=Counter)
    besides: Counter[str] = field(default_factory=Counter)

    def add(self, code: str, codes: tuple[str, ...]) -> None:
        self.tried += 1
        if code in codes:
            self.found += 1
            self.besides.update(set(codes) - {code})
        else:
            self.instead.update([" ".join(codes) or "nothing"])


def named(planted: Planted, level: Level, times: float, source: Source, seeds: range) -> Found:
    """Of one cell; the seeds are shared out over the pieces."""
    found = Found()
    for seed in seeds:
        task = task_of(planted.pieces[seed % len(planted.pieces)], source is Source.MIDI)
        fault = planted.plant(task, LIMITS[level], times, source)
        take = simulate(task, level=level, seed=seed, faults=[fault], source=source)
        codes = codes_of(task, take, level)
        found.add(planted.code, codes)
        found.truly += planted.code == "uneven" and "uneven" in codes and uneven_as_played(task, take, level) > 1
    return found


def uneven_as_played(task: Task, take: Performance, level: Level) -> float:
    """How uneven the worst of its equal short notes are, in limits, as a stopwatch has it: by hand and length the SD of
    the intervals over their mean. Every key, or side, is struck as often as it is asked for."""
    asked, played = defaultdict(list), defaultdict(list)
    for expected in sorted(task.expected, key=lambda one: one.onset_quarters):
        asked[expected.pitch if task.asks_pitches else expected.hand].append(expected)
    for strike in take.strikes:
        played[strike.pitch if task.asks_pitches else strike.hand].append(strike.played_s)
    times: dict[tuple[Hand | None, float], list[float]] = defaultdict(list)
    follows: dict[tuple[Hand | None, float], float | None] = {}
    for key, some in asked.items():
        for expected, played_s in zip(some, sorted(played[key]), strict=True):
            at = (expected.hand, float(expected.onset_quarters))
            times[at].append(played_s)
            until = expected.until_next_quarters
            follows[at] = None if until is None else at[1] + float(until)
    intervals: dict[tuple[Hand | None, float], list[float]] = defaultdict(list)
    for here, there in itertools.pairwise(sorted(times, key=lambda one: (str(one[0]), one[1]))):
        quarters = there[1] - here[1]
        if here[0] == there[0] and quarters < float(task.beat_quarters) and follows[here] == there[1]:
            intervals[here[0], quarters].append(float(np.mean(times[there]) - np.mean(times[here])))
    worst = 0.0
    for (_, quarters), seconds in intervals.items():
        if len(seconds) >= JUDGED_INTERVALS:
            interval_s = quarters * task.quarter_s
            limit = LIMITS[level].evenness(1000 * interval_s)
            limit += 1.414 * take.source.knows.uncertainty_ms / 1000 / interval_s
            worst = max(worst, float(np.std(seconds) / np.mean(seconds)) / limit)
    return worst


def clean(level: Level, source: Source, seeds: range) -> tuple[Counter[str], int]:
    """What clean takes of all pieces are blamed for."""
    blamed: Counter[str] = Counter()
    tried = 0
    for piece in (*_DEMO, *_OWN):
        task = task_of(piece, source is Source.MIDI)
        for seed in seeds:
            tried += 1
            codes = codes_of(task, simulate(task, level=level, seed=10_000 + seed, source=source), level)
            blamed.update([" ".join(codes)] if codes else [])
    return blamed, tried


#: How loosely each level's hand-written take is played: times the deviations written down.
LOOSE = {Level.FIRST_YEAR: 2.0, Level.ELEMENTARY: 1.6, Level.INTERMEDIATE: 1.1, Level.ADVANCED: 0.9}


def by_hand(task: Task, level: Level, turn: int, source: Source, faults: tuple[Fault, ...] = ()) -> Performance:
    """A take timed from deviations that were written down by hand (tests/helpers.py), each hand's taken from another
    place of the list, turned further with every take. No generator but for which strikes a fault picks."""
    onsets = np.array([float(e.onset_quarters) for e in task.expected])
    instants = np.unique(onsets)
    place = {onset: index for index, onset in enumerate(instants)}
    shifts = np.zeros(len(onsets))
    for index, expected in enumerate(task.expected):
        at = place[float(expected.onset_quarters)]
        both = HAND_WRITTEN_MS[(7 * turn + 5 * at) % len(HAND_WRITTEN_MS)]
        own = HAND_WRITTEN_MS[(11 * turn + 3 * at + (13 if expected.hand is Hand.LEFT else 0)) % len(HAND_WRITTEN_MS)]
        shifts[index] = LOOSE[level] * (0.8 * both + 0.6 * own) / 1000
    draft = TakeDraft(task, np.random.default_rng(turn), onsets, instants, instants * task.quarter_s, shifts)
    for fault in faults:
        plant(draft, fault)
    strikes = tuple(strikes_of(draft, 2.0, source, level))
    click = (2.0, task.assigned_bpm) if source is Source.TAPS else (None, None)
    return Performance(source, strikes, *click)


def named_by_hand(planted: Planted, level: Level, source: Source, turns: range) -> Found:
    """At twice the limit on timing written by hand."""
    found = Found()
    for turn in turns:
        task = task_of(planted.pieces[turn % len(planted.pieces)], source is Source.MIDI)
        fault = planted.plant(task, LIMITS[level], 2, source)
        found.add(planted.code, codes_of(task, by_hand(task, level, turn, source, (fault,)), level))
    return found


def clean_by_hand(level: Level, source: Source, turns: range) -> tuple[Counter[str], int]:
    blamed: Counter[str] = Counter()
    tried = 0
    for piece in (*_DEMO, *_OWN):
        task = task_of(piece, source is Source.MIDI)
        for turn in turns:
            tried += 1
            codes = codes_of(task, by_hand(task, level, turn, source), level)
            blamed.update([" ".join(codes)] if codes else [])
    return blamed, tried


#: At how many times its limit every fault is planted.
STRENGTHS = (0.5, 1.5, 2.0)

#: (fault, level, times its limit, source, first seed, how many); no fault: clean takes. Times 0: timing by hand.
Cell = tuple[int | None, Level, float, Source, int, int]


def _cell(cell: Cell) -> dict[str, Any]:
    """What is found in the takes of one cell, or what clean ones are blamed for and how many there are."""
    index, level, times, source, first, takes = cell
    seeds = range(first, first + takes)
    if index is None:
        blamed, tried = (clean if times else clean_by_hand)(level, source, seeds)
        return vars(Found(0, tried, besides=blamed))
    planted = PLANTED[index]
    return vars(named(planted, level, times, source, seeds) if times else named_by_hand(planted, level, source, seeds))


def _is_judged(planted: Planted, level: Level, source: Source) -> bool:
    """Key-ups need keys, and at the advanced level long notes let go early are touch."""
    if planted.code == "long-cut" and LIMITS[level].cut_share_of_beat >= 1:
        return False
    fault = planted.plant(task_of(planted.pieces[0], False), LIMITS[level], 1, source)
    return source is Source.MIDI or fault.kind not in OF_KEY_UPS


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=32)
    options.add_argument("--from", type=int, default=0, dest="first")
    options.add_argument("--keep", type=Path, help="results so far: one begun before is gone on with")
    asked = options.parse_args()

    def some(level: Level) -> tuple[int, int]:
        """Each level has takes of its own: those of one seed are alike at all levels."""
        return asked.first + list(Level).index(level) * asked.takes, asked.takes

    cells: list[Cell] = [
        (index, level, times, source, *some(level))
        for times in (*STRENGTHS, 0.0)
        for index, planted in enumerate(PLANTED)
        for source in _SOURCES
        for level in Level
        if _is_judged(planted, level, source)
    ]
    spotless: list[Cell] = [(None, x, times, s, *some(x)) for times in (1.0, 0.0) for s in _SOURCES for x in Level]
    answers = zip([*cells, *spotless], told([*cells, *spotless], _cell, asked.keep, 1), strict=True)
    results = {
        cell: Found(one["found"], one["tried"], one["truly"], Counter(one["instead"]), Counter(one["besides"]))
        for cell, one in answers
    }
    print("# How well the checker finds planted faults\n")
    print(
        f"Made by `benchmarks/planted_faults.py --takes {asked.takes} --from {asked.first}`, checker version"
        f" {CHECKER_VERSION}: {asked.takes} takes a cell, shared out over the pieces that have what the fault needs"
        " (`benchmarks/pieces.py`). Found means named as main or second finding; besides: what the other finding was;"
        " – means not judged at that level. A restart has no strength: it is"
        " found at every one. Where takes are counted together: with 95 % intervals.\n"
    )
    for times in STRENGTHS:
        print(f"## Faults at {times:g} × the limit\n")
        _table({cell: results[cell] for cell in cells if cell[2] == times}, instead=times > 1)
        if times < 1:
            _truly([(PLANTED[cell[0]], results[cell]) for cell in cells if cell[0] is not None and cell[2] == times])
    print("## Faults at 2 × the limit, on timing written by hand\n")
    print("Deviations of a steady player written down, not generated; only the faults are planted by the same code.\n")
    _table({cell: results[cell] for cell in cells if not cell[2]}, instead=True)
    for head, times in (("of the level's skill", 1.0), ("timing written by hand", 0.0)):
        print(f"## Clean takes, {head}\n")
        _clean_table([results[cell] for cell in spotless if cell[2] == times])
        print()


def _table(results: dict[Cell, Found], *, instead: bool) -> None:
    print("| fault | code | source | " + " | ".join(LEVEL_NAMES[level] for level in Level), end=" | together | ")
    print("named instead | besides |")
    print("| --- | --- | --- |" + " ---: |" * len(Level) + " ---: | --- | --- |")
    for index, planted in enumerate(PLANTED):
        for source in _SOURCES:
            cells = {c[1]: r for c, r in results.items() if c[0] == index and c[3] is source}
            if not cells:
                continue
            others = sum((cell.instead for cell in cells.values()), Counter())
            besides = sum((cell.besides for cell in cells.values()), Counter())
            row = [cells.get(level) for level in Level]
            shares = " | ".join("–" if one is None else f"{100 * one.found / one.tried:.0f} %" for one in row)
            words = " | ".join(_commonest(one) if instead else "" for one in (others, besides))
            found, tried = sum(r.found for r in cells.values()), sum(r.tried for r in cells.values())
            print(
                f"| {planted.words} | `{planted.code}` | {source.value} | {shares} | {share(found, tried)} | {words} |"
            )
    for source in _SOURCES:
        own = [r for c, r in results.items() if c[3] is source]
        found, tried = sum(r.found for r in own), sum(r.tried for r in own)
        besides = sum(sum(r.besides.values()) for r in own)
        print(
            f"\n{source.value}, all together: {share(found, tried)} % of {tried:,} takes; something else named besides"
            f" in {share(besides, found)} % of those found."
        )
    print()


def _truly(results: list[tuple[Planted, Found]]) -> None:
    uneven = [found for planted, found in results if planted.code == "uneven"]
    named, truly = sum(one.found for one in uneven), sum(one.truly for one in uneven)
    print("Strikes half as far from the beat as they may lie are, in short notes, uneven: of the takes named unsteady")
    print(f"{truly} of {named} are, by a stopwatch, uneven beyond the limit of their equal short notes.\n")


def _commonest(counted: Counter[str]) -> str:
    return ", ".join(f"{what} {n}" for what, n in counted.most_common(3))


def _clean_table(rows: list[Found]) -> None:
    print("| level | source | takes | blamed for anything, % | for what |\n| --- | --- | ---: | ---: | --- |")
    for (level, source), one in zip(((x, s) for s in _SOURCES for x in Level), rows, strict=True):
        what = ", ".join(f"{code} {n}" for code, n in one.besides.items()) or "–"
        blamed = share(one.besides.total(), one.tried)
        print(f"| {LEVEL_NAMES[level]} | {source.value} | {one.tried} | {blamed} | {what} |")


if __name__ == "__main__":
    main()
