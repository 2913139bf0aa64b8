"""Takes ↔ bytes: taps as JSON, and Standard MIDI.

Taps: ``{"taps": [{"t": 0.512, "hand": "left"}, …], "first_beat_s": 2.0, "click_bpm": 72}``; the last
two are optional. MIDI: ``midi_takes.py``. As they are stored: taps as above, keys as
``{"notes": [{"t": 0.512, "pitch": 60, "velocity": 70, "released": 0.9}, …], "pedal": [{"t": 1.0, "down": true}], …}``.
"""

from __future__ import annotations

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.takes.performance import Performance
from laptick.formats.documents.take import _KEPT, read_taps
from laptick.formats.midi.take import read_midi_take

MAX_TAKE_BYTES = 2 * 1024 * 1024


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
