"""How well claps are heard among keys: forms whose rests are clapped, by microphone.

Keys are sounded as in ``accuracy.py``; claps are the hand claps of the same fonts (percussion, key 39), and bursts made
by what is known of single people's claps: a few milliseconds of noise round one broad peak between 0.5 and 2.5 kHz by
how the hands are held (Repp, JASA 81, 1987; from memory). Some claps are left out, some come late. Told, by condition:
of the claps made how many are heard, of those left out how many are said to be there, how exact their times are, and
the same of the keys; how many takes were not followed.

Run: .venv/bin/python -m benchmarks.hearing.claps [--takes 6] [--seed 1]
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
import zlib
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import mido
import numpy as np
import soundfile

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks")]

from benchmarks.hearing.conditions import CONDITIONS, recorded, rms
from benchmarks.hearing.playing import Habits, Played, play
from benchmarks.hearing.sounding import FONTS, RATE, attack_s, fonts, lags_s, sounded

from helpers import demo_score
from laptick.core.following.by_ear.take import hear_take
from laptick.core.measuring.checking import check_take
from laptick.core.takes.performance import CLAP_KEY
from laptick.core.takes.task import lap_task
from laptick.formats.audio.decoding import decode
from laptick.formats.drills import make_drill

USUAL = ("clean", "room", "pedal", "opus, webm", "phone", "noise 20 dB", "8 kHz", "voice", "metronome")

FORMS = tuple(
    {"bars": bars, "key": key, "fill": fill, "walk": walk}
    for bars, walk in (("I,IV,V,I", "no"), ("twelve-bar", "yes"))
    for key in ("C-major", "G-major", "F-major", "D-major")
    for fill in ("one-clap", "two-claps")
)

#: Of claps, so many are left out; and so many come so late.
LEFT_OUT, LATE, LATE_S = 0.12, 0.08, 0.09


@dataclass(frozen=True)
class Case:
    name: str
    number: int
    seed: int


@dataclass(frozen=True)
class Told:
    name: str
    made: int
    heard: int
    left_out: int
    said: int
    off_ms: tuple[float, ...]
    keys: int
    keys_heard: int
    extra: int
    followed: bool


@cache
def clap_of(font: str) -> np.ndarray:
    """The hand clap of a font, from its 5 % on."""
    file = mido.MidiFile(ticks_per_beat=10_000)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)])
    track.append(mido.Message("note_on", channel=9, note=39, velocity=100, time=5000))
    track.append(mido.Message("note_off", channel=9, note=39, time=5000))
    track.append(mido.MetaMessage("end_of_track", time=10_000))
    file.tracks.append(track)
    with tempfile.TemporaryDirectory() as folder:
        midi, wav = Path(folder) / "clap.mid", Path(folder) / "clap.wav"
        file.save(midi)
        command = ["fluidsynth", "-ni", "-F", str(wav), "-r", str(RATE), "-g", "0.5", "-o", "synth.reverb.active=0",
                   "-o", "synth.chorus.active=0", "-o", "audio.file.format=float", FONTS[font][0],
                   str(midi)]  # fmt: skip
        subprocess.run(command, check=True, capture_output=True)
        samples, _ = soundfile.read(wav, dtype="float32", always_2d=True)
    mono = samples.mean(axis=1)
    begin = round(attack_s(mono, 0.5) * RATE)
    return mono[begin : begin + RATE // 2]


def burst(rng: np.random.Generator) -> np.ndarray:
    """One person's clap."""
    length = RATE // 5
    at = np.arange(length) / RATE
    middle, width = float(rng.uniform(500, 2500)), float(rng.uniform(0.4, 1.0))
    spectrum = np.fft.rfft(rng.normal(size=length) * np.exp(-at / float(rng.uniform(0.003, 0.012))))
    hertz = np.maximum(np.fft.rfftfreq(length, 1 / RATE), 1.0)
    shape = 0.15 + np.exp(-0.5 * (np.log2(hertz / middle) / width) ** 2)
    made = np.fft.irfft(spectrum * shape * (hertz > 150), length)
    return made * np.minimum(1, at / 0.0005)


