"""The worker: does the jobs that requests leave. As many as there are cores may run, on any machine that reaches the
database; none needs the data folder.

``laptick worker`` is a parent that knows nothing but how to keep one child alive: the child works, and is renewed after
``MOST_JOBS`` jobs or when it has grown beyond ``MOST_MB``, so whatever a library leaves behind goes with it. What a
child held when it died is there for the next one at once; what a whole machine held, when its leases run out.
"""

from __future__ import annotations

import logging
import os
import signal
import socket
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from laptick import logs
from laptick.core.base.errors import LapTickError, StorageError
from laptick.core.base.units import Seconds
from laptick.db import jobs as db
from laptick.db import recordings as recordings_db
from laptick.db.engine.connect import Connection, DbSettings, connect, transaction
from laptick.db.engine.processes import Backoff, Child
from laptick.db.moving.bundles import forget_bundles
from laptick.db.people.removed import forget_removed
from laptick.studio.jobs import copying, hearing_one, judging_all, judging_one, making, moving
from laptick.studio.jobs.at_work import AtWork, ClaimLostError, Work
from laptick.studio.jobs.jobs import error_document
from laptick.studio.moving.bundles import EXPORT_KIND, IMPORT_KIND
from laptick.studio.use_case import Studio

log = logging.getLogger("laptick.worker")

#: Kind of job → what does it.
KINDS: dict[str, Work] = {
    making.KIND: making.work,
    judging_one.KIND: judging_one.work,
    hearing_one.KIND: hearing_one.work,
    copying.KIND: copying.work,
    judging_all.KIND: judging_all.work,
    EXPORT_KIND: moving.export,
    IMPORT_KIND: moving.bring_in,
}

#: When a child is renewed.
MOST_JOBS, MOST_MB = 100, 400

#: How often an idle worker looks, and how often a busy one says that it is still at it.
LOOK_S: Seconds = 0.1
RENEW_S: Seconds = db.LEASE_S / 4

#: A child that worked so long worked well, and is followed by another at once.
STEADY_S: Seconds = 4.0

#: A statement of a worker may take longer than one of a request: what it makes may be large.
ANSWER_S: Seconds = 60.0


def work(settings: DbSettings, name: str, until: threading.Event, *, is_enough: Callable[[int], bool] | None = None,
         look_s: Seconds = LOOK_S) -> None:  # fmt: skip
    """Does jobs until told to end, after the one at hand; ``is_enough``: after how many."""
    done, backoff = 0, Backoff()
    forgotten = 0.0
    while not until.is_set() and not (is_enough and is_enough(done)):
        try:
            connection = connect(settings, answer_s=ANSWER_S)
        except StorageError:
            until.wait(backoff.next_s())
            continue
        try:
            while not until.is_set() and not (is_enough and is_enough(done)):
                with transaction(connection, reads="READ COMMITTED"):
                    claim = db.claim(connection, name)
                backoff.reset()
                if claim is not None:
                    _do(settings, connection, claim, until)
                    done += 1
                elif time.monotonic() - forgotten > 3600:
                    forgotten = time.monotonic()
                    with transaction(connection):
                        db.forget_old(connection)
                        recordings_db.forget_abandoned(connection)
                        recordings_db.drop_too_old(connection)
                        forget_bundles(connection)
                        forget_removed(connection)
                else:
                    until.wait(look_s)
        except StorageError as error:
            log.warning("the database: %s", error.what)
            until.wait(backoff.next_s())
        finally:
            with suppress(Exception):
                connection.close()


def _do(settings: DbSettings, connection: Connection, claim: db.Claim, until: threading.Event) -> None:
    job = AtWork(Studio(connection, claim.studio_id), claim, lambda: connect(settings, answer_s=ANSWER_S), until.is_set)
    error = None
    with _Renewing(settings, claim):
        try:
            is_done = KINDS[claim.kind](job)
        except ClaimLostError:
            return
        except StorageError:
            if not connection.open:
                raise  # the database is gone, which is not the job's fault: its lease runs out, and it is begun again
            with transaction(connection):
                db.give_back(connection, claim)  # a damaged row, or others at the same place: a few times more
            return
        except LapTickError as refused:
            is_done, error = True, error_document(refused)
        except Exception:
            log.exception("job %s (%s) broke", claim.id, claim.kind)
            with transaction(connection):
                db.give_back(connection, claim)  # to be tried again, a few times
            return
    with transaction(connection):
        if is_done:
            db.finish(connection, claim, error)
        else:
            db.give_back(connection, claim)


class _Renewing:
    """Says, while a job is worked on, that it still is."""

    def __init__(self, settings: DbSettings, claim: db.Claim) -> None:
        self._settings, self._claim = settings, claim
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._renew, daemon=True)

    def __enter__(self) -> None:
        self._thread.start()

    def __exit__(self, *_: object) -> None:
        self._over.set()
        self._thread.join()

    def _renew(self) -> None:
        while not self._over.wait(RENEW_S):
            try:
                connection = connect(self._settings)
                try:
                    with transaction(connection):
                        db.renew(connection, self._claim)
                finally:
                    connection.close()
            except StorageError:
                continue  # the lease lasts a few turns of this


# -- the process that keeps one working ---------------------------------------------------------------------------


def run_worker(settings: DbSettings) -> int:
    """Keeps one child working until a termination signal; the child ends its job first. Returns the exit code."""
    name = f"{socket.gethostname()[:40]}-{os.getpid()}"
    ended = threading.Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: ended.set())
    backoff = Backoff()
    while not ended.is_set():
        child = Child([sys.executable, "-m", "laptick.worker", "--child", name], settings.environment())
        begun = time.monotonic()
        while child.returncode is None and not ended.wait(0.2):
            pass
        if ended.is_set():
            child.stop(wait_s=db.LEASE_S)
        _release(settings, name)
        if child.returncode == 0 or time.monotonic() - begun > STEADY_S:
            backoff.reset()
        else:
            ended.wait(backoff.next_s())
    return 0


def _release(settings: DbSettings, name: str) -> None:
    try:
        connection = connect(settings)
    except StorageError:
        return
    try:
        with transaction(connection):
            db.release_all(connection, name)
    except StorageError:
        return
    finally:
        connection.close()


def _memory_mb() -> float:
    try:
        pages = int(Path("/proc/self/statm").read_text().split()[1])
    except (OSError, ValueError, IndexError):
        return 0.0
    return pages * os.sysconf("SC_PAGE_SIZE") / 2**20


def _child(name: str) -> int:
    until = threading.Event()
    signal.signal(signal.SIGTERM, lambda *_: until.set())
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the parent tells when it is time
    work(DbSettings.of_environment(), name, until, is_enough=lambda done: done >= MOST_JOBS or _memory_mb() > MOST_MB)
    return 0


if __name__ == "__main__":
    logs.set_up()
    sys.exit(_child(sys.argv[2]) if sys.argv[1:2] == ["--child"] else run_worker(DbSettings.of_environment()))
