"""Answers that carry what was made of a piece, or the job that is making it."""

from __future__ import annotations

import json
from typing import Any

from fastapi import Request, Response

from laptick.api.request.waiting import run
from laptick.api.routers.pieces.pieces import named
from laptick.api.schemas.jobs import JobPublic
from laptick.api.schemas.pieces import NotationPublic, NotationRowPublic
from laptick.api.views.jobs import job_public
from laptick.studio.jobs.jobs import Job
from laptick.studio.jobs.making import Made
from laptick.studio.pieces import shelf

#: What the description of the interface says of a route whose answer may take a while.
BEING_MADE: dict[int | str, dict[str, Any]] = {202: {"model": JobPublic, "description": "It is being made."}}


#: A sheet is a page of its own: it loads nothing, and runs nothing.
SHEET_POLICY = "default-src 'none'; style-src 'unsafe-inline'; font-src data:"


def job_answer(job: Job) -> Response:
    """The job that is looked at until it is over; then the same request is sent again."""
    return Response(
        job_public(job).model_dump_json(),
        status_code=202,
        media_type="application/json",
        headers={"Location": f"/api/jobs/{job.id}", "Retry-After": "1"},
    )


async def file_answer(
    request: Request, made: Made | Job, piece_id: int, ending: str, how: str = "attachment"
) -> Response:
    """A file called after the piece's own."""
    if isinstance(made, Job):
        return job_answer(made)
    stem = await run(request, lambda studio: shelf.get_piece(studio, piece_id).stem)
    return Response(made.body, media_type=made.media_type, headers=named(f"{stem}{ending}", how))


def notation_public(made: Made, first: int, count: int) -> NotationPublic:
    rows = json.loads(made.body)
    return NotationPublic(
        shares=[row["share"] for row in rows],
        items=[row["items"] for row in rows],
        first=first,
        rows=[NotationRowPublic(svg=row["svg"]) for row in rows[first : first + count]],
    )
