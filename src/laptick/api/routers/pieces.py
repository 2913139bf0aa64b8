"""Pieces: the shelf, a piece with its ruler, its counts and its schedule."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api import views
from laptick.api.asking import AskingNow, DbNow
from laptick.api.schemas.common import Compound, Density, Level
from laptick.api.schemas.pieces import CountsPublic, PiecePublic, PieceShort, PieceUpdate, SchedulePublic
from laptick.api.schemas.takes import HandChoice
from laptick.core.counting import default_bpm
from laptick.core.playing import make_schedule
from laptick.core.score import HANDS
from laptick.core.units import MAX_BPM, MIN_BPM
from laptick.db import pieces as db
from laptick.db import takes as takes_db
from laptick.formats.documents import HAND_KEYS
from laptick.formats.musicxml import read_musicxml

router = APIRouter(prefix="/pieces", tags=["pieces"])

#: A piece without a tempo mark gets this target until the teacher sets one.
UNMARKED_BPM = 72.0

BpmQuery = Annotated[float, Query(ge=MIN_BPM, le=MAX_BPM)]


@router.get("")
def list_pieces(asking: AskingNow, connection: DbNow) -> list[PieceShort]:
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id)
    return [
        views.piece_short(piece, statuses.get(piece["id"], []))
        for piece in db.list_pieces(connection, asking.studio_id)
    ]


@router.post("", status_code=201)
def add_piece(asking: AskingNow, connection: DbNow, file: Annotated[UploadFile, File()]) -> PiecePublic:
    """Reads a score file and puts it on the shelf; a file that cannot be read leaves nothing behind."""
    original = file.file.read()
    filename = (file.filename or "score.musicxml").replace("\\", "/").rsplit("/", 1)[-1][:255]
    score = read_musicxml(original, filename=filename)
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
    return _piece(asking, connection, piece_id)


@router.get("/{piece_id}")
def get_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    return _piece(asking, connection, piece_id)


def _piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id).get(piece_id, [])
    return views.piece_public(piece, statuses)


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
    return _piece(asking, connection, piece_id)


@router.delete("/{piece_id}", status_code=204)
def delete_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> None:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=True)


@router.post("/{piece_id}/restore")
def restore_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=False)
    return _piece(asking, connection, piece_id)


@router.get("/{piece_id}/original", response_class=Response)
def get_original(asking: AskingNow, connection: DbNow, piece_id: int) -> Response:
    """The file as it came."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    return Response(
        piece["original"],
        media_type="application/octet-stream",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{_quoted(piece['filename'])}"},
    )


def _quoted(filename: str) -> str:
    from urllib.parse import quote

    return quote(filename, safe="")


@router.get("/{piece_id}/counts")
def get_counts(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    hand: HandChoice = "both",
    density: Density = Density.BEAT,
    compound: Compound = Compound.AUTO,
) -> CountsPublic:
    score = views.score_of(db.get_piece(connection, asking.studio_id, piece_id))
    return views.counts_public(score, hand, density, compound, bpm)


@router.get("/{piece_id}/schedule")
def get_schedule(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    hands: HandChoice = "both",
    measures: Annotated[str | None, Query(max_length=40)] = None,
    density: Density = Density.BEAT,
    compound: Compound = Compound.AUTO,
    click_counts: bool = False,
) -> SchedulePublic:
    score = views.score_of(db.get_piece(connection, asking.studio_id, piece_id))
    hand = HAND_KEYS[hands]
    schedule = make_schedule(
        score,
        bpm=bpm,
        measures=score.select_measures(measures),
        hands=(hand,) if hand else HANDS,
        density=density,
        compound=compound,
        click_counts=click_counts,
    )
    return views.schedule_public(schedule)
