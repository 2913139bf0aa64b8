"""What happens to a take between the strings and the file: rooms, noise, phones, codecs, clicks, voices, other rates.

Levels are of the root mean square of what sounds, against the playing's; clicks, of the peaks. Needs ``ffmpeg`` for the
codecs and ``espeak-ng`` for the voice.
"""

from __future__ import annotations

import subprocess
import tempfile
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import soundfile

from .sounding import RATE

Samples = np.ndarray


@dataclass(frozen=True)
class Condition:
    """``group``: 0 easy, 1 middling, 2 hard, as in the table of aims; ``apply`` changes the samples; ``suffix`` and
    ``codec``: the file they go into; ``cents``: how far the instrument is out of tune, up or down."""

    name: str
    group: int
    apply: Callable[[Samples, Sequence[float], np.random.Generator], Samples]
    suffix: str = ".wav"
    codec: tuple[str, ...] = ()
    rate: int = RATE
    pedal: bool = False
    cents: float = 0.0


def _same(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    return samples


def rms(samples: Samples) -> float:
    """Of what sounds: silence is left out."""
    power = np.convolve(samples**2, np.ones(2205) / 2205, mode="same")
    loud = power[power > 0.01 * power.max()]
    return float(np.sqrt(loud.mean()))


def noise(decibel: float) -> Callable[[Samples, Sequence[float], np.random.Generator], Samples]:
    """Room noise, stronger below, so far under the playing."""

    def add(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
        spectrum = np.fft.rfft(rng.normal(size=len(samples)))
        hertz = np.fft.rfftfreq(len(samples), 1 / RATE)
        made = np.fft.irfft(spectrum / np.sqrt(1 + (hertz / 400)), len(samples))
        return samples + made * rms(samples) / made.std() * 10 ** (-decibel / 20)

    return add


def room(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    """A living room from two metres: reflections, then half a second of reverberation as strong as the direct sound."""
    seconds = float(rng.uniform(0.35, 0.6))
    length = int(seconds * RATE)
    at = np.arange(length) / RATE
    tail = rng.normal(size=length) * np.exp(-6.9 * at / seconds)
    tail[: int(0.012 * RATE)] = 0
    tail *= float(rng.uniform(0.6, 1.0)) / np.sqrt((tail**2).sum())
    answer = np.zeros(length)
    answer[0] = 1.0
    for delay_s, part in ((0.0031, 0.45), (0.0072, 0.35), (0.0127, 0.3)):
        answer[int(delay_s * RATE)] += part * float(rng.choice((-1, 1)))
    answer += tail
    size = 1 << (len(samples) + length).bit_length()
    return np.fft.irfft(np.fft.rfft(samples, size) * np.fft.rfft(answer, size), size)[: len(samples)]


def click(decibel: float) -> Callable[[Samples, Sequence[float], np.random.Generator], Samples]:
    """The product's click from a loudspeaker beside the piano, at an even beat near what is played."""

    def add(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
        return samples + _clicks(len(samples), _even(beats), _tone) * _peak(samples) * 10 ** (decibel / 20)

    return add


def metronome(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    """A mechanical one on the lid: wood, broad in pitch, a little uneven."""
    times = [at + float(rng.normal(0, 0.004)) for at in _even(beats)]
    return samples + _clicks(len(samples), times, lambda first: _wood(rng)) * _peak(samples) * 10 ** (-9 / 20)


def _even(beats: Sequence[float]) -> list[float]:
    step = (beats[-1] - beats[0]) / (len(beats) - 1)
    return [beats[0] + i * step for i in range(-2, len(beats) + 1) if beats[0] + i * step > 0]


def _peak(samples: Samples) -> float:
    return float(np.percentile(np.abs(samples), 99.9))


def _tone(first: bool) -> Samples:
    at = np.arange(int(0.12 * RATE)) / RATE
    hertz, decay_s = (1900, 0.030) if first else (1420, 0.025)
    return np.sin(2 * np.pi * hertz * at) * np.exp(-at / decay_s)


def _wood(rng: np.random.Generator) -> Samples:
    at = np.arange(int(0.06 * RATE)) / RATE
    wave = 0.6 * rng.normal(size=len(at)) * np.exp(-at / 0.003)
    for hertz in (1100, 2350, 3700):
        wave += 0.5 * np.sin(2 * np.pi * hertz * at + rng.uniform(0, 6)) * np.exp(-at / 0.009)
    return wave / np.abs(wave).max()


def _clicks(length: int, times: Sequence[float], sound: Callable[[bool], Samples]) -> Samples:
    total = np.zeros(length)
    for index, at_s in enumerate(times):
        wave, begin = sound(index % 4 == 0), int(at_s * RATE)
        if begin < length:
            total[begin : begin + len(wave)] += wave[: length - begin]
    return total


def voice(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    """Somebody counts along, “one and two and …”, 6 dB under the playing."""
    words = [word for beat in range(len(beats)) for word in (str(beat % 4 + 1), "and")]
    halves = np.interp(np.arange(len(words)) / 2, np.arange(len(beats)), beats)
    total = np.zeros(len(samples))
    spoken = {word: _spoken(word, int(rng.integers(40, 60))) for word in set(words)}
    for word, at_s in zip(words, halves, strict=True):
        wave, begin = spoken[word], int((at_s - 0.06 + float(rng.normal(0, 0.03))) * RATE)
        if 0 <= begin < len(total):
            total[begin : begin + len(wave)] += wave[: len(total) - begin]
    return samples + total * rms(samples) / rms(total) * 10 ** (-6 / 20)


def _spoken(word: str, pitch: int) -> Samples:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "word.wav"
        subprocess.run(
            ["espeak-ng", "-w", str(path), "-s", "240", "-p", str(pitch), word], check=True, capture_output=True
        )
        samples, rate = soundfile.read(path, dtype="float64")
    at = np.arange(int(len(samples) * RATE / rate)) * rate / RATE
    made = np.interp(at, np.arange(len(samples)), samples)
    loud = np.flatnonzero(np.abs(made) > 0.02)
    return made[loud[0] : loud[-1] + 1]


def hum(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    """Somebody hums along, gliding from tone to tone, 10 dB under the playing; and the mains."""
    at = np.arange(len(samples)) / RATE
    tones = 150 * 2.0 ** (rng.integers(0, 10, size=len(beats)) / 12)
    hertz = np.interp(at, beats, tones) * (1 + 0.012 * np.sin(2 * np.pi * 5.3 * at))
    phase = 2 * np.pi * np.cumsum(hertz) / RATE
    wave = sum(part * np.sin(number * phase) for number, part in ((1, 1.0), (2, 0.5), (3, 0.25), (4, 0.1)))
    wave *= 0.6 + 0.4 * np.sin(2 * np.pi * 0.31 * at)
    mains = 0.15 * np.sin(2 * np.pi * 50 * at) + 0.1 * np.sin(2 * np.pi * 100 * at)
    return samples + (wave / wave.std() * 10 ** (-10 / 20) + mains * 10 ** (-10 / 20)) * rms(samples)


def phone(samples: Samples, beats: Sequence[float], rng: np.random.Generator) -> Samples:
    """A phone on the music stand: no bass, no treble, a compressor, clipped a little, noise at 28 dB, in a room."""
    heard = noise(28)(room(samples, beats, rng), beats, rng)
    spectrum = np.fft.rfft(heard)
    hertz = np.fft.rfftfreq(len(heard), 1 / RATE)
    spectrum *= 1 / np.sqrt(1 + (150 / np.maximum(hertz, 1)) ** 6) / np.sqrt(1 + (hertz / 7000) ** 8)
    heard = np.fft.irfft(spectrum, len(heard))
    envelope = np.sqrt(_moving_mean(heard**2, 4410)) + 1e-6
    heard = heard / envelope**0.5
    heard /= np.percentile(np.abs(heard), 99.97)
    return np.clip(0.9 * heard, -0.9, 0.9)


def _moving_mean(values: Samples, width: int) -> Samples:
    """Over ``width`` values round each; what lies beyond the ends counts as nothing."""
    total = np.concatenate([np.zeros(width // 2 + 1), np.cumsum(values)])
    total = np.concatenate([total, np.full(width, total[-1])])
    return np.maximum(total[width : width + len(values)] - total[: len(values)], 0) / width


CONDITIONS: tuple[Condition, ...] = (
    Condition("clean", 0, _same),
    Condition("room", 0, room),
    Condition("pedal", 0, _same, pedal=True),
    Condition("opus, webm", 0, _same, ".webm", ("-c:a", "libopus", "-b:a", "48k")),
    Condition("aac, m4a", 0, _same, ".m4a", ("-c:a", "aac", "-b:a", "96k")),
    Condition("mp3", 0, _same, ".mp3", ("-c:a", "libmp3lame", "-b:a", "96k")),
    Condition("vorbis, ogg", 0, _same, ".ogg", ("-c:a", "libvorbis", "-q:a", "3")),
    Condition("16 kHz", 0, _same, rate=16_000),
    Condition("noise 30 dB", 0, noise(30)),
    Condition("out of tune", 0, _same, cents=40.0),
    Condition("noise 20 dB", 1, noise(20)),
    Condition("phone", 1, phone, ".webm", ("-c:a", "libopus", "-b:a", "24k")),
    Condition("click −12 dB", 1, click(-12)),
    Condition("8 kHz", 1, _same, rate=8_000),
    Condition("noise 10 dB", 2, noise(10)),
    Condition("click −6 dB", 2, click(-6)),
    Condition("voice", 2, voice),
    Condition("hum", 2, hum),
    Condition("metronome", 2, metronome),
)


def recorded(samples: Samples, beats: Sequence[float], condition: Condition, rng: np.random.Generator) -> bytes:
    """The file that comes of it."""
    heard = condition.apply(samples.astype(np.float64), beats, rng)
    loudest = float(np.abs(heard).max())
    heard = heard * min(1.0, 0.95 / loudest)
    with tempfile.TemporaryDirectory() as folder:
        wav, out = Path(folder) / "heard.wav", Path(folder) / f"take{condition.suffix}"
        soundfile.write(wav, heard, RATE, subtype="PCM_16")
        if condition.suffix == ".wav" and condition.rate == RATE:
            return wav.read_bytes()
        how = ["-ar", str(condition.rate)] if condition.rate != RATE else []
        subprocess.run(
            ["ffmpeg", "-nostdin", "-v", "error", "-y", "-i", str(wav), *how, *condition.codec, str(out)],
            check=True, capture_output=True,
        )  # fmt: skip
        return out.read_bytes()
