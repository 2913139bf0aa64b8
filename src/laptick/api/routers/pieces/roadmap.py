"""The playing order of a piece and how its file was read."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import piece_now, studio_naming
from laptick.api.schemas.pieces import PiecePublic
from laptick.api.schemas.roadmap import (
    PartPublic,
    PhraseStart,
    ReadingPublic,
    ReadingUpdate,
    RoadmapPublic,
    RoadmapUpdate,
)
from laptick.api.views import pieces as views
from laptick.api.views.roadmap import roadmap_public
from laptick.core.base.errors import OptionError
from laptick.core.rhythm.phrases import check_places, find_phrases
from laptick.core.score.roadmap import order_of_names, play_order
from laptick.db import pieces as db
from laptick.formats.parts.reading import GRIDS, reading_of
from laptick.formats.score_files import open_score

router = APIRouter(prefix="/pieces", tags=["pieces"])


@router.get("/{piece_id}/roadmap")
def get_roadmap(asking: AskingNow, connection: DbNow, piece_id: int) -> RoadmapPublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    score = views.score_of(piece)
    phrasing = find_phrases(score, views.reading_of_piece(piece).phrase_starts)
    return roadmap_public(score, play_order(score), piece["play_order"], phrasing, studio_naming(asking, connection))


@router.put("/{piece_id}/roadmap")
def put_roadmap(asking: AskingNow, connection: DbNow, piece_id: int, update: RoadmapUpdate) -> RoadmapPublic:
    """The teacher's own playing order; takes made before keep theirs."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    if update.order is not None:
        order_of_names(views.score_of(piece), update.order)
    db.set_reading(connection, asking.studio_id, piece_id, reading=piece["reading"], play_order=update.order)
    return get_roadmap(asking, connection, piece_id)


@router.get("/{piece_id}/reading")
def get_reading(asking: AskingNow, connection: DbNow, piece_id: int) -> ReadingPublic:
    """How the file is read, and the parts it has."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    file, reading = views.file_of(piece), views.reading_of_piece(piece)
    return ReadingPublic(
        parts=[PartPublic(id=p.id, name=p.name, staves=p.staves, is_read=p.is_read) for p in file.parts],
        staff_hands={key: hand.value for key, hand in reading.staff_hands.items()},
        note_hands={key: hand.value for key, hand in reading.note_hands.items()},
        split_pitch=reading.split_pitch,
        line_starts=list(reading.line_starts),
        phrase_starts=[PhraseStart(measure=p.measure, offset=str(p.offset_quarters)) for p in reading.phrase_starts],
        grid=reading.grid,
        grids=list(GRIDS),
        is_midi=file.musicxml is None,
    )


@router.put("/{piece_id}/reading")
def put_reading(asking: AskingNow, connection: DbNow, piece_id: int, update: ReadingUpdate) -> PiecePublic:
    """Reads the file another way; a way in which it gives no score is refused, and nothing changes."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    reading = reading_of(update.model_dump())
    known = {part.id for part in views.file_of(piece).parts}
    for part in reading.parts:
        if part not in known:
            raise OptionError(f"the file has no part “{part[:20]}”.", where="parts", kept="Nothing was changed.")
    check_places(
        open_score(piece["original"], filename=piece["filename"], reading=reading).score, reading.phrase_starts
    )
    db.set_reading(connection, asking.studio_id, piece_id, reading=reading.document(), play_order=piece["play_order"])
    return piece_now(asking, connection, piece_id)
