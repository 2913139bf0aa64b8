"""Whether the browser hears, while one plays, that one still plays: takes of both performers through sound.

A take ends when nothing was struck for so long as its schedule says (core/play_along: 1.3 times the longest gap and two
beats). So every take is asked: is there such a stretch between its first strike and its last (it would be cut off), and
is anything taken for a strike a second and more after the last (it would end late)? The strikes are those of
web/src/sound/strikes.ts, run by Node on spectra as an analyser of Web Audio gives them (W3C Web Audio API 1.1, 1.8:
2,048 samples, Blackman window, no smoothing), looked at every 20 ms and some more. ``--late-noise``: a noise that
begins after the room was looked at.

Run: python -m benchmarks.hearing.live_strikes [--takes 96] [--seed 81000] [--look 0.02] [--late-noise 20]
"""

from __future__ import annotations

import argparse
import json
import subprocess
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from pathlib import Path

import numpy as np
from benchmarks.hearing.conditions import CONDITIONS, noise
from benchmarks.hearing.judged import Asked, taken
from benchmarks.hearing.playing import Played
from benchmarks.hearing.sounding import RATE, fonts, sounded

from laptick.core.play_along.scheduling import SILENCE_BEATS, SILENCE_LEAST_S, SILENCE_SLACK

SCRIPT = Path(__file__).with_suffix(".mjs")
USUAL = ("clean", "room", "pedal", "phone", "noise 20 dB", "noise 10 dB", "hum", "voice")
WINDOW = 2048
#: So long before the playing the room is heard, and after it.
ROOM_S, AFTER_S = 3.0, 6.0
#: The recording begins: the room was heard for a little while.
BEGIN_S = 0.6
#: A microphone's own noise, of full scale.
OWN_NOISE = 3e-4
NEAR_S = 0.15


@dataclass(frozen=True)
class Told:
    """``hit``: share of onsets that a strike was heard at; ``false``: strikes where none was, of a second of playing;
    ``tail_s``: from the last onset to the last strike that was heard."""

    condition: str
    is_cut: bool
    tail_s: float
    hit: float
    false: float


@dataclass(frozen=True)
class Wanted:
    seed: int
    look_s: float
    late_noise: float | None


def told(wanted: Wanted, number: int) -> Told | None:
    asked = Asked("first" if number % 2 else "second", None, number // 2, 0.0, wanted.seed)
    take = taken(asked)
    if take is None:
        return None
    task, performance = take
    condition = next(one for one in CONDITIONS if one.name == USUAL[number % len(USUAL)])
    rng = np.random.default_rng([number, wanted.seed])
    notes = [
        Played(None, s.played_s + ROOM_S, s.pitch or 60, s.velocity or 64, (s.released_s or s.played_s + 0.3) + ROOM_S)
        for s in performance.strikes
    ]
    beats = np.linspace(notes[0].at_s, notes[-1].at_s, max(2, int(task.length_quarters / task.beat_quarters)))
    pedal = performance.pedal
    if condition.pedal:
        changes = tuple(one for beat in beats[::4] for one in ((beat - 0.05, False), (beat + 0.05, True)))
        pedal = (*changes, (beats[-1] + 2, False))
    instruments = fonts()
    samples = np.concatenate(
        [sounded(notes, pedal, instruments[number % len(instruments)]), np.zeros(int(RATE * AFTER_S))]
    )
    samples = condition.apply(samples, beats.tolist(), rng)
    samples = samples / np.abs(samples).max() * float(rng.uniform(0.05, 0.7))
    if wanted.late_noise is not None:
        more = noise(wanted.late_noise)(samples, beats.tolist(), rng) - samples
        more[: int((BEGIN_S + 1) * RATE)] = 0
        samples = samples + more
    samples = samples + rng.normal(0, OWN_NOISE, len(samples))
    strikes = heard_live(samples, wanted.look_s, rng)
    at_s = np.unique([round(one.at_s, 3) for one in notes])
    onsets = np.unique([float(one.onset_quarters) for one in task.expected])
    longest = SILENCE_SLACK * float(np.diff(onsets).max()) + SILENCE_BEATS * float(task.beat_quarters)
    silence_s = max(SILENCE_LEAST_S, longest * task.quarter_s)
    return _scored(condition.name, strikes, at_s, silence_s)


def heard_live(samples: np.ndarray, look_s: float, rng: np.random.Generator) -> np.ndarray:
    """When strikes were heard, in seconds, by the interface's own code."""
    at_s = np.cumsum(look_s + np.abs(rng.normal(0, 0.002, int(len(samples) / RATE / look_s))))
    at_s = at_s[(at_s > WINDOW / RATE) & (at_s < len(samples) / RATE)]
    window = np.blackman(WINDOW)
    frames = np.stack([samples[int(at * RATE) - WINDOW : int(at * RATE)] for at in at_s])
    spectra = np.abs(np.fft.rfft(frames * window, axis=1))[:, : WINDOW // 2] / WINDOW
    decibels = (20 * np.log10(np.maximum(spectra, 1e-12))).astype("<f4")
    head = {"at_ms": (1000 * at_s).tolist(), "begin_ms": 1000 * BEGIN_S, "sample_rate": RATE, "bins": WINDOW // 2}
    told = json.dumps(head).encode() + b"\n" + decibels.tobytes()
    done = subprocess.run(["node", str(SCRIPT)], input=told, stdout=subprocess.PIPE, check=True)
    return np.array(json.loads(done.stdout)) / 1000


def _scored(condition: str, strikes: np.ndarray, at_s: np.ndarray, silence_s: float) -> Told:
    first, last = at_s[0], at_s[-1]
    during = strikes[(strikes >= first) & (strikes <= last + NEAR_S)]
    is_cut = any(b - a > silence_s for a, b in pairwise([first, *during, last]))
    after = strikes[strikes > last]
    hit = np.mean([np.any((strikes >= one - 0.02) & (strikes <= one + NEAR_S)) for one in at_s])
    false = sum(not np.any((at_s >= one - NEAR_S) & (at_s <= one + 0.02)) for one in during if one < last)
    return Told(condition, is_cut, float(after.max() - last) if len(after) else 0.0, float(hit), false / (last - first))


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=96)
    options.add_argument("--seed", type=int, default=81_000)
    options.add_argument("--look", type=float, default=0.02, help="seconds between two looks")
    options.add_argument("--late-noise", type=float, default=None, help="decibel under the playing")
    asked = options.parse_args()
    wanted = Wanted(asked.seed, asked.look, asked.late_noise)
    with ProcessPoolExecutor(2) as pool:
        results = [one for one in pool.map(partial(told, wanted), range(asked.takes)) if one is not None]
    by_name: dict[str, list[Told]] = defaultdict(list)
    for one in results:
        by_name[one.condition].append(one)
    print("| condition | takes | cut off | ends a second late | three | strikes heard | false, of a second |")
    print("|---|---|---|---|---|---|---|")
    for name, own in (*by_name.items(), ("all", results)):
        tails = [one.tail_s for one in own]
        print(
            f"| {name} | {len(own)} | {sum(one.is_cut for one in own)} | {sum(t > 1 for t in tails)} "
            f"| {sum(t > 3 for t in tails)} | {np.mean([one.hit for one in own]):.3f} "
            f"| {np.mean([one.false for one in own]):.2f} |"
        )
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
