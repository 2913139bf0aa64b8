"""Judgements of takes: made again, one or all, for another passage, and overruled by the teacher."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.jobs import JobPublic
from laptick.api.schemas.takes import Outdated, OverruleCreate, PassageUpdate, TakePublic
from laptick.api.views.jobs import job_public
from laptick.api.views.takes import take_public
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.studio.jobs import judging_all
from laptick.studio.takes import judging

router = APIRouter(route_class=ModelRoute, tags=["judgements"])


@router.get("/outdated-takes")
def outdated(studio: StudioNow) -> Outdated:
    """How many takes wait to be judged anew."""
    return Outdated(takes=len(judging.outdated_takes(studio)), checker_version=CHECKER_VERSION)


@router.post("/judge-all", status_code=202)
def judge_all_again(studio: StudioNow) -> JobPublic:
    """Judges every take that another version of the checker judged, by a job; the earlier judgements are kept. A take
    that can no longer be read keeps the judgement it has."""
    return job_public(judging_all.ask_judge_all(studio))


@router.get("/judge-all")
def get_judging_job(studio: StudioNow) -> JobPublic | None:
    """The last job that judged them all, and how far it is."""
    job = judging_all.judging_job(studio)
    return None if job is None else job_public(job)


@router.post("/takes/{take_id}/judge")
def judge_one_again(studio: StudioNow, take_id: Id) -> TakePublic:
    """Judges a stored take with the present checker; the earlier judgement is kept."""
    return take_public(judging.judge_again(studio, take_id))


@router.post("/takes/{take_id}/passage")
def judge_as_passage(studio: StudioNow, take_id: Id, wanted: PassageUpdate) -> TakePublic:
    """Takes it for other bars than were asked for, and judges it as those."""
    return take_public(judging.judge_as_passage(studio, take_id, wanted.measures))


@router.put("/takes/{take_id}/overrule")
def overrule(studio: StudioNow, take_id: Id, word: OverruleCreate) -> TakePublic:
    """The teacher's word with its reason, kept beside the figures."""
    return take_public(judging.overrule(studio, take_id, Status(word.status), word.reason))


@router.delete("/takes/{take_id}/overrule")
def withdraw(studio: StudioNow, take_id: Id) -> TakePublic:
    """The teacher takes her word back: the checker's holds again."""
    return take_public(judging.withdraw(studio, take_id))
