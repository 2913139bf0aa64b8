"""Takes and their judgements."""

from __future__ import annotations

import json
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row, transaction
from laptick.db.judgements import OVERRULED

_COLUMNS = (
    "take.id, take.piece_id, take.rung, take.settings, take.assigned_bpm, take.level, take.played_by, take.note,"
    " take.created_at"
)
_NEWEST = (
    "JOIN judgement ON judgement.take_id = take.id AND judgement.studio_id = take.studio_id AND judgement.id ="
    " (SELECT MAX(j.id) FROM judgement j WHERE j.take_id = take.id AND j.studio_id = take.studio_id)"
)
_JUDGED = f"judgement.checker_version, judgement.status, judgement.judged_at, {OVERRULED} AS overruled"


def add_take(
    connection: Connection,
    studio_id: int,
    *,
    piece_id: int,
    rung: str,
    settings: dict[str, Any],
    assigned_bpm: float,
    level: str,
    strikes: dict[str, Any],
    played_by: str,
    client_key: str | None,
    checker_version: str,
    status: str,
    document: dict[str, Any],
) -> int:
    """Stores a take and its first judgement together, or neither.

    A ``client_key`` that was stored before (a request sent twice) gives the take it belongs to.
    """
    with transaction(connection) as cursor:
        if client_key is not None:
            cursor.execute("SELECT id FROM take WHERE studio_id = %s AND client_key = %s", (studio_id, client_key))
            known = cursor.fetchone()
            if known:
                return int(known["id"])
        cursor.execute(
            "INSERT INTO take (studio_id, piece_id, rung, settings, assigned_bpm, level, strikes, played_by, note,"
            " client_key) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, '', %s)",
            (
                studio_id,
                piece_id,
                rung,
                json.dumps(settings),
                assigned_bpm,
                level,
                json.dumps(strikes),
                played_by,
                client_key,
            ),
        )
        take_id = int(cursor.lastrowid or 0)
        _insert_judgement(cursor, studio_id, take_id, checker_version, status, document)
        return take_id


def add_judgement(
    connection: Connection,
    studio_id: int,
    take_id: int,
    *,
    checker_version: str,
    status: str,
    document: dict[str, Any],
) -> None:
    """A further judgement of a take; the earlier ones are kept."""
    with transaction(connection) as cursor:
        _insert_judgement(cursor, studio_id, take_id, checker_version, status, document)


def _insert_judgement(
    cursor: Any, studio_id: int, take_id: int, checker_version: str, status: str, document: dict[str, Any]
) -> None:
    cursor.execute(
        "INSERT INTO judgement (studio_id, take_id, checker_version, status, document) VALUES (%s, %s, %s, %s, %s)",
        (studio_id, take_id, checker_version, status, json.dumps(document)),
    )


def list_takes(connection: Connection, studio_id: int, piece_id: int) -> list[Row]:
    """A piece's takes with their newest judgement, newest first."""
    with transaction(connection) as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, {_JUDGED}, JSON_EXTRACT(judgement.document, '$.verdict') AS verdict,"
            f" JSON_EXTRACT(judgement.document, '$.tempo.median_bpm') AS median_bpm FROM take {_NEWEST}"
            " WHERE take.studio_id = %s AND take.piece_id = %s AND take.deleted_at IS NULL"
            " ORDER BY take.created_at DESC, take.id DESC",
            (studio_id, piece_id),
        )
        return [_decoded(row) for row in cursor.fetchall()]


def statuses_by_piece(connection: Connection, studio_id: int) -> dict[int, list[Row]]:
    """Rung, settings and status of every piece's takes, newest first; the teacher's word before the checker's."""
    with transaction(connection) as cursor:
        cursor.execute(
            f"SELECT take.piece_id, take.rung, take.settings, COALESCE({OVERRULED}, judgement.status) AS status"
            f" FROM take {_NEWEST}"
            " WHERE take.studio_id = %s AND take.deleted_at IS NULL ORDER BY take.created_at DESC, take.id DESC",
            (studio_id,),
        )
        result: dict[int, list[Row]] = {}
        for row in cursor.fetchall():
            result.setdefault(row["piece_id"], []).append(_decoded(row))
        return result


