"""Onsets and timing beside two general audio libraries, in one run: the product's ear, librosa's and aubio's onset
detectors on the same takes.

The libraries know no score; the product's onsets are told twice: its candidates, which know none either, and what it
heard of the score. Strikes within 70 ms are one onset (two hands); F at 50 ms by mir_eval; each constant bias (its
own zero) is taken off before the timing is told. Neither library is needed for anything else: install both where this
is run (``pip install librosa aubio``).

Run: python -m benchmarks.hearing.side_by_side [--takes 4] [--seed 1]
"""

from __future__ import annotations

import argparse
import sys
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from pathlib import Path

import mir_eval
import numpy as np

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks")]

import aubio
import librosa
from benchmarks.hearing.accuracy import Case, take_of

from laptick.core.following.by_ear.transcribing import transcribe
from laptick.core.hearing.groups import flux_of, groups_of
from laptick.core.hearing.sound import Sound
from laptick.core.hearing.spectrum import spectrum_of
from laptick.core.takes.task import Task
from laptick.formats.audio.decoding import decode

CONDITIONS = ("clean", "room", "phone", "noise 20 dB", "noise 10 dB", "click −12 dB", "voice")
TOGETHER_S = 0.07
HOP = 256


def events(times: Sequence[float]) -> np.ndarray:
    found: list[float] = []
    for at_s in sorted(times):
        if not found or at_s - found[-1] > TOGETHER_S:
            found.append(at_s)
    return np.array(found)


def by_product(sound: Sound, task: Task) -> list[float]:
    return [strike.played_s for strike in transcribe(sound, task).strikes]


def by_groups(sound: Sound, task: Task) -> list[float]:
    spectrum = spectrum_of(sound)
    groups = groups_of(sound, spectrum, flux_of(spectrum))
    usual = float(np.median([group.strength for group in groups])) if groups else 0.0
    return [group.at_s for group in groups if group.strength > 0.3 * usual]


def by_librosa(sound: Sound, task: Task) -> list[float]:
    return librosa.onset.onset_detect(y=sound.samples, sr=sound.rate, hop_length=HOP, units="time").tolist()


def by_aubio(sound: Sound, task: Task) -> list[float]:
    detector = aubio.onset("default", 1024, HOP, sound.rate)
    found = []
    for first in range(0, len(sound.samples) - HOP, HOP):
        if detector(sound.samples[first : first + HOP].astype(np.float32)):
            found.append(float(detector.get_last_s()))
    return found


WAYS: dict[str, Callable[[Sound, Task], list[float]]] = {
    "the product, with the score": by_product,
    "the product's candidates": by_groups,
    "librosa": by_librosa,
    "aubio": by_aubio,
}


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--takes", type=int, default=4, help="of each condition")
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    f: dict[tuple[str, str], list[float]] = defaultdict(list)
    off_ms: dict[str, list[float]] = defaultdict(list)
    cost_s: dict[str, float] = defaultdict(float)
    seconds = 0.0
    for name in CONDITIONS:
        for number in range(asked.takes):
            take = take_of(Case(name, number, asked.seed))
            sound = decode(take.data)
            seconds += sound.seconds
            true = events([note.at_s + take.lags_s.get(note.pitch, 0.005) for note in take.playing.notes])
            for way, listen in WAYS.items():
                listen(sound.since(max(0.0, sound.seconds - 2)), take.playing.task)  # warm
                begun = time.process_time()
                times = listen(sound, take.playing.task)
                cost_s[way] += time.process_time() - begun
                heard = events(times)
                pairs = mir_eval.util.match_events(true, heard, 0.05)
                gaps = 1000 * np.array([heard[j] - true[i] for i, j in pairs])
                bias = float(np.median(gaps)) if len(gaps) else 0.0
                f[way, name].append(mir_eval.onset.f_measure(true, heard - bias / 1000, window=0.05)[0])
                off_ms[way] += (gaps - bias).tolist()
    print(f"seed {asked.seed}, {asked.takes} takes a condition\n")
    print(_head())
    for way in WAYS:
        cells = " | ".join(f"{np.mean(f[way, name]):.3f}" for name in CONDITIONS)
        spread = float(np.std(off_ms[way]))
        print(f"| {way} | {cells} | {spread:.1f} | {60 * cost_s[way] / seconds:.2f} |")
    return 0


def _head() -> str:
    columns = ["onset F", *CONDITIONS, "timing SD, ms", "cpu s a minute"]
    return f"| {' | '.join(columns)} |\n|{'---|' * len(columns)}"


if __name__ == "__main__":
    sys.exit(main())
