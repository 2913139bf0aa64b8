"""A small synthesized piano: what a struck string does in time, from a few rules, one key at a time.

Conventions: pitches are MIDI numbers, times seconds; the *strike* of a key is the moment at which its attack reaches
5 % of its full strength. Sources: stretched partials of a stiff string (Fletcher, *JASA* 36, 1964); strength of
partials by where the hammer meets the string, an eighth along it, and by how long it stays there (Hall, *JASA* 79,
1986, in outline); decay in two stages, of which the strings of a key beat (Weinreich, *JASA* 62, 1977). The numbers
are by ear and from memory. It stands in for a piano where takes are made up; it is no measure of how well a real one
is heard.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds

Floats = NDArray[np.float64]

#: Partials are drawn up to this share of half the rate, and no more than so many.
BAND, MOST_PARTIALS = 0.9, 36

#: Where along the string the hammer meets it.
HAMMER_AT = 1 / 8

#: The strings of a key are tuned apart by so many cents either way.
APART_CENTS = 0.35

#: The share that the second, slow stage of the decay begins with; how much slower it is.
SLOW_SHARE, SLOWER = 0.12, 4.0

#: The shortest and the longest contact of the hammer, at the highest and at the lowest key.
CONTACT_S: tuple[Seconds, Seconds] = (0.0010, 0.0042)

#: From the beginning of an attack, which rises as half a cosine, to 5 % of its strength, as a share of its length.
TO_STRIKE = math.acos(0.9) / math.pi

#: Above this key there are no dampers.
LAST_DAMPER = 89

#: Nothing is computed that is quieter than this share of the attack.
SILENT = 1e-4

LOWEST, HIGHEST = 21, 108


@dataclass(frozen=True, slots=True)
class Key:
    """What a key is like. ``stiffness``: B of the stretched partials; ``contact_s``: how long the hammer stays;
    ``decay_s``: until the first partial's first stage has fallen to 1/e; ``damper_s``: the same when it is let go,
    ``None`` without a damper."""

    hertz: float
    stiffness: float
    contact_s: Seconds
    decay_s: Seconds
    damper_s: Seconds | None


def key_of(pitch: int, tuning_cents: float = 0.0) -> Key:
    """The key of a pitch on a piano that is so much out of tune, equally tempered from A4 = 440 Hz."""
    place = (min(max(pitch, LOWEST), HIGHEST) - LOWEST) / (HIGHEST - LOWEST)
    shortest, longest = CONTACT_S
    return Key(
        hertz=440.0 * math.exp2((pitch - 69 + tuning_cents / 100) / 12),
        stiffness=1.2e-4 * math.exp2((max(pitch, 48) - 48) / 10),
        contact_s=longest * (shortest / longest) ** place,
        decay_s=3.2 * math.exp2(-(pitch - 36) / 20),
        damper_s=None if pitch > LAST_DAMPER else 0.05 + 0.11 * (1 - place) ** 2,
    )


def partial_hertz(key: Key, number: int) -> float:
    """Where a partial lies: a stiff string stretches them."""
    return number * key.hertz * math.sqrt(1 + key.stiffness * number**2)


@dataclass(frozen=True, slots=True)
class Note:
    """One stroke. ``held_s``: until its damper falls; ``velocity``: 1 to 127."""

    pitch: int
    held_s: Seconds
    velocity: int


def render_note(note: Note, rate: int, tuning_cents: float = 0.0) -> Floats:
    """The stroke's samples, until it is silent; its strike falls at ``strike_offset_s``."""
    key = key_of(note.pitch, tuning_cents)
    force = note.velocity / 127
    rates, strengths = _modes(key, force, rate)
    lasts = _lasts_s(key, note.held_s, rates, strengths)
    wave = _sum_of_modes(rates, strengths, int(lasts * rate) + 1, rate)
    time = np.arange(len(wave)) / rate
    rise = key.contact_s * (1.25 - 0.5 * force)
    wave *= 0.5 - 0.5 * np.cos(np.pi * np.minimum(1.0, time / rise))
    wave += _knock(key, force, time)
    if key.damper_s is not None:
        wave *= np.exp(-np.maximum(0.0, time - note.held_s - strike_offset_s(note)) / key.damper_s)
    loud: Floats = 0.9 * force**1.6 * wave
    return loud


def strike_offset_s(note: Note) -> Seconds:
    """From the first sample of a stroke to its strike."""
    return TO_STRIKE * key_of(note.pitch).contact_s * (1.25 - 0.5 * note.velocity / 127)


def _modes(key: Key, force: float, rate: int) -> tuple[NDArray[np.complex128], Floats]:
    """What sounds: complex rates in 1/s (decay and pitch), and strengths that add up to one. Every partial twice, for
    the strings of a key, each in two stages."""
    numbers = np.arange(1, MOST_PARTIALS + 1)
    hertz = numbers * key.hertz * np.sqrt(1 + key.stiffness * numbers**2)
    kept = hertz < BAND * rate / 2
    numbers, hertz = numbers[kept], hertz[kept]
    # A hard stroke stays shorter and wakes higher partials.
    dull = 1 + (hertz * key.contact_s * (1.5 - force)) ** 2
    strength = np.abs(np.sin(np.pi * numbers * HAMMER_AT)) / (numbers**0.5 * dull)
    decay = key.decay_s / (1 + 0.18 * (numbers - 1)) / (1 + (hertz / 6000) ** 2)
    apart = 2 ** (APART_CENTS / 1200)
    rates = np.concatenate(
        [-1 / (decay * slower) + 2j * np.pi * hertz * tuned for slower in (1.0, SLOWER) for tuned in (apart, 1 / apart)]
    )
    shares = ((1 - SLOW_SHARE) / 2, (1 - SLOW_SHARE) / 2, SLOW_SHARE / 2, SLOW_SHARE / 2)
    strengths: Floats = np.concatenate([share * strength for share in shares])
    return rates, strengths / strength.sum()


def _lasts_s(key: Key, held_s: Seconds, rates: NDArray[np.complex128], strengths: Floats) -> Seconds:
    """When a stroke is silent: of itself, or some time after its damper fell."""
    fading = np.log(np.maximum(strengths / SILENT, 1.0)) / -rates.real
    rings = float(fading.max(initial=0.0))
    damped = held_s + math.log(1 / SILENT) * (key.damper_s or math.inf)
    return min(rings, damped) + key.contact_s


#: Modes are added in pieces of so many samples: e^(s(a+b)) = e^(sa) · e^(sb), so that all of them are one product.
_PIECE = 256


def _sum_of_modes(rates: NDArray[np.complex128], strengths: Floats, length: int, rate: int) -> Floats:
    pieces = -(-length // _PIECE)
    begun = strengths * np.exp(np.outer(np.arange(pieces) * _PIECE / rate, rates))
    within = np.exp(np.outer(rates, np.arange(_PIECE) / rate))
    summed: Floats = (begun.real @ within.imag + begun.imag @ within.real).ravel()[:length]
    return summed


#: Key bed and soundboard, which every stroke knocks on: (Hz, decay in s, strength).
_KNOCKS = ((95.0, 0.030, 0.030), (210.0, 0.018, 0.022), (470.0, 0.009, 0.012))


def _knock(key: Key, force: float, time: Floats) -> Floats:
    """The dull knock of a stroke, the same for every key: what is heard of it beside a high one."""
    knock = sum(
        strength * np.sin(2 * np.pi * hertz * time) * np.exp(-time / decay) for hertz, decay, strength in _KNOCKS
    )
    knocked: Floats = (0.4 + 0.6 * force) * np.minimum(1.0, time / key.contact_s) * knock
    return knocked
