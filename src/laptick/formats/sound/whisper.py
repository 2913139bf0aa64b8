"""Whispering: a word without its voice.

Its spectral envelope, by linear prediction (autocorrelation method: Makhoul, "Linear prediction: a tutorial review",
Proc. IEEE 63, 1975, from memory), is laid over noise, which is the same every time.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

#: Linear prediction: order for each kilohertz of the sampling rate, window and step.
ORDER_PER_KHZ, WHISPER_WINDOW_S = 1.0, 0.02


def whispered(word: Floats, rate: int) -> Floats:
    """The word whispered, at two thirds of its strength."""
    order, size = int(ORDER_PER_KHZ * rate / 1000) + 2, int(WHISPER_WINDOW_S * rate) // 2 * 2
    bent = np.append(word[:1], word[1:] - 0.9 * word[:-1])
    noise = np.random.default_rng(7).normal(size=len(word) + 2 * size)
    window, out = np.hanning(size), np.zeros(len(word) + 2 * size)
    padded = np.pad(bent, (size, size))
    for start in range(0, len(padded) - size, size // 2):
        frame = padded[start : start + size] * window
        gain, coefficients = _predictor(frame, order)
        if gain <= 0:
            continue
        out[start : start + size] += window * gain * _all_pole(noise[start : start + size], coefficients)
    result = out[size : size + len(word)]
    strength = np.sqrt(float(np.mean(word**2)) / max(1e-12, float(np.mean(result**2))))
    quiet: Floats = result * strength * 0.66
    return quiet


def _predictor(frame: Floats, order: int) -> tuple[float, Floats]:
    """Gain and coefficients by Levinson's recursion; gain 0 for silence."""
    reach = np.correlate(frame, frame, "full")[len(frame) - 1 : len(frame) + order]
    if reach[0] < 1e-9:
        return 0.0, np.zeros(order)
    reach[0] *= 1.0001
    coefficients, error = np.zeros(order), reach[0]
    for i in range(order):
        reflection = (reach[i + 1] - coefficients[:i] @ reach[i:0:-1]) / error if i else reach[1] / error
        coefficients[:i] -= reflection * coefficients[:i][::-1].copy()
        coefficients[i] = reflection
        error *= 1 - reflection**2
    return float(np.sqrt(max(0.0, error) / len(frame))), coefficients


def _all_pole(excitation: Floats, coefficients: Floats) -> Floats:
    order = len(coefficients)
    out = np.zeros(len(excitation) + order)
    turned = coefficients[::-1]
    for i, sample in enumerate(excitation):
        out[i + order] = sample + turned @ out[i : i + order]
    return out[order:]
