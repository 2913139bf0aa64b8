"""Pieces: the original file and what the teacher set."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import ConflictError, NotFoundError
from laptick.db.engine.connect import Connection, Row

_COLUMNS = (
    "piece.id, title, composer, filename, level, target_bpm, demo_key, created_at, deleted_at, reading, play_order,"
    " original, entry, entry_version, drill, pencil_version_id, pencil_version.changes AS pencil"
)
_FROM = (
    "piece LEFT JOIN pencil_version ON pencil_version.id = piece.pencil_version_id"
    " AND pencil_version.studio_id = piece.studio_id"
)


@dataclass(frozen=True)
class NewPiece:
    """``entry``: the document of a passage that was typed, ``drill``: of one that was made, from which ``original`` was
    written."""

    title: str
    composer: str
    filename: str
    original: bytes
    level: str
    target_bpm: float
    demo_key: str | None = None
    entry: dict[str, Any] | None = None
    drill: dict[str, str] | None = None


@dataclass(frozen=True)
class TypedAnew:
    """A typed passage as it is now: its document, the score written from it, and what follows from both."""

    entry: dict[str, Any]
    original: bytes
    title: str
    target_bpm: float


def add_piece(connection: Connection, studio_id: int, new: NewPiece) -> int:
    """Puts a piece on the shelf; gives its id."""
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO piece (studio_id, title, composer, filename, original, original_sha256, level, target_bpm,"
            " demo_key, entry, drill) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
            (
                studio_id,
                new.title[:200],
                new.composer[:200],
                new.filename[:255],
                new.original,
                hashlib.sha256(new.original).digest(),
                new.level,
                new.target_bpm,
                new.demo_key,
                None if new.entry is None else json.dumps(new.entry),
                None if new.drill is None else json.dumps(new.drill),
            ),
        )
        return int(cursor.lastrowid or 0)


def find_drill(connection: Connection, studio_id: int, drill: dict[str, str], original: bytes) -> int | None:
    """A piece on the shelf that was made by the same, and came out the same."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id FROM piece WHERE studio_id = %s AND original_sha256 = %s AND drill = %s AND deleted_at IS NULL"
            " ORDER BY id LIMIT 1",
            (studio_id, hashlib.sha256(original).digest(), json.dumps(drill)),
        )
        row = cursor.fetchone()
        return None if row is None else int(row["id"])


def same_file(connection: Connection, studio_id: int, piece_id: int) -> Row | None:
    """``id`` and ``title`` of an earlier piece on the shelf that came from the same file."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT earlier.id, earlier.title FROM piece JOIN piece AS earlier"
            " ON earlier.original_sha256 = piece.original_sha256 AND earlier.studio_id = piece.studio_id"
            " AND earlier.id < piece.id AND earlier.deleted_at IS NULL"
            " WHERE piece.studio_id = %s AND piece.id = %s ORDER BY earlier.id LIMIT 1",
            (studio_id, piece_id),
        )
        return cursor.fetchone()


def _decoded(row: Row) -> Row:
    """The stored documents of a row as what they hold."""
    for name in ("reading", "play_order", "pencil", "entry", "drill"):
        row[name] = None if row[name] is None else json.loads(row[name])
    return row


def get_piece(connection: Connection, studio_id: int, piece_id: int) -> Row:
    """A piece that is not deleted, with its original and its pencilled changes.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM {_FROM} WHERE piece.studio_id = %s AND piece.id = %s AND deleted_at IS NULL",
            (studio_id, piece_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this piece is not on the shelf.", todo="Go back to the pieces.")
    return _decoded(row)


def check_piece(connection: Connection, studio_id: int, piece_id: int) -> None:
    """
    Raises:
        NotFoundError: there is none of that id on the shelf of this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT 1 FROM piece WHERE studio_id = %s AND id = %s AND deleted_at IS NULL", (studio_id, piece_id)
        )
        if cursor.fetchone() is None:
            raise NotFoundError("this piece is not on the shelf.", todo="Go back to the pieces.")


def update_piece(connection: Connection, studio_id: int, piece_id: int, *, level: str, target_bpm: float) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET level = %s, target_bpm = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (level, target_bpm, studio_id, piece_id),
        )


def set_reading(
    connection: Connection,
    studio_id: int,
    piece_id: int,
    *,
    reading: dict[str, Any] | None,
    play_order: list[str] | None,
) -> None:
    """How the file is read, and the teacher's own playing order (bars by name; ``None``: by the signs)."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET reading = %s, play_order = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (
                None if reading is None else json.dumps(reading),
                None if play_order is None else json.dumps(play_order),
                studio_id,
                piece_id,
            ),
        )


def set_entry(connection: Connection, studio_id: int, piece_id: int, expected: int, anew: TypedAnew) -> None:
    """A typed passage in place of its version ``expected``, with the score written from it.

    Raises:
        ConflictError: it was stored by another window meanwhile.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET entry = %s, entry_version = entry_version + 1, original = %s, original_sha256 = %s,"
            " title = %s, target_bpm = %s"
            " WHERE studio_id = %s AND id = %s AND entry_version = %s AND entry IS NOT NULL",
            (
                json.dumps(anew.entry),
                anew.original,
                hashlib.sha256(anew.original).digest(),
                anew.title[:200],
                anew.target_bpm,
                studio_id,
                piece_id,
                expected,
            ),
        )
        if cursor.rowcount != 1:
            raise ConflictError(
                "this passage was changed in another window since.",
                where="version",
                kept="That change is kept; what you typed here stays on this screen.",
                todo="Reload to see it as it is now.",
            )


def mark_piece_deleted(connection: Connection, studio_id: int, piece_id: int, *, deleted: bool) -> None:
    """Takes a piece off the shelf, or puts it back; its takes stay with it.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM piece WHERE studio_id = %s AND id = %s FOR UPDATE", (studio_id, piece_id))
        if cursor.fetchone() is None:
            raise NotFoundError("this piece is not on the shelf.")
        cursor.execute(
            "UPDATE piece SET deleted_at = IF(%s, UTC_TIMESTAMP(6), NULL) WHERE studio_id = %s AND id = %s",
            (deleted, studio_id, piece_id),
        )


def demo_keys(connection: Connection, studio_id: int) -> set[str]:
    """Demo pieces ever put on the shelf, also those taken off it."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT demo_key FROM piece WHERE studio_id = %s AND demo_key IS NOT NULL", (studio_id,))
        return {row["demo_key"] for row in cursor.fetchall()}


def set_demo_key(connection: Connection, studio_id: int, piece_id: int, key: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE piece SET demo_key = %s WHERE studio_id = %s AND id = %s", (key, studio_id, piece_id))


def demo_piece(connection: Connection, studio_id: int, demo_key: str) -> int | None:
    """A piece of the demo that is on the shelf."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id FROM piece WHERE studio_id = %s AND demo_key = %s AND deleted_at IS NULL", (studio_id, demo_key)
        )
        row = cursor.fetchone()
        return None if row is None else int(row["id"])


def delete_demo(connection: Connection, studio_id: int) -> None:
    """Deletes the demo pieces for good, and by the foreign keys all that hangs on them."""
    demo = "studio_id = %s AND demo_key IS NOT NULL"
    with connection.cursor() as cursor:
        cursor.execute(f"UPDATE piece SET pencil_version_id = NULL WHERE {demo}", (studio_id,))
        cursor.execute(f"DELETE FROM piece WHERE {demo}", (studio_id,))
