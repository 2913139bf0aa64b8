"""How the takes are played that the ear is measured on: a performer who knows which note is which.

Not the simulated student, nor the second performer: what is wanted here is the truth, note by note. The tempo wanders,
phrases broaden, noise has heavy tails, one hand leads by a habit of the take, chords are spread, keys are blurred or
let go early, the pedal is down or not. Errors: notes left out, other keys, keys too many; going back to a bar. From
memory, as what teachers hear.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction

import numpy as np

from laptick.core.score.score import Hand
from laptick.core.takes.task import Task


@dataclass(frozen=True)
class Played:
    """One key: ``index`` into the task's expected strikes, ``None`` for what was not asked for."""

    index: int | None
    at_s: float
    pitch: int
    velocity: int
    released_s: float


@dataclass(frozen=True)
class Playing:
    """A take with its truth. ``final``: of every expected strike that was played, when it was played last."""

    task: Task
    notes: tuple[Played, ...]
    pedal: tuple[tuple[float, bool], ...]
    beats_s: tuple[float, ...]
    final: dict[int, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Habits:
    """``errors``: share of notes left out, on another key or too many; ``back``: goes back once; ``pedal``: uses it;
    ``apart_ms``: the left hand comes so much later (drawn where ``None``)."""

    errors: float = 0.0
    back: bool = False
    pedal: bool = False
    apart_ms: float | None = None
    jitter_ms: float = 12.0


def play(task: Task, rng: np.random.Generator, habits: Habits) -> Playing:
    onsets = sorted({one.onset_quarters for one in task.expected})
    beat_s = _beat(task, rng, onsets)
    apart_s = (rng.choice((-1, 1, 1)) * rng.uniform(0, 35) if habits.apart_ms is None else habits.apart_ms) / 1000
    notes: list[Played] = []
    shared: dict[tuple[Fraction, Hand | None], float] = {}  # the notes of a hand's chord share their noise
    for index, expected in enumerate(task.expected):
        if rng.uniform() < habits.errors / 3:
            continue
        own_s = habits.jitter_ms / 1000 * float(np.clip(rng.standard_t(4), -4, 4)) / 1.4
        noise_s = shared.setdefault((expected.onset_quarters, expected.hand), own_s)
        spread_s = abs(float(rng.normal(0, 0.004)))
        side_s = apart_s / 2 if expected.hand is Hand.LEFT else -apart_s / 2
        at_s = beat_s[expected.onset_quarters] + side_s + noise_s + spread_s
        length = float(expected.until_next_quarters or 1) * task.quarter_s
        held_s = length * float(rng.choice((0.55, 0.9, 0.97, 1.05), p=(0.15, 0.3, 0.4, 0.15)))
        pitch = expected.pitch if expected.pitch is not None else 60
        velocity = int(np.clip(rng.normal(66 if expected.hand is Hand.RIGHT else 56, 9), 22, 115))
        if rng.uniform() < habits.errors / 3:
            other = pitch + int(rng.choice((-2, -1, 1, 2)))
            notes.append(Played(None, at_s, other, velocity, at_s + held_s))
            continue
        notes.append(Played(index, at_s, pitch, velocity, at_s + max(0.06, held_s)))
        if rng.uniform() < habits.errors / 3:
            after_s = at_s + 0.5 * min(length, 0.5)
            notes.append(Played(None, after_s, pitch + int(rng.choice((-1, 1))), velocity, after_s + 0.12))
    if habits.back:
        notes = _went_back(task, rng, notes, beat_s)
    notes = _one_key_once(sorted(notes, key=lambda note: note.at_s))
    early = max(0.0, 0.3 - notes[0].at_s)
    notes = [Played(n.index, n.at_s + early, n.pitch, n.velocity, n.released_s + early) for n in notes]
    final = {note.index: note.at_s for note in notes if note.index is not None}
    beats = [early + one for one in _beats(task, beat_s)]
    return Playing(task, tuple(notes), _pedal(task, beats) if habits.pedal else (), tuple(beats), final)


def _beat(task: Task, rng: np.random.Generator, onsets: list[Fraction]) -> dict[Fraction, float]:
    """When every instant falls: a tempo near the one asked for that wanders, phrases that broaden."""
    pace = task.quarter_s * float(rng.uniform(0.92, 1.1))
    length = float(task.length_quarters)
    grid = np.arange(0.0, length + 0.25, 0.25)
    waves = sum(
        float(rng.normal(0, 0.012)) * np.sin(2 * np.pi * grid / float(rng.uniform(6, 30)) + float(rng.uniform(0, 6)))
        for _ in range(5)
    )
    bar = float(task.measures[0].length_quarters)
    broad = float(rng.uniform(0.02, 0.12)) * (np.mod(grid, 4 * bar) >= 4 * bar - 1)
    seconds = np.concatenate([[0.0], np.cumsum(0.25 * pace * (1 + waves + broad)[:-1])])
    lead_s = float(rng.uniform(0.4, 1.6))
    return {onset: lead_s + float(np.interp(float(onset), grid, seconds)) for onset in onsets}


def _beats(task: Task, beat_s: dict[Fraction, float]) -> list[float]:
    """When the beats of the passage fall as it is played."""
    onsets = sorted(beat_s)
    count = int(task.length_quarters / task.beat_quarters)
    at = [float(i * task.beat_quarters) for i in range(count)]
    return [float(one) for one in np.interp(at, [float(o) for o in onsets], [beat_s[o] for o in onsets])]


def _pedal(task: Task, beats: list[float]) -> tuple[tuple[float, bool], ...]:
    """Down after the first beat of every bar, up with the next."""
    per_bar = max(1, int(task.measures[0].length_quarters / task.beat_quarters))
    changes: list[tuple[float, bool]] = []
    for at_s in beats[::per_bar]:
        changes += [(at_s + 0.02, False), (at_s + 0.12, True)]
    return (*changes[1:], (beats[-1] + 2.0, False))


def _went_back(
    task: Task, rng: np.random.Generator, notes: list[Played], beat_s: dict[Fraction, float]
) -> list[Played]:
    bars = [measure.start_quarters - task.measures[0].start_quarters for measure in task.measures]
    starts = [start for start in bars if start in beat_s]
    if len(starts) < 4:
        return notes
    left = int(rng.integers(2, len(starts) - 1))
    to = int(rng.integers(max(0, left - 3), left))
    left_s, to_s = beat_s[starts[left]], beat_s[starts[to]]
    again_s = left_s - to_s + task.quarter_s * float(rng.uniform(1.0, 2.5))
    first = [note for note in notes if note.at_s < left_s - 0.08]
    second = [
        Played(note.index, note.at_s + again_s, note.pitch, note.velocity, note.released_s + again_s)
        for note in notes
        if note.at_s > to_s - 0.08
    ]
    return first + second


def _one_key_once(notes: list[Played]) -> list[Played]:
    """A key goes up before it goes down again."""
    following: dict[int, float] = {}
    found: list[Played] = []
    for note in reversed(notes):
        up_s = min(note.released_s, following.get(note.pitch, 1e9) - 0.03)
        if up_s > note.at_s + 0.01:
            found.append(Played(note.index, note.at_s, note.pitch, note.velocity, up_s))
        following[note.pitch] = note.at_s
    return found[::-1]
