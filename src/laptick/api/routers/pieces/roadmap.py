"""The playing order of a piece and how its file was read."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.pieces import PiecePublic
from laptick.api.schemas.roadmap import (
    PartPublic,
    PhraseStart,
    ReadingPublic,
    ReadingUpdate,
    RoadmapPublic,
    RoadmapUpdate,
)
from laptick.api.views.pieces import piece_public
from laptick.api.views.roadmap import roadmap_public
from laptick.formats.parts.reading import GRIDS
from laptick.studio.pieces import shelf

router = APIRouter(route_class=ModelRoute, prefix="/pieces", tags=["pieces"])


@router.get("/{piece_id}/roadmap")
def get_roadmap(studio: StudioNow, piece_id: Id) -> RoadmapPublic:
    return roadmap_public(shelf.get_piece(studio, piece_id))


@router.put("/{piece_id}/roadmap")
def put_roadmap(studio: StudioNow, piece_id: Id, update: RoadmapUpdate) -> RoadmapPublic:
    """The teacher's own playing order; takes made before keep theirs."""
    return roadmap_public(shelf.set_play_order(studio, piece_id, update.order))


@router.get("/{piece_id}/reading")
def get_reading(studio: StudioNow, piece_id: Id) -> ReadingPublic:
    """How the file is read, and the parts it has."""
    piece = shelf.get_piece(studio, piece_id)
    file, reading = piece.file, piece.reading
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
def put_reading(studio: StudioNow, piece_id: Id, update: ReadingUpdate) -> PiecePublic:
    """Reads the file another way; a way in which it gives no score is refused, and nothing changes."""
    return piece_public(shelf.set_reading(studio, piece_id, update.model_dump()))
