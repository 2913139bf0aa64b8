"""Jobs as they are sent."""

from __future__ import annotations

from pydantic import ValidationError

from laptick.api.schemas.common import ErrorBody
from laptick.api.schemas.jobs import JobPublic, JudgedAgain
from laptick.studio.jobs.jobs import Job
from laptick.studio.jobs.judging_all import KIND as JUDGE_ALL


def job_public(job: Job) -> JobPublic:
    error = job.error
    return JobPublic(
        id=job.id,
        kind=job.kind,
        state=job.state,
        progress=job.progress,
        whole=job.whole,
        judged=_judged(job),
        error=None
        if error is None
        else ErrorBody(code=error.code, what=error.what, where=error.where, kept=error.kept, todo=error.todo),
    )


def _judged(job: Job) -> JudgedAgain | None:
    if job.kind != JUDGE_ALL or job.result is None:
        return None
    try:
        return JudgedAgain.model_validate(job.result)
    except ValidationError:
        return None  # kept by another version
