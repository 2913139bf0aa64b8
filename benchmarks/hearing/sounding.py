"""The instruments: fluidsynth with sound fonts of others, and recorded notes of a piano where they are at hand.

Every strike's truth is where its sound reaches 5 % of its attack: measured for every key of an instrument by sounding
it alone. Needs ``fluidsynth`` and the fonts (Debian: fluidsynth, timgm6mb-soundfont, fluid-soundfont-gm,
musescore-general-soundfont-small).
"""

from __future__ import annotations

import hashlib
import subprocess
import tempfile
from collections.abc import Sequence
from functools import cache
from pathlib import Path

import mido
import numpy as np
import soundfile

from . import recorded_piano
from .playing import Played

RATE = 44_100
#: Gain of the player, below full scale even for chords.
GAIN = 0.5

#: Name → (sound font, program).
FONTS: dict[str, tuple[str, int]] = {
    "small font": ("/usr/share/sounds/sf2/TimGM6mb.sf2", 0),
    "large font": ("/usr/share/sounds/sf2/FluidR3_GM.sf2", 0),
    "bright font": ("/usr/share/sounds/sf2/FluidR3_GM.sf2", 1),
    "third font": ("/usr/share/sounds/sf3/MuseScore_General_Lite.sf3", 0),
}
#: The one that is no font.
RECORDED = "recorded piano"
CACHE = Path(tempfile.gettempdir()) / "laptick-hearing"


def fonts() -> list[str]:
    """The instruments that are installed."""
    return [name for name, (path, _) in FONTS.items() if Path(path).is_file()] + (
        [RECORDED] if recorded_piano.is_here() else []
    )


def sounded(
    notes: Sequence[Played], pedal: Sequence[tuple[float, bool]], instrument: str, cents: float = 0.0
) -> np.ndarray:
    """The samples of a playing, at ``RATE``, on an instrument so many cents out of tune."""
    if instrument == RECORDED:
        return recorded_piano.sounded_by_it(notes, pedal, cents)
    path, program = FONTS[instrument]
    with tempfile.TemporaryDirectory() as folder:
        midi, wav = Path(folder) / "take.mid", Path(folder) / "take.wav"
        _file(notes, pedal, program, cents).save(midi)
        subprocess.run(
            ["fluidsynth", "-ni", "-F", str(wav), "-r", str(RATE), "-g", str(GAIN),
             "-o", "synth.reverb.active=0", "-o", "synth.chorus.active=0", "-o", "audio.file.format=float",
             path, str(midi)],
            check=True, capture_output=True,
        )  # fmt: skip
        samples, rate = soundfile.read(wav, dtype="float32", always_2d=True)
    assert rate == RATE
    return samples.mean(axis=1)


def _file(notes: Sequence[Played], pedal: Sequence[tuple[float, bool]], program: int, cents: float) -> mido.MidiFile:
    ticks = 10_000  # a second, with a tempo of 60 quarters a minute
    events: list[tuple[float, int, mido.Message]] = [(0.0, 0, mido.Message("program_change", program=program))]
    events.append((0.0, 1, mido.Message("pitchwheel", pitch=round(8192 * cents / 200))))
    for note in notes:
        events.append((note.at_s, 2, mido.Message("note_on", note=note.pitch, velocity=note.velocity)))
        events.append((note.released_s, 1, mido.Message("note_off", note=note.pitch)))
    events += [(at_s, 1, mido.Message("control_change", control=64, value=127 * down)) for at_s, down in pedal]
    file = mido.MidiFile(ticks_per_beat=ticks)
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=1_000_000)])
    before = 0
    for at_s, _, message in sorted(events, key=lambda event: event[:2]):
        tick = round(at_s * ticks)
        track.append(message.copy(time=tick - before))
        before = tick
    track.append(mido.MetaMessage("end_of_track", time=2 * ticks))
    file.tracks.append(track)
    return file


@cache
def lags_s(instrument: str) -> dict[int, float]:
    """Key → from its note-on to 5 % of its attack, sounded alone at a middling strength."""
    kept = CACHE / f"lags-{hashlib.sha256(repr(FONTS.get(instrument, instrument)).encode()).hexdigest()[:12]}.npy"
    if kept.is_file():
        table = np.load(kept)
        return {int(key): float(lag) for key, lag in table}
    keys = range(28, 97)
    notes = [Played(None, 0.5 + 1.5 * i, key, 62, 0.5 + 1.5 * i + 0.6) for i, key in enumerate(keys)]
    samples = sounded(notes, (), instrument)
    lags = {note.pitch: attack_s(samples, note.at_s) - note.at_s for note in notes}
    CACHE.mkdir(parents=True, exist_ok=True)
    np.save(kept, np.array(sorted(lags.items())))
    return lags


def attack_s(samples: np.ndarray, near_s: float) -> float:
    """When the level (1 ms) reaches 5 % of its peak within 80 ms after an instant."""
    begin = round((near_s - 0.02) * RATE)
    level = np.abs(samples[begin : begin + round(0.1 * RATE)])
    smooth = np.convolve(level, np.ones(44) / 44, mode="same")
    first = int(np.argmax(smooth >= 0.05 * smooth.max()))
    return near_s - 0.02 + first / RATE
