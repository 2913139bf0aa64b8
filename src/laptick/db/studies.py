"""Studies: one student's work on a piece or passage; and how the studio teaches."""

from __future__ import annotations

import json
from typing import Any

from laptick.core.base.errors import ConflictError, NotFoundError
from laptick.db.engine.connect import Connection, Row
from laptick.db.people.students import built_in_student, get_student

_COLUMNS = "id, student_id, piece_id, measures, school, edits, edits_version, takes_told"


def study_of_piece(
    connection: Connection, studio_id: int, piece_id: int, measures: str = "", student_id: int | None = None
) -> Row:
    """A student's study of a piece (``measures`` empty) or of a passage; made where there is none. Where no student is
    named, the built-in one's.

    Raises:
        NotFoundError: the studio has no such student.
    """
    if student_id is None:
        student_id = int(built_in_student(connection, studio_id)["id"])
    else:
        get_student(connection, studio_id, student_id)
    with connection.cursor() as cursor:
        # Two that come at once make one: the key is unique, and whoever is late finds it.
        query = (
            f"SELECT {_COLUMNS} FROM study WHERE studio_id = %s AND piece_id = %s AND measures = %s AND student_id = %s"
        )
        values = (studio_id, piece_id, measures, student_id)
        cursor.execute(query, values)
        row = cursor.fetchone()
        if row is None:
            cursor.execute(
                "INSERT IGNORE INTO study (studio_id, student_id, piece_id, measures) VALUES (%s, %s, %s, %s)",
                (studio_id, student_id, piece_id, measures),
            )
            cursor.execute(f"{query} LOCK IN SHARE MODE", values)
            row = cursor.fetchone()
        if row is None:
            raise NotFoundError("this piece is not here.", todo="Go back to the pieces.")
        return row


def get_study(connection: Connection, studio_id: int, study_id: int) -> Row:
    """Raises:
    NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM study WHERE studio_id = %s AND id = %s", (studio_id, study_id))
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this study is not here.", todo="Go back to the piece.")
    return row


def list_studies(connection: Connection, studio_id: int, piece_id: int) -> list[Row]:
    """The studies of a piece, that of the whole first."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM study WHERE studio_id = %s AND piece_id = %s ORDER BY measures <> '', id",
            (studio_id, piece_id),
        )
        return list(cursor.fetchall())


def lock_study(connection: Connection, studio_id: int, study_id: int) -> Row:
    """The study, held until the transaction ends: who changes what hangs on it comes one after the other."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM study WHERE studio_id = %s AND id = %s FOR UPDATE", (studio_id, study_id)
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this study is not here.", todo="Go back to the piece.")
    return row


def set_edits(connection: Connection, studio_id: int, study_id: int, before: int, edits: list[dict[str, Any]]) -> None:
    """Stores a ladder's edits in place of those of version ``before``.

    Raises:
        ConflictError: somebody else changed them meanwhile.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET edits = %s, edits_version = edits_version + 1 WHERE studio_id = %s AND id = %s"
            " AND edits_version = %s",
            (json.dumps(edits), studio_id, study_id, before),
        )
        if not cursor.rowcount:
            raise ConflictError(
                "the ladder was changed in another window.",
                kept="It is as it was changed there; nothing of yours was stored.",
                todo="Look at it as it is now, and make your change again.",
            )


def set_school(connection: Connection, studio_id: int, study_id: int, answers: dict[str, str]) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET school = %s WHERE studio_id = %s AND id = %s", (json.dumps(answers), studio_id, study_id)
        )


def set_takes_told(connection: Connection, studio_id: int, study_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE study SET takes_told = TRUE WHERE studio_id = %s AND id = %s", (studio_id, study_id))


def school_choices(connection: Connection, studio_id: int) -> dict[str, dict[str, str]]:
    """What the studio answers to questions of school, by level; ``""``: at every level. As stored."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT level, answers FROM school_choice WHERE studio_id = %s", (studio_id,))
        return {row["level"]: json.loads(row["answers"]) for row in cursor.fetchall()}


def put_school_choice(connection: Connection, studio_id: int, level: str, answers: dict[str, str]) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO school_choice (studio_id, level, answers) VALUES (%s, %s, %s)"
            " ON DUPLICATE KEY UPDATE answers = VALUES(answers)",
            (studio_id, level, json.dumps(answers)),
        )
