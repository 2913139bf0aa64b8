"""A job as it is looked at, stopped and begun again."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from laptick.core.base import errors
from laptick.core.base.errors import ConflictError, LapTickError
from laptick.db import jobs as db
from laptick.db.engine.connect import Row
from laptick.studio.use_case import Studio, use_case


class JobState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"

    @property
    def is_over(self) -> bool:
        return self in (JobState.DONE, JobState.FAILED, JobState.STOPPED)


@dataclass(frozen=True)
class Job:
    """``progress`` of ``whole`` is done (``whole`` 0: not known); ``result``: what came of it so far; ``error``: why it
    failed."""

    id: int
    kind: str
    state: JobState
    progress: int
    whole: int
    result: Any
    error: LapTickError | None


def job_of(row: Row) -> Job:
    return Job(
        row["id"],
        row["kind"],
        JobState(row["state"]),
        row["progress"],
        row["whole"],
        row["result"],
        None if row["error"] is None else error_of(row["error"]),
    )


#: An error's code → its class.
_ERRORS: dict[str, type[LapTickError]] = {
    one.code: one for one in vars(errors).values() if isinstance(one, type) and issubclass(one, LapTickError)
}


def error_of(document: dict[str, Any]) -> LapTickError:
    """An error as it was kept with a job."""
    kind = _ERRORS.get(str(document.get("code")), errors.StorageError)
    return kind(
        str(document.get("what") or "it could not be done."),
        where=document.get("where"),
        kept=document.get("kept"),
        todo=document.get("todo"),
    )


def error_document(error: LapTickError) -> dict[str, Any]:
    return {"code": error.code, "what": error.what, "where": error.where, "kept": error.kept, "todo": error.todo}


@use_case
def get_job(studio: Studio, job_id: int) -> Job:
    """
    Raises:
        NotFoundError: it is not known any more.
    """
    return job_of(db.get_job(studio.connection, studio.id, job_id))


@use_case
def stop_job(studio: Studio, job_id: int) -> Job:
    """Ends it; what it has done stays done. One that is over stays as it is."""
    db.get_job(studio.connection, studio.id, job_id)
    db.stop_job(studio.connection, studio.id, job_id)
    return job_of(db.get_job(studio.connection, studio.id, job_id))


@use_case
def retry_job(studio: Studio, job_id: int) -> Job:
    """Begins one anew that failed or was stopped.

    Raises:
        ConflictError: it is done, or still being worked on.
    """
    row = db.get_job(studio.connection, studio.id, job_id)
    if JobState(row["state"]) not in (JobState.FAILED, JobState.STOPPED):
        raise ConflictError("this job is not one that could be tried again.", kept="Nothing was changed.")
    return job_of(db.ask_job(studio.connection, studio.id, db.NewJob(row["kind"], row["job_key"], row["asked"])))
