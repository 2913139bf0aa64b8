"""Pieces: the shelf, a piece with its ruler, its counts and its schedule."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.common import Level
from laptick.api.schemas.pieces import PieceAdded, PiecePublic, PieceShort, PieceUpdate
from laptick.api.views import pieces as views
from laptick.core.base.units import MAX_BPM, MIN_BPM, LengthNaming
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import default_bpm
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.score_files import read_score

router = APIRouter(prefix="/pieces", tags=["pieces"])

#: A piece without a tempo mark gets this target until the teacher sets one.
UNMARKED_BPM = 72.0

BpmQuery = Annotated[float, Query(ge=MIN_BPM, le=MAX_BPM)]


@router.get("")
def list_pieces(asking: AskingNow, connection: DbNow) -> list[PieceShort]:
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id)
    naming = studio_naming(asking, connection)
    return [
        views.piece_short(piece, statuses.get(piece["id"], []), naming)
        for piece in db.list_pieces(connection, asking.studio_id)
    ]


@router.post("", status_code=201)
def add_piece(asking: AskingNow, connection: DbNow, file: Annotated[UploadFile, File()]) -> PieceAdded:
    """Reads a score file and puts it on the shelf; a file that cannot be read leaves nothing behind."""
    original = file.file.read()
    filename = (file.filename or "score.musicxml").replace("\\", "/").rsplit("/", 1)[-1][:255]
    score = read_score(original, filename=filename)
    piece_id = db.add_piece(
        connection,
        asking.studio_id,
        title=score.title,
        composer=score.composer,
        filename=filename,
        original=original,
        level=Level.ELEMENTARY.value,
        target_bpm=default_bpm(score) or UNMARKED_BPM,
    )
    twin = db.same_file(connection, asking.studio_id, piece_id)
    added = piece_now(asking, connection, piece_id)
    return PieceAdded(**added.model_dump(), same_file_as=twin["id"] if twin else None)


@router.get("/{piece_id}")
def get_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    return piece_now(asking, connection, piece_id)


def piece_now(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id).get(piece_id, [])
    return views.piece_public(piece, statuses, studio_naming(asking, connection))


@router.patch("/{piece_id}")
def update_piece(asking: AskingNow, connection: DbNow, piece_id: int, update: PieceUpdate) -> PiecePublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    db.update_piece(
        connection,
        asking.studio_id,
        piece_id,
        level=update.level or piece["level"],
        target_bpm=update.target_bpm or piece["target_bpm"],
    )
    return piece_now(asking, connection, piece_id)


@router.delete("/{piece_id}", status_code=204)
def delete_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> None:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=True)


@router.post("/{piece_id}/restore")
def restore_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=False)
    return piece_now(asking, connection, piece_id)


@router.get("/{piece_id}/original", response_class=Response)
def get_original(asking: AskingNow, connection: DbNow, piece_id: int) -> Response:
    """The file as it came."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    return Response(
        piece["original"],
        media_type="application/octet-stream",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quoted(piece['filename'])}"},
    )


def quoted(filename: str) -> str:
    return quote(filename, safe="")


# -- how it is counted, played and read ------------------------------------------------------------------


def stored_choices(asking: AskingNow, connection: DbNow, piece: Row) -> CountChoices:
    """All counting choices that bear on a piece."""
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    own = choices_db.get_choices(connection, asking.studio_id, piece["id"])
    return choices_of(studio, own, piece["level"])


def studio_naming(asking: AskingNow, connection: DbNow) -> LengthNaming:
    """What the studio calls lengths."""
    return naming_of(choices_db.get_choices(connection, asking.studio_id, None))
