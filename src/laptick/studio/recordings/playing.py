"""The copy of a kept recording that is played: made by the job that heard it, given out part by part."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import NotFoundError, RefusedError
from laptick.core.takes.beat_times import BeatTime, beat_times
from laptick.db import recordings as db
from laptick.db import takes as takes_db
from laptick.formats.documents.check import read_check
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.recordings.consents import may_hear
from laptick.studio.recordings.sending import CHUNK_BYTES
from laptick.studio.takes.settings import kept_settings
from laptick.studio.takes.shown import read_or_none
from laptick.studio.use_case import Studio, use_case

#: What the copy is.
MEDIA_TYPE = "audio/mpeg"


@dataclass(frozen=True)
class ToPlay:
    """A kept recording, and the beats of its take, none where it could not be followed."""

    recording_id: int
    filename: str
    beats: tuple[BeatTime, ...]


@dataclass(frozen=True)
class Part:
    """Bytes of the copy from ``first`` on; it has ``size`` in all."""

    data: bytes
    first: int
    size: int


@use_case
def prepare_playback(studio: Studio, take_id: int) -> ToPlay | None:
    """What is needed to make the copy; ``None`` where its sound is not kept."""
    try:
        take = takes_db.get_take(studio.connection, studio.id, take_id)
    except NotFoundError:
        return None
    recording = db.recording_of_take(studio.connection, studio.id, take_id)
    if recording is None or not recording["is_kept"] or recording["dropped_at"] is not None:
        return None
    document = read_or_none(read_check, take["document"])
    if document is None or not document.followed:
        return ToPlay(recording["id"], recording["filename"], ())
    score = open_piece(studio, take["piece_id"]).played_then(kept_settings(take["settings"]))
    beats = beat_times(score, [(note.onset_quarters, note.expected_s) for note in document.notes])
    return ToPlay(recording["id"], recording["filename"], beats)


@use_case
def keep_playback(studio: Studio, recording_id: int, data: bytes) -> None:
    """Stores the copy, if the sound is still to be kept."""
    row = db.get_recording(studio.connection, studio.id, recording_id, locked=True)
    if row["is_kept"] and row["dropped_at"] is None:
        db.set_playback(studio.connection, studio.id, recording_id, data, CHUNK_BYTES)


@use_case
def get_playback(studio: Studio, recording_id: int, first: int | None, last: int | None) -> Part:
    """A part of the copy: from ``first`` to ``last``, both counted, up to the end of a chunk; of ``first`` alone, the
    same; of ``last`` alone, so many of the last bytes; of neither, all of it.

    Raises:
        NotFoundError: there is no copy, or it does not reach so far.
        RefusedError: another parent agreed to its being kept.
    """
    row = db.get_recording(studio.connection, studio.id, recording_id)
    if not may_hear(studio, row):
        raise RefusedError("this sound is heard by the parent who agreed to it.", kept="The take stands as it is.")
    size = int(row["playback_size"])
    if size == 0:
        raise NotFoundError("the sound of this take is not kept.", kept="The take stands as it is.")
    if first is None and last is None:
        count = -(-size // CHUNK_BYTES)
        chunks = (db.playback_chunk(studio.connection, studio.id, recording_id, at) for at in range(count))
        return Part(b"".join(chunks), 0, size)
    begin = max(0, size - (last or 0)) if first is None else first
    if begin >= size:
        raise NotFoundError("the sound of this take is not so long.", kept="The take stands as it is.")
    number, offset = divmod(begin, CHUNK_BYTES)
    chunk = db.playback_chunk(studio.connection, studio.id, recording_id, number)
    end = len(chunk) if first is None or last is None else min(len(chunk), offset + last - begin + 1)
    return Part(chunk[offset:end], begin, size)
