"""Students of a studio, their studies as a list shows them, and when they practised."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from laptick.core.base.errors import ConflictError, NotFoundError
from laptick.db.engine.connect import Connection, Row
from laptick.db.shelf import FACE_NOW

_COLUMNS = (
    "id, name, is_built_in, level, span, school, days_a_week, minutes_a_day, things_a_day, softer_percent, note,"
    " is_paused, version, created_at, deleted_at"
)


@dataclass(frozen=True)
class StudentFacts:
    """What is kept of a student. ``level``: of the playing, ``None``: as each piece says; ``span``: an interval,
    ``None``: not known; ``school``: the answers of how this student is taught; ``things_a_day``: the pace, ``None``: as
    many as usual; ``softer_percent``: how much wider limits are than the level's."""

    name: str
    level: str | None
    span: int | None
    school: dict[str, str]
    days_a_week: int | None
    minutes_a_day: int | None
    note: str
    is_paused: bool
    things_a_day: int | None = None
    softer_percent: int = 0


def _values(facts: StudentFacts) -> tuple[Any, ...]:
    return (
        facts.name,
        facts.level,
        facts.span,
        json.dumps(facts.school),
        facts.days_a_week,
        facts.minutes_a_day,
        facts.note,
        facts.is_paused,
        facts.things_a_day,
        facts.softer_percent,
    )


def add_student(connection: Connection, studio_id: int, facts: StudentFacts) -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO student (studio_id, name, level, span, school, days_a_week, minutes_a_day, note, is_paused,"
            " things_a_day, softer_percent) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
            (studio_id, *_values(facts)),
        )
        return int(cursor.lastrowid or 0)


def demo_students(connection: Connection, studio_id: int) -> dict[str, Row]:
    """Students of the demo by their keys, those who left too."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, demo_key FROM student WHERE studio_id = %s AND demo_key IS NOT NULL", (studio_id,)
        )
        return {row["demo_key"]: row for row in cursor.fetchall()}


def set_demo_key(connection: Connection, studio_id: int, student_id: int, key: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE student SET demo_key = %s WHERE studio_id = %s AND id = %s", (key, studio_id, student_id)
        )


def count_students(connection: Connection, studio_id: int) -> int:
    with connection.cursor() as cursor:
        cursor.execute("SELECT COUNT(*) AS n FROM student WHERE studio_id = %s AND deleted_at IS NULL", (studio_id,))
        return int((cursor.fetchone() or {"n": 0})["n"])


def get_student(connection: Connection, studio_id: int, student_id: int, *, deleted: bool = False) -> Row:
    """A student who has not left; with ``deleted`` one who has, too.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM student WHERE studio_id = %s AND id = %s", (studio_id, student_id))
        row = cursor.fetchone()
    if row is None or (row["deleted_at"] is not None and not deleted):
        raise NotFoundError("this student is not here.", todo="Go back to the students.")
    return row


def built_in_student(connection: Connection, studio_id: int) -> Row:
    """The student whose studies are meant where none is named.

    Raises:
        NotFoundError: the studio has none.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS} FROM student WHERE studio_id = %s AND is_built_in ORDER BY id LIMIT 1", (studio_id,)
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this studio has no student.", todo="Start the application again; it makes one.")
    return row


def list_students(
    connection: Connection, studio_id: int, *, after_id: int | None = None, most: int, find: str = ""
) -> list[Row]:
    """Those who have not left, by name: ``most`` of those after one; ``find``: only those whose names hold that."""
    with connection.cursor() as cursor:
        name = ""
        if after_id is not None:
            cursor.execute("SELECT name FROM student WHERE studio_id = %s AND id = %s", (studio_id, after_id))
            name = str((cursor.fetchone() or {"name": ""})["name"])
        cursor.execute(
            f"SELECT {_COLUMNS} FROM student WHERE studio_id = %s AND deleted_at IS NULL AND name >= %s"
            " AND (name > %s OR id > %s) AND name LIKE %s ORDER BY name, id LIMIT %s",
            (studio_id, name, name, -1 if after_id is None else after_id, f"%{as_itself(find)}%", most),
        )
        return list(cursor.fetchall())


def as_itself(text: str) -> str:
    """What is looked for, as itself and not as a pattern."""
    return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def update_student(connection: Connection, studio_id: int, student_id: int, before: int, facts: StudentFacts) -> None:
    """What is kept of a student, in place of version ``before``.

    Raises:
        ConflictError: it was changed meanwhile.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE student SET name = %s, level = %s, span = %s, school = %s, days_a_week = %s, minutes_a_day = %s,"
            " note = %s, is_paused = %s, things_a_day = %s, softer_percent = %s, version = version + 1"
            " WHERE studio_id = %s AND id = %s AND version = %s AND deleted_at IS NULL",
            (*_values(facts), studio_id, student_id, before),
        )
        if not cursor.rowcount:
            raise ConflictError(
                "this student was changed in another window.",
                kept="It is as it was changed there; nothing of yours was stored.",
                todo="Look at it as it is now, and make your change again.",
            )


def softer_of_study(connection: Connection, studio_id: int, study_id: int) -> int:
    """How much wider than the level's the limits of a study's student are, in per cent."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT student.softer_percent AS percent FROM study JOIN student ON student.studio_id = study.studio_id"
            " AND student.id = study.student_id WHERE study.studio_id = %s AND study.id = %s",
            (studio_id, study_id),
        )
        return int((cursor.fetchone() or {"percent": 0})["percent"])


def count_overruled(connection: Connection, studio_id: int, student_id: int, days: int) -> int:
    """How many takes of the last days the teacher's word calls better than the checker does."""
    better = "FIELD(take.overruled, 'not-yet', 'nearly', 'steady') > FIELD(take.status, 'not-yet', 'nearly', 'steady')"
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT COUNT(*) AS takes FROM study JOIN take ON take.studio_id = study.studio_id"
            " AND take.study_id = study.id WHERE study.studio_id = %s AND study.student_id = %s"
            " AND take.deleted_at IS NULL AND take.overruled IS NOT NULL"
            f" AND take.created_at > UTC_TIMESTAMP(6) - INTERVAL %s DAY AND {better}",
            (studio_id, student_id, days),
        )
        return int((cursor.fetchone() or {"takes": 0})["takes"])


