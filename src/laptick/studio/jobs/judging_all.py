"""Every take that another version of the checker judged, judged anew, some at a time; it can be stopped and gone on
with, and whoever asks for something else is let in between."""

from __future__ import annotations

from typing import Any

from laptick.core.base.errors import LapTickError
from laptick.db import jobs as db
from laptick.studio.jobs.at_work import AtWork
from laptick.studio.jobs.jobs import Job, job_of
from laptick.studio.takes.judging import OutdatedTake, judge_one_of_all, outdated_takes
from laptick.studio.use_case import Studio, use_case

KIND = "judge-all"

#: So many changed verdicts are told one by one.
MOST_CHANGED = 200


@use_case
def ask_judge_all(studio: Studio) -> Job:
    """The job that does it: the one that is at it already, or a new one."""
    return job_of(db.ask_job(studio.connection, studio.id, db.NewJob(KIND, KIND, {})))


@use_case
def judging_job(studio: Studio) -> Job | None:
    """The last job that did it, if there was one."""
    row = db.find_job(studio.connection, studio.id, KIND)
    return None if row is None else job_of(row)


def work(job: AtWork) -> bool:
    """Judges as many as fit in a turn; ``True`` when none is left. A take that can no longer be read keeps what was
    said of it, and is not tried again."""
    result = job.claim.result or {"judged": 0, "unread": 0, "changed": [], "more": 0, "last_id": 0}
    done = job.claim.progress
    left = [take for take in outdated_takes(job.studio) if take.id > result["last_id"]]
    whole = done + len(left)
    job.get_further(done, whole, result)
    for take in left:
        _judge(job.studio, take, result)
        done += 1
        result["last_id"] = take.id
        job.get_further(done, whole, result)
        if job.has_had_its_turn and done < whole:
            return False
    return True


def _judge(studio: Studio, take: OutdatedTake, result: dict[str, Any]) -> None:
    try:
        after = judge_one_of_all(studio, take.id)
    except LapTickError:
        if not studio.connection.open:
            raise  # the database is gone: that says nothing of the take
        result["unread"] += 1
        return
    result["judged"] += 1
    if after is take.status:
        return
    if len(result["changed"]) >= MOST_CHANGED:
        result["more"] += 1
        return
    result["changed"].append(
        {
            "take_id": take.id,
            "piece_id": take.piece_id,
            "title": take.title,
            "created_at": take.created_at.isoformat(),
            "before": take.status.value,
            "after": after.value,
        }
    )
