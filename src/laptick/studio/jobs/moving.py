"""A studio's file, packed or brought in by a job."""

from __future__ import annotations

from laptick.core.base.errors import NotFoundError
from laptick.db import jobs as db
from laptick.studio.jobs.at_work import AtWork, ClaimLostError
from laptick.studio.moving import exporting, importing


def export(job: AtWork) -> bool:
    """Packs it, until another is asked for or it is taken away."""
    writing = job.connect()

    def further(done: int, whole: int) -> None:
        if not db.get_further(writing, job.claim, done, whole):
            raise ClaimLostError

    try:
        exporting.write_bundle(job.studio, int(job.asked["bundle_id"]), writing, further)
    except NotFoundError:
        return True  # nobody waits for this one any more
    finally:
        writing.close()
    return True


def bring_in(job: AtWork) -> bool:
    """Brings it in, all at once."""
    importing.bring_in(job.studio, int(job.asked["bundle_id"]))
    return True
