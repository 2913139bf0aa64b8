"""Files of a studio, in chunks: written and read without ever holding more than one of them."""

from __future__ import annotations

import io
import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row

#: A chunk, and how many there are: 12 GB, for the 8 GB of sound that a studio keeps and what else it has.
CHUNK_BYTES = 2**20
MOST_CHUNKS = 12 * 2**10

#: So many chunks are held while a file is read: 32 MB.
MOST_HELD = 32

#: How long a file is kept; one that goes out is made again in no time, one that came in is brought in or not.
KEPT_HOURS = 24


@dataclass(frozen=True)
class NewBundle:
    """``direction``: ``out`` or ``in``; ``student_id``: whose share it is, ``None``: the studio's."""

    direction: str
    filename: str
    student_id: int | None = None


def add_bundle(connection: Connection, studio_id: int, new: NewBundle) -> int:
    """A file to be filled, in place of any of that direction."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM bundle WHERE studio_id = %s AND direction = %s", (studio_id, new.direction))
        cursor.execute(
            "INSERT INTO bundle (studio_id, direction, filename, student_id) VALUES (%s, %s, %s, %s)",
            (studio_id, new.direction, new.filename, new.student_id),
        )
        return int(cursor.lastrowid or 0)


def get_bundle(connection: Connection, studio_id: int, bundle_id: int, *, locked: bool = False) -> Row:
    """
    Raises:
        NotFoundError: there is none of that id in this studio, or not any more.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, direction, student_id, filename, size, contents, brought, created_at, completed_at FROM bundle"
            f" WHERE studio_id = %s AND id = %s{' FOR UPDATE' if locked else ''}",
            (studio_id, bundle_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError(
            f"this file is not here any more: it is kept for {KEPT_HOURS} hours.", todo="Ask for it again."
        )
    return {**row, **{name: None if row[name] is None else json.loads(row[name]) for name in ("contents", "brought")}}


def newest_bundle(connection: Connection, studio_id: int, direction: str) -> Row | None:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT MAX(id) AS id FROM bundle WHERE studio_id = %s AND direction = %s", (studio_id, direction)
        )
        found = (cursor.fetchone() or {"id": None})["id"]
    return None if found is None else get_bundle(connection, studio_id, found)


def complete_bundle(connection: Connection, studio_id: int, bundle_id: int, size: int, contents: Any) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE bundle SET completed_at = UTC_TIMESTAMP(6), size = %s, contents = %s"
            " WHERE studio_id = %s AND id = %s",
            (size, json.dumps(contents), studio_id, bundle_id),
        )


def set_brought(connection: Connection, studio_id: int, bundle_id: int, brought: Any) -> None:
    """What came of bringing it in; its bytes go."""
    drop_chunks(connection, studio_id, bundle_id)
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE bundle SET brought = %s WHERE studio_id = %s AND id = %s",
            (json.dumps(brought), studio_id, bundle_id),
        )


def drop_bundles(connection: Connection, studio_id: int) -> None:
    """Whatever files of the studio are here: somebody in them is to be in them no more."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM bundle WHERE studio_id = %s", (studio_id,))


def forget_bundles(connection: Connection) -> None:
    """Lets go of what is kept no longer, in every studio."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM bundle WHERE created_at < UTC_TIMESTAMP(6) - INTERVAL %s HOUR", (KEPT_HOURS,))


# -- chunks ----------------------------------------------------------------------------------------------


def put_chunk(connection: Connection, studio_id: int, bundle_id: int, number: int, data: bytes) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO bundle_chunk (studio_id, bundle_id, number, bytes) VALUES (%s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE bytes = VALUES(bytes)",
            (studio_id, bundle_id, number, data),
        )


def get_chunk(connection: Connection, studio_id: int, bundle_id: int, number: int) -> bytes:
    """
    Raises:
        NotFoundError: there is none of that number.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT bytes FROM bundle_chunk WHERE studio_id = %s AND bundle_id = %s AND number = %s",
            (studio_id, bundle_id, number),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("a part of this file is not here.", todo="Send it again, or ask for it again.")
    return bytes(row["bytes"])


def drop_chunks(connection: Connection, studio_id: int, bundle_id: int) -> None:
    """What an earlier try left in a file that is packed anew."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM bundle_chunk WHERE studio_id = %s AND bundle_id = %s", (studio_id, bundle_id))


def chunk_sizes(connection: Connection, studio_id: int, bundle_id: int) -> dict[int, int]:
    """Number → bytes of the chunks that are here."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT number, LENGTH(bytes) AS size FROM bundle_chunk WHERE studio_id = %s AND bundle_id = %s"
            " ORDER BY number",
            (studio_id, bundle_id),
        )
        return {int(row["number"]): int(row["size"]) for row in cursor.fetchall()}


class ChunksOut(io.RawIOBase):
    """What is written is cut into chunks, and each is given to ``put`` with its number as it is full; ``finish`` gives
    the last, and how many bytes there were. After ``abandon`` nothing is given any more: what writes here may still
    have to end in order."""

    def __init__(self, put: Callable[[int, bytes], None]) -> None:
        self._put = put
        self._waiting = bytearray()
        self._number = self._size = 0

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._waiting += data
        while len(self._waiting) >= CHUNK_BYTES:
            self._give(bytes(self._waiting[:CHUNK_BYTES]))
            del self._waiting[:CHUNK_BYTES]
        return len(data)

    def finish(self) -> int:
        if self._waiting:
            self._give(bytes(self._waiting))
            self._waiting.clear()
        return self._size

    def abandon(self) -> None:
        self._put = lambda number, data: None

    def _give(self, data: bytes) -> None:
        self._put(self._number, data)
        self._number += 1
        self._size += len(data)


class ChunksIn(io.RawIOBase):
    """What is in chunks, to be read from any place. Every chunk but the last is full; some are held, for many students'
    takes are read in turn."""

    def __init__(self, connection: Connection, studio_id: int, bundle_id: int, size: int) -> None:
        self._connection, self._studio_id, self._bundle_id = connection, studio_id, bundle_id
        self._size, self._at = size, 0
        self._held: dict[int, bytes] = {}

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        base = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._size}[whence]
        if base + offset < 0:
            raise ValueError("before the beginning")
        self._at = base + offset
        return self._at

    def readinto(self, into: Any) -> int:
        number, first = divmod(self._at, CHUNK_BYTES)
        if self._at >= self._size:
            return 0
        if number not in self._held:
            if len(self._held) >= MOST_HELD:
                del self._held[next(iter(self._held))]
            self._held[number] = get_chunk(self._connection, self._studio_id, self._bundle_id, number)
        part = self._held[number][first : first + len(into)]
        into[: len(part)] = part
        self._at += len(part)
        return len(part)
