"""A take as a sound file: what was played on keys, sounded on the synthesized piano. Mono, 16 bit, 44.1 kHz.

The file's zero is the take's: a strike at ``played_s`` reaches 5 % of its strength at that moment. A key that is let go
while the pedal is down sounds until the pedal is let go; a key struck again stops what it sounded before.
"""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
import soundfile

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.base.units import Seconds
from laptick.core.takes.performance import CLAP_KEY, Performance, Strike
from laptick.formats.audio.piano import Floats, Note, render_note, strike_offset_s
from laptick.formats.sound.kit import KIT, render

RATE = 44_100

#: Of a take of more than this nothing is sounded.
LONGEST_S: Seconds = 1200.0

#: How strong a key is struck of which nothing is known, and how long it is held.
PLAIN_VELOCITY, PLAIN_HELD_S = 64, 0.4

#: Nothing is louder than this share of full scale; a softer take stays as soft as it was.
CEILING = 0.9

#: A key that is struck again stops within so long.
AGAIN_S: Seconds = 0.012

#: How loud a clap is beside the keys.
CLAP_LEVEL = 0.3

#: Room after the last strike for what still sounds.
TAIL_S: Seconds = 1.5


def write_wav_take(performance: Performance) -> bytes:
    """The take as WAV.

    Raises:
        TakeError: its strikes have no pitches.
        LimitError: it is longer than the stated limit.
    """
    if not performance.knows.pitch:
        raise TakeError("taps have no pitches that could be sounded.", kept="Nothing was written.")
    last_s = max(strike.played_s for strike in performance.strikes)
    if last_s > LONGEST_S:
        raise LimitError(
            f"that would be {last_s / 60:.0f} minutes of sound; up to {LONGEST_S / 60:.0f} are written.",
            where="measures",
            kept="Nothing was written.",
            todo="Choose a shorter passage, or a faster tempo.",
        )
    samples = np.zeros(int((last_s + TAIL_S) * RATE) + 1)
    for strike, until_s in _until(performance):
        _add(samples, strike, until_s)
    loudest = float(np.max(np.abs(samples)))
    if loudest > CEILING:
        samples *= CEILING / loudest
    out = io.BytesIO()
    soundfile.write(out, samples, RATE, format="WAV", subtype="PCM_16")
    return out.getvalue()


def _until(performance: Performance) -> list[tuple[Strike, Seconds | None]]:
    """Every strike as it sounds, and when its key is struck again."""
    ups = [at_s for at_s, is_down in performance.pedal if not is_down]
    again: dict[int, Seconds] = {}
    found: list[tuple[Strike, Seconds | None]] = []
    for strike in sorted(performance.strikes, key=lambda one: one.played_s, reverse=True):
        released = strike.played_s + PLAIN_HELD_S if strike.released_s is None else strike.released_s
        if performance.pedal_down(released):
            released = next((up for up in ups if up > released), released + TAIL_S)
        pitch = strike.pitch if strike.pitch is not None else 0
        found.append((replace(strike, released_s=released), again.get(pitch)))
        again[pitch] = strike.played_s
    return found


def _add(samples: Floats, strike: Strike, until_s: Seconds | None) -> None:
    held_s = max(0.0, (strike.released_s or strike.played_s) - strike.played_s)
    if strike.pitch == CLAP_KEY:
        wave, before_s = CLAP_LEVEL * render(KIT["clap"], RATE), 0.0
    else:
        note = Note(strike.pitch or 0, held_s, PLAIN_VELOCITY if strike.velocity is None else strike.velocity)
        wave, before_s = render_note(note, RATE), strike_offset_s(note)
    begin = round((strike.played_s - before_s) * RATE)
    if until_s is not None:
        time = begin / RATE + np.arange(len(wave)) / RATE
        wave *= np.exp(-np.maximum(0.0, time - until_s) / AGAIN_S)
    wave = wave[max(0, -begin) : len(samples) - begin]
    begin = max(0, begin)
    samples[begin : begin + len(wave)] += wave
