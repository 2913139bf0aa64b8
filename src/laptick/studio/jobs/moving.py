"""A studio's file, written or brought in by a job: all at once, in one transaction."""

from __future__ import annotations

from laptick.core.base.errors import NotFoundError
from laptick.studio.jobs.at_work import AtWork
from laptick.studio.moving import exporting, importing


def export(job: AtWork) -> bool:
    """Writes it, unless another was asked for meanwhile."""
    try:
        exporting.write_bundle(job.studio, int(job.asked["bundle_id"]))
    except NotFoundError:
        return True  # nobody waits for this one any more
    return True


def bring_in(job: AtWork) -> bool:
    importing.bring_in(job.studio, int(job.asked["bundle_id"]))
    return True
