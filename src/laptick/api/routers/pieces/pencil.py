"""The teacher's pencil on a piece: changes made, taken away, undone and redone. The original file is kept as it is."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import studio_naming
from laptick.api.schemas.pencil import ChangeCreate, PencilCreate, PencilPublic, PencilStep
from laptick.api.views import pieces as views
from laptick.api.views.pencil import pencil_public
from laptick.core.base.errors import NotFoundError, OptionError
from laptick.core.editing.changes import PencilChange, spot_of, with_witness
from laptick.db import pencil as db
from laptick.db import pieces as pieces_db
from laptick.db.engine.connect import Row
from laptick.formats.documents.pencil import change_of, changes_of, document_of
from laptick.formats.score_files import with_pencil

router = APIRouter(prefix="/pieces/{piece_id}/pencil", tags=["pencil"])

#: Fields that name a note by its id.
_NOTES = ("note", "first", "last")

#: Changes of which a place has one: a further one on the same note or place stands in for it.
_SINGLE: dict[str, str] = {"fingering": "note", "chord": "at", "pitch": "note"}


@router.get("")
def get_pencil(asking: AskingNow, connection: DbNow, piece_id: int) -> PencilPublic:
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    naming = studio_naming(asking, connection)
    steps = db.get_steps(connection, asking.studio_id, piece)
    return pencil_public(piece, views.pencilled_of(piece, naming), _changes(piece), steps, naming)


@router.post("")
def add_change(asking: AskingNow, connection: DbNow, piece_id: int, wanted: PencilCreate) -> PencilPublic:
    """Makes a change; one that cannot be made is refused, and nothing changes."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    known = _changes(piece)
    change = with_witness(change_of(_document(wanted.change)).change, views.read_file_of(piece).score)
    key = str(1 + max((int(one.key) for one in known), default=0))
    new = PencilChange(key, change)
    naming = studio_naming(asking, connection)
    place = _SINGLE.get(change.kind)
    single = [one for one in known if place and _same(one, new, place)]
    problem = None
    for gone in (single, []) if single else ([],):
        changes = (*(one for one in known if one not in gone), new)
        outcomes = with_pencil(views.read_file_of(piece), changes, naming).outcomes
        worse = {o.key for o in outcomes if o.problem} - {
            o.key for o in views.pencilled_of(piece).outcomes if o.problem
        }
        if not worse:
            _store(asking, connection, piece_id, wanted.version, changes)
            return get_pencil(asking, connection, piece_id)
        problem = next(o.problem for o in outcomes if o.key in worse)
    raise OptionError(
        problem or "that cannot be done.",
        where=f"bar {spot_of(change).measure}" if spot_of(change).measure else None,
        kept="Nothing was changed.",
    )


def _same(one: PencilChange, other: PencilChange, place: str) -> bool:
    return one.change.kind == other.change.kind and getattr(one.change, place) == getattr(other.change, place)


@router.delete("/{key}")
def remove_change(
    asking: AskingNow, connection: DbNow, piece_id: int, key: str, version: Annotated[int | None, Query()] = None
) -> PencilPublic:
    """Takes a change away (``all``: every one); others that build on it stay, and say why they are not applied."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    known = _changes(piece)
    left = () if key == "all" else tuple(one for one in known if one.key != key)
    if len(left) == len(known):
        raise NotFoundError("that change is not there any more.", kept="Nothing was changed.")
    _store(asking, connection, piece_id, version, left)
    return get_pencil(asking, connection, piece_id)


@router.post("/undo")
def undo_change(asking: AskingNow, connection: DbNow, piece_id: int, wanted: PencilStep) -> PencilPublic:
    db.step(connection, asking.studio_id, piece_id, wanted.version, back=True)
    return get_pencil(asking, connection, piece_id)


@router.post("/redo")
def redo_change(asking: AskingNow, connection: DbNow, piece_id: int, wanted: PencilStep) -> PencilPublic:
    db.step(connection, asking.studio_id, piece_id, wanted.version, back=False)
    return get_pencil(asking, connection, piece_id)


def _changes(piece: Row) -> tuple[PencilChange, ...]:
    return changes_of(piece["pencil"] or [])


def _document(change: ChangeCreate) -> dict[str, Any]:
    document = change.model_dump(mode="json", exclude_none=True)
    return {name: {"id": value} if name in _NOTES else value for name, value in document.items()}


def _store(
    asking: AskingNow, connection: DbNow, piece_id: int, version: int | None, changes: tuple[PencilChange, ...]
) -> None:
    db.add_version(connection, asking.studio_id, piece_id, version, [document_of(one) for one in changes])
