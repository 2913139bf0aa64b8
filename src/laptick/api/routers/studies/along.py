"""What is taken along to the piano: pages for the stand, and today's session as sound."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter, Request, Response

from laptick.api.request.sending import ModelRoute
from laptick.api.request.waiting import made_or_job, run
from laptick.api.routers.pieces.made import BEING_MADE, SHEET_POLICY, file_answer
from laptick.api.schemas.common import Id, WhoseQuery
from laptick.api.views.studies import colouring_page, week_page
from laptick.formats.pages.paper import lettered
from laptick.studio.jobs.making import MadeWanted
from laptick.studio.studies import studies

router = APIRouter(route_class=ModelRoute, tags=["studies"])


@router.get("/pieces/{piece_id}/session", response_class=Response, responses=BEING_MADE)
async def get_session(request: Request, piece_id: Id, student: WhoseQuery = None) -> Response:
    """A student's rungs of today as one sound file (WAV) to take along: what to do is said, then it is played. 202
    while it is being made."""
    made = await made_or_job(request, MadeWanted("session", piece_id, {} if student is None else {"student": student}))
    return await file_answer(request, made, piece_id, "-today.wav")


@router.get("/pieces/{piece_id}/practice-sheet", response_class=Response, responses=BEING_MADE)
async def get_practice_sheet(
    request: Request,
    piece_id: Id,
    shows: Literal["week", "colouring"] = "week",
    format: Literal["pdf", "html"] = "pdf",
    paper: Literal["a4", "letter"] = "a4",
    student: WhoseQuery = None,
) -> Response:
    """One page for the stand: the week's rungs with boxes to tick, or the piece to be coloured. 202 while it is being
    made."""
    study = await run(request, lambda studio: studies.get_study(studio, piece_id, student_id=student))
    page = week_page(study, paper) if shows == "week" else colouring_page(study, paper)
    if format == "html":
        return Response(lettered(page), media_type="text/html", headers={"Content-Security-Policy": SHEET_POLICY})
    made = await made_or_job(request, MadeWanted("page-pdf", piece_id, {"page": page}))
    return await file_answer(request, made, piece_id, f"-{shows}.pdf", "inline")
