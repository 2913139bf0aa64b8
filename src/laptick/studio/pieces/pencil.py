"""The teacher's pencil on a piece: changes made, taken away, undone and redone. The original file is kept as it is."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import NotFoundError, OptionError
from laptick.core.editing.changes import Change, PencilChange, spot_of, with_witness
from laptick.db import pencil as db
from laptick.formats.documents.pencil import change_of, document_of
from laptick.formats.score_files import with_pencil
from laptick.studio.pieces.open_piece import Document, Piece, open_piece
from laptick.studio.use_case import Studio, use_case

#: Changes of which a place has one: a further one on the same note or place stands in for it.
_SINGLE: dict[str, str] = {"fingering": "note", "chord": "at", "pitch": "note"}


@dataclass(frozen=True)
class ShownPencil:
    piece: Piece
    can_undo: bool
    can_redo: bool


def _shown(studio: Studio, piece_id: int) -> ShownPencil:
    piece = open_piece(studio, piece_id)
    can_undo, can_redo = db.get_steps(studio.connection, studio.id, piece_id, piece.pencil_version_id)
    return ShownPencil(piece, can_undo, can_redo)


@use_case
def get_pencil(studio: Studio, piece_id: int) -> ShownPencil:
    """What was pencilled into a piece."""
    return _shown(studio, piece_id)


@use_case
def add_change(studio: Studio, piece_id: int, version: int | None, document: Document) -> ShownPencil:
    """Makes a change.

    Raises:
        OptionError: it cannot be made, or breaks one that was made before.
        ConflictError: the pencil was used in another window since ``version``.
    """
    piece = open_piece(studio, piece_id)
    change = with_witness(change_of(document).change, piece.read_file.score)
    store(studio, piece_id, version, _with(piece, change))
    return _shown(studio, piece_id)


def _with(piece: Piece, change: Change) -> tuple[PencilChange, ...]:
    """The piece's changes with one more: beside those of its place, else in their stead."""
    known = piece.changes
    new = PencilChange(str(1 + max((int(one.key) for one in known), default=0)), change)
    place = _SINGLE.get(change.kind)
    single = [one for one in known if place and _same(one, new, place)]
    broken = {outcome.key for outcome in piece.pencilled.outcomes if outcome.problem}
    problem = None
    for gone in (single, []) if single else ([],):
        changes = (*(one for one in known if one not in gone), new)
        outcomes = with_pencil(piece.read_file, changes, piece.naming).outcomes
        problem = next((o.problem for o in outcomes if o.problem and o.key not in broken), None)
        if problem is None:
            return changes
    bar = spot_of(change).measure
    raise OptionError(
        problem or "that cannot be done.", where=f"bar {bar}" if bar else None, kept="Nothing was changed."
    )


def _same(one: PencilChange, other: PencilChange, place: str) -> bool:
    return one.change.kind == other.change.kind and bool(getattr(one.change, place) == getattr(other.change, place))


@use_case
def remove_change(studio: Studio, piece_id: int, key: str, version: int | None) -> ShownPencil:
    """Takes a change away (``all``: every one); others that build on it stay, and say why they are not applied.

    Raises:
        NotFoundError: it is not there any more.
        ConflictError: the pencil was used in another window since ``version``.
    """
    known = open_piece(studio, piece_id).changes
    left = () if key == "all" else tuple(one for one in known if one.key != key)
    if len(left) == len(known):
        raise NotFoundError("that change is not there any more.", kept="Nothing was changed.")
    store(studio, piece_id, version, left)
    return _shown(studio, piece_id)


@use_case
def undo_change(studio: Studio, piece_id: int, version: int | None) -> ShownPencil:
    """Back to the changes before ``version``."""
    db.step(studio.connection, studio.id, piece_id, version, back=True)
    return _shown(studio, piece_id)


@use_case
def redo_change(studio: Studio, piece_id: int, version: int | None) -> ShownPencil:
    """On to the newest changes after ``version``."""
    db.step(studio.connection, studio.id, piece_id, version, back=False)
    return _shown(studio, piece_id)


def store(studio: Studio, piece_id: int, version: int | None, changes: tuple[PencilChange, ...]) -> int:
    """Puts a list of changes in place of a version; gives the new one's."""
    return db.add_version(studio.connection, studio.id, piece_id, version, [document_of(one) for one in changes])
