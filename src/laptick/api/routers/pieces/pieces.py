"""Pieces: the shelf, and a piece with its ruler."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import PAGE, Cursor, Id, PageSize
from laptick.api.schemas.pieces import PieceAdded, PiecePage, PiecePublic, PieceUpdate
from laptick.api.views.pieces import piece_public, piece_short
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.studio.pieces import shelf

router = APIRouter(route_class=ModelRoute, prefix="/pieces", tags=["pieces"])

BpmQuery = Annotated[float, Query(ge=MIN_BPM, le=MAX_BPM)]


@router.get("")
def list_pieces(studio: StudioNow, after: Cursor = None, limit: PageSize = PAGE) -> PiecePage:
    """The shelf, by title, page by page."""
    found = shelf.list_pieces(studio, after, limit + 1)
    items = [piece_short(shown) for shown in found[:limit]]
    return PiecePage(items=items, next=items[-1].id if len(found) > limit else None)


@router.post("", status_code=201)
def add_piece(studio: StudioNow, file: Annotated[UploadFile, File()]) -> PieceAdded:
    """Reads a score file and puts it on the shelf; a file that cannot be read leaves nothing behind."""
    shown = shelf.add_piece(studio, file.file.read(), plain_name(file.filename, "score.musicxml"))
    return PieceAdded(**piece_public(shown).model_dump(), same_file_as=shown.same_file_as)


@router.get("/{piece_id}")
def get_piece(studio: StudioNow, piece_id: Id) -> PiecePublic:
    return piece_public(shelf.show_piece(studio, piece_id))


@router.patch("/{piece_id}")
def update_piece(studio: StudioNow, piece_id: Id, update: PieceUpdate) -> PiecePublic:
    return piece_public(shelf.update_piece(studio, piece_id, update.level, update.target_bpm))


@router.delete("/{piece_id}", status_code=204)
def delete_piece(studio: StudioNow, piece_id: Id) -> None:
    shelf.delete_piece(studio, piece_id)


@router.post("/{piece_id}/restore")
def restore_piece(studio: StudioNow, piece_id: Id) -> PiecePublic:
    return piece_public(shelf.restore_piece(studio, piece_id))


@router.get("/{piece_id}/original", response_class=Response)
def get_original(studio: StudioNow, piece_id: Id) -> Response:
    """The file as it came."""
    original, filename = shelf.get_original(studio, piece_id)
    return Response(original, media_type="application/octet-stream", headers=named(filename))


def named(filename: str, how: str = "attachment") -> dict[str, str]:
    """The header under which a browser keeps or shows a file."""
    return {"Content-Disposition": f"{how}; filename*=UTF-8''{quote(filename, safe='')}"}


def plain_name(filename: str | None, unnamed: str) -> str:
    """The name of an uploaded file without folders."""
    return (filename or unnamed).replace("\\", "/").rsplit("/", 1)[-1][:255]
