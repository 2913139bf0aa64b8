"""A schedule as a sound file: clicks, and the written rhythm as knocks, as WAV; or as a MIDI file of percussion with
the count as lyrics.

The tones are those that the browser plays. Every sound begins at the sample nearest to its time, which is within half a
sample (11 µs) of it. Source: General MIDI level 1 for the keys of percussion.
"""

from __future__ import annotations

import io
import wave
from collections.abc import Sequence
from dataclasses import dataclass

import mido
import numpy as np

from laptick.core.errors import LimitError
from laptick.core.playing import Schedule
from laptick.core.score import Hand
from laptick.core.units import Seconds

SAMPLE_RATE = 44_100

#: A sound file is no longer than this.
MAX_S: Seconds = 900.0

#: Nothing is louder than this share of full scale.
CEILING = 0.89


@dataclass(frozen=True, slots=True)
class Tone:
    """A damped tone: ``decay_s`` is when it has fallen to 1/e, ``noise`` its share of hiss, ``midi_key`` the percussion
    that stands for it."""

    hertz: float
    decay_s: Seconds
    noise: float
    level: float
    midi_key: int


#: As in ``web/src/sound/player.ts``; a test holds them together.
TONES: dict[str, Tone] = {
    "bar": Tone(1900, 0.03, 0.1, 0.55, 76),
    "beat": Tone(1420, 0.025, 0.1, 0.38, 77),
    "division": Tone(1420, 0.015, 0.1, 0.16, 77),
    "right": Tone(640, 0.07, 0.25, 0.6, 75),
    "left": Tone(190, 0.11, 0.2, 0.85, 64),
}

#: The attack of every tone: from silence to full within this.
ATTACK_S = 0.0008


def sound_wav(schedule: Schedule, *, click_through: bool = True, hands: Sequence[Hand] = ()) -> bytes:
    """Mono, 16 bit: the count-in, the clicks (``click_through``: also behind the count-in), the rhythm of ``hands``.

    Raises:
        LimitError: longer than the stated limit.
    """
    events = _events(schedule, click_through, hands)
    _check(schedule)
    samples = np.zeros(int(np.ceil((schedule.end_s + 0.5) * SAMPLE_RATE)))
    tones = {name: _tone(tone) for name, tone in TONES.items()}
    for at_s, name in events:
        begin = round(at_s * SAMPLE_RATE)
        tone = tones[name][: len(samples) - begin]
        samples[begin : begin + len(tone)] += tone
    loudest = float(np.max(np.abs(samples))) if len(samples) else 0.0
    if loudest > CEILING:
        samples *= CEILING / loudest
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(SAMPLE_RATE)
        file.writeframes((samples * 32767).astype("<i2").tobytes())
    return out.getvalue()


def _events(schedule: Schedule, click_through: bool, hands: Sequence[Hand]) -> list[tuple[Seconds, str]]:
    clicks = [(c.at_s, c.accent) for c in schedule.clicks if c.is_count_in or click_through]
    return sorted([*clicks, *((k.at_s, k.hand.value) for k in schedule.knocks if k.hand in hands)])


def _check(schedule: Schedule) -> None:
    if schedule.end_s > MAX_S:
        raise LimitError(
            f"that would be {schedule.end_s / 60:.0f} minutes of sound; up to {MAX_S / 60:.0f} are made.",
            where="measures",
            todo="Choose a shorter passage, or a faster tempo.",
        )


def _tone(tone: Tone) -> np.ndarray:
    time = np.arange(int(SAMPLE_RATE * tone.decay_s * 6)) / SAMPLE_RATE
    hiss = np.random.default_rng(1).uniform(-1, 1, len(time))
    body = np.sin(2 * np.pi * tone.hertz * time) * (1 - tone.noise)
    body += hiss * tone.noise * np.exp(-time / (tone.decay_s / 5))
    shaped: np.ndarray = tone.level * np.minimum(1, time / ATTACK_S) * body * np.exp(-time / tone.decay_s)
    return shaped


#: Ticks in a second: the file has one tempo, and its times are the schedule's.
TICKS_PER_QUARTER, QUARTER_US = 960, 500_000


def sound_midi(schedule: Schedule, *, click_through: bool = True, hands: Sequence[Hand] = ()) -> bytes:
    """The same as percussion (channel 10), each click with its word as a lyric.

    Raises:
        LimitError: longer than the stated limit.
    """
    _check(schedule)
    per_s = TICKS_PER_QUARTER * 1_000_000 / QUARTER_US
    messages: list[tuple[int, int, mido.Message | mido.MetaMessage]] = []
    for at_s, name in _events(schedule, click_through, hands):
        tone, tick = TONES[name], round(at_s * per_s)
        velocity = max(1, min(127, round(tone.level * 200)))
        messages.append((tick, 1, mido.Message("note_on", channel=9, note=tone.midi_key, velocity=velocity)))
        messages.append((tick + 60, 0, mido.Message("note_off", channel=9, note=tone.midi_key, velocity=0)))
    for click in schedule.clicks:
        if click.say and (click.is_count_in or click_through):
            messages.append((round(click.at_s * per_s), 0, mido.MetaMessage("lyrics", text=f"{click.say} ")))
    midi = mido.MidiFile(type=0, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    track = mido.MidiTrack([mido.MetaMessage("set_tempo", tempo=QUARTER_US, time=0)])
    now = 0
    for tick, _, message in sorted(messages, key=lambda one: one[:2]):
        track.append(message.copy(time=tick - now))
        now = tick
    midi.tracks.append(track)
    out = io.BytesIO()
    midi.save(file=out)
    return out.getvalue()
