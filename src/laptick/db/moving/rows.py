"""Rows read and added by the facts of their tables."""

from __future__ import annotations

from typing import Any

from laptick.db.engine.connect import Connection, Row
from laptick.db.moving.facts import COUNT_CHOICE, Kind, Moved


def read_rows(connection: Connection, studio_id: int, moved: Moved, **belongs: int | list[int] | None) -> list[Row]:
    """The rows of a table that belong to others (column → id, or ids), in the order in which they came; with ``apart``
    columns and, where there is one, ``id``."""
    names = [*(["id"] if moved.has_id else []), *sorted(moved.apart)]
    read = [f"UNCOMPRESS({c.name}) AS {c.name}" if c.kind is Kind.PACKED else c.name for c in moved.columns]
    where, values = "", list[int]()
    for name, one in belongs.items():
        if one is None:
            where += f" AND {name} IS NULL"
            continue
        several = one if isinstance(one, list) else [one]
        where += f" AND {name} IN ({', '.join(['%s'] * len(several))})"
        values += several
    order = "id" if moved.has_id else moved.columns[0].name
    own = "id" if moved.table == "studio" else "studio_id"
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {', '.join([*names, *read])} FROM {moved.table} WHERE {own} = %s{where} ORDER BY {order}",
            (studio_id, *values),
        )
        return list(cursor.fetchall())


def alive_ids(connection: Connection, studio_id: int, table: str) -> list[int]:
    """Ids of what was not deleted, in the order in which it came."""
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT id FROM {table} WHERE studio_id = %s AND deleted_at IS NULL ORDER BY id", (studio_id,))
        return [row["id"] for row in cursor.fetchall()]


def takes_of_study(connection: Connection, studio_id: int, study_id: int) -> list[int]:
    """Ids of takes that are all here and were not deleted, in order."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id FROM take WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL AND state <> 'coming'"
            " ORDER BY id",
            (studio_id, study_id),
        )
        return [row["id"] for row in cursor.fetchall()]


def was_used(connection: Connection, studio_id: int, study_id: int) -> bool:
    """Was anything played or said of a study?"""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT 1 FROM take WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL)"
            " OR EXISTS (SELECT 1 FROM rung_event WHERE studio_id = %s AND study_id = %s)"
            " OR EXISTS (SELECT 1 FROM listening WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL)"
            " AS used",
            (studio_id, study_id) * 3,
        )
        return bool((cursor.fetchone() or {"used": 0})["used"])


def add_row(
    connection: Connection, studio_id: int, moved: Moved, values: dict[str, Any], **apart: Any
) -> int:  # fmt: skip
    """Adds a row; gives its id. ``apart``: columns that travel otherwise."""
    packed = {column.name for column in moved.columns if column.kind is Kind.PACKED}
    row = {"studio_id": studio_id, **values, **apart}
    marks = ", ".join("COMPRESS(%s)" if name in packed else "%s" for name in row)
    with connection.cursor() as cursor:
        cursor.execute(f"INSERT INTO {moved.table} ({', '.join(row)}) VALUES ({marks})", tuple(row.values()))
        return int(cursor.lastrowid or 0)


def put_studio_counts(connection: Connection, studio_id: int, values: dict[str, Any]) -> None:
    """How the studio counts, in place of what there is."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM count_choice WHERE studio_id = %s AND piece_id IS NULL", (studio_id,))
    add_row(connection, studio_id, COUNT_CHOICE, values)


def clear_schools(connection: Connection, studio_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM school_choice WHERE studio_id = %s", (studio_id,))


def hold_pencil(connection: Connection, studio_id: int, piece_id: int, version_id: int) -> None:
    """The state of the pencil that holds."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE piece SET pencil_version_id = %s WHERE studio_id = %s AND id = %s",
            (version_id, studio_id, piece_id),
        )


def take_over_built_in(connection: Connection, studio_id: int, student_id: int, values: dict[str, Any]) -> None:
    """The student that every studio has becomes the one of these values."""
    names = [name for name in values if name != "is_built_in"]
    with connection.cursor() as cursor:
        cursor.execute(
            f"UPDATE student SET {', '.join(f'{name} = %s' for name in names)} WHERE studio_id = %s AND id = %s",
            (*(values[name] for name in names), studio_id, student_id),
        )


def tell_takes(connection: Connection, studio_id: int, first_id: int) -> None:
    """Sets, of takes from an id on, what lists show: by their newest judgement, and the teacher's word that holds."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE take JOIN (SELECT take_id, MAX(id) AS id FROM judgement WHERE studio_id = %s AND take_id >= %s"
            " GROUP BY take_id) AS newest ON newest.take_id = take.id JOIN judgement ON judgement.id = newest.id"
            " SET take.status = judgement.status, take.checker_version = judgement.checker_version,"
            " take.judged_at = judgement.judged_at, take.verdict = judgement.verdict, take.codes = judgement.codes,"
            " take.median_bpm = judgement.median_bpm WHERE take.studio_id = %s",
            (studio_id, first_id, studio_id),
        )
        cursor.execute(
            "UPDATE take JOIN (SELECT take_id, MAX(id) AS id FROM overrule WHERE studio_id = %s AND take_id >= %s"
            " AND withdrawn_at IS NULL GROUP BY take_id) AS newest ON newest.take_id = take.id"
            " JOIN overrule ON overrule.id = newest.id SET take.overruled = overrule.status WHERE take.studio_id = %s",
            (studio_id, first_id, studio_id),
        )


def is_empty(connection: Connection, studio_id: int) -> bool:
    """Has nobody put anything into this studio yet?"""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT EXISTS (SELECT 1 FROM piece WHERE studio_id = %s) OR EXISTS (SELECT 1 FROM student"
            " WHERE studio_id = %s AND NOT is_built_in) OR EXISTS (SELECT 1 FROM voice_word WHERE studio_id = %s)"
            " AS has_any",
            (studio_id, studio_id, studio_id),
        )
        return not (cursor.fetchone() or {"has_any": 1})["has_any"]


def loose_consents(connection: Connection, studio_id: int, student_id: int) -> list[int]:
    """Ids of consents noted of a name only, by which something of this student was recorded."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT DISTINCT consent.id FROM consent JOIN recording ON recording.studio_id = consent.studio_id"
            " AND recording.consent_id = consent.id JOIN take ON take.studio_id = recording.studio_id"
            " AND take.id = recording.take_id JOIN study ON study.studio_id = take.studio_id"
            " AND study.id = take.study_id WHERE consent.studio_id = %s AND consent.student_id IS NULL"
            " AND study.student_id = %s",
            (studio_id, student_id),
        )
        return [row["id"] for row in cursor.fetchall()]
