"""The kit: clicks, knocks and drums, each a short recipe rendered to samples; and the plain tone of a pitch.

A recipe is a sum of damped sines and damped hiss; a drum's sine may fall in pitch as it decays. Everything is rendered
once into the pack of sounds that browser and sound file share (``formats/sounds.py``). The tone is a recipe too: the
browser makes it of the same partials.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Recipe:
    """``decay_s`` is when the sine has fallen to 1/e; ``noise`` the share of hiss, with its own decay; ``from_hertz``:
    where a falling pitch begins, and ``fall_s`` how soon it has fallen; ``midi_key``: the percussion that stands for it
    (General MIDI level 1, channel 10)."""

    hertz: float
    decay_s: Seconds
    noise: float
    noise_decay_s: Seconds
    level: float
    midi_key: int
    from_hertz: float = 0.0
    fall_s: Seconds = 0.02


#: Clicks by accent, knocks by hand, a clap, drums by what they do in a groove: far apart in pitch, so that each is told
#: from the others.
KIT: dict[str, Recipe] = {
    "click-bar": Recipe(1900, 0.03, 0.1, 0.006, 0.55, 76),
    "click-beat": Recipe(1420, 0.025, 0.1, 0.005, 0.55, 77),
    "click-division": Recipe(1420, 0.015, 0.1, 0.003, 0.55, 77),
    "knock-right": Recipe(640, 0.07, 0.25, 0.014, 0.6, 75),
    "knock-left": Recipe(190, 0.11, 0.2, 0.022, 0.85, 64),
    "clap": Recipe(1150, 0.012, 0.92, 0.028, 0.7, 39),
    "drum-low": Recipe(58, 0.11, 0.04, 0.004, 0.9, 36, from_hertz=170, fall_s=0.025),
    "drum-high": Recipe(210, 0.05, 0.75, 0.05, 0.55, 38, from_hertz=260, fall_s=0.02),
    "drum-tick": Recipe(7200, 0.012, 0.85, 0.016, 0.3, 42),
    "drum-soft": Recipe(330, 0.035, 0.4, 0.02, 0.4, 37),
}

#: The attack of everything: from silence to full within this.
ATTACK_S: Seconds = 0.0008

#: How many decays a sound lasts.
DECAYS = 5


def render(recipe: Recipe, rate: int) -> Floats:
    """One sound of the kit. The hiss is the same every time."""
    lasts = DECAYS * max(recipe.decay_s, recipe.noise_decay_s)
    time = np.arange(int(rate * lasts)) / rate
    fall = max(0.0, recipe.from_hertz - recipe.hertz) if recipe.from_hertz else 0.0
    # The phase is the integral of the falling frequency.
    phase = 2 * np.pi * (recipe.hertz * time + fall * recipe.fall_s * (1 - np.exp(-time / recipe.fall_s)))
    hiss = np.random.default_rng(1).uniform(-1, 1, len(time)) * np.exp(-time / recipe.noise_decay_s)
    body = np.sin(phase + np.pi / 2 * (recipe.hertz < 100)) * np.exp(-time / recipe.decay_s) * (1 - recipe.noise)
    shaped: Floats = recipe.level * np.minimum(1, time / ATTACK_S) * (body + recipe.noise * hiss)
    return shaped


@dataclass(frozen=True, slots=True)
class ToneRecipe:
    """A plain tone: strengths of its partials, how soon it decays (shorter the higher), how it ends."""

    partials: tuple[float, ...]
    decay_s: Seconds
    release_s: Seconds
    level: float


TONE = ToneRecipe((1.0, 0.45, 0.22, 0.1, 0.05), 0.9, 0.04, 0.22)

#: The pitch at which the tone's decay is as stated; an octave above it is 1/√2 as long.
MIDDLE_PITCH = 60


def tone_decay_s(pitch: int) -> Seconds:
    return TONE.decay_s * math.exp2((MIDDLE_PITCH - pitch) / 24)


def hertz_of(pitch: int) -> float:
    """Equal temperament, A4 = 440 Hz."""
    return 440.0 * math.exp2((pitch - 69) / 12)


def render_tone(pitch: int, length_s: Seconds, rate: int) -> Floats:
    """A pitch held for ``length_s``, then let go."""
    time = np.arange(int(rate * (length_s + 5 * TONE.release_s))) / rate
    wave = np.zeros(len(time))
    for number, strength in enumerate(TONE.partials, start=1):
        if hertz_of(pitch) * number < rate / 2:
            wave += strength * np.sin(2 * np.pi * hertz_of(pitch) * number * time)
    envelope = np.minimum(1, time / 0.004) * np.exp(-time / tone_decay_s(pitch))
    envelope *= np.exp(-np.maximum(0, time - length_s) / TONE.release_s)
    shaped: Floats = TONE.level * wave * envelope
    return shaped
