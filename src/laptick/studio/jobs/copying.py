"""The copy of a kept recording that is played, made anew by a job after its take was judged anew."""

from __future__ import annotations

from laptick.studio.jobs.at_work import AtWork
from laptick.studio.recordings import hearing
from laptick.studio.takes.judging import COPY_KIND

KIND = COPY_KIND


def work(job: AtWork) -> bool:
    """Makes it, unless the sound is not kept any more."""
    hearing.copy_again(job.studio, int(job.asked["take_id"]))
    return True
