"""Students, pieces and takes by words: every word somewhere in a name, title or note, in any case and without accents
(as the collation of the tables compares).

Takes are found by what their student and piece are called, and by their notes: the first by way of their studies, of
which there are few, the second among those that have a note; none of it reads all takes.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from laptick.db.engine.connect import Connection, Row
from laptick.db.people.students import as_itself


@dataclass(frozen=True)
class Found:
    """``takes``: with ``title`` and ``student``, the newest first."""

    students: list[Row]
    pieces: list[Row]
    takes: list[Row]


def search(connection: Connection, studio_id: int, words: list[str], most: int) -> Found:
    """At most ``most`` of each kind."""
    patterns = [f"%{as_itself(word)}%" for word in words]
    return Found(
        _rows(
            connection,
            "SELECT id, name, is_paused FROM student WHERE studio_id = %s AND deleted_at IS NULL"
            f" AND {_all(['name'], patterns)} ORDER BY name, id LIMIT %s",
            studio_id, *patterns, most,
        ),
        _rows(
            connection,
            "SELECT id, title, composer FROM piece WHERE studio_id = %s AND deleted_at IS NULL"
            f" AND {_all(['title', 'composer'], patterns)} ORDER BY title, id LIMIT %s",
            studio_id, *_each(patterns, 2), most,
        ),
        _takes(connection, studio_id, patterns, most),
    )  # fmt: skip


_TAKE = (
    "SELECT take.id, take.piece_id, take.note, take.created_at, take.status, take.overruled, take.state, piece.title,"
    " study.student_id, student.name AS student FROM take"
    " JOIN piece ON piece.studio_id = take.studio_id AND piece.id = take.piece_id"
    " JOIN study ON study.studio_id = take.studio_id AND study.id = take.study_id"
    " JOIN student ON student.studio_id = study.studio_id AND student.id = study.student_id"
)
_ALIVE = "take.deleted_at IS NULL AND piece.deleted_at IS NULL AND student.deleted_at IS NULL"

#: So many studies whose names hold all the words are gone through for their newest takes.
_MOST_STUDIES = 200


def _takes(connection: Connection, studio_id: int, patterns: list[str], most: int) -> list[Row]:
    studies = _rows(
        connection,
        "SELECT study.id FROM study JOIN student ON student.studio_id = study.studio_id"
        " AND student.id = study.student_id JOIN piece ON piece.studio_id = study.studio_id"
        " AND piece.id = study.piece_id WHERE study.studio_id = %s AND student.deleted_at IS NULL"
        f" AND piece.deleted_at IS NULL AND {_all(['student.name', 'piece.title'], patterns)}"
        " ORDER BY study.id DESC LIMIT %s",
        studio_id, *_each(patterns, 2), _MOST_STUDIES,
    )  # fmt: skip
    ids: list[int] = []
    for study in studies:
        ids += [
            row["id"]
            for row in _rows(
                connection,
                "SELECT id FROM take WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL"
                " ORDER BY created_at DESC LIMIT %s",
                studio_id, study["id"], most,
            )
        ]  # fmt: skip
    noted = _rows(
        connection,
        f"{_TAKE.replace('FROM take', 'FROM take FORCE INDEX (take_noted)')} WHERE take.studio_id = %s"
        f" AND take.is_noted = TRUE AND {_ALIVE} AND {_all(['take.note', 'student.name', 'piece.title'], patterns)}"
        " ORDER BY take.id DESC LIMIT %s",
        studio_id, *_each(patterns, 3), most,
    )  # fmt: skip
    newest = sorted(ids, reverse=True)[:most]
    marks = ", ".join(["%s"] * len(newest))
    named = _rows(connection, f"{_TAKE} WHERE take.studio_id = %s AND take.id IN ({marks}) AND {_ALIVE}", studio_id,
                  *newest) if newest else []  # fmt: skip
    both = {row["id"]: row for row in (*named, *noted)}
    return [both[take_id] for take_id in sorted(both, reverse=True)][:most]


def _all(columns: list[str], patterns: list[str]) -> str:
    """Every pattern in some of the columns."""
    return " AND ".join("(" + " OR ".join(f"{column} LIKE %s" for column in columns) + ")" for _ in patterns)


def _each(patterns: list[str], times: int) -> list[str]:
    return [pattern for pattern in patterns for _ in range(times)]


def _rows(connection: Connection, sql: str, *values: Any) -> list[Row]:
    with connection.cursor() as cursor:
        cursor.execute(sql, values)
        return list(cursor.fetchall())
