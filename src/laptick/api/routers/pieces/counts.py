"""Counts of a piece and the choices behind them."""

from __future__ import annotations

from fastapi import APIRouter, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.routers.pieces.pieces import BpmQuery
from laptick.api.schemas.choices import PieceChoices
from laptick.api.schemas.common import Id, WhoseQuery
from laptick.api.schemas.counts import CountedAnew, CountsPublic
from laptick.api.views.counts import counts_public
from laptick.core.counting.choices import Density
from laptick.studio.choices import put_piece_choices
from laptick.studio.pieces import shelf
from laptick.studio.pieces.open_piece import Piece
from laptick.studio.takes.settings import HandChoice
from laptick.studio.use_case import Studio

router = APIRouter(route_class=ModelRoute, prefix="/pieces", tags=["pieces"])


def _at_once(answer: CountsPublic | CountedAnew) -> Response:
    """A large answer written as it is: checking and converting it a second time would take as long as counting."""
    return Response(answer.model_dump_json(by_alias=True), media_type="application/json")


@router.get("/{piece_id}/counts", response_model=CountsPublic)
def get_counts(
    studio: StudioNow,
    piece_id: Id,
    bpm: BpmQuery,
    hand: HandChoice = "both",
    density: Density | None = None,
    student: WhoseQuery = None,
) -> Response:
    """The counts of the written score by the choices stored for studio, level and piece. ``density``: counted so
    densely, whatever was chosen; ``student``: at the level of that one."""
    return _at_once(_counts(shelf.get_piece(studio, piece_id, student), bpm, hand, density))


def _counts(piece: Piece, bpm: float, hand: HandChoice, density: Density | None = None) -> CountsPublic:
    return counts_public(piece.score, hand, piece.choices_at(density), bpm)


@router.get("/{piece_id}/choices")
def get_choices(studio: StudioNow, piece_id: Id) -> PieceChoices:
    return _chosen(shelf.get_piece(studio, piece_id))


def _chosen(piece: Piece) -> PieceChoices:
    return PieceChoices.model_validate(piece.own_choices)


@router.put("/{piece_id}/choices")
def put_choices(studio: StudioNow, piece_id: Id, choices: PieceChoices) -> PieceChoices:
    """How this piece is counted, in place of what was chosen before."""
    return _chosen(_put(studio, piece_id, choices))


def _put(studio: Studio, piece_id: Id, choices: PieceChoices) -> Piece:
    document = choices.model_dump(mode="json", exclude_defaults=True)
    bars = [*choices.bars, *(syllable.measure for syllable in choices.syllables)]
    return put_piece_choices(studio, piece_id, document, bars)


@router.put("/{piece_id}/counts", response_model=CountedAnew)
def put_counts(
    studio: StudioNow, piece_id: Id, choices: PieceChoices, bpm: BpmQuery, hand: HandChoice = "both"
) -> Response:
    """Stores how this piece is counted, as ``put_choices`` does, and gives the counts by that in the same answer, so
    that a choice is on the screen at once."""
    piece = _put(studio, piece_id, choices)
    return _at_once(CountedAnew(choices=_chosen(piece), counts=_counts(piece, bpm, hand)))
