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
    if is_sound(data):
        raise TakeError(
            "this is a sound recording, and here strikes are asked for.",
            where=filename,
            kept=_KEPT,
            todo="Send it as a recording, or send taps or a MIDI file.",
        )
    return read_taps(data, filename=filename)


#: How sound files begin, from which byte on.
_SOUND_MARKS: tuple[tuple[int, bytes], ...] = (
    (0, b"RIFF"), (0, b"RF64"), (0, b"FORM"), (0, b"caff"), (0, b"OggS"), (0, b"fLaC"), (0, b"ID3"), (4, b"ftyp"),
    (0, b"\x1aE\xdf\xa3"), (0, b"#!AMR"), (0, b"\xff\xfb"), (0, b"\xff\xf3"), (0, b"\xff\xf2"), (0, b"\xff\xfa"),
    (0, b"\xff\xf1"), (0, b"\xff\xf9"),
)  # fmt: skip


def is_sound(data: bytes) -> bool:
    """Does a file begin as a recording does? Whether it is one is told by decoding it."""
    return any(data[at : at + len(mark)] == mark for at, mark in _SOUND_MARKS)
