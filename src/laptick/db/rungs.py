"""What happened at a study's rungs, and what that comes to. Events are only ever added."""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from typing import Any

from laptick.db.engine.connect import Connection, Row

_COLUMNS = "rung, kind, day, said_by, take_id, outcome, bpm, at_target, feel, why"


@dataclass(frozen=True)
class NewEvent:
    """One thing that happened at a rung; see ``core.practice.ladder.events``."""

    rung: str
    kind: str
    day: int
    said_by: str
    take_id: int | None = None
    outcome: str | None = None
    bpm: float | None = None
    at_target: bool = False
    feel: str | None = None
    why: str = ""


def add_events(connection: Connection, studio_id: int, study_id: int, events: Iterable[NewEvent]) -> None:
    rows = [
        (studio_id, study_id, e.rung, e.kind, e.day, e.said_by[:200], e.take_id, e.outcome, e.bpm, e.at_target, e.feel,
         e.why[:1000])
        for e in events
    ]  # fmt: skip
    if rows:
        with connection.cursor() as cursor:
            cursor.executemany(
                f"INSERT INTO rung_event (studio_id, study_id, {_COLUMNS})"
                " VALUES (%s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s, %s)",
                rows,
            )


def list_events(
    connection: Connection, studio_id: int, study_id: int, rungs: Collection[str] | None = None
) -> dict[str, list[Row]]:
    """A study's events by rung, in order, as they are now (whoever folds them holds the study); ``rungs``: only of
    these."""
    if rungs is not None and not rungs:
        return {}
    only = "" if rungs is None else f" AND rung IN ({', '.join(['%s'] * len(rungs))})"
    with connection.cursor() as cursor:
        cursor.execute(
            f"SELECT {_COLUMNS}, created_at FROM rung_event WHERE studio_id = %s AND study_id = %s{only} ORDER BY id"
            " LOCK IN SHARE MODE",
            (studio_id, study_id, *(rungs or ())),
        )
        found: dict[str, list[Row]] = {}
        for row in cursor.fetchall():
            found.setdefault(row["rung"], []).append(row)
        return found


def rungs_of_take(connection: Connection, studio_id: int, take_id: int) -> list[str]:
    """The rungs at which something is known of a take."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT DISTINCT rung FROM rung_event WHERE studio_id = %s AND take_id = %s", (studio_id, take_id)
        )
        return [row["rung"] for row in cursor.fetchall()]


@dataclass(frozen=True)
class NewState:
    """The fold of a rung's events; ``state``: all of it, as a document."""

    rung: str
    gate: str
    passed_day: int | None
    passed_by: str
    state: dict[str, Any]


def put_states(connection: Connection, studio_id: int, study_id: int, states: Iterable[NewState]) -> None:
    rows = [(studio_id, study_id, s.rung, s.gate, s.passed_day, s.passed_by[:200], json.dumps(s.state)) for s in states]
    if rows:
        with connection.cursor() as cursor:
            cursor.executemany(
                "INSERT INTO rung_state (studio_id, study_id, rung, gate, passed_day, passed_by, state)"
                " VALUES (%s, %s, %s, %s, %s, %s, %s) ON DUPLICATE KEY UPDATE gate = VALUES(gate),"
                " passed_day = VALUES(passed_day), passed_by = VALUES(passed_by), state = VALUES(state)",
                rows,
            )


def every_state(connection: Connection, studio_id: int) -> list[Row]:
    """What the rungs of all studies have come to; ``state`` as it is stored."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT study_id, rung, gate, passed_day, passed_by, state FROM rung_state WHERE studio_id = %s",
            (studio_id,),
        )
        return list(cursor.fetchall())


def list_states(connection: Connection, studio_id: int, study_id: int) -> dict[str, Row]:
    """What a study's rungs have come to, by rung; ``state`` as it is stored."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT rung, gate, passed_day, passed_by, state FROM rung_state WHERE studio_id = %s AND study_id = %s",
            (studio_id, study_id),
        )
        return {row["rung"]: row for row in cursor.fetchall()}
