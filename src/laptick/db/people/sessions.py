"""Who is signed in, by the hash of what the browser keeps."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.db.engine.connect import Connection, Row


@dataclass(frozen=True)
class NewSession:
    """``teacher_id`` or ``link_id``, never both; ``device``: as the browser calls itself."""

    token_hash: str
    studio_id: int
    teacher_id: int | None
    link_id: int | None
    device: str
    expires_at: datetime


def add_session(connection: Connection, new: NewSession) -> None:
    """Adds it; those that are over for long go."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM session WHERE expires_at < UTC_TIMESTAMP(6) - INTERVAL 7 DAY LIMIT 100")
        cursor.execute(
            "INSERT INTO session (token_hash, studio_id, teacher_id, link_id, device, expires_at)"
            " VALUES (%s, %s, %s, %s, %s, %s)",
            (new.token_hash, new.studio_id, new.teacher_id, new.link_id, new.device, new.expires_at),
        )


def session_of(connection: Connection, token_hash: str) -> Row | None:
    """The session that is not over, with whose it is: ``name`` of a teacher, or ``role``, ``held_by``, ``student_id``
    and the student's name of a personal link; of one whose student left there is none. ``is_stale``: it was not noted
    for a minute that it was used."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT session.id, session.studio_id, session.teacher_id, session.link_id,"
            " session.seen_at < UTC_TIMESTAMP(6) - INTERVAL 1 MINUTE AS is_stale,"
            " COALESCE(teacher.name, student.name) AS name, COALESCE(teacher.is_demo, 0) AS is_demo,"
            " personal_link.role, personal_link.held_by, personal_link.student_id FROM session"
            " LEFT JOIN teacher ON teacher.studio_id = session.studio_id AND teacher.id = session.teacher_id"
            " LEFT JOIN personal_link ON personal_link.studio_id = session.studio_id"
            " AND personal_link.id = session.link_id"
            " LEFT JOIN student ON student.studio_id = personal_link.studio_id"
            " AND student.id = personal_link.student_id AND student.deleted_at IS NULL"
            " WHERE session.token_hash = %s AND session.expires_at > UTC_TIMESTAMP(6)"
            " AND (teacher.id IS NOT NULL OR student.id IS NOT NULL)",
            (token_hash,),
        )
        return cursor.fetchone()


def was_seen(connection: Connection, session_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE session SET seen_at = UTC_TIMESTAMP(6) WHERE id = %s", (session_id,))


def sessions_of_teacher(connection: Connection, studio_id: int, teacher_id: int) -> list[Row]:
    """Those that are not over, the one used last first."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, device, created_at, seen_at, expires_at FROM session WHERE studio_id = %s"
            " AND teacher_id = %s AND expires_at > UTC_TIMESTAMP(6) ORDER BY seen_at DESC, id DESC LIMIT 100",
            (studio_id, teacher_id),
        )
        return list(cursor.fetchall())


def end_session(connection: Connection, studio_id: int, session_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM session WHERE studio_id = %s AND id = %s", (studio_id, session_id))


def end_session_of(connection: Connection, studio_id: int, teacher_id: int, session_id: int) -> bool:
    """Ends one of a teacher's; was it there?"""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM session WHERE studio_id = %s AND teacher_id = %s AND id = %s",
            (studio_id, teacher_id, session_id),
        )
        return cursor.rowcount > 0


def end_others(connection: Connection, studio_id: int, teacher_id: int, kept_id: int | None) -> int:
    """Ends every session of a teacher but one; gives how many."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM session WHERE studio_id = %s AND teacher_id = %s AND id <> %s",
            (studio_id, teacher_id, -1 if kept_id is None else kept_id),
        )
        return int(cursor.rowcount)
