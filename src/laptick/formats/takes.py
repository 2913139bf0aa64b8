"""Takes ↔ bytes: taps as JSON, and Standard MIDI.

Taps: ``{"taps": [{"t": 0.512, "hand": "left"}, …], "first_beat_s": 2.0, "click_bpm": 72}``; the last
two are optional. MIDI: every note-on is a strike; tempo changes are followed (a tempo is per quarter,
whatever the meter); files in SMPTE time are refused.
"""

from __future__ import annotations

import io
import json
import math
from typing import Any

import mido

from laptick.core.errors import LimitError, TakeError
from laptick.core.performance import MAX_STRIKES, Performance, Source, Strike, Task
from laptick.core.score import Hand
from laptick.core.units import MAX_BPM, MIN_BPM
from laptick.formats.midi_score import MIDI_ERRORS

MAX_TAKE_BYTES = 4 * 1024 * 1024
_KEPT = "Nothing was changed."


def read_take(data: bytes, *, filename: str = "the take") -> Performance:
    """A take from its bytes: MIDI by its first bytes, else taps.

    Raises:
        TakeError, LimitError: it cannot be read; ``where`` names the element.
    """
    if len(data) > MAX_TAKE_BYTES:
        raise LimitError(f"this take is larger than {MAX_TAKE_BYTES // 2**20} MB.", where=filename, kept=_KEPT)
    if data[:4] == b"MThd":
        return read_midi_take(data, filename=filename)
    if data[:4] in (b"RIFF", b"OggS", b"fLaC") or data[:3] == b"ID3" or data[4:8] == b"ftyp":
        raise TakeError(
            "sound recordings are not checked in this version.",
            where=filename,
            kept=_KEPT,
            todo="Send taps or a MIDI file.",
        )
    return read_taps(data, filename=filename)


def read_taps(data: bytes | str, *, filename: str = "the take") -> Performance:
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        raise TakeError("this is neither MIDI nor a list of taps in JSON.", where=filename, kept=_KEPT) from None
    if not isinstance(document, dict) or not isinstance(document.get("taps"), list):
        raise TakeError("there is no list “taps”.", where=filename, kept=_KEPT)
    taps = document["taps"]
    if len(taps) > MAX_STRIKES:
        raise LimitError(
            f"the take has {len(taps):,} taps; up to {MAX_STRIKES:,} are checked at once.",
            where=f"{filename}, taps",
            kept=_KEPT,
            todo="Check a shorter take.",
        )
    strikes = tuple(_tap(tap, index) for index, tap in enumerate(taps))
    first_beat_s = _optional(document, "first_beat_s", 0.0, 36_000.0)
    click_bpm = _optional(document, "click_bpm", MIN_BPM, MAX_BPM)
    return Performance(Source.TAPS, strikes, first_beat_s, click_bpm)


def _tap(tap: Any, index: int) -> Strike:
    where = f"taps[{index}]"
    time = tap.get("t") if isinstance(tap, dict) else None
    if isinstance(time, bool) or not isinstance(time, int | float) or not math.isfinite(time) or time < 0:
        raise TakeError(
            "a tap has no usable time; it should be seconds, zero or above.", where=f"{where}.t", kept=_KEPT
        )
    hand = tap.get("hand")
    if hand not in (None, "left", "right"):
        raise TakeError("a tap's hand should be “left” or “right”.", where=f"{where}.hand", kept=_KEPT)
    return Strike(float(time), Hand(hand) if hand else None)


def _optional(document: dict[str, Any], name: str, low: float, high: float) -> float | None:
    value = document.get(name)
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
        raise TakeError(f"{name} should be a number from {low:g} to {high:g}.", where=name, kept=_KEPT)
    return float(value)


def write_taps(performance: Performance) -> str:
    taps = [{"t": round(s.played_s, 6), **({"hand": s.hand.value} if s.hand else {})} for s in performance.strikes]
    document: dict[str, Any] = {"taps": taps}
    if performance.first_beat_s is not None:
        document["first_beat_s"] = performance.first_beat_s
    if performance.click_bpm is not None:
        document["click_bpm"] = performance.click_bpm
    return json.dumps(document, indent=1) + "\n"


def read_midi_take(data: bytes, *, filename: str = "the take") -> Performance:
    broken = TakeError("the MIDI file cannot be read.", where=filename, kept=_KEPT, todo="Record or export it again.")
    try:
        midi = mido.MidiFile(file=io.BytesIO(data), charset="utf-8")
    except MIDI_ERRORS:
        raise broken from None
    if midi.ticks_per_beat <= 0 or midi.ticks_per_beat >= 0x8000:
        raise TakeError("the MIDI file counts in SMPTE time, which holds no beats.", where=filename, kept=_KEPT)
    open_notes: dict[tuple[int, int], list[int]] = {}
    strikes: list[list[float | int | None]] = []
    now = 0.0
    try:
        for message in midi:
            now += message.time
            if message.type == "note_on" and message.velocity > 0:
                if len(strikes) >= MAX_STRIKES:
                    raise LimitError(f"the take has more than {MAX_STRIKES:,} notes.", where=filename, kept=_KEPT)
                open_notes.setdefault((message.channel, message.note), []).append(len(strikes))
                strikes.append([now, message.note, message.velocity, None])
            elif message.type in ("note_off", "note_on"):
                waiting = open_notes.get((message.channel, message.note))
                if waiting:
                    strikes[waiting.pop(0)][3] = now
    except (ValueError, TypeError, KeyError):
        raise broken from None
    if not strikes:
        raise TakeError("the MIDI file has no notes.", where=filename, kept=_KEPT, todo="Record or export it again.")
    return Performance(
        Source.MIDI,
        tuple(
            Strike(float(t or 0), None, int(p or 0), int(v or 0), None if off is None else float(off))
            for t, p, v, off in sorted(strikes, key=lambda s: (s[0], s[1]))
        ),
    )


#: Resolution of the MIDI files we write: at 60 quarters a minute one tick is 0.5 ms.
TICKS_PER_QUARTER = 1920


def write_midi_take(performance: Performance, task: Task) -> bytes:
    """A take as a one-track Standard MIDI file, its tempo the assigned one."""
    quarter_us = round(1e6 * task.quarter_s)
    ticks_per_s = TICKS_PER_QUARTER * 1e6 / quarter_us
    midi = mido.MidiFile(type=0, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    track = mido.MidiTrack()
    midi.tracks.append(track)
    signature = task.measures[0].signature
    track.append(mido.MetaMessage("set_tempo", tempo=quarter_us, time=0))
    track.append(mido.MetaMessage("time_signature", numerator=signature.beats, denominator=signature.beat_type, time=0))
    events: list[tuple[int, int, int, int]] = []
    for strike in performance.strikes:
        pitch = 60 if strike.pitch is None else strike.pitch
        released = strike.released_s if strike.released_s is not None else strike.played_s + 0.2
        start = round(strike.played_s * ticks_per_s)
        events.append((start, 1, pitch, strike.velocity or 64))
        events.append((max(start + 1, round(released * ticks_per_s)), 0, pitch, 0))
    now = 0
    for tick, is_on, pitch, velocity in sorted(events):
        kind = "note_on" if is_on else "note_off"
        track.append(mido.Message(kind, note=pitch, velocity=velocity, time=tick - now))
        now = tick
    out = io.BytesIO()
    midi.save(file=out)
    return out.getvalue()