def get_take(connection: Connection, studio_id: int, take_id: int) -> Row:
    """A take that is not deleted, its strikes, and its newest judgement's document.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with transaction(connection) as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, take.strikes, {_JUDGED}, judgement.document FROM take {_NEWEST}"
            " WHERE take.studio_id = %s AND take.id = %s AND take.deleted_at IS NULL",
            (studio_id, take_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this take is not here; it may have been deleted.", todo="Go back to the piece.")
    return _decoded(row)


def previous_codes(
    connection: Connection, studio_id: int, piece_id: int, settings: dict[str, Any], before_id: int | None
) -> frozenset[str] | None:
    """Finding codes of the newest followed take at the same rung, bars and hands (before a given take), or
    ``None``."""
    with transaction(connection) as cursor:
        cursor.execute(
            f"SELECT judgement.document FROM take {_NEWEST} WHERE take.studio_id = %s AND take.piece_id = %s"
            " AND take.rung = %s AND JSON_VALUE(take.settings, '$.measures') <=> %s"
            " AND JSON_VALUE(take.settings, '$.hands') <=> %s AND take.deleted_at IS NULL"
            " AND judgement.status <> 'could-not-follow' AND (%s IS NULL OR take.id < %s)"
            " ORDER BY take.id DESC LIMIT 1",
            (
                studio_id,
                piece_id,
                settings["rung"],
                settings.get("measures"),
                settings.get("hands"),
                before_id,
                before_id,
            ),
        )
        row = cursor.fetchone()
    if row is None:
        return None
    return frozenset(finding["code"] for finding in json.loads(row["document"])["findings"])


def takes_alone(
    connection: Connection, studio_id: int, piece_id: int, rung: str, before_id: int | None
) -> dict[str, Row]:
    """The newest followed take of each hand alone at a rung (before a given take), whatever its bars."""
    found: dict[str, Row] = {}
    with transaction(connection) as cursor:
        for hand in ("right", "left"):
            cursor.execute(
                f"SELECT {_COLUMNS}, take.strikes FROM take {_NEWEST} WHERE take.studio_id = %s AND take.piece_id = %s"
                " AND take.rung = %s AND JSON_VALUE(take.settings, '$.hands') = %s AND take.deleted_at IS NULL"
                " AND judgement.status <> 'could-not-follow' AND (%s IS NULL OR take.id < %s)"
                " ORDER BY take.id DESC LIMIT 1",
                (studio_id, piece_id, rung, hand, before_id, before_id),
            )
            row = cursor.fetchone()
            if row is not None:
                found[hand] = _decoded(row)
    return found


def set_settings(connection: Connection, studio_id: int, take_id: int, settings: dict[str, Any]) -> None:
    """What a take is held to be, corrected afterwards: another passage than was asked for."""
    with transaction(connection) as cursor:
        cursor.execute(
            "UPDATE take SET settings = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (json.dumps(settings), studio_id, take_id),
        )


def set_note(connection: Connection, studio_id: int, take_id: int, note: str) -> None:
    with transaction(connection) as cursor:
        cursor.execute(
            "UPDATE take SET note = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (note, studio_id, take_id),
        )


def mark_take_deleted(connection: Connection, studio_id: int, take_id: int, *, deleted: bool) -> None:
    """Deletes a take, or brings it back.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with transaction(connection) as cursor:
        cursor.execute("SELECT 1 FROM take WHERE studio_id = %s AND id = %s FOR UPDATE", (studio_id, take_id))
        if cursor.fetchone() is None:
            raise NotFoundError("this take is not here.")
        cursor.execute(
            "UPDATE take SET deleted_at = IF(%s, UTC_TIMESTAMP(6), NULL) WHERE studio_id = %s AND id = %s",
            (deleted, studio_id, take_id),
        )


def _decoded(row: Row) -> Row:
    for name in ("settings", "strikes", "document", "verdict"):
        if row.get(name) is not None:
            row[name] = json.loads(row[name])
    if row.get("median_bpm") is not None:
        row["median_bpm"] = None if row["median_bpm"] == "null" else float(row["median_bpm"])
    return row
