"""Judgements beside the newest one: earlier versions' verdicts, the teacher's own word, what is to be judged anew."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from laptick.db.engine.connect import Connection, Row
from laptick.db.shelf import take_changed


@dataclass(frozen=True)
class NewJudgement:
    """``document``: the whole; ``verdict``, ``codes`` (of its findings) and ``median_bpm`` stand in it too, and are
    kept beside it for lists."""

    checker_version: str
    status: str
    document: dict[str, Any]
    verdict: dict[str, Any]
    codes: list[str]
    median_bpm: float | None


def begin_first(connection: Connection, studio_id: int, take_id: int) -> bool:
    """Holds a take that waits to be judged; ``False``: another has judged it."""
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
        cursor.execute(
            "UPDATE take SET state = 'judged' WHERE studio_id = %s AND id = %s AND state = 'waiting'",
            (studio_id, take_id),
        )
        return bool(cursor.rowcount)


def add_judgement(connection: Connection, studio_id: int, take_id: int, new: NewJudgement) -> None:
    """A judgement of a take; of the earlier ones all but their documents is kept."""
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
        cursor.execute(
            "UPDATE judgement SET document = NULL WHERE studio_id = %s AND take_id = %s", (studio_id, take_id)
        )
        cursor.execute(
            "INSERT INTO judgement (studio_id, take_id, checker_version, status, document, verdict, codes, median_bpm)"
            " VALUES (%s, %s, %s, %s, COMPRESS(%s), %s, %s, %s)",
            (
                studio_id,
                take_id,
                new.checker_version,
                new.status,
                json.dumps(new.document),
                json.dumps(new.verdict),
                json.dumps(new.codes),
                new.median_bpm,
            ),
        )
        cursor.execute(
            "UPDATE take JOIN judgement ON judgement.id = LAST_INSERT_ID() SET take.state = 'judged',"
            " take.failure = NULL, take.status = judgement.status, take.checker_version = judgement.checker_version,"
            " take.judged_at = judgement.judged_at, take.verdict = judgement.verdict, take.codes = judgement.codes,"
            " take.median_bpm = judgement.median_bpm WHERE take.studio_id = %s AND take.id = %s",
            (studio_id, take_id),
        )


def earlier_judgements(connection: Connection, studio_id: int, take_id: int) -> list[Row]:
    """A take's judgements before the newest, newest first, with their verdicts."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT checker_version, status, judged_at, verdict FROM judgement"
            " WHERE studio_id = %s AND take_id = %s ORDER BY id DESC LIMIT 50 OFFSET 1",
            (studio_id, take_id),
        )
        return [{**row, "verdict": row["verdict"] and json.loads(row["verdict"])} for row in cursor.fetchall()]


def outdated_takes(connection: Connection, studio_id: int, checker_version: str) -> list[Row]:
    """The takes, oldest first, whose newest judgement was made by another version of the checker: their ``id``,
    ``status``, ``created_at``, and the ``piece_id`` and ``title`` of a piece that is still there."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT take.id, take.created_at, take.piece_id, piece.title, take.status FROM take"
            " JOIN piece ON piece.id = take.piece_id AND piece.studio_id = take.studio_id AND piece.deleted_at IS NULL"
            " WHERE take.studio_id = %s AND take.deleted_at IS NULL AND take.checker_version <> %s",
            (studio_id, checker_version),
        )
        return sorted(cursor.fetchall(), key=lambda row: row["id"])  # their index is in another order


def set_overrule(connection: Connection, studio_id: int, take_id: int, *, status: str, reason: str) -> None:
    """The teacher's word; an earlier one is kept, withdrawn."""
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
        _withdraw(cursor, studio_id, take_id)
        cursor.execute(
            "INSERT INTO overrule (studio_id, take_id, status, reason) VALUES (%s, %s, %s, %s)",
            (studio_id, take_id, status, reason),
        )
        _set_overruled(cursor, studio_id, take_id, status)


def withdraw_overrule(connection: Connection, studio_id: int, take_id: int) -> None:
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
        _withdraw(cursor, studio_id, take_id)
        _set_overruled(cursor, studio_id, take_id, None)


def _set_overruled(cursor: Any, studio_id: int, take_id: int, status: str | None) -> None:
    cursor.execute("UPDATE take SET overruled = %s WHERE studio_id = %s AND id = %s", (status, studio_id, take_id))


def _withdraw(cursor: Any, studio_id: int, take_id: int) -> None:
    cursor.execute(
        "UPDATE overrule SET withdrawn_at = UTC_TIMESTAMP(6) WHERE studio_id = %s AND take_id = %s"
        " AND withdrawn_at IS NULL",
        (studio_id, take_id),
    )


def get_overrule(connection: Connection, studio_id: int, take_id: int) -> Row | None:
    """The word that holds, or ``None``."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT status, reason, created_at FROM overrule WHERE studio_id = %s AND take_id = %s"
            " AND withdrawn_at IS NULL ORDER BY id DESC LIMIT 1",
            (studio_id, take_id),
        )
        row: Row | None = cursor.fetchone()
        return row
