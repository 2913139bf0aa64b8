"""The queue of jobs: asked for by a studio, claimed by workers, finished by whoever still holds the claim.

A claim is one short transaction of its own under READ COMMITTED, which skips what others are claiming: under the
server's usual level a look at an empty queue would lock the gap that the next job is put into. While a job is worked
on, nothing is locked; its lease says that somebody is at it, and is renewed.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import NotFoundError
from laptick.core.base.units import Seconds
from laptick.db.engine.connect import Connection, Row

#: How often a job is begun without getting further before it has failed.
MOST_TRIES = 3

#: How long a claim holds unless it is renewed.
LEASE_S: Seconds = 20.0

#: What is said of a job that was begun too often.
BROKE_OFF = {"code": "fault", "what": "it broke off several times. That is a fault of ours.", "todo": "Try again."}

_COLUMNS = "id, studio_id, kind, job_key, asked, state, progress, whole, result, error, created_at, finished_at"


@dataclass(frozen=True)
class NewJob:
    """``key``: of two with the same key there is one; ``asked``: what the kind needs to know; ``due_in_s``: not to be
    begun before."""

    kind: str
    key: str
    asked: dict[str, Any]
    due_in_s: Seconds = 0.0


@dataclass(frozen=True)
class Claim:
    """A job in somebody's hands: ``attempt`` tells this claim from all others."""

    id: int
    studio_id: int
    kind: str
    asked: dict[str, Any]
    attempt: int
    progress: int
    whole: int
    result: Any


def add_job(connection: Connection, studio_id: int, new: NewJob) -> int:
    """Puts a job into the queue; gives its id. One of that key that waits or is being worked on is left as it is, one
    that has ended is begun anew."""
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO job (studio_id, kind, job_key, asked, due_at)"
            " VALUES (%s, %s, %s, %s, UTC_TIMESTAMP(6) + INTERVAL %s MICROSECOND)"
            # The assignments are made in this order: the state is changed last, for the others ask for it.
            " ON DUPLICATE KEY UPDATE id = LAST_INSERT_ID(id),"
            " due_at = IF(state IN ('waiting', 'running'), LEAST(due_at, VALUE(due_at)), VALUE(due_at)),"
            " asked = IF(state IN ('waiting', 'running'), asked, VALUE(asked)),"
            " tries = IF(state IN ('waiting', 'running'), tries, 0),"
            " progress = IF(state IN ('waiting', 'running'), progress, 0),"
            " whole = IF(state IN ('waiting', 'running'), whole, 0),"
            " result = IF(state IN ('waiting', 'running'), result, NULL),"
            " error = IF(state IN ('waiting', 'running'), error, NULL),"
            " finished_at = NULL,"
            " state = IF(state IN ('waiting', 'running'), state, 'waiting')",
            (studio_id, new.kind, new.key, json.dumps(new.asked), int(new.due_in_s * 1_000_000)),
        )
        return int(cursor.lastrowid or 0)


def ask_job(connection: Connection, studio_id: int, new: NewJob) -> Row:
    """``add_job``, and the job as it is then: also where another transaction has put it there since this one began to
    read, which an ordinary look would not see."""
    return _job(connection, studio_id, add_job(connection, studio_id, new), " LOCK IN SHARE MODE")


def get_job(connection: Connection, studio_id: int, job_id: int) -> Row:
    """
    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    return _job(connection, studio_id, job_id, "")


def _job(connection: Connection, studio_id: int, job_id: int, look: str) -> Row:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM job WHERE studio_id = %s AND id = %s{look}", (studio_id, job_id))
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("this job is not here any more.", todo="Ask for it again.")
    return _decoded(row)


def find_job(connection: Connection, studio_id: int, key: str) -> Row | None:
    """The job of a key, if it was ever asked for and is not forgotten."""
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM job WHERE studio_id = %s AND job_key = %s", (studio_id, key))
        row = cursor.fetchone()
        return None if row is None else _decoded(row)


def stop_job(connection: Connection, studio_id: int, job_id: int) -> None:
    """Ends a job that waits or is being worked on; what it has done stays done."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET state = 'stopped', finished_at = UTC_TIMESTAMP(6), claimed_by = NULL, lease_until = NULL"
            " WHERE studio_id = %s AND id = %s AND state IN ('waiting', 'running')",
            (studio_id, job_id),
        )


def drop_job(connection: Connection, studio_id: int, key: str) -> None:
    """Takes a job that nobody has begun out of the queue: it was done otherwise."""
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM job WHERE studio_id = %s AND job_key = %s AND state = 'waiting'", (studio_id, key))


# -- the worker's side ------------------------------------------------------------------------------------------------


