"""Takes and their judgements."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row
from laptick.db.shelf import take_changed, takes_changed

_COLUMNS = (
    "take.id, take.piece_id, take.study_id, take.activity, take.settings, take.assigned_bpm, take.level,"
    " take.played_by, take.note, take.created_at, take.state, take.failure"
)
#: What was said of it last, as lists show it.
_JUDGED = "take.checker_version, take.status, take.judged_at, take.verdict, take.median_bpm, take.overruled"
#: What the file was called that it came in, or the recording that it was heard in, as lists show it.
_FILENAME = (
    "IF(take.played_by = 'file', JSON_VALUE(take.strikes, '$.filename'), (SELECT recording.filename FROM recording"
    " WHERE recording.studio_id = take.studio_id AND recording.take_id = take.id)) AS filename"
)


@dataclass(frozen=True)
class NewTake:
    """A take to be stored. ``client_key``: made up by the sender, so that what is sent twice is kept once;
    ``strikes``: ``None`` where they are not known yet."""

    piece_id: int
    study_id: int
    activity: str
    settings: dict[str, Any]
    assigned_bpm: float
    level: str
    strikes: dict[str, Any] | None
    played_by: str
    client_key: str | None = None


def take_sent_before(connection: Connection, studio_id: int, client_key: str | None) -> int | None:
    """The take that a sender's key belongs to, if it was stored before."""
    if client_key is None:
        return None
    with connection.cursor() as cursor:
        cursor.execute("SELECT id FROM take WHERE studio_id = %s AND client_key = %s", (studio_id, client_key))
        known = cursor.fetchone()
    return int(known["id"]) if known else None


def add_take(connection: Connection, studio_id: int, new: NewTake) -> int:
    """Stores what was played, waiting to be judged; gives the take's id."""
    with connection.cursor() as cursor:
        takes_changed(cursor, studio_id, new.piece_id)
        cursor.execute(
            "INSERT INTO take (studio_id, piece_id, study_id, activity, settings, assigned_bpm, level, strikes,"
            " played_by, note, client_key) VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, '', %s)",
            (
                studio_id,
                new.piece_id,
                new.study_id,
                new.activity,
                json.dumps(new.settings),
                new.assigned_bpm,
                new.level,
                None if new.strikes is None else json.dumps(new.strikes),
                new.played_by,
                new.client_key,
            ),
        )
        return int(cursor.lastrowid or 0)


def set_state(connection: Connection, studio_id: int, take_id: int, state: str, failure: str | None = None) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE take SET state = %s, failure = %s WHERE studio_id = %s AND id = %s",
            (state, failure and failure[:1000], studio_id, take_id),
        )


def set_created(connection: Connection, studio_id: int, take_id: int, created_at: datetime) -> None:
    """When it was made, where that is not now (UTC)."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE take SET created_at = %s WHERE studio_id = %s AND id = %s", (created_at, studio_id, take_id)
        )


def set_strikes(connection: Connection, studio_id: int, take_id: int, strikes: dict[str, Any]) -> None:
    """What was heard in a recording."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE take SET strikes = %s WHERE studio_id = %s AND id = %s", (json.dumps(strikes), studio_id, take_id)
        )


def _studies_of(cursor: Any, studio_id: int, piece_id: int, student_id: int) -> list[int]:
    cursor.execute(
        "SELECT id FROM study WHERE studio_id = %s AND piece_id = %s AND student_id = %s",
        (studio_id, piece_id, student_id),
    )
    return [int(row["id"]) for row in cursor.fetchall()]


def list_takes(
    connection: Connection,
    studio_id: int,
    piece_id: int,
    *,
    before_id: int | None = None,
    most: int | None = None,
    student_id: int | None = None,
) -> list[Row]:
    """A piece's takes with what was said of them, newest first: ``most`` of those before ``before_id``, or all; of one
    student, or of all."""
    with connection.cursor() as cursor:
        only, whose = "", tuple[int, ...]()
        if student_id is not None:
            # Those of the piece, from the newest on, and of these the student's: nothing is sorted.
            whose = tuple(_studies_of(cursor, studio_id, piece_id, student_id)) or (0,)
            only = f" AND take.study_id IN ({', '.join(['%s'] * len(whose))})"
        cursor.execute(
            f"SELECT {_COLUMNS}, {_JUDGED}, {_FILENAME} FROM take FORCE INDEX (take_newest) WHERE take.studio_id = %s"
            f" AND take.piece_id = %s AND take.deleted_at IS NULL AND take.id < %s{only}"
            " ORDER BY take.id DESC LIMIT %s",
            (
                studio_id,
                piece_id,
                _LAST if before_id is None else before_id,
                *whose,
                _LAST if most is None else most,
            ),
        )
        return [_decoded(row) for row in cursor.fetchall()]


def takes_of_student(
    connection: Connection, studio_id: int, student_id: int, *, before_id: int | None = None, most: int
) -> list[Row]:
    """A student's takes of pieces on the shelf (``title``) with what was said of them, newest first: ``most`` of those
    before ``before_id``."""
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, {_JUDGED}, {_FILENAME}, piece.title FROM study"
            " JOIN take ON take.studio_id = study.studio_id AND take.study_id = study.id"
            " JOIN piece ON piece.studio_id = take.studio_id AND piece.id = take.piece_id"
            " WHERE study.studio_id = %s AND study.student_id = %s AND take.deleted_at IS NULL"
            " AND piece.deleted_at IS NULL AND take.id < %s ORDER BY take.id DESC LIMIT %s",
            (studio_id, student_id, _LAST if before_id is None else before_id, most),
        )
        return [_decoded(row) for row in cursor.fetchall()]


#: After every row there is.
_LAST = 2**63 - 1


