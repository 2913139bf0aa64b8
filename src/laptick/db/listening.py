"""What teachers heard: slips tapped while a student played, kept like takes."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row

_COLUMNS = "id, piece_id, settings, slips, first_beat_s, note, created_at"


@dataclass(frozen=True)
class NewListening:
    """``slips_s``: when slips were heard, on the clock whose first beat is at ``first_beat_s``."""

    piece_id: int
    study_id: int
    settings: dict[str, Any]
    slips_s: list[float]
    first_beat_s: float
    client_key: str | None


def add_listening(connection: Connection, studio_id: int, new: NewListening) -> int:
    """Stores what was heard. A ``client_key`` that was stored before gives the one it belongs to."""
    with connection.cursor() as cursor:
        if new.client_key is not None:
            cursor.execute(
                "SELECT id FROM listening WHERE studio_id = %s AND client_key = %s", (studio_id, new.client_key)
            )
            known = cursor.fetchone()
            if known:
                return int(known["id"])
        cursor.execute(
            "INSERT INTO listening (studio_id, piece_id, study_id, settings, slips, first_beat_s, note, client_key)"
            " VALUES (%s, %s, %s, %s, %s, %s, '', %s)",
            (
                studio_id,
                new.piece_id,
                new.study_id,
                json.dumps(new.settings),
                json.dumps(new.slips_s),
                new.first_beat_s,
                new.client_key,
            ),
        )
        return int(cursor.lastrowid or 0)


def list_listenings(connection: Connection, studio_id: int, piece_id: int) -> list[Row]:
    """What was heard of a piece, newest first."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM listening WHERE studio_id = %s AND piece_id = %s AND deleted_at IS NULL"
            " ORDER BY created_at DESC, id DESC",
            (studio_id, piece_id),
        )
        return [_decoded(row) for row in cursor.fetchall()]


def get_listening(connection: Connection, studio_id: int, listening_id: int) -> Row:
    """Raises:
    NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM listening WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (studio_id, listening_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this is not here; it may have been deleted.", todo="Go back to the piece.")
    return _decoded(row)


def mark_listening_deleted(connection: Connection, studio_id: int, listening_id: int, *, deleted: bool) -> None:
    """Deletes what was heard, or brings it back.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM listening WHERE studio_id = %s AND id = %s FOR UPDATE", (studio_id, listening_id))
        if cursor.fetchone() is None:
            raise NotFoundError("this is not here.")
        cursor.execute(
            "UPDATE listening SET deleted_at = IF(%s, UTC_TIMESTAMP(6), NULL) WHERE studio_id = %s AND id = %s",
            (deleted, studio_id, listening_id),
        )


def _decoded(row: Row) -> Row:
    return {**row, "settings": json.loads(row["settings"]), "slips": json.loads(row["slips"])}
