"""Who saw, changed or deleted what of people; and the erasing of a student."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.db.engine.connect import Connection, Row

#: Lines are kept so many days.
KEPT_DAYS = 400


@dataclass(frozen=True)
class NewLine:
    """``role``: of who did it; ``teacher_id`` or ``student_id``: whose session it was; ``of_kind``, ``of_id``: to which
    row."""

    role: str
    teacher_id: int | None
    student_id: int | None
    what: str
    of_kind: str | None
    of_id: int | None


def add_line(connection: Connection, studio_id: int, new: NewLine) -> None:
    """Adds it; some of those that are too old go."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM audit WHERE at < UTC_TIMESTAMP(6) - INTERVAL %s DAY ORDER BY at LIMIT 20", (KEPT_DAYS,)
        )
        cursor.execute(
            "INSERT INTO audit (studio_id, role, teacher_id, student_id, what, of_kind, of_id)"
            " VALUES (%s, %s, %s, %s, %s, %s, %s)",
            (studio_id, new.role, new.teacher_id, new.student_id, new.what, new.of_kind, new.of_id),
        )


def was_noted(connection: Connection, studio_id: int, new: NewLine, minutes: int) -> bool:
    """Was the same noted in the last so many minutes?"""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT 1 FROM audit WHERE studio_id = %s AND id > (SELECT COALESCE(MAX(id), 0) - 500 FROM audit)"
            " AND at > UTC_TIMESTAMP(6) - INTERVAL %s MINUTE AND role = %s AND teacher_id <=> %s"
            " AND student_id <=> %s AND what = %s AND of_kind <=> %s AND of_id <=> %s LIMIT 1",
            (
                studio_id, minutes, new.role, new.teacher_id, new.student_id, new.what, new.of_kind, new.of_id,
            ),
        )  # fmt: skip
        return cursor.fetchone() is not None


def list_lines(connection: Connection, studio_id: int, before_id: int | None, most: int) -> list[Row]:
    """The newest first: with the name of the teacher or student who did it, and of the student it was done to, if it
    was one who is still here."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT audit.id, audit.at, audit.role, audit.what, audit.of_kind, audit.of_id,"
            " COALESCE(teacher.name, student.name) AS who, of_student.name AS of_name FROM audit"
            " LEFT JOIN teacher ON teacher.studio_id = audit.studio_id AND teacher.id = audit.teacher_id"
            " LEFT JOIN student ON student.studio_id = audit.studio_id AND student.id = audit.student_id"
            " LEFT JOIN student AS of_student ON of_student.studio_id = audit.studio_id"
            " AND audit.of_kind = 'student' AND of_student.id = audit.of_id"
            " WHERE audit.studio_id = %s AND (%s IS NULL OR audit.id < %s) ORDER BY audit.id DESC LIMIT %s",
            (studio_id, before_id, before_id, most),
        )
        return list(cursor.fetchall())


# -- erasing ---------------------------------------------------------------------------------------------


def students_who_left(connection: Connection, studio_id: int) -> list[Row]:
    """``id``, ``name`` and ``deleted_at``, who left last first."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, name, deleted_at FROM student WHERE studio_id = %s AND deleted_at IS NOT NULL"
            " ORDER BY deleted_at DESC, id DESC LIMIT 500",
            (studio_id,),
        )
        return list(cursor.fetchall())


def erase_student(connection: Connection, studio_id: int, student_id: int) -> None:
    """All that is kept of a student: studies with their ladders, takes, recordings and what was heard in them, what
    jobs were told of them, links and who came by them, consents, the student. Of consents nothing stays."""
    both = {"studio": studio_id, "student": student_id}
    of_student = "SELECT study.id FROM study WHERE study.studio_id = %(studio)s AND study.student_id = %(student)s"
    takes = f"SELECT take.id FROM take WHERE take.studio_id = %(studio)s AND take.study_id IN ({of_student})"
    with connection.cursor() as cursor:
        cursor.execute(
            f"DELETE FROM job WHERE studio_id = %(studio)s AND (JSON_VALUE(asked, '$.take_id') IN ({takes})"
            " OR JSON_VALUE(asked, '$.options.student') = %(student)s)",
            both,
        )
        # Whatever was made, or is being made, may name the student: it is made anew when it is asked for.
        cursor.execute("DELETE FROM job WHERE studio_id = %(studio)s AND kind = 'make'", both)
        cursor.execute("DELETE FROM made WHERE studio_id = %(studio)s", both)
        # Recordings hold on to their consents: they go first, with their takes and studies.
        cursor.execute("DELETE FROM study WHERE studio_id = %(studio)s AND student_id = %(student)s", both)
        cursor.execute("DELETE FROM consent WHERE studio_id = %(studio)s AND student_id = %(student)s", both)
        cursor.execute("DELETE FROM personal_link WHERE studio_id = %(studio)s AND student_id = %(student)s", both)
        cursor.execute("DELETE FROM student WHERE studio_id = %(studio)s AND id = %(student)s", both)