def claim(connection: Connection, worker: str) -> Claim | None:
    """The job that has been due for longest, claimed; ``None``: there is nothing to do. To be called in a transaction
    of its own under READ COMMITTED, committed at once.

    One whose worker does not renew its lease any more is taken over; one that was begun ``MOST_TRIES`` times without
    getting further has failed."""
    with connection.cursor() as cursor:
        row = _due(cursor)
        if row is None:
            return None
        if row["tries"] >= MOST_TRIES:
            cursor.execute(
                "UPDATE job SET state = 'failed', finished_at = UTC_TIMESTAMP(6), claimed_by = NULL,"
                " lease_until = NULL, error = %s WHERE id = %s",
                (_short(BROKE_OFF), row["id"]),
            )
            return None
        cursor.execute(
            "UPDATE job SET state = 'running', attempt = attempt + 1, tries = tries + 1, claimed_by = %s,"
            " lease_until = UTC_TIMESTAMP(6) + INTERVAL %s MICROSECOND WHERE id = %s",
            (worker, int(LEASE_S * 1_000_000), row["id"]),
        )
    row = _decoded(row)
    return Claim(
        row["id"], row["studio_id"], row["kind"], row["asked"], row["attempt"] + 1, row["progress"], row["whole"],
        row["result"],
    )  # fmt: skip


def _due(cursor: Any) -> Row | None:
    for where, order in (
        ("state = 'waiting' AND due_at <= UTC_TIMESTAMP(6)", "due_at, id"),
        ("state = 'running' AND lease_until < UTC_TIMESTAMP(6)", "lease_until"),
    ):
        cursor.execute(
            f"SELECT {_COLUMNS}, attempt, tries FROM job WHERE {where} ORDER BY {order} LIMIT 1 FOR UPDATE SKIP LOCKED"
        )
        row: Row | None = cursor.fetchone()
        if row is not None:
            return row
    return None


def renew(connection: Connection, mine: Claim) -> bool:
    """Holds on to a claim; ``False``: it is not held any more, and what is being done for it is for nothing."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET lease_until = UTC_TIMESTAMP(6) + INTERVAL %s MICROSECOND"
            " WHERE id = %s AND attempt = %s AND state = 'running'",
            (int(LEASE_S * 1_000_000), mine.id, mine.attempt),
        )
        return bool(cursor.rowcount)


def get_further(connection: Connection, mine: Claim, progress: int, whole: int, result: Any = None) -> bool:
    """How far a job is, kept; ``False``: the claim is not held any more."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET progress = %s, whole = %s, result = %s, tries = 0,"
            " lease_until = UTC_TIMESTAMP(6) + INTERVAL %s MICROSECOND"
            " WHERE id = %s AND attempt = %s AND state = 'running'",
            (
                progress, whole, None if result is None else json.dumps(result), int(LEASE_S * 1_000_000), mine.id,
                mine.attempt,
            ),
        )  # fmt: skip
        return bool(cursor.rowcount)


def give_back(connection: Connection, mine: Claim) -> None:
    """Lets others go first: the job waits again, behind them."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET state = 'waiting', claimed_by = NULL, lease_until = NULL, due_at = UTC_TIMESTAMP(6)"
            " WHERE id = %s AND attempt = %s AND state = 'running'",
            (mine.id, mine.attempt),
        )


def finish(connection: Connection, mine: Claim, error: dict[str, Any] | None = None) -> bool:
    """Ends a job, done or (with an ``error``) failed; ``False``: it was not this claim's any more."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET state = %s, error = %s, finished_at = UTC_TIMESTAMP(6), claimed_by = NULL,"
            " lease_until = NULL WHERE id = %s AND attempt = %s AND state = 'running'",
            ("done" if error is None else "failed", None if error is None else _short(error), mine.id, mine.attempt),
        )
        return bool(cursor.rowcount)


def release_all(connection: Connection, worker: str) -> int:
    """A worker is gone: what it held is there for the next one at once. Gives how many jobs that were."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE job SET state = 'waiting', claimed_by = NULL, lease_until = NULL"
            " WHERE state = 'running' AND claimed_by = %s",
            (worker,),
        )
        return int(cursor.rowcount)


def forget_old(connection: Connection, days: int = 7) -> None:
    """Takes jobs that ended long ago out of the table."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM job WHERE finished_at < UTC_TIMESTAMP(6) - INTERVAL %s DAY ORDER BY finished_at LIMIT 1000",
            (days,),
        )


def _short(error: dict[str, Any]) -> str:
    return json.dumps({name: str(text)[:300] for name, text in error.items() if text is not None})


def _decoded(row: Row) -> Row:
    for name in ("asked", "result", "error"):
        row[name] = None if row[name] is None else json.loads(row[name])
    return row


# -- how much there is to do -----------------------------------------------------------------------------------------


def count_jobs(connection: Connection) -> dict[tuple[str, str], int]:
    """Kind and state → how many, of all studios."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT kind, state, COUNT(*) AS jobs FROM job GROUP BY kind, state")
        return {(row["kind"], row["state"]): int(row["jobs"]) for row in cursor.fetchall()}


def longest_wait_s(connection: Connection) -> Seconds:
    """How long the job has waited that is due for longest; 0: none waits."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT GREATEST(0, TIMESTAMPDIFF(MICROSECOND, MIN(due_at), UTC_TIMESTAMP(6))) / 1000000 AS wait_s FROM job"
            " WHERE state = 'waiting'"
        )
        found = cursor.fetchone()
    return float((found or {}).get("wait_s") or 0)
