"""How well the ear hears: onsets, matching, timing, tempo, hands apart, condition by condition.

Takes are played by a performer of the benchmark's own, sounded by instruments of others (``sounding.py``), spoilt and
encoded (``conditions.py``), and heard as the product hears a file. Scored with mir_eval: onsets of events (strikes
within 70 ms are one: two hands) at 50 ms; matching: a note of the score counts as found when the time given for it lies
within 100 ms of when it was played. Timing: of found events, far ones (40 ms) left out; the bias of the easy
conditions' instrument is what its strikes' 5 % points leave. Where the hands were not told apart, the time given is
that of one of them, as the product says, and is laid against the nearer.

Run: .venv/bin/python -m benchmarks.hearing.accuracy [--takes 8] [--seed 1] [--only NAME] > docs/hearing-figures.md
"""

from __future__ import annotations

import argparse
import hashlib
import sys
import time
import zlib
from collections import defaultdict
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import mir_eval
import numpy as np

ROOT = Path(__file__).resolve().parents[2]
sys.path[:0] = [str(ROOT / name) for name in ("src", "tests", "tools", "benchmarks")]

import compose_demo
from benchmarks.hearing.conditions import CONDITIONS, Condition, recorded
from benchmarks.hearing.playing import Habits, Playing, play
from benchmarks.hearing.sounding import CACHE, fonts, lags_s, sounded
from performer.compose import task_by_chance
from pieces import PIECES

from helpers import demo_score, score_of
from laptick.core.following.by_ear.transcribing import transcribe
from laptick.core.measuring.checking import check_take
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task
from laptick.formats.audio.decoding import decode

#: What a take's errors are, in turn.
ERRORS = (0.0, 0.05)


@dataclass(frozen=True)
class Case:
    """``name``: of its condition."""

    name: str
    number: int
    seed: int

    @property
    def condition(self) -> Condition:
        return next(one for one in CONDITIONS if one.name == self.name)


@dataclass(frozen=True)
class Scored:
    """``timing_ms``: heard less true, of every event found; ``gaps``: (heard, true) of told pairs in ms; ``chances``:
    events of both hands; ``seconds`` of sound, ``cost_s`` of the processor."""

    condition: str
    errors: float
    onset_f: float
    matching_f: float
    timing_ms: tuple[float, ...]
    gaps: tuple[tuple[float, float], ...]
    true_gaps: tuple[float, ...]
    chances: int
    tempo_percent: float
    bars_percent: tuple[float, ...]
    cents_off: float
    seconds: float
    cost_s: float
    followed: bool


def task_of(rng: np.random.Generator, number: int) -> Task:
    """Pieces by chance, by hand, and the demo's, which has chords."""
    kind = number % 4
    if kind < 2:
        return _short(task_by_chance(rng, ("every", "runs")[kind], on_keys=True))
    if kind == 2:
        names = sorted(PIECES)
        right, left, bpm = PIECES[names[int(rng.integers(len(names)))]]
        return _short(lap_task(score_of(right, left), assigned_bpm=bpm, with_pitches=True))
    names = sorted(compose_demo.PIECES)
    name = names[int(rng.integers(len(names)))]
    score = demo_score(name)
    return _short(lap_task(score, assigned_bpm=0.85 * (score.tempos[0].bpm if score.tempos else 80), with_pitches=True))


def _short(task: Task) -> Task:
    """At most some forty seconds."""
    bars = len(task.measures)
    while (
        bars > 4 and float(task.measures[bars - 1].end_quarters - task.measures[0].start_quarters) * task.quarter_s > 40
    ):
        bars -= 1
    if bars == len(task.measures):
        return task
    return lap_task(task.score, assigned_bpm=task.assigned_bpm, measures=task.measures[:bars], with_pitches=True)


@dataclass(frozen=True)
class Take:
    """``data``: the file; ``cents``: how far the instrument was out of tune; ``lags_s``: of its keys."""

    playing: Playing
    data: bytes
    errors: float
    cents: float
    lags_s: dict[int, float]


