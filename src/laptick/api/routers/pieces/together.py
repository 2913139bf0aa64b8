"""The together map of a piece."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.ruler import StrikePublic
from laptick.api.schemas.together import MapPublic
from laptick.api.views.together import map_public
from laptick.core.base.units import quarters_to_text
from laptick.core.score.places import beat_words, strikes_of_bar
from laptick.core.together.difficulty import quarters_a_minute
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN, span_of
from laptick.studio.pieces import shelf

router = APIRouter(route_class=ModelRoute, prefix="/pieces", tags=["pieces"])

OCTAVE_INTERVAL = 8


@router.get("/{piece_id}/strikes")
def list_strikes(studio: StudioNow, piece_id: Id, measure: Annotated[str, Query(max_length=12)]) -> list[StrikePublic]:
    """Where in a bar something is struck: where a spot of it may begin or end."""
    score = shelf.get_piece(studio, piece_id).score
    bar = score.select_measures(measure)[0]
    return [
        StrikePublic(offset=quarters_to_text(offset), words=beat_words(bar, offset))
        for offset in strikes_of_bar(score, bar)
    ]


@router.get("/{piece_id}/map", response_model=MapPublic)
def get_map(
    studio: StudioNow, piece_id: Id, span: Annotated[int, Query(ge=LEAST_SPAN, le=MOST_SPAN)] = OCTAVE_INTERVAL
) -> Response:
    """What meets, what is held, where the hands stand and where it is hardest, at the tempo that is to be reached, for
    a hand that spans such an interval (8: an octave)."""
    piece = shelf.get_piece(studio, piece_id)
    quarter_bpm = quarters_a_minute(piece.score, piece.target_bpm)
    answer = map_public(piece.score, span_of(span), quarter_bpm, piece.level)
    return Response(answer.model_dump_json(), media_type="application/json")
