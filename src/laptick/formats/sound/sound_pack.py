"""The pack of sounds that ships: one FLAC file with every word and drum behind one another, and a table of where each
lies and where in it the beat falls. Browser and sound file play the same samples.

Made by ``tools/make_voice.py``; nothing here is recorded from a person.
"""

from __future__ import annotations

import hashlib
import io
import json
from collections.abc import Mapping
from dataclasses import astuple, dataclass
from functools import lru_cache
from importlib import resources
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.play_along.voice import WordSample

Floats = NDArray[np.float64]

FOLDER = Path(str(resources.files("laptick") / "sounds"))
PACK, TABLE = FOLDER / "pack.flac", FOLDER / "pack.json"
PACK_RATE = 22_050

#: Bits kept of each sample: what is below is far under a room's own noise, and packs badly. A whisper is noise itself.
BITS, WHISPER_BITS = 10, 9


@dataclass(frozen=True, slots=True)
class MadeBy:
    """How the speech package was asked for a word (its voice, words a minute, pitch), and when, in the trimmed word, it
    says itself that it began the vowel."""

    voice: str
    words_per_minute: int
    pitch: int
    vowel_s: Seconds


@dataclass(frozen=True)
class PackedSample:
    samples: Floats
    beat_s: Seconds
    made_by: MadeBy | None = None


@dataclass(frozen=True, slots=True)
class PackedPlace:
    """Where a sound lies in the pack, how long it is, and where in it the beat falls."""

    start_s: Seconds
    length_s: Seconds
    beat_s: Seconds


def write_pack(samples: Mapping[str, PackedSample]) -> int:
    """Writes both files; returns their size in bytes. Between two sounds lie 10 ms of silence."""
    gap, pieces, places, at = np.zeros(PACK_RATE // 100), [], {}, 0
    made = {name: astuple(packed.made_by) for name, packed in samples.items() if packed.made_by}
    for name, packed in samples.items():
        pieces += [_coarse(packed.samples, WHISPER_BITS if name.startswith("whisper:") else BITS), gap]
        places[name] = [at, len(packed.samples), round(packed.beat_s * PACK_RATE)]
        at += len(packed.samples) + len(gap)
    whole = np.clip(np.concatenate(pieces), -32768, 32767).astype("<i2")
    FOLDER.mkdir(exist_ok=True)
    soundfile.write(PACK, whole, PACK_RATE, format="FLAC", subtype="PCM_16", compression_level=0.999)
    TABLE.write_text(
        json.dumps({"rate": PACK_RATE, "sounds": places, "made": made}, separators=(",", ":")) + "\n", encoding="utf-8"
    )
    return PACK.stat().st_size + TABLE.stat().st_size


@lru_cache(maxsize=1)
def pack_places() -> dict[str, PackedPlace]:
    """Every sound of the pack by its name."""
    table = json.loads(TABLE.read_text(encoding="utf-8"))
    rate = table["rate"]
    return {name: PackedPlace(*(value / rate for value in place)) for name, place in table["sounds"].items()}


def _coarse(samples: Floats, bits: int) -> Floats:
    """On the scale of 16 bits, the lowest of them empty."""
    step = 1 << (16 - bits)
    coarse: Floats = np.round(samples * 32767 / step) * step
    return coarse


def pack_makers() -> dict[str, MadeBy]:
    """How each word of the pack was made."""
    table = json.loads(TABLE.read_text(encoding="utf-8"))
    return {name: MadeBy(*made) for name, made in table["made"].items()}


@lru_cache(maxsize=1)
def _whole() -> Floats:
    samples, rate = soundfile.read(PACK, dtype="float64")
    assert rate == PACK_RATE
    whole: Floats = samples
    return whole


def pack_samples(name: str) -> Floats:
    """The samples of a sound of the pack, at ``PACK_RATE``."""
    place = pack_places()[name]
    start = round(place.start_s * PACK_RATE)
    return _whole()[start : start + round(place.length_s * PACK_RATE)]


def shipped_word(reading: str) -> WordSample | None:
    place = pack_places().get(f"word:{reading}")
    return WordSample(f"word:{reading}", place.length_s, place.beat_s) if place else None


def pack_bytes() -> bytes:
    return PACK.read_bytes()


@lru_cache(maxsize=1)
def pack_version() -> str:
    """Changes with the pack's content."""
    return hashlib.sha256(pack_bytes() + TABLE.read_bytes()).hexdigest()[:12]


def read_wav(data: bytes) -> Floats:
    """Samples written by ``wav_bytes``."""
    samples, _ = soundfile.read(io.BytesIO(data), dtype="float64")
    read: Floats = samples
    return read


def wav_bytes(samples: Floats, rate: int) -> bytes:
    """Mono, 16 bit."""
    out = io.BytesIO()
    soundfile.write(out, np.clip(samples, -1, 1), rate, format="WAV", subtype="PCM_16")
    return out.getvalue()