def take_of(case: Case) -> Take:
    """The same playing under every condition: what differs is the condition. Kept for the next run."""
    condition = case.condition
    errors = ERRORS[case.number % 2]
    rng = np.random.default_rng([case.seed, case.number])
    task = task_of(rng, case.number // 2)
    habits = Habits(errors=errors, back=errors > 0 and case.number % 4 == 3, pedal=condition.pedal)
    playing = play(task, rng, habits)
    names = fonts()
    instrument = names[case.number % len(names)]
    noise = np.random.default_rng([case.seed, case.number, zlib.crc32(condition.name.encode())])
    cents = float(noise.choice((-1, 1))) * condition.cents
    made = repr((condition.name, playing.notes, playing.pedal, instrument, cents))
    kept = CACHE / f"{hashlib.sha256(made.encode()).hexdigest()[:24]}{condition.suffix}"
    if not kept.is_file():
        samples = sounded(playing.notes, playing.pedal, instrument, cents)
        CACHE.mkdir(parents=True, exist_ok=True)
        kept.write_bytes(recorded(samples, playing.beats_s, condition, noise))
    return Take(playing, kept.read_bytes(), errors, cents, lags_s(instrument))


def scored(case: Case) -> Scored:
    take = take_of(case)
    begun = time.process_time()
    sound = decode(take.data)
    heard = transcribe(sound, take.playing.task)
    cost_s = time.process_time() - begun
    told = (take.errors, heard.tuning.cents - take.cents, sound.seconds, cost_s)
    return _score(
        case, take.playing, Performance(Source.AUDIO, heard.strikes) if heard.strikes else None, take.lags_s, told
    )


def _score(
    case: Case, playing: Playing, heard: Performance | None, lags: dict[int, float], told: tuple[float, ...]
) -> Scored:
    task = playing.task
    errors, cents_off, seconds, cost_s = told
    true_strikes = tuple(
        Strike(n.at_s + lags.get(n.pitch, 0.005), None if n.index is None else task.expected[n.index].hand, n.pitch)
        for n in sorted(playing.notes, key=lambda n: n.at_s + lags.get(n.pitch, 0.005))
    )
    truth = check_take(task, Performance(Source.MIDI, true_strikes))
    final = {i: at_s + lags.get(task.expected[i].pitch or 0, 0.005) for i, at_s in playing.final.items()}
    if heard is None:
        return Scored(case.name, errors, 0, 0, (), (), (), 0, 99, (), cents_off, seconds, cost_s, False)
    ours = check_take(task, heard)
    onset_f, *_ = mir_eval.onset.f_measure(
        np.array(_events([s.played_s for s in true_strikes])), np.array(_events([s.played_s for s in heard.strikes])),
        window=0.05,
    )  # fmt: skip
    found = {m.expected_index: heard.strikes[m.strike_index] for m in ours.matching.matches}
    right = sum(abs(found[i].played_s - at_s) <= 0.1 for i, at_s in final.items() if i in found)
    matching_f = 2 * right / max(1, len(found) + len(final))
    timing: dict[object, list[tuple[float, float]]] = defaultdict(list)
    for i, at_s in final.items():
        if i in found and abs(found[i].played_s - at_s) <= 0.1:
            side = task.expected[i].hand if found[i].is_apart else None
            timing[task.expected[i].onset_quarters, side].append((found[i].played_s, at_s))
    timing_ms = tuple(
        1000 * (np.mean([a for a, _ in one]) - np.mean([b for _, b in one]))
        if side is not None
        else 1000 * min((a - b for a, b in one), key=abs)
        for (_, side), one in timing.items()
    )
    gaps, true_gaps, chances = _gaps(task, final, found)
    tempo, bars = 99.0, ()
    if ours.measured and truth.measured:
        tempo = 100 * abs(ours.measured.median_bpm / truth.measured.median_bpm - 1)
        bars = _bars(task, final, {i: s.played_s for i, s in found.items()})
    return Scored(
        case.name, errors, onset_f, matching_f, timing_ms, gaps, true_gaps, chances, tempo, bars,
        cents_off, seconds, cost_s, ours.measured is not None,
    )  # fmt: skip


def _events(times: Sequence[float]) -> list[float]:
    found: list[float] = []
    for at_s in sorted(times):
        if not found or at_s - found[-1] > 0.07:
            found.append(at_s)
    return found


def _gaps(
    task: Task, final: dict[int, float], found: dict[int, Strike]
) -> tuple[tuple[tuple[float, float], ...], tuple[float, ...], int]:
    """Right minus left where both strike: told and true."""
    by_onset: dict[object, list[int]] = defaultdict(list)
    for i, one in enumerate(task.expected):
        by_onset[one.onset_quarters].append(i)
    told, true, chances = [], [], 0
    for members in by_onset.values():
        sides = [
            [i for i in members if task.expected[i].hand is hand and i in final] for hand in (Hand.RIGHT, Hand.LEFT)
        ]
        if not all(sides):
            continue
        chances += 1
        gap = 1000 * (np.mean([final[i] for i in sides[0]]) - np.mean([final[i] for i in sides[1]]))
        true.append(float(gap))
        strikes = [[found[i] for i in side if i in found] for side in sides]
        if all(strikes) and all(one.is_apart for side in strikes for one in side):
            heard = 1000 * (np.mean([s.played_s for s in strikes[0]]) - np.mean([s.played_s for s in strikes[1]]))
            told.append((float(heard), float(gap)))
    return tuple(told), tuple(true), chances


def _bars(task: Task, final: dict[int, float], found: dict[int, float]) -> tuple[float, ...]:
    """The tempo of every two bars, from first to last strike in them: off by so many percent."""
    start = task.measures[0].start_quarters
    off = []
    for first in range(0, len(task.measures) - 1, 2):
        low, high = task.measures[first].start_quarters - start, task.measures[first + 1].end_quarters - start
        inside = [i for i in final if i in found and low <= task.expected[i].onset_quarters <= high]
        onsets = np.array([float(task.expected[i].onset_quarters) for i in inside])
        if len(set(onsets.tolist())) < 4:
            continue
        ours = np.polyfit(onsets, [found[i] for i in inside], 1)[0]
        true = np.polyfit(onsets, [final[i] for i in inside], 1)[0]
        off.append(100 * abs(ours / true - 1))
    return tuple(off)


# -- the table -----------------------------------------------------------------------------------------


def line(name: str, takes: Sequence[Scored]) -> str:
    errors = [t for t in takes if t.errors]
    clean = [t for t in takes if not t.errors]
    near = np.array([one for t in takes for one in t.timing_ms if abs(one) < 40])
    far = sum(abs(one) >= 40 for t in takes for one in t.timing_ms)
    pairs = np.array([heard - true for t in takes for heard, true in t.gaps])
    medians = [
        abs(np.median([h for h, _ in t.gaps]) - np.median(t.true_gaps))
        for t in takes
        if len(t.gaps) >= 6 and len(t.gaps) >= 0.4 * t.chances
    ]
    chances = sum(t.chances for t in takes if t.chances >= 6)
    told = sum(len(t.gaps) for t in takes if t.chances >= 6)
    spread = 1.4826 * np.median(np.abs(pairs - np.median(pairs))) if len(pairs) else 0
    figures = [
        f"{np.mean([t.onset_f for t in takes]):.3f}",
        f"{np.mean([t.matching_f for t in clean]):.4f}" if clean else "–",
        f"{np.mean([t.matching_f for t in errors]):.4f}" if errors else "–",
        f"{min(t.matching_f for t in takes):.3f}",
        f"{near.std():.1f}" if len(near) else "–",
        f"{np.median(near):+.1f}" if len(near) else "–",
        f"{far}",
        f"{np.median([t.tempo_percent for t in takes]):.2f} / {max(t.tempo_percent for t in takes):.2f}",
        f"{np.median([b for t in takes for b in t.bars_percent] or [99]):.2f}",
        f"{np.mean(medians):.1f}" if medians else "–",
        f"{spread:.1f}",
        f"{told / max(1, chances):.2f}",
        f"{np.median([abs(t.cents_off) for t in takes]):.0f}",
        f"{60 * sum(t.cost_s for t in takes) / sum(t.seconds for t in takes):.2f}",
        f"{sum(not t.followed for t in takes)}",
    ]
    return f"| {name} | " + " | ".join(figures) + " |"


#: The conditions that an aim is given for together.
AIMED = {
    "first group": ("clean", "room", "opus, webm", "aac, m4a", "mp3", "vorbis, ogg", "pedal", "16 kHz"),
    "second group": ("noise 20 dB", "phone", "click −12 dB", "8 kHz"),
    "third group": ("noise 10 dB", "click −6 dB", "voice", "hum", "metronome"),
}


HEAD = (
    "| condition | onset F | matching F, clean | 5 % errors | least | timing SD, ms | bias | far"
    " | tempo off, %, median / most | two bars, % | hands' median off, ms | pairs SD | told | cents off"
    " | cpu s a minute | lost |\n"
    "|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|---|"
)


def main() -> int:
    options = argparse.ArgumentParser()
    options.add_argument("--takes", type=int, default=8)
    options.add_argument("--seed", type=int, default=1)
    options.add_argument("--only", default="")
    options.add_argument("--each", action="store_true", help="every take on a line of its own")
    asked = options.parse_args()
    chosen = [c for c in CONDITIONS if asked.only in c.name]
    cases = [Case(condition.name, number, asked.seed) for condition in chosen for number in range(asked.takes)]
    for name in fonts():
        lags_s(name)
    with ProcessPoolExecutor(2) as pool:
        results = list(pool.map(scored, cases))
    print(f"Instruments: {', '.join(fonts())}; seed {asked.seed}, {asked.takes} takes a condition.\n")
    print(HEAD)
    for condition in chosen:
        own = [one for one in results if one.condition == condition.name]
        if asked.each:
            for number, one in enumerate(own):
                print(line(f"{condition.name} {number}", [one]))
        print(line(condition.name, own))
    print(line("all", results))
    print("\nAs the aims are given, of all takes of a group together:\n")
    print(HEAD)
    for name, names in AIMED.items():
        together = [one for one in results if one.condition in names]
        if together:
            print(line(name, together))
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
