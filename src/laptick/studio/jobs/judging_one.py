"""A take judged by a job: a long one, or one whose request broke off before it was judged."""

from __future__ import annotations

from contextlib import suppress

from laptick.core.base.errors import NotFoundError
from laptick.studio.jobs.at_work import AtWork
from laptick.studio.takes import first_judging

KIND = first_judging.KIND


def work(job: AtWork) -> bool:
    """Judges it, unless that was done meanwhile, or it was deleted."""
    with suppress(NotFoundError):
        first_judging.judge_first(job.studio, int(job.asked["take_id"]))
    return True
