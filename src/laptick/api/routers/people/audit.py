"""Who saw, changed or deleted what of people; students who left, and their erasing."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import PAGE, Cursor, Id, PageSize
from laptick.api.schemas.people.removed import RemovedItem, RemovedPublic
from laptick.api.schemas.people.sign_in import AuditLine, AuditPage, WhoLeftPublic
from laptick.studio.people import audit, removed

router = APIRouter(route_class=ModelRoute, tags=["people"])


@router.get("/audit")
def list_audit(studio: StudioNow, before: Cursor = None, limit: PageSize = PAGE) -> AuditPage:
    """Who saw, changed or deleted what, the newest first, page by page."""
    found = audit.list_audit(studio, before, limit + 1)
    items = [AuditLine(**vars(one)) for one in found[:limit]]
    return AuditPage(items=items, next=items[-1].id if len(found) > limit else None)


@router.get("/removed")
def list_removed(studio: StudioNow) -> RemovedPublic:
    """Pieces, students, takes and listenings that can be put back, the newest first."""
    items = [RemovedItem(**vars(one)) for one in removed.list_removed(studio)]
    return RemovedPublic(items=items, kept_days=removed.KEPT_DAYS)


@router.get("/who-left")
def list_who_left(studio: StudioNow) -> list[WhoLeftPublic]:
    """Students off the list, who can be put back or erased."""
    return [WhoLeftPublic(**vars(one)) for one in audit.list_who_left(studio)]


@router.post("/students/{student_id}/erase", status_code=204)
def erase_student(studio: StudioNow, student_id: Id) -> None:
    """Deletes all that is kept of a student who left, sound included, for good."""
    audit.erase(studio, student_id)