def clean_takes(connection: Connection, studio_id: int, study_id: int) -> list[Row]:
    """``id``, ``settings`` and ``created_at`` of a study's takes that are steady, the teacher's word before the
    checker's, oldest first."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, settings, created_at FROM take WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL"
            " AND COALESCE(overruled, status) = 'steady' ORDER BY id",
            (studio_id, study_id),
        )
        return [_decoded(row) for row in cursor.fetchall()]


def list_halts(connection: Connection, studio_id: int, study_id: int, least: int) -> list[Row]:
    """Where takes of a study that both hands played halted, as the checker found before all else: ``measure``,
    ``quarters`` into it and how many ``takes``, ``least`` of them; of those that the teacher passed none counts."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT JSON_VALUE(verdict, '$.place.measure') AS measure,"
            " JSON_VALUE(verdict, '$.place.offset') AS quarters, COUNT(*) AS takes FROM take"
            " WHERE studio_id = %s AND study_id = %s AND deleted_at IS NULL AND activity = 'play'"
            " AND JSON_VALUE(settings, '$.hands') = 'both' AND JSON_VALUE(verdict, '$.finding.code') = 'hesitation'"
            " AND COALESCE(overruled, '') <> 'steady'"
            " GROUP BY measure, quarters HAVING takes >= %s AND measure IS NOT NULL AND quarters IS NOT NULL"
            " ORDER BY takes DESC, MIN(id) LIMIT 100",
            (studio_id, study_id, least),
        )
        return list(cursor.fetchall())


def count_takes(connection: Connection, studio_id: int, piece_id: int) -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT COUNT(*) AS takes FROM take WHERE studio_id = %s AND piece_id = %s AND deleted_at IS NULL",
            (studio_id, piece_id),
        )
        row = cursor.fetchone()
        return 0 if row is None else int(row["takes"])


def get_take(connection: Connection, studio_id: int, take_id: int) -> Row:
    """A take that is not deleted, its strikes, whose it is (``student_id``, ``student``), and its newest judgement's
    document.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, take.strikes, {_JUDGED}, (SELECT UNCOMPRESS(judgement.document) FROM judgement"
            " WHERE judgement.studio_id = take.studio_id AND judgement.take_id = take.id"
            " ORDER BY judgement.id DESC LIMIT 1) AS document, student.id AS student_id, student.name AS student"
            " FROM take"
            " JOIN study ON study.studio_id = take.studio_id AND study.id = take.study_id"
            " JOIN student ON student.studio_id = study.studio_id AND student.id = study.student_id"
            " WHERE take.studio_id = %s AND take.id = %s AND take.deleted_at IS NULL",
            (studio_id, take_id),
        )
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this take is not here; it may have been deleted.", todo="Go back to the piece.")
    return _decoded(row)


@dataclass(frozen=True)
class Before:
    """Earlier takes to be looked for: of a study, of an activity, of these bars (``None``: all), or of a spot of them,
    by these hands, and before a take (``None``: any)."""

    study_id: int
    activity: str
    measures: str | None
    within: str | None
    hands: str
    take_id: int | None


def previous_codes(connection: Connection, studio_id: int, before: Before) -> frozenset[str] | None:
    """Finding codes of the newest followed take of the same activity, bars and hands, or ``None``."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT take.codes FROM take WHERE take.studio_id = %s AND take.study_id = %s"
            " AND take.activity = %s AND JSON_VALUE(take.settings, '$.measures') <=> %s"
            " AND JSON_VALUE(take.settings, '$.within') <=> %s"
            " AND JSON_VALUE(take.settings, '$.hands') <=> %s AND take.deleted_at IS NULL"
            " AND take.status <> 'could-not-follow' AND (%s IS NULL OR take.id < %s)"
            " ORDER BY take.id DESC LIMIT 1",
            (
                studio_id,
                before.study_id,
                before.activity,
                before.measures,
                before.within,
                before.hands,
                before.take_id,
                before.take_id,
            ),
        )
        row = cursor.fetchone()
    if row is None:
        return None
    return frozenset(json.loads(row["codes"]))


def takes_alone(connection: Connection, studio_id: int, before: Before) -> dict[str, Row]:
    """The newest followed take of each hand alone of the same activity, whatever its bars."""
    found: dict[str, Row] = {}
    with connection.cursor() as cursor:
        for hand in ("right", "left"):
            cursor.execute(
                f"SELECT {_COLUMNS}, take.strikes FROM take WHERE take.studio_id = %s AND take.study_id = %s"
                " AND take.activity = %s AND JSON_VALUE(take.settings, '$.hands') = %s AND take.deleted_at IS NULL"
                " AND take.status <> 'could-not-follow' AND (%s IS NULL OR take.id < %s)"
                " ORDER BY take.id DESC LIMIT 1",
                (studio_id, before.study_id, before.activity, hand, before.take_id, before.take_id),
            )
            row = cursor.fetchone()
            if row is not None:
                found[hand] = _decoded(row)
    return found


def set_settings(connection: Connection, studio_id: int, take_id: int, settings: dict[str, Any]) -> None:
    """What a take is held to be, corrected afterwards: another passage than was asked for."""
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
        cursor.execute(
            "UPDATE take SET settings = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (json.dumps(settings), studio_id, take_id),
        )


def set_note(connection: Connection, studio_id: int, take_id: int, note: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE take SET note = %s WHERE studio_id = %s AND id = %s AND deleted_at IS NULL",
            (note, studio_id, take_id),
        )


def mark_take_deleted(connection: Connection, studio_id: int, take_id: int, *, deleted: bool) -> None:
    """Deletes a take, or brings it back.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    with connection.cursor() as cursor:
        take_changed(cursor, studio_id, take_id)
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
    return row
