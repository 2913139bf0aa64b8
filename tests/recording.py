"""The one recording of a person that the tests know: 218 notes with their alignment, from the test-only package
parangonar (Apache-2.0), and the same take disturbed in known ways.

Hands are not written in the file: what lies below ``LEFT_BELOW`` is taken as the left hand's (true of this piece by
looking at it).
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from importlib import resources

import numpy as np

from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Measure, Note, Score
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Task, lap_task

LEFT_BELOW = 66
TICKS_PER_S = 960  # 480 a quarter at 500,000 µs, as the file says

_STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_SIGNS = {"n": 0, "#": 1, "b": -1}
SPELLED = ("C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B")
_SNOTE = re.compile(r"snote\((\w+),\[(\w),([n#b])\],(\d),(\d+):\d+,[^,]+,[^,]+,([\d.]+),([\d.]+),\[[^\]]*\]\)")
_NOTE = re.compile(r"note\((\w+),\[(\w),([n#b])\],(\d),(\d+),(\d+),(\d+),(\d+)\)")


@dataclass(frozen=True)
class Recording:
    """``truth[i]``: the index in ``task.expected`` that strike ``i`` plays, or ``None`` (it belongs to nothing)."""

    task: Task
    performance: Performance
    truth: tuple[int | None, ...]


def _pitch(step: str, sign: str, octave: str) -> int:
    return 12 * (int(octave) + 1) + _STEPS[step] + _SIGNS[sign]


@cache
def recording() -> Recording:
    text = (resources.files("parangonar") / "assets" / "mozart_k265_var1.match").read_text(encoding="utf-8")
    written: dict[str, tuple[Fraction, Fraction, int]] = {}
    played: list[tuple[float, float, int, int, str | None]] = []
    for line in text.splitlines():
        asked, found = _SNOTE.match(line), _NOTE.search(line.partition(")-")[2] or line)
        if asked:
            name, step, sign, octave, _, start, end = asked.groups()
            written[name] = (Fraction(start), Fraction(end), _pitch(step, sign, octave))
        if found and (asked or line.startswith("insertion")):
            _, step, sign, octave, on, off, _, velocity = found.groups()
            at = int(on) / TICKS_PER_S, int(off) / TICKS_PER_S
            played.append((*at, _pitch(step, sign, octave), int(velocity), asked.group(1) if asked else None))
    score = _score(written)
    task = lap_task(score, assigned_bpm=130, with_pitches=True)
    index = {(e.onset_quarters, e.pitch): i for i, e in enumerate(task.expected)}
    played.sort(key=lambda one: (one[0], one[2]))
    strikes = tuple(Strike(on, None, pitch, velocity, off) for on, off, pitch, velocity, _ in played)
    truth = tuple(None if name is None else index[written[name][0], written[name][2]] for *_, name in played)
    return Recording(task, Performance(Source.MIDI, strikes), truth)


def _score(written: dict[str, tuple[Fraction, Fraction, int]]) -> Score:
    bars = int(max(end for _, end, _ in written.values()) / 2)
    signature = TimeSignature(2, 4)
    measures = tuple(
        Measure(i, str(i + 1), signature, Fraction(2 * i), Fraction(2), line=1 + i // 4, bar_in_line=1 + i % 4)
        for i in range(bars)
    )
    notes = [
        Note(
            name,
            Hand.LEFT if pitch < LEFT_BELOW else Hand.RIGHT,
            "1",
            int(start / 2),
            start,
            end - start,
            pitch,
            f"{SPELLED[pitch % 12]}{pitch // 12 - 1}",
        )
        for name, (start, end, pitch) in written.items()
    ]
    return Score("", "", measures, tuple(sorted(notes, key=lambda n: (n.onset_quarters, n.pitch or 0))))


# -- disturbances -----------------------------------------------------------------------------------


@dataclass
class _Draft:
    """Played notes as rows ``[on, off, pitch, velocity]`` with what each plays."""

    rows: list[list[float]]
    truth: list[int | None]
    rng: np.random.Generator
    task: Task


def disturbed(kinds: Sequence[tuple[str, float]], seed: int) -> Recording:
    """The recording with disturbances ``(kind, amount)``: shares for ``wrong``, ``missing`` and ``extra``, how many
    for ``pause`` and ``restart``, a factor for ``tempo``."""
    base = recording()
    rows = [[s.played_s, s.released_s or s.played_s, s.pitch or 0, s.velocity or 64] for s in base.performance.strikes]
    draft = _Draft(rows, list(base.truth), np.random.default_rng(seed), base.task)
    for kind, amount in kinds:
        _KINDS[kind](draft, amount)
    order = sorted(range(len(draft.rows)), key=lambda i: (draft.rows[i][0], draft.rows[i][2]))
    strikes = tuple(
        Strike(on, None, int(pitch), int(velocity), off) for on, off, pitch, velocity in (draft.rows[i] for i in order)
    )
    return Recording(base.task, Performance(Source.MIDI, strikes), tuple(draft.truth[i] for i in order))


def _some(draft: _Draft, share: float) -> list[int]:
    count = round(share * len(draft.rows))
    return [int(i) for i in draft.rng.choice(len(draft.rows), size=count, replace=False)]


def _wrong(draft: _Draft, share: float) -> None:
    for i in _some(draft, share):
        draft.rows[i][2] = int(np.clip(draft.rows[i][2] + draft.rng.choice((-2, -1, 1, 2)), 21, 108))
        draft.truth[i] = None


def _missing(draft: _Draft, share: float) -> None:
    gone = set(_some(draft, share))
    draft.rows = [row for i, row in enumerate(draft.rows) if i not in gone]
    draft.truth = [one for i, one in enumerate(draft.truth) if i not in gone]


def _extra(draft: _Draft, share: float) -> None:
    for i in _some(draft, share):
        on, off, pitch, velocity = draft.rows[i]
        other = int(np.clip(pitch + draft.rng.choice((-5, -4, -3, -2, -1, 1, 2, 3, 4, 5)), 21, 108))
        shift = float(draft.rng.uniform(-0.2, 0.2))
        draft.rows.append([max(0.0, on + shift), max(0.05, off + shift), other, velocity])
        draft.truth.append(None)


def _pause(draft: _Draft, times: float) -> None:
    for _ in range(int(times)):
        at = float(draft.rng.choice([row[0] for row in draft.rows])) - 0.04
        longer = float(draft.rng.uniform(0.5, 3.0))
        for row in draft.rows:
            if row[0] >= at:
                row[0] += longer
                row[1] += longer


def _restart(draft: _Draft, times: float) -> None:
    """Leaves anywhere, and goes on from a bar's beginning one to four bars earlier."""
    for _ in range(int(times)):
        draft.rows, draft.truth = _in_order(draft)
        leave = int(draft.rng.integers(len(draft.rows) // 4, len(draft.rows) - 5))
        known = [i for i in range(leave) if draft.truth[i] is not None]
        here = draft.task.expected[draft.truth[known[-1]] or 0].measure_index
        bar = max(0, here - int(draft.rng.integers(0, 4)))
        first = next(
            i for i in range(len(draft.rows)) if draft.truth[i] is not None
            and draft.task.expected[draft.truth[i] or 0].measure_index == bar
        )  # fmt: skip
        gap = float(draft.rng.uniform(0.6, 2.0))
        moved = draft.rows[leave - 1][0] + gap - draft.rows[first][0]
        again = [[on + moved, off + moved, pitch, velocity] for on, off, pitch, velocity in draft.rows[first:]]
        draft.rows = draft.rows[:leave] + again
        draft.truth = draft.truth[:leave] + draft.truth[first:]


def _in_order(draft: _Draft) -> tuple[list[list[float]], list[int | None]]:
    order = sorted(range(len(draft.rows)), key=lambda i: draft.rows[i][0])
    return [draft.rows[i] for i in order], [draft.truth[i] for i in order]


def _groped(draft: _Draft, most: float) -> None:
    """From note to note: every gap between strikes that are not together lasts one to ``most`` times as long."""
    draft.rows, draft.truth = _in_order(draft)
    before, now = draft.rows[0][0], draft.rows[0][0]
    for row in draft.rows:
        length, gap = row[1] - row[0], row[0] - before
        now += gap * (float(draft.rng.uniform(1, most)) if gap > 0.05 else 1.0)
        before, row[0] = row[0], now
        row[1] = now + length


def _tempo(draft: _Draft, most: float) -> None:
    """A tempo of its own, up to ``most`` times faster or slower, that wanders by a tenth on the way."""
    draft.rows, draft.truth = _in_order(draft)
    factor = float(np.exp(draft.rng.uniform(-np.log(most), np.log(most))))
    steps = np.exp(np.cumsum(draft.rng.normal(0, 0.012, len(draft.rows))))
    before, now = draft.rows[0][0], draft.rows[0][0]
    for row, step in zip(draft.rows, steps, strict=True):
        length, now = row[1] - row[0], now + (row[0] - before) * factor * step
        before, row[0] = row[0], now
        row[1] = now + length * factor


_KINDS = {
    "wrong": _wrong,
    "missing": _missing,
    "extra": _extra,
    "pause": _pause,
    "restart": _restart,
    "tempo": _tempo,
    "groped": _groped,
}

#: The classes of disturbance, by name.
CLASSES: dict[str, tuple[tuple[str, float], ...]] = {
    "as played": (),
    "wrong 5 %": (("wrong", 0.05),),
    "wrong 15 %": (("wrong", 0.15),),
    "missing 5 %": (("missing", 0.05),),
    "missing 15 %": (("missing", 0.15),),
    "extra 5 %": (("extra", 0.05),),
    "extra 15 %": (("extra", 0.15),),
    "two pauses": (("pause", 2),),
    "one restart": (("restart", 1),),
    "three restarts": (("restart", 3),),
    "tempo ×0.5–2": (("tempo", 2.0),),
    "groped ×1–4": (("groped", 4.0),),
    "groped, 5 % errors": (("wrong", 0.02), ("missing", 0.015), ("extra", 0.015), ("groped", 4.0)),
    "5 % errors": (("wrong", 0.02), ("missing", 0.015), ("extra", 0.015), ("pause", 1), ("tempo", 1.2)),
    "15 % errors, restarts": (
        ("wrong", 0.05),
        ("missing", 0.05),
        ("extra", 0.05),
        ("pause", 1),
        ("tempo", 1.2),
        ("restart", 2),
    ),
}


def counted(truth: Sequence[int | None], pairs: Sequence[tuple[int, int]]) -> tuple[int, int, int]:
    """(right, wrong, not found) of ``(expected index, strike index)`` pairs. A written note that was played several
    times is found when any of its playings is."""
    right = [(e, s) for e, s in pairs if truth[s] == e]
    found = {e for e, _ in right}
    played = {one for one in truth if one is not None}
    return len(right), len(pairs) - len(right), len(played - found)


def f_measure(counts: tuple[int, int, int]) -> float:
    right, wrong, not_found = counts
    return 2 * right / max(1, 2 * right + wrong + not_found)
