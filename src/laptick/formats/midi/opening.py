"""A Standard MIDI file taken apart by the library, within stated bounds."""

from __future__ import annotations

import io

import mido
from mido.midifiles.meta import KeySignatureError

from laptick.core.base.errors import LimitError

#: What the library raises for files that are none.
MIDI_ERRORS = (
    OSError, ValueError, EOFError, IndexError, KeyError, TypeError, AttributeError, AssertionError, KeySignatureError,
)  # fmt: skip

#: A quarter of an hour of playing with its pedal stays below this.
MAX_MIDI_BYTES = 400 * 1024

#: Messages of all tracks, and tracks.
MAX_MESSAGES, MAX_TRACKS = 80_000, 256


def open_midi(data: bytes, filename: str) -> mido.MidiFile | None:
    """The file; ``None``: it cannot be read.

    Raises:
        LimitError: larger than the stated bounds.
    """
    if data[:4] == b"RIFF" and b"MThd" in data[:64]:
        data = data[data.index(b"MThd") :]
    kept = "Nothing was changed."
    if len(data) > MAX_MIDI_BYTES:
        raise LimitError(f"this MIDI file is larger than {MAX_MIDI_BYTES // 2**10} kB.", where=filename, kept=kept)
    if int.from_bytes(data[10:12], "big") > MAX_TRACKS:
        raise LimitError(f"the MIDI file has more than {MAX_TRACKS} tracks.", where=filename, kept=kept)
    for charset in ("utf-8", "latin1"):
        try:
            midi = mido.MidiFile(file=io.BytesIO(data), charset=charset)
        except UnicodeError:
            continue
        except MIDI_ERRORS:
            return None
        if sum(map(len, midi.tracks)) > MAX_MESSAGES:
            raise LimitError(f"the MIDI file has more than {MAX_MESSAGES:,} events.", where=filename, kept=kept)
        return midi
    return None
