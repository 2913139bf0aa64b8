"""How well knocks on lap or lid are heard: lap tasks of both performers, by microphone.

Knocks are made by what a hand on a thigh, a lid or a table sounds like (from memory): a thud of one or two low modes, a
burst of cloth or wood, louder and softer by 3 dB, every take on another surface, the hands a little unlike. Told, by
surface: the share of clean takes that are blamed for anything, and for what, and of faults at a multiple of their limit
that are named; and the same of the takes as taps of a keyboard, in the same run.

Run: python -m benchmarks.hearing.knocks [--performer first] [--takes 2] [--clean 60] [--seed 500] [--times 2]
"""

from __future__ import annotations

import argparse
import zlib
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from benchmarks.hearing.conditions import CONDITIONS, recorded
from benchmarks.hearing.judged import Asked, taken
from benchmarks.hearing.sounding import RATE
from performer.faults import FAULTS
from performer.takes import codes_of
from planted_faults import PLANTED

from laptick.core.following.by_ear.take import hear_take
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source
from laptick.formats.audio.decoding import decode

USUAL = ("clean", "room", "opus, webm", "phone", "noise 20 dB", "16 kHz")

#: What one cannot tell of knocks: how far the hands are apart, for a knock does not say whose it is.
UNTOLD = ("hands-apart",)
#: What has no sense for taps.
OF_KEYS = ("long-cut", "rest-run-over", "wrong-notes")

#: Surface: its modes in Hz, how fast they die, the burst's share and how fast that does.
SURFACES: dict[str, tuple[tuple[float, ...], float, float, float]] = {
    "lap": ((95.0, 160.0), 0.022, 0.5, 0.012),
    "lid": ((140.0, 310.0, 720.0), 0.030, 0.35, 0.006),
    "table": ((230.0, 560.0, 1300.0), 0.016, 0.8, 0.004),
}
#: Silence before and after.
BEFORE_S, AFTER_S = 0.8, 1.5


@dataclass(frozen=True)
class Told:
    surface: str
    code: str
    words: str
    by_ear: tuple[str, ...]
    by_taps: tuple[str, ...]


def knocked(performance: Performance, surface: str, rng: np.random.Generator) -> np.ndarray:
    modes, decay_s, burst, burst_s = SURFACES[surface]
    end_s = BEFORE_S + performance.strikes[-1].played_s + AFTER_S
    samples = rng.normal(0, 2e-4, int(end_s * RATE))
    at = np.arange(int(0.25 * RATE)) / RATE
    own = {hand: [hertz * rng.uniform(0.85, 1.15) for hertz in modes] for hand in (Hand.LEFT, Hand.RIGHT, None)}
    for strike in performance.strikes:
        wave = burst * rng.normal(size=len(at)) * np.exp(-at / burst_s)
        for number, hertz in enumerate(own[strike.hand]):
            wave += np.sin(2 * np.pi * hertz * at) * np.exp(-at / (decay_s / (1 + 0.5 * number))) / (1 + number)
        begin = int((BEFORE_S + strike.played_s) * RATE)
        loud = 0.2 * 10 ** (rng.normal(0, 3) / 20)
        samples[begin : begin + len(at)] += loud * wave[: len(samples) - begin]
    return samples


def told(number_and_asked: tuple[int, Asked]) -> Told | None:
    number, asked = number_and_asked
    take = taken(asked, Source.TAPS)
    if take is None:
        return None
    task, performance = take
    name = USUAL[number % len(USUAL)]
    rng = np.random.default_rng([number, zlib.crc32(name.encode()), asked.seed])
    surface = list(SURFACES)[(number // len(USUAL)) % len(SURFACES)]
    condition = next(one for one in CONDITIONS if one.name == name)
    times = [strike.played_s + BEFORE_S for strike in performance.strikes]
    beats = np.linspace(times[0], times[-1], max(2, int(task.length_quarters / task.beat_quarters)))
    sound = decode(recorded(knocked(performance, surface, rng), beats.tolist(), condition, rng))
    heard = hear_take(sound, task, rate=sound.rate)
    words = asked.code_and_words
    return Told(surface, *words, codes_of(task, heard, asked.level), codes_of(task, performance, asked.level))


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--performer", choices=("first", "second"), default="first")
    options.add_argument("--takes", type=int, default=2, help="of each fault")
    options.add_argument("--clean", type=int, default=60)
    options.add_argument("--seed", type=int, default=500)
    options.add_argument("--times", type=float, default=2.0, help="the limit")
    asked = options.parse_args()
    table = FAULTS if asked.performer == "second" else PLANTED
    faults = [number for number, fault in enumerate(table) if fault.code not in OF_KEYS]
    wanted = [
        Asked(asked.performer, fault, turn, asked.times, asked.seed)
        for fault, takes in ((None, asked.clean), *((one, asked.takes) for one in faults))
        for turn in range(takes)
    ]
    with ProcessPoolExecutor(2) as pool:
        results = [one for one in pool.map(told, enumerate(wanted)) if one is not None]
    for surface in SURFACES:
        clean = [one for one in results if not one.code and one.surface == surface]
        codes = dict(Counter(code for one in clean for code in one.by_ear))
        print(f"{surface}: {len(clean)} clean; blamed by ear {_blamed(clean, 'by_ear')}, {codes}")
        print(f"  by taps {_blamed(clean, 'by_taps')}")
    print(f"\n| fault at {asked.times:g} × its limit | takes | named by ear | by taps | not followed |")
    print("|---|---|---|---|---|")
    by_fault: dict[tuple[str, str], list[Told]] = defaultdict(list)
    for one in results:
        if one.code:
            by_fault[one.code, one.words].append(one)
    total = named = taps = 0
    for (code, words), own in by_fault.items():
        ear, keys = (sum(code in getattr(one, way) for one in own) for way in ("by_ear", "by_taps"))
        lost = sum(one.by_ear == ("not followed",) for one in own)
        print(f"| {code}: {words} | {len(own)} | {ear} | {keys} | {lost} |")
        if code not in UNTOLD:
            total, named, taps = total + len(own), named + ear, taps + keys
    print(f"\nnamed, of what knocks can tell: {named} of {total} ({100 * named / max(1, total):.1f} %); taps {taps}")
    return 0


def _blamed(takes: list[Told], way: str) -> str:
    bad = [one for one in takes if getattr(one, way)]
    return f"{len(bad)} ({100 * len(bad) / max(1, len(takes)):.1f} %)"


if __name__ == "__main__":
    raise SystemExit(main())
