"""A recording heard by a job, and its take judged."""

from __future__ import annotations

from laptick.studio.jobs.at_work import AtWork
from laptick.studio.recordings import hearing, sending

KIND = sending.KIND


def work(job: AtWork) -> bool:
    """Hears it, unless that was done meanwhile, or the take was deleted."""
    hearing.hear(job.studio, int(job.asked["take_id"]))
    return True
