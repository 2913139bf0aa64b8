"""Files of a studio: asked for, taken along; sent in, looked at, brought in. The work is a job's."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime
from typing import Any

from laptick.core.base.errors import BundleError, ConflictError, LimitError
from laptick.db import jobs as jobs_db
from laptick.db.engine.connect import Row
from laptick.db.moving import bundles as db
from laptick.db.moving import rows
from laptick.db.people import students as students_db
from laptick.db.people import studios as studios_db
from laptick.formats.bundle import plain_name
from laptick.studio.days import today
from laptick.studio.jobs.jobs import Job, JobState, job_of
from laptick.studio.moving.importing import reader_of
from laptick.studio.use_case import Studio, use_case

CHUNK_BYTES, MOST_CHUNKS = db.CHUNK_BYTES, db.MOST_CHUNKS

#: The kinds of job that write a file and bring one in.
EXPORT_KIND, IMPORT_KIND = "export", "import"


@dataclass(frozen=True)
class Bundle:
    """``contents``: of what it is (``of``: studio or student, ``studio``: its name, ``counted``: how many of what);
    ``here``: the chunks of one that is coming; ``is_first``: the studio is empty; ``brought``: how many pieces,
    students and takes it brought, if it did."""

    id: int
    direction: str
    filename: str
    size: int
    is_complete: bool
    created_at: datetime
    contents: Any
    here: tuple[int, ...] = ()
    is_first: bool = False
    brought: dict[str, int] | None = None


def _bundle(studio: Studio, row: Row) -> Bundle:
    is_coming = row["direction"] == "in" and row["completed_at"] is None
    brought = row["brought"]
    return Bundle(
        row["id"], row["direction"], row["filename"], row["size"], row["completed_at"] is not None, row["created_at"],
        row["contents"],
        tuple(db.chunk_sizes(studio.connection, studio.id, row["id"])) if is_coming else (),
        rows.is_empty(studio.connection, studio.id),
        None if brought is None
        else {key: len(one) if isinstance(one, list) else int(one) for key, one in brought.items()},
    )  # fmt: skip


@use_case
def ask_for_bundle(studio: Studio, student_id: int | None) -> tuple[Bundle, Job]:
    """All of the studio, or a student's share, as a file that a job fills; the one that is being filled, if it is that.
    Another that is being filled is filled no further.

    Raises:
        NotFoundError: there is no such student.
    """
    name = studios_db.get_studio(studio.connection, studio.id)["name"]
    if student_id is not None:
        # also of one who left: what is theirs goes with them, and is erased then
        name = students_db.get_student(studio.connection, studio.id, student_id, deleted=True)["name"]
    known, at_work = _at_work(studio, "out", EXPORT_KIND)
    if known is not None and at_work is not None and (known["completed_at"], known["student_id"]) == (None, student_id):
        return _bundle(studio, known), at_work
    filename = f"{plain_name(name)} {date.fromordinal(today(studio)).isoformat()}.zip"
    bundle_id = db.add_bundle(studio.connection, studio.id, db.NewBundle("out", filename, student_id))
    new = jobs_db.NewJob(EXPORT_KIND, f"{EXPORT_KIND}:{bundle_id}", {"bundle_id": bundle_id})
    job = job_of(jobs_db.ask_job(studio.connection, studio.id, new))
    return _bundle(studio, db.get_bundle(studio.connection, studio.id, bundle_id)), job


@use_case
def get_bundle(studio: Studio, bundle_id: int) -> Bundle:
    """
    Raises:
        NotFoundError: there is none, or not any more.
    """
    return _bundle(studio, db.get_bundle(studio.connection, studio.id, bundle_id))


@use_case
def get_part(studio: Studio, bundle_id: int, number: int) -> bytes:
    """A chunk of a file that is whole.

    Raises:
        NotFoundError: it is not here any more.
    """
    return db.get_chunk(studio.connection, studio.id, bundle_id, number)


@use_case
def begin_bundle(studio: Studio, filename: str) -> Bundle:
    """A file that is about to come in, in place of any before.

    Raises:
        ConflictError: one is being brought in.
    """
    _known, at_work = _at_work(studio, "in", IMPORT_KIND)
    if at_work is not None and at_work.state is JobState.RUNNING:
        raise ConflictError("a copy is being brought in.", kept="Nothing was changed.", todo="Wait until it is.")
    bundle_id = db.add_bundle(studio.connection, studio.id, db.NewBundle("in", filename))
    return _bundle(studio, db.get_bundle(studio.connection, studio.id, bundle_id))


@use_case
def put_part(studio: Studio, bundle_id: int, number: int, data: bytes) -> None:
    """A chunk of it; the same one again replaces it.

    Raises:
        LimitError: it is too large, or there are too many.
        ConflictError: the file is whole already.
    """
    _coming(studio, bundle_id)
    if not 0 <= number < MOST_CHUNKS or not 0 < len(data) <= CHUNK_BYTES:
        raise LimitError(
            f"a file has at most {MOST_CHUNKS // 1024} GB, in parts of 1 to {CHUNK_BYTES:,} bytes.",
            where="number",
            kept="What came before is kept.",
        )
    db.put_chunk(studio.connection, studio.id, bundle_id, number, data)


@use_case
def complete_bundle(studio: Studio, bundle_id: int) -> Bundle:
    """All of it is here: what is in it is looked at; nothing is brought in yet.

    Raises:
        ConflictError: parts of it are missing.
        BundleError, LimitError: it is no file of a studio.
    """
    _coming(studio, bundle_id)
    sizes = db.chunk_sizes(studio.connection, studio.id, bundle_id)
    full = list(sizes.values())[:-1]
    if list(sizes) != list(range(len(sizes))) or not sizes or any(size != CHUNK_BYTES for size in full):
        raise ConflictError("not all of the file came.", kept="What came is kept.", todo="Send it again.")
    size = sum(sizes.values())
    contents = reader_of(studio, bundle_id, size).contents
    counted = contents.get("counted")
    if contents.get("of") not in ("studio", "student") or not isinstance(counted, dict):
        raise BundleError("this does not say what is in it.", kept="Nothing was brought in.")
    told = {
        "of": contents["of"],
        "studio": str(contents.get("studio", ""))[:200],
        "counted": {str(key)[:20]: n for key, n in list(counted.items())[:20] if type(n) is int and 0 <= n < 2**31},
    }
    db.complete_bundle(studio.connection, studio.id, bundle_id, size, told)
    return _bundle(studio, db.get_bundle(studio.connection, studio.id, bundle_id))


@use_case
def ask_to_bring_in(studio: Studio, bundle_id: int) -> Job:
    """Has a job bring it in.

    Raises:
        ConflictError: it is not whole.
    """
    row = db.get_bundle(studio.connection, studio.id, bundle_id, locked=True)
    if row["direction"] != "in" or row["completed_at"] is None:
        raise ConflictError("this file did not come in whole.", kept="Nothing was changed.", todo="Send it again.")
    new = jobs_db.NewJob(IMPORT_KIND, f"{IMPORT_KIND}:{bundle_id}", {"bundle_id": bundle_id})
    return job_of(jobs_db.ask_job(studio.connection, studio.id, new))


def _at_work(studio: Studio, direction: str, kind: str) -> tuple[Row | None, Job | None]:
    """The newest file of a direction, and the job that is at it, or waits to be."""
    newest = db.newest_bundle(studio.connection, studio.id, direction)
    found = None if newest is None else jobs_db.find_job(studio.connection, studio.id, f"{kind}:{newest['id']}")
    job = None if found is None else job_of(found)
    return newest, None if job is None or job.state.is_over else job


def _coming(studio: Studio, bundle_id: int) -> Row:
    row = db.get_bundle(studio.connection, studio.id, bundle_id, locked=True)
    if row["direction"] != "in" or row["completed_at"] is not None:
        raise ConflictError("this file is whole already.", kept="It stands as it was sent.")
    return row