def told(case: Case) -> Told:
    rng = np.random.default_rng([case.seed, case.number, zlib.crc32(case.name.encode())])
    condition = next(one for one in CONDITIONS if one.name == case.name)
    score = make_drill("form", FORMS[(case.number + case.seed) % len(FORMS)], demo_score).score
    task = lap_task(score, assigned_bpm=float(rng.integers(66, 112)), with_pitches=True, with_claps=True)
    playing = play(task, rng, Habits(pedal=condition.pedal))
    instruments = [one for one in fonts() if one in FONTS]
    instrument = instruments[case.number % len(instruments)]
    asked = {n.index for n in playing.notes if n.index is not None and task.expected[n.index].pitch == CLAP_KEY}
    out = {index for index in asked if rng.uniform() < LEFT_OUT}
    claps = {n.index: n.at_s + (LATE_S if rng.uniform() < LATE else 0.0) for n in playing.notes
             if n.index in asked and n.index not in out}  # fmt: skip
    lags = lags_s(instrument)
    keys = [n for n in playing.notes if n.index not in asked]
    struck = [replace(n, at_s=n.at_s - lags.get(n.pitch, 0.0)) for n in keys]
    samples = sounded(
        [Played(n.index, n.at_s, n.pitch, n.velocity, n.released_s) for n in struck], playing.pedal, instrument
    )
    samples = np.concatenate([samples, np.zeros(RATE)])
    loud = rms(samples)
    sound = clap_of(instrument) if case.number % 2 else burst(rng)
    for at_s in claps.values():
        one = sound * float(10 ** (rng.uniform(-6, 8) / 20)) * 4 * loud / np.abs(sound).max()
        begin = round(at_s * RATE)
        samples[begin : begin + len(one)] += one[: len(samples) - begin]
    data = recorded(samples, playing.beats_s, condition, rng)
    decoded = decode(data, filename=f"take{condition.suffix}")
    heard = hear_take(decoded, task, rate=decoded.rate)
    checked = check_take(task, heard)
    found = {m.expected_index: heard.strikes[m.strike_index].played_s for m in checked.matching.matches}
    truth = {n.index: n.at_s for n in keys if n.index is not None}
    off = [1000 * (found[i] - at_s) for i, at_s in claps.items() if i in found]
    near = [one for one in off if abs(one) <= 60]
    return Told(
        case.name, len(claps), len(near), len(out), len(out & set(found)), tuple(near),
        len(truth), sum(i in found and abs(found[i] - at_s) <= 0.1 for i, at_s in truth.items()),
        len(checked.matching.extra) + len(checked.matching.wrong), checked.followed,
    )  # fmt: skip


def main() -> None:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=6)
    options.add_argument("--seed", type=int, default=1)
    asked = options.parse_args()
    cases = [Case(name, number, asked.seed) for name in USUAL for number in range(asked.takes)]
    by: dict[str, list[Told]] = defaultdict(list)
    with ProcessPoolExecutor() as pool:
        for one in pool.map(told, cases):
            by[one.name].append(one)
            by["all"].append(one)
    heads = ("condition", "claps made", "heard", "left out", "said to be there", "SD, ms", "bias", "keys", "heard",
             "too many", "not followed")  # fmt: skip
    print(f"| {' | '.join(heads)} |")
    print("|---|---|---|---|---|---|---|---|---|---|---|")
    for name, ones in by.items():
        made, heard, out, said, keys, keys_heard, extra = (
            sum(getattr(one, field) for one in ones)
            for field in ("made", "heard", "left_out", "said", "keys", "keys_heard", "extra")
        )
        off = np.array([at for one in ones for at in one.off_ms] or [0.0])
        print(
            f"| {name} | {made} | {heard / max(1, made):.3f} | {out} | {said} | {np.std(off):.1f} | {np.mean(off):+.1f}"
            f" | {keys} | {keys_heard / max(1, keys):.3f} | {extra} | {sum(not one.followed for one in ones)} |"
        )


if __name__ == "__main__":
    main()
