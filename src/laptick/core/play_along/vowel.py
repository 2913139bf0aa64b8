"""Where a spoken word's vowel begins: what falls on the beat when the word is counted.

A word is cut into as many stretches as it has speech sounds, with silence before and after, so that within the
stretches the spectrum changes as little as possible (least squares over mel bands, by dynamic programming: the classic
segmentation of speech into quasi-stationary pieces; the count of sounds is known from the pronunciation). The vowel
onset is the cut before the stressed vowel. Consonants without a vowel (``sh``) have the rise of their noise instead.

Sources: Svendsen & Soong, "On the automatic segmentation of speech signals", ICASSP 1987 (from memory) for the cut;
Marcus, "Acoustic determinants of perceptual center (P-center) location", Perception & Psychophysics 30, 1981 (from
memory) for why the vowel's beginning and not the word's. Mel scale: Stevens & Volkmann as 2595·log10(1 + f/700).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Seconds

Floats = NDArray[np.float64]

#: Analysis window and step; two periods of a low voice fit into the window.
WINDOW_S, STEP_S = 0.016, 0.002

#: Mel bands, their range in hertz, and how far below the loudest is silence.
BANDS, LOWEST_HZ, HIGHEST_HZ, FLOOR_DB = 18, 150.0, 7000.0, 40.0

#: The lowest bands, up to about 1 kHz, in which a voice is strong and a burst or a hiss is not.
VOICED_BANDS = 6

#: A stretch is at least this many steps.
LEAST_STEPS = 5

#: Silence laid before and after a word, so that it has something to rise from.
PAD_S = 0.03

#: Where sound begins and ends: above this share of the loudest 5 ms, in amplitude.
TRIM_SHARE = 0.03

#: A word is never longer than this: two seconds are no word.
LONGEST_S: Seconds = 1.2

#: Silence longer than this parts two words; inside one the closure before a stop stays below it (common practice).
APART_S: Seconds = 0.2


def trim_word(samples: Floats, rate: int) -> Floats:
    """One word alone, without silence around it, its last 5 ms faded; of several the loudest whole one.

    Raises:
        OptionError: nothing is heard, or too much.
    """
    size = max(1, int(rate * 0.005))
    loud = np.sqrt(np.convolve(samples**2, np.ones(size) / size, "same")) if len(samples) else np.zeros(1)
    if not np.isfinite(loud).all() or loud.max() < 1e-3:
        raise OptionError("nothing is heard in this recording.", where="audio", todo="Speak nearer to the microphone.")
    begin, end = _one_word(loud, rate)
    word = samples[begin:end].copy()
    if len(word) > LONGEST_S * rate:
        raise OptionError(
            f"this lasts {len(word) / rate:.1f} seconds; a counted word lasts less than {LONGEST_S:g}.",
            where="audio",
            todo="Say the one word, shortly, where it is quiet.",
        )
    fade = min(size, len(word))
    word[-fade:] *= np.linspace(1, 0, fade)
    return word


def _one_word(loud: Floats, rate: int) -> tuple[int, int]:
    """The stretch of sound that is the word: the loudest of those that the recording's ends do not cut, if any."""
    above = np.flatnonzero(loud >= TRIM_SHARE * loud.max())
    breaks = np.flatnonzero(np.diff(above) > APART_S * rate)
    begins = above[np.concatenate([[0], breaks + 1])]
    ends = above[np.concatenate([breaks, [len(above) - 1]])] + 1
    words = [(int(begin), int(end)) for begin, end in zip(begins, ends, strict=True)]
    whole = [(begin, end) for begin, end in words if begin > 0 and end < len(loud)]
    return max(whole or words, key=lambda word: float(loud[word[0] : word[1]].max()))


def vowel_onset_s(
    word: Floats, rate: int, sounds_before: int, sounds_after: int, *, is_first_vowel: bool = True
) -> Seconds:
    """Seconds from the word's first sample to the beginning of its stressed vowel.

    ``sounds_before``: speech sounds before that vowel; ``sounds_after``: those from it on, itself included (0: a word
    without a vowel, whose noise counts).
    """
    pad = np.zeros(int(PAD_S * rate))
    spectrum = _mel_spectrum(np.concatenate([pad, word, pad]), rate)
    wanted = sounds_before + max(1, sounds_after) + 2
    cuts = _segments(spectrum, min(wanted, len(spectrum) // LEAST_STEPS))
    chosen = min(1 + sounds_before, len(cuts) - 2)
    # A first vowel never begins behind the moment at which the voice (the low bands) is loudest.
    voiced = (10 ** (spectrum[:, :VOICED_BANDS] / 10)).sum(1)
    loudest = int(np.argmax(np.convolve(voiced, np.ones(LEAST_STEPS), "same")))
    while is_first_vowel and chosen > 1 and cuts[chosen] > loudest:
        chosen -= 1
    at = cuts[chosen] * STEP_S - PAD_S
    return float(min(max(0.0, at), len(word) / rate))


def _mel_spectrum(samples: Floats, rate: int) -> Floats:
    """Steps × bands, in decibels below the loudest."""
    size = int(WINDOW_S * rate)
    bent = np.pad(np.diff(samples, prepend=0.0), (size // 2, size))  # high sounds raised, as hearing does
    starts = (np.arange(int(len(samples) / (STEP_S * rate))) * STEP_S * rate).astype(int)
    frames = np.stack([bent[at : at + size] for at in starts]) * np.hanning(size)
    points = 1 << (size - 1).bit_length() + 1
    power = np.abs(np.fft.rfft(frames, points)) ** 2 @ _mel_bands(rate, points)
    level = 10 * np.log10(power + 1e-12)
    shaped: Floats = np.maximum(level - level.max(), -FLOOR_DB)
    return shaped


def _mel_bands(rate: int, points: int) -> Floats:
    def mel(hertz: Floats) -> Floats:
        scaled: Floats = 2595 * np.log10(1 + hertz / 700)
        return scaled

    low, high = mel(np.array([LOWEST_HZ, min(HIGHEST_HZ, rate / 2)]))
    edges, at = np.linspace(low, high, BANDS + 2), mel(np.fft.rfftfreq(points, 1 / rate).astype(np.float64))
    step = edges[1] - edges[0]
    bands: Floats = np.maximum(0, np.minimum((at[:, None] - edges[:-2]) / step, (edges[2:] - at[:, None]) / step))
    return bands


def _segments(spectrum: Floats, wanted: int) -> list[int]:
    """Where each of ``wanted`` stretches begins, so that the squared differences from their means are least."""
    steps = len(spectrum)
    sums = np.vstack([np.zeros(spectrum.shape[1]), np.cumsum(spectrum, 0)])
    squares = np.concatenate([[0.0], np.cumsum((spectrum**2).sum(1))])
    best = np.full((wanted + 1, steps + 1), np.inf)
    back = np.zeros((wanted + 1, steps + 1), dtype=int)
    best[0, 0] = 0.0
    for stretch in range(1, wanted + 1):
        for end in range(stretch * LEAST_STEPS, steps + 1):
            begins = np.arange((stretch - 1) * LEAST_STEPS, end - LEAST_STEPS + 1)
            mean = ((sums[end] - sums[begins]) ** 2).sum(1) / (end - begins)
            cost = best[stretch - 1, begins] + squares[end] - squares[begins] - mean
            chosen = int(np.argmin(cost))
            best[stretch, end], back[stretch, end] = cost[chosen], begins[chosen]
    cuts, end = [], steps
    for stretch in range(wanted, 0, -1):
        end = int(back[stretch, end])
        cuts.append(end)
    return cuts[::-1]
