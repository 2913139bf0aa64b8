"""What was removed and can be put back: pieces, takes, listenings, students; and its going for good after a while."""

from __future__ import annotations

from laptick.db.engine.connect import Connection, Row
from laptick.db.people.audit import erase_student

#: For so many days it can be put back.
KEPT_DAYS = 30

#: So many of a kind are let go at once: the others at the next turn.
_MOST_AT_ONCE = 200


def list_removed(connection: Connection, studio_id: int, most: int) -> list[Row]:
    """``kind``, ``id``, ``words`` (title or name), ``of`` (whose, of which piece) and ``deleted_at``, the newest first.
    What hangs on a piece that was removed comes back with it, and is not listed apart."""
    with connection.cursor() as cursor:
        cursor.execute(
            "(SELECT 'piece' AS kind, id, title AS words, NULL AS whose, deleted_at, NULL AS created_at FROM piece"
            " WHERE studio_id = %(studio)s AND deleted_at > UTC_TIMESTAMP(6) - INTERVAL %(days)s DAY)"
            " UNION ALL (SELECT 'student', id, name, NULL, deleted_at, NULL FROM student"
            " WHERE studio_id = %(studio)s AND deleted_at > UTC_TIMESTAMP(6) - INTERVAL %(days)s DAY)"
            " UNION ALL (SELECT 'take', take.id, piece.title, student.name, take.deleted_at, take.created_at FROM take"
            " JOIN piece ON piece.studio_id = take.studio_id AND piece.id = take.piece_id"
            " JOIN study ON study.studio_id = take.studio_id AND study.id = take.study_id"
            " JOIN student ON student.studio_id = study.studio_id AND student.id = study.student_id"
            " WHERE take.studio_id = %(studio)s AND take.deleted_at > UTC_TIMESTAMP(6) - INTERVAL %(days)s DAY"
            " AND piece.deleted_at IS NULL AND student.deleted_at IS NULL)"
            " UNION ALL (SELECT 'listening', listening.id, piece.title, NULL, listening.deleted_at,"
            " listening.created_at FROM listening"
            " JOIN piece ON piece.studio_id = listening.studio_id AND piece.id = listening.piece_id"
            " WHERE listening.studio_id = %(studio)s AND piece.deleted_at IS NULL"
            " AND listening.deleted_at > UTC_TIMESTAMP(6) - INTERVAL %(days)s DAY)"
            " ORDER BY deleted_at DESC, id DESC LIMIT %(most)s",
            {"studio": studio_id, "days": KEPT_DAYS, "most": most},
        )
        return list(cursor.fetchall())


def forget_removed(connection: Connection) -> int:
    """Lets go for good of what was removed long enough ago, in every studio; gives how much."""
    gone = 0
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT studio_id, id FROM student WHERE deleted_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY LIMIT %s",
            (KEPT_DAYS, _MOST_AT_ONCE),
        )
        for row in list(cursor.fetchall()):
            erase_student(connection, row["studio_id"], row["id"])
            gone += 1
        for table in ("listening", "take"):
            cursor.execute(
                f"DELETE FROM {table} WHERE deleted_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY LIMIT %s",
                (KEPT_DAYS, _MOST_AT_ONCE),
            )
            gone += cursor.rowcount
        cursor.execute(
            "SELECT id FROM piece WHERE deleted_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY LIMIT %s",
            (KEPT_DAYS, _MOST_AT_ONCE),
        )
        for row in list(cursor.fetchall()):
            # The piece points at a state of its pencil, and that at the piece.
            cursor.execute("UPDATE piece SET pencil_version_id = NULL WHERE id = %s", (row["id"],))
            cursor.execute("DELETE FROM piece WHERE id = %s", (row["id"],))
            gone += 1
    return gone
