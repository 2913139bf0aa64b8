"""The pencil's changes of a piece, version by version.

A version is a whole list of changes. The piece points at the one that holds; ``None`` is the score as it came. A new
version comes after the one that held, so undo goes to the one before, and redo to the newest that came after.
"""

from __future__ import annotations

import json
from typing import Any

from laptick.core.base.errors import ConflictError, NotFoundError
from laptick.db.engine.connect import Connection

#: Versions of a piece that are kept; the oldest go first.
MAX_VERSIONS = 300

#: The version before, and whether it is still kept; before the first one stands the score as it came.
_UNDO = (
    "SELECT known.id, now.before_id IS NULL OR known.id IS NOT NULL AS is_kept FROM pencil_version AS now"
    " LEFT JOIN pencil_version AS known ON known.id = now.before_id"
    " WHERE now.studio_id = %s AND now.piece_id = %s AND now.id <=> %s"
)
_REDO = "SELECT MAX(id) AS id FROM pencil_version WHERE studio_id = %s AND piece_id = %s AND before_id <=> %s"


def get_steps(connection: Connection, studio_id: int, piece_id: int, version_id: int | None) -> tuple[bool, bool]:
    """Whether there is something to undo, and something to redo."""
    now = (studio_id, piece_id, version_id)
    with connection.cursor() as cursor:
        cursor.execute(_UNDO, now)
        before = cursor.fetchone()
        cursor.execute(_REDO, now)
        after = cursor.fetchone()
    return bool(before and before["is_kept"]), bool(after and after["id"])


def add_version(
    connection: Connection, studio_id: int, piece_id: int, expected: int | None, changes: list[dict[str, Any]]
) -> int:
    """Puts a list of changes in place of the version ``expected``; gives the new one's id.

    Raises:
        ConflictError: another version holds by now.
        NotFoundError: there is no such piece.
    """
    with connection.cursor() as cursor:
        _lock(cursor, studio_id, piece_id, expected)
        cursor.execute(
            "INSERT INTO pencil_version (studio_id, piece_id, before_id, changes) VALUES (%s, %s, %s, %s)",
            (studio_id, piece_id, expected, json.dumps(changes)),
        )
        version_id = int(cursor.lastrowid or 0)
        _point(cursor, studio_id, piece_id, version_id)
        cursor.execute(
            "SELECT id FROM pencil_version WHERE studio_id = %s AND piece_id = %s ORDER BY id DESC LIMIT 1 OFFSET %s",
            (studio_id, piece_id, MAX_VERSIONS),
        )
        oldest = cursor.fetchone()
        if oldest:
            cursor.execute(
                "DELETE FROM pencil_version WHERE studio_id = %s AND piece_id = %s AND id <= %s",
                (studio_id, piece_id, oldest["id"]),
            )
    return version_id


def step(connection: Connection, studio_id: int, piece_id: int, expected: int | None, *, back: bool) -> None:
    """Undo (``back``) or redo from the version ``expected``; where there is nothing to go to, nothing changes.

    Raises:
        ConflictError: another version holds by now.
        NotFoundError: there is no such piece.
    """
    with connection.cursor() as cursor:
        _lock(cursor, studio_id, piece_id, expected)
        cursor.execute(_UNDO if back else _REDO, (studio_id, piece_id, expected))
        found = cursor.fetchone()
        if found and (found["is_kept"] if back else found["id"]):
            _point(cursor, studio_id, piece_id, found["id"])


def _lock(cursor: Any, studio_id: int, piece_id: int, expected: int | None) -> None:
    cursor.execute(
        "SELECT pencil_version_id FROM piece WHERE studio_id = %s AND id = %s AND deleted_at IS NULL FOR UPDATE",
        (studio_id, piece_id),
    )
    row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this piece is not on the shelf.", todo="Go back to the pieces.")
    if row["pencil_version_id"] != expected:
        raise ConflictError(
            "the pencil was used in another window since.",
            where="version",
            kept="That change is kept; yours was not made.",
            todo="Look at the score as it is now, and make yours again.",
        )


def _point(cursor: Any, studio_id: int, piece_id: int, version_id: int | None) -> None:
    cursor.execute(
        "UPDATE piece SET pencil_version_id = %s WHERE studio_id = %s AND id = %s", (version_id, studio_id, piece_id)
    )
