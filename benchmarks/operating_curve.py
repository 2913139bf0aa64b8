"""What the judge finds in the second performer's takes, and whom it blames falsely.

The tables of docs/operating-curve.md. Faults × strength × source, shared out over levels, pieces and where the fault
is; Wilson intervals of 95 %. Found means: the code is among the findings. Beside: another code is named too. Fresh
takes: give another ``--from``.

Run: .venv/bin/python benchmarks/operating_curve.py [--takes 400] [--from 0] [--only code,code] [--times 0.5,1.5,2]
     [--keep results.txt]
"""

from __future__ import annotations

import argparse
import math
import sys
from collections import Counter, defaultdict
from collections.abc import Callable
from pathlib import Path

sys.path[:0] = [str(Path(__file__).resolve().parent / name) for name in (".", "../src")]

from keeping import told
from performer.faults import FAULTS, PART
from performer.takes import Case, drift_as_played, named, off_tempo_as_played, uneven_as_played

from laptick.core.base.levels import Level
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.core.measuring.limits import LIMITS
from laptick.core.takes.performance import Source

SOURCES = (Source.MIDI, Source.TAPS)
CLEAN = (0.6, 0.9)

#: What is pooled, in words → whether the fault is in part of the places.
POOLED = {
    "everywhere, one hand, long runs, bass": (False,),
    "half or from a place on": (True,),
    "all": (False, True),
}


def wilson(found: int, tried: int) -> tuple[float, float]:
    """The 95 % interval of a share (Wilson, JASA 22, 1927)."""
    if not tried:
        return 0.0, 1.0
    z, p = 1.96, found / tried
    middle = (p + z * z / (2 * tried)) / (1 + z * z / tried)
    half = z / (1 + z * z / tried) * math.sqrt(p * (1 - p) / tried + z * z / (4 * tried * tried))
    return max(0.0, middle - half), min(1.0, middle + half)


def share(found: int, tried: int) -> str:
    low, high = wilson(found, tried)
    return f"{100 * found / max(1, tried):.1f} ({100 * low:.0f}–{100 * high:.0f})" if tried else "–"


