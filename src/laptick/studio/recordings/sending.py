"""A recording sent in: the take is stored first, waiting; then its chunks, each as often as it takes; then it is whole.

Nothing of this listens: that is a job's. What is sent twice is kept once; what breaks off can be gone on with.
"""

from __future__ import annotations

import hashlib
import re
from dataclasses import dataclass, field
from typing import Any

from laptick.core.base.errors import ConflictError, LimitError, NotFoundError, OptionError, TakeError
from laptick.core.takes.heard import KnownClick
from laptick.core.takes.performance import Source
from laptick.core.takes.take_state import TakeState
from laptick.db import jobs as jobs_db
from laptick.db import recordings as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.studies.open_study import played_by
from laptick.studio.takes.judging import task_of
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import sent_before, settings_kept, study_for
from laptick.studio.use_case import Studio, use_case

#: The kind of job that hears a recording, and its key.
KIND = "hear"

#: Stated limits: of a chunk, of how many there are, and of all sound a studio keeps.
CHUNK_BYTES = 2**20
MOST_CHUNKS = 256
MOST_STORED_BYTES = 8 * 2**30

#: What came is laid beside what was sent at once, up to this size: a take by the microphone is far smaller. What is
#: larger, a file that somebody has, is compared by the job that hears it: seconds that no request has.
COMPARED_AT_ONCE_BYTES = 32 * 2**20


def key_of(take_id: int) -> str:
    return f"{KIND}:{take_id}"


@dataclass(frozen=True)
class Sent:
    """What is known of a recording when it begins to come. ``consent_id``: by which its sound may be kept;
    ``recorder``: the settings of what records it; ``click``: what the device sounded while it recorded."""

    filename: str
    media_type: str
    device: str = ""
    recorder: dict[str, Any] = field(default_factory=dict)
    consent_id: int | None = None
    client_key: str | None = None
    click: KnownClick | None = None


@dataclass(frozen=True)
class Coming:
    """A recording that is coming in. ``here``: the numbers of its chunks that are."""

    id: int
    take_id: int
    here: tuple[int, ...]
    is_complete: bool


def coming_of(studio: Studio, row: Row) -> Coming:
    here = () if row["dropped_at"] else tuple(db.chunk_sizes(studio.connection, studio.id, row["id"]))
    return Coming(row["id"], row["take_id"], here, row["completed_at"] is not None)


@use_case
def begin_recording(studio: Studio, piece_id: int, wanted: TakeSettings, sent: Sent) -> Coming:
    """A take whose sound is about to come.

    Raises:
        TakeError: nothing is struck in these bars by these hands.
        OptionError: the piece has no such bars, or what is asked cannot be heard.
        NotFoundError: the consent is none that holds.
        LimitError: the studio keeps as much sound as it may.
    """
    known = sent_before(studio, sent.client_key)
    if known is not None:
        row = db.recording_of_take(studio.connection, studio.id, known)
        if row is None:
            raise ConflictError("this was sent before as something else.", kept="What was sent first stands.")
        return coming_of(studio, row)
    if wanted.activity == "count":
        raise OptionError(
            "a count that is spoken cannot be heard yet; what is tapped or played can.",
            where="activity",
            kept="Nothing was stored.",
        )
    if sent.consent_id is not None:
        consent = db.get_consent(studio.connection, studio.id, sent.consent_id)
        if db.stored_bytes(studio.connection, studio.id) >= MOST_STORED_BYTES:
            raise LimitError(
                f"the studio keeps {MOST_STORED_BYTES / 2**30:.0f} GB of sound, which is all it may.",
                kept="Nothing was stored.",
                todo="Delete the sound of older takes, or have this one heard without keeping its sound.",
            )
    piece = open_piece(studio, piece_id)
    study = study_for(studio, piece, wanted)
    if sent.consent_id is not None and consent["student_id"] != study["student_id"]:
        raise NotFoundError(
            "this consent is not of this student.",
            where="consent_id",
            kept="Nothing was stored.",
            todo="Note a consent for this student, or have it heard without keeping its sound.",
        )
    piece = played_by(studio, piece, study["student_id"])
    settings = settings_kept(piece, wanted)
    task_of(piece.played, settings, piece.level, Source.AUDIO.knows)
    take_id = takes_db.add_take(
        studio.connection,
        studio.id,
        takes_db.NewTake(
            piece_id=piece.id,
            study_id=study["id"],
            activity=settings.activity,
            settings=settings.document(),
            assigned_bpm=settings.bpm,
            level=piece.level.value,
            strikes=None,
            played_by="student",
            client_key=sent.client_key,
        ),
    )
    takes_db.set_state(studio.connection, studio.id, take_id, TakeState.COMING.value)
    students_db.give_tried(studio.connection, studio.id, study["id"])
    new = db.NewRecording(
        take_id,
        sent.filename,
        sent.media_type,
        sent.device,
        sent.recorder,
        sent.consent_id,
        None if sent.click is None else sent.click.first_beat_s,
        () if sent.click is None else sent.click.clicks_s,
    )
    return Coming(db.add_recording(studio.connection, studio.id, new), take_id, (), False)


