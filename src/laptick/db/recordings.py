"""Recordings of takes, chunk by chunk, and who agreed that they are kept."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row

_COLUMNS = (
    "id, take_id, filename, media_type, device, recorder, first_beat_s, clicks, is_kept, consent_id, size,"
    " playback_size, sha256, created_at, completed_at, dropped_at"
)


@dataclass(frozen=True)
class NewRecording:
    """``device``, ``recorder``: what made it, as the browser says; ``consent_id``: by which it is kept, ``None``: it
    goes when it was heard; ``first_beat_s``, ``clicks_s``: of what the device that recorded sounded itself."""

    take_id: int
    filename: str
    media_type: str
    device: str
    recorder: dict[str, Any]
    consent_id: int | None
    first_beat_s: float | None = None
    clicks_s: tuple[float, ...] = ()


def add_recording(connection: Connection, studio_id: int, new: NewRecording) -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO recording (studio_id, take_id, filename, media_type, device, recorder, first_beat_s, clicks,"
            " is_kept, consent_id) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
            (
                studio_id, new.take_id, new.filename, new.media_type, new.device, json.dumps(new.recorder),
                new.first_beat_s, json.dumps(new.clicks_s), new.consent_id is not None, new.consent_id,
            ),
        )  # fmt: skip
        return int(cursor.lastrowid or 0)


def get_recording(connection: Connection, studio_id: int, recording_id: int, *, locked: bool = False) -> Row:
    """
    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    return _one(connection, "id", studio_id, recording_id, " FOR UPDATE" if locked else "")


def recording_of_take(connection: Connection, studio_id: int, take_id: int) -> Row | None:
    """The recording that a take was heard in, if it was."""
    try:
        return _one(connection, "take_id", studio_id, take_id, "")
    except NotFoundError:
        return None


def _one(connection: Connection, column: str, studio_id: int, value: int, how: str) -> Row:
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM recording WHERE studio_id = %s AND {column} = %s{how}", (studio_id, value)
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this recording is not here.", kept="Nothing was changed.")
    return {**row, "is_kept": bool(row["is_kept"])}


def put_chunk(connection: Connection, studio_id: int, recording_id: int, number: int, data: bytes) -> None:
    """A chunk; one that came before is replaced."""
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO recording_chunk (studio_id, recording_id, number, bytes) VALUES (%s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE bytes = VALUES(bytes)",
            (studio_id, recording_id, number, data),
        )


def chunk_sizes(connection: Connection, studio_id: int, recording_id: int) -> dict[int, int]:
    """Number → bytes of the chunks that are here."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT number, LENGTH(bytes) AS size FROM recording_chunk WHERE studio_id = %s AND recording_id = %s"
            " ORDER BY number",
            (studio_id, recording_id),
        )
        return {int(row["number"]): int(row["size"]) for row in cursor.fetchall()}


def chunks(connection: Connection, studio_id: int, recording_id: int) -> Iterator[bytes]:
    """The chunks in order, one at a time: never more than one of them is held."""
    for number in chunk_sizes(connection, studio_id, recording_id):
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT bytes FROM recording_chunk WHERE studio_id = %s AND recording_id = %s AND number = %s",
                (studio_id, recording_id, number),
            )
            row = cursor.fetchone()
        if row is not None:
            yield row["bytes"]


def mark_complete(connection: Connection, studio_id: int, recording_id: int, size: int, sha256: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE recording SET completed_at = UTC_TIMESTAMP(6), size = %s, sha256 = %s"
            " WHERE studio_id = %s AND id = %s",
            (size, sha256, studio_id, recording_id),
        )


def drop_sound(connection: Connection, studio_id: int, recording_id: int) -> None:
    """Takes the sound away; that there was one stays known."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM recording_chunk WHERE studio_id = %s AND recording_id = %s", (studio_id, recording_id)
        )
        cursor.execute(
            "DELETE FROM playback_chunk WHERE studio_id = %s AND recording_id = %s", (studio_id, recording_id)
        )
        cursor.execute(
            "UPDATE recording SET dropped_at = UTC_TIMESTAMP(6), is_kept = FALSE, playback_size = 0"
            " WHERE studio_id = %s AND id = %s",
            (studio_id, recording_id),
        )


def drop_too_old(connection: Connection, most: int = 200) -> int:
    """Takes away sound that was heard and is older than its studio keeps any; gives of how many recordings."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT recording.id, recording.studio_id FROM recording JOIN studio ON studio.id = recording.studio_id"
            " JOIN take ON take.studio_id = recording.studio_id AND take.id = recording.take_id"
            " WHERE studio.sound_days IS NOT NULL AND recording.dropped_at IS NULL"
            " AND take.state NOT IN ('coming', 'waiting')"
            " AND recording.completed_at < UTC_TIMESTAMP(6) - INTERVAL studio.sound_days DAY LIMIT %s",
            (most,),
        )
        found = list(cursor.fetchall())
    for row in found:
        drop_sound(connection, row["studio_id"], row["id"])
    return len(found)


def set_playback(connection: Connection, studio_id: int, recording_id: int, data: bytes, chunk_bytes: int) -> None:
    """The copy that is played, in place of one there may be."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM playback_chunk WHERE studio_id = %s AND recording_id = %s", (studio_id, recording_id)
        )
        for number, first in enumerate(range(0, len(data), chunk_bytes)):
            cursor.execute(
                "INSERT INTO playback_chunk (studio_id, recording_id, number, bytes) VALUES (%s, %s, %s, %s)",
                (studio_id, recording_id, number, data[first : first + chunk_bytes]),
            )
        cursor.execute(
            "UPDATE recording SET playback_size = %s WHERE studio_id = %s AND id = %s",
            (len(data), studio_id, recording_id),
        )


