"""Jobs: looked at, stopped, begun again."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.jobs import JobPublic
from laptick.api.views.jobs import job_public
from laptick.studio.jobs import jobs

router = APIRouter(route_class=ModelRoute, prefix="/jobs/{job_id}", tags=["jobs"])


@router.get("")
def get_job(studio: StudioNow, job_id: Id) -> JobPublic:
    """How far a job is."""
    return job_public(jobs.get_job(studio, job_id))


@router.post("/stop")
def stop_job(studio: StudioNow, job_id: Id) -> JobPublic:
    """Ends a job; what it has done stays done."""
    return job_public(jobs.stop_job(studio, job_id))


@router.post("/retry")
def retry_job(studio: StudioNow, job_id: Id) -> JobPublic:
    """Begins a job anew that failed or was stopped."""
    return job_public(jobs.retry_job(studio, job_id))