@use_case
def put_chunk(studio: Studio, recording_id: int, number: int, data: bytes) -> None:
    """A chunk of a recording; the same one again replaces it.

    Raises:
        LimitError: it is too large, or there are too many.
        ConflictError: the recording is whole already.
    """
    row = db.get_recording(studio.connection, studio.id, recording_id, locked=True)
    if row["completed_at"] is not None:
        raise ConflictError("this recording is whole already.", kept="It stands as it was sent.")
    if row["dropped_at"] is not None:
        raise ConflictError(
            "this recording was given up after a week.", kept="Nothing was changed.", todo="Send it as a new one."
        )
    if not 0 <= number < MOST_CHUNKS:
        raise LimitError(
            f"a recording has at most {MOST_CHUNKS * CHUNK_BYTES // 2**20} MB.",
            where="number",
            kept="What came before is kept.",
            todo="Record one piece at a time.",
        )
    if not 0 < len(data) <= CHUNK_BYTES:
        raise LimitError(f"a chunk has 1 to {CHUNK_BYTES:,} bytes.", where="number", kept="What came before is kept.")
    db.put_chunk(studio.connection, studio.id, recording_id, number, data)


@use_case
def complete_recording(studio: Studio, recording_id: int, sha256: str) -> Coming:
    """All of it is here: it waits to be heard. Said twice, it is said once.

    Raises:
        ConflictError: chunks are missing, or what came is not what was sent.
        TakeError: nothing came.
    """
    row = db.get_recording(studio.connection, studio.id, recording_id, locked=True)
    if row["completed_at"] is not None:
        return coming_of(studio, row)
    if not re.fullmatch(r"[0-9a-f]{64}", sha256):
        raise OptionError("sha256 takes 64 hexadecimal digits.", where="sha256", kept="What came is kept.")
    sizes = db.chunk_sizes(studio.connection, studio.id, recording_id)
    if not sizes:
        raise TakeError("nothing of this recording came.", kept="The take waits for it.", todo="Send it again.")
    if list(sizes) != list(range(len(sizes))):
        missing = sorted(set(range(max(sizes))) - set(sizes))
        raise ConflictError(
            f"chunk {missing[0]} of this recording did not come.", where="chunks", kept="What came is kept.",
            todo="Send what is missing, then say again that it is whole.",
        )  # fmt: skip
    size = sum(sizes.values())
    if size <= COMPARED_AT_ONCE_BYTES and _digest(studio, recording_id) != sha256:
        raise ConflictError(
            "what came is not what was sent.", where="sha256", kept="What came is kept.", todo="Send it again."
        )
    db.mark_complete(studio.connection, studio.id, recording_id, size, sha256)
    takes_db.set_state(studio.connection, studio.id, row["take_id"], TakeState.WAITING.value)
    job = jobs_db.NewJob(KIND, key_of(row["take_id"]), {"recording_id": recording_id, "take_id": row["take_id"]})
    jobs_db.add_job(studio.connection, studio.id, job)
    return coming_of(studio, db.get_recording(studio.connection, studio.id, recording_id))


def _digest(studio: Studio, recording_id: int) -> str:
    digest = hashlib.sha256()
    for chunk in db.chunks(studio.connection, studio.id, recording_id):
        digest.update(chunk)
    return digest.hexdigest()


@use_case
def get_coming(studio: Studio, recording_id: int) -> Coming:
    """How much of it is here, for who goes on with it."""
    return coming_of(studio, db.get_recording(studio.connection, studio.id, recording_id))


@use_case
def drop_sound(studio: Studio, recording_id: int) -> None:
    """Takes the sound away and leaves the take with what was heard in it.

    Raises:
        ConflictError: it was not heard yet.
    """
    row = db.get_recording(studio.connection, studio.id, recording_id, locked=True)
    take = takes_db.get_take(studio.connection, studio.id, row["take_id"])
    if take["state"] in (TakeState.COMING.value, TakeState.WAITING.value):
        raise ConflictError("this recording was not heard yet.", kept="Nothing was changed.", todo="Wait until it was.")
    db.drop_sound(studio.connection, studio.id, recording_id)
