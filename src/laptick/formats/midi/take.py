"""Takes ↔ Standard MIDI: every note-on is a strike; tempo changes are followed (a tempo is per quarter, whatever the
meter); files in SMPTE time are refused. Two tracks with notes, or else two channels, are taken as the two hands, the
higher one as the right. The sustaining pedal is controller 64, down from 64 on.
"""

from __future__ import annotations

import io
from bisect import bisect_right
from collections.abc import Callable
from statistics import mean

import mido

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.base.units import Seconds
from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand
from laptick.core.takes.performance import MAX_STRIKES, Performance, Source, Strike
from laptick.core.takes.task import Task
from laptick.formats.midi.opening import open_midi

_KEPT = "Nothing was changed."

#: What a file says nothing of: 120 quarters a minute.
USUAL_TEMPO_US = 500_000

PEDAL, PEDAL_DOWN = 64, 64

#: Pedal changes beyond this many are a controller gone wild.
MAX_PEDAL = 20_000


class _Draft:
    """A note as it is read: tick, key, strength, release tick, and who played it."""

    __slots__ = ("channel", "off", "on", "pitch", "track", "velocity")

    def __init__(self, on: int, pitch: int, velocity: int, track: int, channel: int) -> None:
        self.on, self.pitch, self.velocity, self.track, self.channel = on, pitch, velocity, track, channel
        self.off: int | None = None


def read_midi_take(data: bytes, *, filename: str = "the take") -> Performance:
    """A take from a Standard MIDI file.

    Raises:
        TakeError, LimitError: it cannot be read, or holds no notes, or too many.
    """
    broken = TakeError("the MIDI file cannot be read.", where=filename, kept=_KEPT, todo="Record or export it again.")
    midi = open_midi(data, filename)
    if midi is None:
        raise broken
    if midi.ticks_per_beat <= 0 or midi.ticks_per_beat >= 0x8000:
        raise TakeError("the MIDI file counts in SMPTE time, which holds no beats.", where=filename, kept=_KEPT)
    if midi.type == 2:
        raise TakeError(
            "the MIDI file holds several songs, not one take.", where=filename, kept=_KEPT, todo="Export one of them."
        )
    try:
        notes, tempos, pedal = _read(midi, filename)
    except (ValueError, TypeError, KeyError, AttributeError):
        raise broken from None
    if not notes:
        raise TakeError("the MIDI file has no notes.", where=filename, kept=_KEPT, todo="Record or export it again.")
    seconds = _clock(tempos, midi.ticks_per_beat)
    hands = _hands(notes)
    notes.sort(key=lambda note: (note.on, note.pitch))
    strikes = tuple(
        Strike(
            seconds(note.on),
            hands(note),
            note.pitch,
            note.velocity,
            None if note.off is None else seconds(note.off),
        )
        for note in notes
    )
    return Performance(Source.MIDI, strikes, pedal=tuple((seconds(tick), down) for tick, down in sorted(pedal)))


def _read(midi: mido.MidiFile, filename: str) -> tuple[list[_Draft], list[tuple[int, int]], list[tuple[int, bool]]]:
    notes: list[_Draft] = []
    tempos: list[tuple[int, int]] = []
    pedal: list[tuple[int, bool]] = []
    for number, track in enumerate(midi.tracks):
        now = 0
        sounding: dict[tuple[int, int], list[_Draft]] = {}
        for message in track:
            now += message.time
            if message.type == "set_tempo":
                tempos.append((now, message.tempo))
            elif message.type == "note_on" and message.velocity > 0:
                if len(notes) >= MAX_STRIKES:
                    raise LimitError(f"the take has more than {MAX_STRIKES:,} notes.", where=filename, kept=_KEPT)
                note = _Draft(now, message.note, message.velocity, number, message.channel)
                notes.append(note)
                sounding.setdefault((message.channel, message.note), []).append(note)
            elif message.type in ("note_off", "note_on"):
                waiting = sounding.get((message.channel, message.note))
                if waiting:
                    waiting.pop(0).off = now
            elif message.type == "control_change" and message.control == PEDAL and len(pedal) < MAX_PEDAL:
                down = message.value >= PEDAL_DOWN
                if not pedal or pedal[-1][1] != down:
                    pedal.append((now, down))
    return notes, sorted(tempos), pedal


def _clock(tempos: list[tuple[int, int]], ticks_per_quarter: int) -> Callable[[int], float]:
    """Seconds at a tick."""
    ticks, starts, lengths = [0], [0.0], [USUAL_TEMPO_US / 1e6 / ticks_per_quarter]
    for tick, tempo_us in tempos:
        at_s = starts[-1] + (tick - ticks[-1]) * lengths[-1]
        ticks.append(tick)
        starts.append(at_s)
        lengths.append(tempo_us / 1e6 / ticks_per_quarter)

    def seconds(tick: int) -> float:
        index = bisect_right(ticks, tick) - 1
        return starts[index] + (tick - ticks[index]) * lengths[index]

    return seconds


def _hands(notes: list[_Draft]) -> Callable[[_Draft], Hand | None]:
    """Which hand played a note, where two tracks or two channels tell."""
    keys: tuple[Callable[[_Draft], int], ...] = (lambda note: note.track, lambda note: note.channel)
    for key in keys:
        groups: dict[int, list[int]] = {}
        for note in notes:
            groups.setdefault(key(note), []).append(note.pitch)
        if len(groups) == 2:
            right = max(groups, key=lambda one: mean(groups[one]))
            return lambda note: Hand.RIGHT if key(note) == right else Hand.LEFT
    return lambda note: None


#: Resolution of the MIDI files we write: at 60 quarters a minute one tick is 0.5 ms.
TICKS_PER_QUARTER = 1920


def write_midi_take(performance: Performance, task: Task) -> bytes:
    """A take as a one-track Standard MIDI file, its tempo the assigned one; the pedal with it."""
    return write_midi_strikes(performance, task.quarter_s, task.measures[0].signature)


def write_midi_strikes(performance: Performance, quarter_s: Seconds, signature: TimeSignature | None = None) -> bytes:
    """What was struck as a one-track Standard MIDI file. ``quarter_s``: of the tempo that it names; its instants are
    those of the performance at any."""
    quarter_us = round(1e6 * quarter_s)
    ticks_per_s = TICKS_PER_QUARTER * 1e6 / quarter_us
    midi = mido.MidiFile(type=0, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    track = mido.MidiTrack()
    midi.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=quarter_us, time=0))
    if signature is not None:
        named = {"numerator": signature.beats, "denominator": signature.beat_type}
        track.append(mido.MetaMessage("time_signature", **named, time=0))
    events: list[tuple[int, int, int, int]] = []
    for strike in performance.strikes:
        pitch = 60 if strike.pitch is None else strike.pitch
        released = strike.released_s if strike.released_s is not None else strike.played_s + 0.2
        start = round(strike.played_s * ticks_per_s)
        events.append((start, 1, pitch, strike.velocity or 64))
        events.append((max(start + 1, round(released * ticks_per_s)), 0, pitch, 0))
    events += [(round(at_s * ticks_per_s), 2, PEDAL, 127 if down else 0) for at_s, down in performance.pedal]
    now = 0
    for tick, kind, number, value in sorted(events):
        if kind == 2:
            message = mido.Message("control_change", control=number, value=value, time=tick - now)
        else:
            message = mido.Message("note_on" if kind else "note_off", note=number, velocity=value, time=tick - now)
        track.append(message)
        now = tick
    out = io.BytesIO()
    midi.save(file=out)
    data: bytes = out.getvalue()
    return data
