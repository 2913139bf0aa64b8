"""The teacher's pencil on a piece: changes made, taken away, undone and redone. The original file is kept as it is."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Path

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id, Version
from laptick.api.schemas.writing.pencil import ChangeCreate, PencilCreate, PencilPublic, PencilStep
from laptick.api.views.pencil import pencil_public
from laptick.studio.pieces import pencil

router = APIRouter(route_class=ModelRoute, prefix="/pieces/{piece_id}/pencil", tags=["pencil"])

#: Fields that name a note by its id.
_NOTES = ("note", "first", "last")


@router.get("")
def get_pencil(studio: StudioNow, piece_id: Id) -> PencilPublic:
    return pencil_public(pencil.get_pencil(studio, piece_id))


@router.post("")
def add_change(studio: StudioNow, piece_id: Id, wanted: PencilCreate) -> PencilPublic:
    """Makes a change; one that cannot be made is refused, and nothing changes."""
    return pencil_public(pencil.add_change(studio, piece_id, wanted.version, _document(wanted.change)))


@router.delete("/{key}")
def remove_change(
    studio: StudioNow, piece_id: Id, key: Annotated[str, Path(max_length=60)], version: Version | None = None
) -> PencilPublic:
    """Takes a change away (``all``: every one); others that build on it stay, and say why they are not applied."""
    return pencil_public(pencil.remove_change(studio, piece_id, key, version))


@router.post("/undo")
def undo_change(studio: StudioNow, piece_id: Id, wanted: PencilStep) -> PencilPublic:
    return pencil_public(pencil.undo_change(studio, piece_id, wanted.version))


@router.post("/redo")
def redo_change(studio: StudioNow, piece_id: Id, wanted: PencilStep) -> PencilPublic:
    return pencil_public(pencil.redo_change(studio, piece_id, wanted.version))


def _document(change: ChangeCreate) -> dict[str, Any]:
    document = change.model_dump(mode="json", exclude_none=True)
    return {name: {"id": value} if name in _NOTES else value for name, value in document.items()}