def mark_student_deleted(connection: Connection, studio_id: int, student_id: int, *, deleted: bool) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE student SET deleted_at = IF(%s, COALESCE(deleted_at, UTC_TIMESTAMP(6)), NULL),"
            " version = version + 1 WHERE studio_id = %s AND id = %s",
            (deleted, studio_id, student_id),
        )


# -- studies ---------------------------------------------------------------------------------------------


def give_study(connection: Connection, studio_id: int, study_id: int) -> None:
    """It is on the go, from now on or since it was given first."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET given_at = COALESCE(given_at, UTC_TIMESTAMP(6)), ended_at = NULL"
            " WHERE studio_id = %s AND id = %s",
            (studio_id, study_id),
        )


def give_tried(connection: Connection, studio_id: int, study_id: int) -> None:
    """What is tried, or passed by a word, was given. To be said after the piece is held (``shelf.takes_changed``)."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET given_at = UTC_TIMESTAMP(6) WHERE studio_id = %s AND id = %s AND given_at IS NULL",
            (studio_id, study_id),
        )


def end_study(connection: Connection, studio_id: int, study_id: int) -> None:
    """It is on the go no longer; what was played stays."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET ended_at = COALESCE(ended_at, UTC_TIMESTAMP(6)) WHERE studio_id = %s AND id = %s",
            (studio_id, study_id),
        )


def studies_given(connection: Connection, studio_id: int, student_id: int, most: int) -> list[Row]:
    """A student's studies that were given, of pieces on the shelf, those on the go first and the newest before the
    others. ``progress_now``: what its progress would be worked out of today."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT study.id, study.student_id, study.piece_id, study.measures, study.given_at, study.ended_at,"
            " study.progress, study.progress_of, piece.title, piece.composer,"
            f" CONCAT_WS('.', piece.takes_changed, piece.level, MD5({FACE_NOW}), study.edits_version,"
            " MD5(study.school), student.version) AS progress_now"
            " FROM study JOIN piece ON piece.studio_id = study.studio_id AND piece.id = study.piece_id"
            " JOIN student ON student.studio_id = study.studio_id AND student.id = study.student_id"
            " WHERE study.studio_id = %s AND study.student_id = %s AND study.given_at IS NOT NULL"
            " AND piece.deleted_at IS NULL ORDER BY study.ended_at IS NOT NULL, study.given_at DESC, study.id DESC"
            " LIMIT %s",
            (studio_id, student_id, most),
        )
        return list(cursor.fetchall())


def set_progress(connection: Connection, studio_id: int, study_id: int, progress: Any, progress_of: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE study SET progress = %s, progress_of = %s WHERE studio_id = %s AND id = %s",
            (json.dumps(progress), progress_of, studio_id, study_id),
        )


def count_takes(connection: Connection, studio_id: int, study_ids: list[int]) -> dict[int, Row]:
    """Of studies: ``takes``, and when the ``last`` was made."""
    if not study_ids:
        return {}
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT study_id, COUNT(*) AS takes, MAX(created_at) AS last FROM take WHERE studio_id = %s"
            " AND study_id IN %s AND deleted_at IS NULL GROUP BY study_id",
            (studio_id, study_ids),
        )
        return {row["study_id"]: row for row in cursor.fetchall()}


# -- practice --------------------------------------------------------------------------------------------


def studies_on_the_go(connection: Connection, studio_id: int, student_ids: list[int]) -> dict[int, int]:
    """How many studies each of some students has on the go."""
    if not student_ids:
        return {}
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT study.student_id, COUNT(*) AS studies FROM study JOIN piece"
            " ON piece.studio_id = study.studio_id AND piece.id = study.piece_id AND piece.deleted_at IS NULL"
            " WHERE study.studio_id = %s AND study.student_id IN %s AND study.given_at IS NOT NULL"
            " AND study.ended_at IS NULL GROUP BY study.student_id",
            (studio_id, student_ids),
        )
        return {row["student_id"]: int(row["studies"]) for row in cursor.fetchall()}


def days_practised(
    connection: Connection, studio_id: int, student_ids: list[int], begins: list[datetime]
) -> dict[int, set[int]]:
    """On which of some days each of some students made a take. ``begins``: when each day begins (UTC), in order; the
    last goes on. Gives the days' places in that list."""
    found: dict[int, set[int]] = {student_id: set() for student_id in student_ids}
    if not student_ids or not begins:
        return found
    seconds = [int(one.replace(tzinfo=UTC).timestamp()) for one in begins]
    with connection.cursor() as cursor:
        # INTERVAL(n, a, b, …) is how many of a, b, … are no greater than n: in which day an instant lies.
        cursor.execute(
            f"SELECT study.student_id, INTERVAL(UNIX_TIMESTAMP(take.created_at), {', '.join(map(str, seconds))}) AS day"
            " FROM study JOIN take ON take.studio_id = study.studio_id AND take.study_id = study.id"
            " AND take.deleted_at IS NULL AND take.created_at >= %s"
            " WHERE study.studio_id = %s AND study.student_id IN %s GROUP BY study.student_id, day",
            (begins[0], studio_id, student_ids),
        )
        for row in cursor.fetchall():
            found[row["student_id"]].add(int(row["day"]) - 1)
    return found