def cases(takes: int, first: int, times: list[float], only: set[str]) -> list[Case]:
    found = []
    levels = list(Level)
    for index, fault in enumerate(FAULTS):
        if only and fault.code not in only:
            continue
        for source in SOURCES:
            if fault.keys_only and source is not Source.MIDI:
                continue
            for strength in times:
                for i in range(takes):
                    where = fault.wheres[i % len(fault.wheres)]
                    level = levels[(i // len(fault.wheres)) % len(levels)]
                    if fault.code == "long-cut" and LIMITS[level].cut_share_of_beat >= 1:
                        continue
                    found.append(Case(index, where, strength, level, source, first + i))
    if not only:
        for limit_share in CLEAN:
            for source in SOURCES:
                for i in range(2 * takes):
                    found.append(Case(None, "", 0, levels[i % 4], source, first + i, limit_share))
    return found


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=400)
    options.add_argument("--from", type=int, default=0, dest="first")
    options.add_argument("--only", default="")
    options.add_argument("--times", default="0.5,1.5,2")
    options.add_argument("--keep", type=Path, help="results so far: one begun before is gone on with")
    asked = options.parse_args()
    times = [float(one) for one in asked.times.split(",")]
    every = cases(asked.takes, asked.first, times, set(filter(None, asked.only.split(","))))
    answers = zip(every, told(every, named, asked.keep), strict=True)
    results = [(case, tuple(codes)) for case, codes in answers if codes is not None]
    print("# What is found, and who is blamed falsely\n")
    print(
        f"Made by `benchmarks/operating_curve.py --takes {asked.takes} --from {asked.first}`, checker version"
        f" {CHECKER_VERSION}: {len(results):,} takes of the second performer. Shares in %, with 95 % intervals.\n"
    )
    _faults(results, times)
    _clean([one for one in results if one[0].fault is None])
    if any(one[0].what is not None and one[0].what.code == "uneven" for one in results):
        _uneven(results, times[0])


def _faults(results: list[tuple[Case, tuple[str, ...]]], times: list[float]) -> None:
    for source in SOURCES:
        print(f"## {source.value}\n")
        heads = " | ".join(f"{t:g} × limit" for t in times)
        print(f"| fault | where | {heads} | beside it, at {times[-1]:g} × | named instead |")
        print("| --- | --- |" + " ---: |" * len(times) + " ---: | --- |")
        pooled: dict[tuple[float, bool], list[int]] = defaultdict(lambda: [0, 0, 0])
        for index, fault in enumerate(FAULTS):
            own = [one for one in results if one[0].fault == index and one[0].source is source]
            if not own:
                continue
            for where in (*fault.wheres, "all"):
                if where == "all" and len(fault.wheres) == 1:
                    continue
                here = [one for one in own if where in ("all", one[0].where)]
                cells = []
                for t in times:
                    at = [codes for case, codes in here if case.times == t]
                    cells.append(share(sum(fault.code in codes for codes in at), len(at)))
                strong = [codes for case, codes in here if case.times == times[-1]]
                found = [codes for codes in strong if fault.code in codes]
                beside = Counter(code for codes in found for code in codes if code != fault.code)
                many = sum(len(codes) > 1 for codes in found)
                instead = Counter(" ".join(codes) or "nothing" for codes in strong if fault.code not in codes)
                print(
                    f"| {fault.words} (`{fault.code}`) | {where} | {' | '.join(cells)} | {share(many, len(found))}"
                    f" {_most(beside)} | {_most(instead)} |"
                )
            for case, codes in own:
                cell = pooled[case.times, case.where in PART]
                cell[0] += fault.code in codes
                cell[1] += 1
                cell[2] += fault.code in codes and len(codes) > 1
        for words, kinds in POOLED.items():
            cells = []
            for t in times:
                found, tried, many = (sum(pooled[t, kind][i] for kind in kinds) for i in range(3))
                cells.append(share(found, tried))
            print(f"| **together** | {words} | {' | '.join(cells)} | {share(many, found)} | |")
        print()


def _most(counted: Counter[str]) -> str:
    return ", ".join(f"{code} {count}" for code, count in counted.most_common(3))


#: What a clean take may be blamed for truly → how far it lies from its limit, by a stopwatch.
AS_PLAYED: dict[str, Callable[[Case], float]] = {
    "off-tempo": off_tempo_as_played,
    "drift": drift_as_played,
    "uneven": uneven_as_played,
}


def _clean(results: list[tuple[Case, tuple[str, ...]]]) -> None:
    print("## Clean takes\n")
    print(
        "Habits add up: who rushes a little everywhere plays another tempo; and a tempo that wanders may end elsewhere."
    )
    print("“Truly”: of those blamed for it so many lie beyond the limit by a stopwatch, from the first strike to the")
    print("last, over a straight line through their bars, or in their equal short notes. “Falsely”: who is blamed for")
    print("anything else.\n")
    told = "another tempo, truly | drift, truly | uneven, truly"
    print(f"| source | skill, of the limits | blamed | falsely | for | {told} |")
    print("| --- | ---: | ---: | ---: | --- | ---: | ---: | ---: |")
    for source in SOURCES:
        for limit_share in CLEAN:
            own = [one for one in results if one[0].source is source and one[0].share == limit_share]
            blamed = Counter(code for _, codes in own for code in codes)
            words = ", ".join(f"{code} {many}" for code, many in blamed.most_common())
            truly = {
                code: [case for case, codes in own if code in codes and as_played(case) > 1]
                for code, as_played in AS_PLAYED.items()
            }
            falsely = sum(any(case not in truly.get(code, ()) for code in codes) for case, codes in own)
            cells = [f"{len(cases)} of {blamed[code]}" if blamed[code] else "" for code, cases in truly.items()]
            told, wrongly = share(sum(bool(codes) for _, codes in own), len(own)), share(falsely, len(own))
            of = f"{source.value} | {100 * limit_share:.0f} %"
            print(f"| {of} | {told} | {wrongly} | {words} | {' | '.join(cells)} |")


def _uneven(results: list[tuple[Case, tuple[str, ...]]], lowest: float) -> None:
    print(f"\n## Unevenness at {lowest:g} × its limit\n")
    print("Strikes that lie half as far from the beat as they may are, in short notes, uneven: “truly” are those whose")
    print("equal short notes are beyond their own limit by a stopwatch.\n")
    print("| source | named | truly |\n| --- | ---: | ---: |")
    for source in SOURCES:
        own = [
            one
            for one in results
            if one[0].what is not None
            and one[0].what.code == "uneven"
            and (one[0].source, one[0].times) == (source, lowest)
        ]
        told = [case for case, codes in own if "uneven" in codes]
        truly = sum(uneven_as_played(case) > 1 for case in told)
        print(f"| {source.value} | {share(len(told), len(own))} | {truly} of {len(told)} |")


if __name__ == "__main__":
    main()
