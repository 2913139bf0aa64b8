"""What the shelf shows of each piece, kept beside it: its face (of the score) and how far it has come (of its takes).

``face_of`` and ``progress_of`` say what a row's columns were worked out of; ``face_now`` and ``progress_now`` what they
would be worked out of today. Where the two differ, the columns are out of date. Nobody has to remember to clear them,
but for the takes, which count their changes in ``piece.takes_changed``.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from laptick.db.engine.connect import Connection, Row

#: Everything a face is worked out of: the file, how it is read, what was pencilled into it, whether it was typed, and
#: the tempo to be reached.
FACE_NOW = (
    "CONCAT_WS('.', HEX(original_sha256), SHA1(COALESCE(reading, '')), COALESCE(pencil_version_id, 0), entry IS NULL,"
    " target_bpm)"
)
#: And a progress: of all that too, for a ladder is built of it, and of the takes and what was said of the ladder.
_PROGRESS_NOW = f"CONCAT_WS('.', takes_changed, level, MD5({FACE_NOW}))"


@dataclass(frozen=True)
class NewFace:
    """``opening``: the strikes of the right and the left hand as shares of the opening bars, and where those begin;
    ``unread``: why the score can no longer be read (everything else is empty then)."""

    signature: str
    bars: int
    beat_quarters: str
    is_asymmetric: bool
    hands: list[str]
    opening: list[list[float]]
    unread: str | None = None
    difficulty: float | None = None


def list_shelf(
    connection: Connection, studio_id: int, *, after_id: int | None = None, most: int | None = None
) -> list[Row]:
    """The pieces on the shelf, by title, without their files: ``most`` of those after the piece ``after_id``, or all.
    ``opening`` and ``progress`` as they are stored."""
    with connection.cursor() as cursor:
        title = ""
        if after_id is not None:
            cursor.execute("SELECT title FROM piece WHERE studio_id = %s AND id = %s", (studio_id, after_id))
            title = str((cursor.fetchone() or {"title": ""})["title"])
        cursor.execute(
            "SELECT id, title, composer, level, target_bpm, signature, bars, beat_quarters, is_asymmetric, hands,"
            f" opening, unread, difficulty, face_of, {FACE_NOW} AS face_now, progress, progress_of,"
            f" {_PROGRESS_NOW} AS progress_now, drill IS NOT NULL AS is_drill"
            " FROM piece WHERE studio_id = %s AND deleted_at IS NULL AND title >= %s AND (title > %s OR id > %s)"
            " ORDER BY title, id LIMIT %s",
            (studio_id, title, title, -1 if after_id is None else after_id, _ALL if most is None else most),
        )
        return list(cursor.fetchall())


#: More rows than there are.
_ALL = 2**63 - 1


def face_now(connection: Connection, studio_id: int, piece_id: int) -> str:
    """What a piece's face would be worked out of today."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {FACE_NOW} AS face_now FROM piece WHERE studio_id = %s AND id = %s", (studio_id, piece_id)
        )
        row = cursor.fetchone()
        return "" if row is None else str(row["face_now"])


def set_face(connection: Connection, studio_id: int, piece_id: int, face: NewFace, face_of: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET signature = %s, bars = %s, beat_quarters = %s, is_asymmetric = %s, hands = %s,"
            " opening = %s, unread = %s, difficulty = %s, face_of = %s WHERE studio_id = %s AND id = %s",
            (
                face.signature,
                face.bars,
                face.beat_quarters,
                face.is_asymmetric,
                ",".join(face.hands),
                json.dumps(face.opening),
                face.unread and face.unread[:1000],
                face.difficulty,
                face_of,
                studio_id,
                piece_id,
            ),
        )


def set_progress(connection: Connection, studio_id: int, piece_id: int, progress: Any, progress_of: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET progress = %s, progress_of = %s WHERE studio_id = %s AND id = %s",
            (json.dumps(progress), progress_of, studio_id, piece_id),
        )


def every_ladder_changed(connection: Connection, studio_id: int) -> None:
    """The studio teaches otherwise: what the shelf shows of any ladder is out of date."""
    with connection.cursor() as cursor:
        cursor.execute("UPDATE piece SET takes_changed = takes_changed + 1 WHERE studio_id = %s", (studio_id,))


def takes_changed(cursor: Any, studio_id: int, piece_id: int) -> None:
    """To be said before any change of a piece's takes: the piece's row is locked first, always in this order."""
    cursor.execute(
        "UPDATE piece SET takes_changed = takes_changed + 1 WHERE studio_id = %s AND id = %s", (studio_id, piece_id)
    )


def take_changed(cursor: Any, studio_id: int, take_id: int) -> None:
    """The same, of a take by its id."""
    cursor.execute("SELECT piece_id FROM take WHERE studio_id = %s AND id = %s", (studio_id, take_id))
    row = cursor.fetchone()
    if row is not None:
        takes_changed(cursor, studio_id, row["piece_id"])
