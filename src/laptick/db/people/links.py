"""Personal links, and whose a stored row is: what one who came by such a link may see."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.db.engine.connect import Connection, Row


@dataclass(frozen=True)
class NewLink:
    """``role``: the student's or a parent's; ``pin_hash``: ``None`` where no PIN is asked; ``held_by``: which parent,
    as a consent names them."""

    student_id: int
    role: str
    token_hash: str
    pin_hash: str | None
    held_by: str = ""


def put_link(connection: Connection, studio_id: int, new: NewLink) -> None:
    """A new link, in place of the one that the same person had; with that go its sessions."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM personal_link WHERE studio_id = %s AND student_id = %s AND role = %s AND held_by = %s",
            (studio_id, new.student_id, new.role, new.held_by),
        )
        cursor.execute(
            "INSERT INTO personal_link (studio_id, student_id, role, held_by, token_hash, pin_hash)"
            " VALUES (%s, %s, %s, %s, %s, %s)",
            (studio_id, new.student_id, new.role, new.held_by, new.token_hash, new.pin_hash),
        )


def remove_link(connection: Connection, studio_id: int, student_id: int, link_id: int) -> bool:
    """Takes a link back, with its sessions; was there one?"""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM personal_link WHERE studio_id = %s AND student_id = %s AND id = %s",
            (studio_id, student_id, link_id),
        )
        return cursor.rowcount > 0


def links_of_student(connection: Connection, studio_id: int, student_id: int) -> list[Row]:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, role, held_by, pin_hash IS NOT NULL AS has_pin, created_at, opened_at FROM personal_link"
            " WHERE studio_id = %s AND student_id = %s ORDER BY role DESC, held_by",
            (studio_id, student_id),
        )
        return list(cursor.fetchall())


def link_of_token(connection: Connection, token_hash: str) -> Row | None:
    """Of any studio, of a student who has not left; nobody else opens it meanwhile."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT personal_link.id, personal_link.studio_id, personal_link.student_id, personal_link.role,"
            " personal_link.pin_hash, personal_link.fails, personal_link.until FROM personal_link"
            " JOIN student ON student.studio_id = personal_link.studio_id"
            " AND student.id = personal_link.student_id AND student.deleted_at IS NULL"
            " WHERE personal_link.token_hash = %s FOR UPDATE",
            (token_hash,),
        )
        return cursor.fetchone()


def set_fails(connection: Connection, link_id: int, fails: int, until: datetime | None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE personal_link SET fails = %s, until = %s WHERE id = %s", (fails, until, link_id))


def was_opened(connection: Connection, link_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE personal_link SET opened_at = UTC_TIMESTAMP(6), fails = 0, until = NULL WHERE id = %s", (link_id,)
        )


#: Studies of a student, and takes of them.
_STUDIES = "SELECT study.id FROM study WHERE study.studio_id = %(studio)s AND study.student_id = %(student)s"
_TAKES = f"SELECT take.id FROM take WHERE take.studio_id = %(studio)s AND take.study_id IN ({_STUDIES})"
_PIECES = (
    "SELECT study.piece_id FROM study WHERE study.studio_id = %(studio)s AND study.student_id = %(student)s"
    " AND study.given_at IS NOT NULL AND study.ended_at IS NULL"
)

#: Whose a row is, by what an address calls it.
_WHOSE = {
    "student_id": "SELECT 1 FROM student WHERE studio_id = %(studio)s AND id = %(row)s AND id = %(student)s",
    "study_id": f"{_STUDIES} AND study.id = %(row)s",
    "piece_id": f"{_PIECES} AND study.piece_id = %(row)s LIMIT 1",
    "take_id": f"{_TAKES} AND take.id = %(row)s",
    "recording_id": f"SELECT 1 FROM recording WHERE studio_id = %(studio)s AND id = %(row)s AND take_id IN ({_TAKES})",
    "consent_id": "SELECT 1 FROM consent WHERE studio_id = %(studio)s AND id = %(row)s AND student_id = %(student)s",
    # What is worked at names its take or its piece.
    "job_id": "SELECT 1 FROM job WHERE studio_id = %(studio)s AND id = %(row)s"
    f" AND (JSON_VALUE(asked, '$.take_id') IN ({_TAKES}) OR JSON_VALUE(asked, '$.piece_id') IN ({_PIECES}))",
}


def is_students(connection: Connection, studio_id: int, student_id: int, kind: str, row_id: int) -> bool:
    """Is a row that student's own? A kind that is not known is nobody's."""
    asked = _WHOSE.get(kind)
    if asked is None:
        return False
    with connection.cursor() as cursor:
        cursor.execute(asked, {"studio": studio_id, "row": row_id, "student": student_id})
        return cursor.fetchone() is not None
