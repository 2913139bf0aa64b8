"""Counts of a piece and the choices behind them."""

from __future__ import annotations

from fastapi import APIRouter, Response

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import BpmQuery, stored_choices
from laptick.api.schemas.choices import PieceChoices
from laptick.api.schemas.counts import CountedAnew, CountsPublic
from laptick.api.schemas.takes import HandChoice
from laptick.api.views import counts as count_views
from laptick.api.views import pieces as views
from laptick.core.base.errors import OptionError
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.formats.documents.choices import choices_of

router = APIRouter(prefix="/pieces", tags=["pieces"])


def _at_once(answer: CountsPublic | CountedAnew) -> Response:
    """A large answer written as it is: checking and converting it a second time would take as long as counting."""
    return Response(answer.model_dump_json(by_alias=True), media_type="application/json")


@router.get("/{piece_id}/counts", response_model=CountsPublic)
def get_counts(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    hand: HandChoice = "both",
) -> Response:
    """The counts of the written score by the choices stored for studio, level and piece."""
    return _at_once(_counts(asking, connection, piece_id, bpm, hand))


def _counts(asking: AskingNow, connection: DbNow, piece_id: int, bpm: float, hand: HandChoice) -> CountsPublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    return count_views.counts_public(views.score_of(piece), hand, stored_choices(asking, connection, piece), bpm)


@router.get("/{piece_id}/choices")
def get_choices(asking: AskingNow, connection: DbNow, piece_id: int) -> PieceChoices:
    db.get_piece(connection, asking.studio_id, piece_id)
    return PieceChoices.model_validate(choices_db.get_choices(connection, asking.studio_id, piece_id))


@router.put("/{piece_id}/choices")
def put_choices(asking: AskingNow, connection: DbNow, piece_id: int, choices: PieceChoices) -> PieceChoices:
    """How this piece is counted, in place of what was chosen before."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    document = choices.model_dump(mode="json", exclude_defaults=True)
    choices_of({}, document, piece["level"])  # raises for what cannot be counted so
    known = {measure.number for measure in views.score_of(piece).measures}
    for name in [*choices.bars, *(syllable.measure for syllable in choices.syllables)]:
        if name not in known:
            raise OptionError(f"there is no bar “{name}” in this piece.", where="bars", kept="Nothing was changed.")
    choices_db.put_choices(connection, asking.studio_id, piece_id, document)
    return get_choices(asking, connection, piece_id)


@router.put("/{piece_id}/counts", response_model=CountedAnew)
def put_counts(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    choices: PieceChoices,
    bpm: BpmQuery,
    hand: HandChoice = "both",
) -> Response:
    """Stores how this piece is counted, as ``put_choices`` does, and gives the counts by that in the same answer, so
    that a choice is on the screen at once."""
    stored = put_choices(asking, connection, piece_id, choices)
    return _at_once(CountedAnew(choices=stored, counts=_counts(asking, connection, piece_id, bpm, hand)))