def playback_chunk(connection: Connection, studio_id: int, recording_id: int, number: int) -> bytes:
    """
    Raises:
        NotFoundError: there is none of that number.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT bytes FROM playback_chunk WHERE studio_id = %s AND recording_id = %s AND number = %s",
            (studio_id, recording_id, number),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("the sound of this take is not kept.", kept="The take stands as it is.")
    return bytes(row["bytes"])


#: What began to come and never came whole is let go after so many days; so is sound that nobody agreed to keep, where
#: its take was deleted before it was heard. What is kept stays with its take, which can be put back.
ABANDONED_DAYS = 7


def forget_abandoned(connection: Connection) -> None:
    """Lets go of sound that nobody waits for, in every studio."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT recording.studio_id, recording.id FROM recording JOIN take ON take.id = recording.take_id"
            " AND take.studio_id = recording.studio_id WHERE recording.dropped_at IS NULL"
            " AND (recording.completed_at IS NULL AND recording.created_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY"
            " OR NOT recording.is_kept AND take.deleted_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY) LIMIT 100",
            (ABANDONED_DAYS, ABANDONED_DAYS),
        )
        for row in cursor.fetchall():
            drop_sound(connection, row["studio_id"], row["id"])


def stored_bytes(connection: Connection, studio_id: int) -> int:
    """What the sound of a studio takes up."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT COALESCE(SUM(size + playback_size), 0) AS size FROM recording"
            " WHERE studio_id = %s AND dropped_at IS NULL",
            (studio_id,),
        )
        row = cursor.fetchone()
    return int(row["size"]) if row else 0


# -- consent ----------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class NewConsent:
    """``student_id``: whose playing is recorded; ``given_by``: who agreed."""

    student_id: int
    given_by: str
    purpose: str
    given_on: date


def add_consent(connection: Connection, studio_id: int, new: NewConsent, student: str) -> int:
    """``student``: what that one is called; it stays with the consent."""
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO consent (studio_id, student_id, student, given_by, purpose, given_on)"
            " VALUES (%s, %s, %s, %s, %s, %s)",
            (studio_id, new.student_id, student, new.given_by, new.purpose, new.given_on),
        )
        return int(cursor.lastrowid or 0)


def list_consents(connection: Connection, studio_id: int, student_id: int | None = None) -> list[Row]:
    """Those that hold, the newest first; of one student or of all. ``student_id``: ``None`` where it was noted of a
    name only."""
    of_one, values = ("", ()) if student_id is None else (" AND student_id = %s", (student_id,))
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, student_id, student, given_by, purpose, given_on FROM consent"
            f" WHERE studio_id = %s AND withdrawn_at IS NULL{of_one} ORDER BY id DESC LIMIT 500",
            (studio_id, *values),
        )
        return list(cursor.fetchall())


def get_consent(connection: Connection, studio_id: int, consent_id: int) -> Row:
    """
    Raises:
        NotFoundError: there is none of that id that holds.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, student_id FROM consent WHERE studio_id = %s AND id = %s AND withdrawn_at IS NULL",
            (studio_id, consent_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this consent is not here, or was withdrawn.", where="consent_id", kept="Nothing was kept.")
    return row


def given_by(connection: Connection, studio_id: int, consent_id: int) -> str:
    """Who gave a consent; nobody where there is none of that id."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT given_by FROM consent WHERE studio_id = %s AND id = %s", (studio_id, consent_id))
        return str((cursor.fetchone() or {"given_by": ""})["given_by"])


def keep_no_longer(connection: Connection, studio_id: int, recording_id: int) -> None:
    """Its sound goes once it was heard."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE recording SET is_kept = FALSE WHERE studio_id = %s AND id = %s", (studio_id, recording_id)
        )


def withdraw_consent(connection: Connection, studio_id: int, consent_id: int) -> list[Row]:
    """Ends a consent; gives the recordings whose sound is here by it: ``id`` and ``state`` of the take.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM consent WHERE studio_id = %s AND id = %s FOR UPDATE", (studio_id, consent_id))
        if cursor.fetchone() is None:
            raise NotFoundError("this consent is not here.", kept="Nothing was changed.")
        cursor.execute(
            "UPDATE consent SET withdrawn_at = COALESCE(withdrawn_at, UTC_TIMESTAMP(6))"
            " WHERE studio_id = %s AND id = %s",
            (studio_id, consent_id),
        )
        cursor.execute(
            "SELECT recording.id, take.state FROM recording JOIN take ON take.id = recording.take_id"
            " AND take.studio_id = recording.studio_id WHERE recording.studio_id = %s AND recording.consent_id = %s"
            " AND recording.dropped_at IS NULL",
            (studio_id, consent_id),
        )
        return list(cursor.fetchall())
