"""Listening: slips as the teacher heard them, kept like takes, and laid beside what was measured."""

from __future__ import annotations

import math
from fractions import Fraction

from fastapi import APIRouter

from laptick.api.judging import task_of
from laptick.api.request.asking import Asking, AskingNow, DbNow
from laptick.api.schemas.takes import BesidePublic, HeardSlip, KeptSettings, ListeningCreate, ListeningPublic
from laptick.api.views import pieces as views
from laptick.api.views.takes import settings_kept
from laptick.core.base.errors import TakeError
from laptick.core.base.units import Quarters
from laptick.core.judging.listening import heard_onsets, lay_beside
from laptick.core.score.places import beat_words, place_words
from laptick.core.score.score import Score
from laptick.db import listening as db
from laptick.db import pieces as pieces_db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Connection, Row
from laptick.formats.documents.spots import spots_of_document

router = APIRouter(tags=["listening"])


@router.post("/pieces/{piece_id}/listenings", status_code=201)
def add_listening(asking: AskingNow, connection: DbNow, piece_id: int, heard: ListeningCreate) -> ListeningPublic:
    """Keeps the slips of one hearing; one without slips is one too."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    if any(not math.isfinite(slip) or slip < 0 for slip in heard.slips):
        raise TakeError("a slip has no usable time.", where="slips", kept="Nothing was stored.")
    settings = settings_kept(asking, connection, piece, heard)
    task_of(views.played_of(piece), settings, piece["level"])
    listening_id = db.add_listening(
        connection,
        asking.studio_id,
        piece_id=piece_id,
        settings=settings.model_dump(mode="json"),
        slips_s=sorted(heard.slips),
        first_beat_s=heard.first_beat_s,
        client_key=heard.client_key,
    )
    return _public(asking, connection, db.get_listening(connection, asking.studio_id, listening_id))


@router.get("/pieces/{piece_id}/listenings")
def list_listenings(asking: AskingNow, connection: DbNow, piece_id: int) -> list[ListeningPublic]:
    pieces_db.get_piece(connection, asking.studio_id, piece_id)
    return [_public(asking, connection, row) for row in db.list_listenings(connection, asking.studio_id, piece_id)]


@router.delete("/listenings/{listening_id}", status_code=204)
def delete_listening(asking: AskingNow, connection: DbNow, listening_id: int) -> None:
    db.mark_listening_deleted(connection, asking.studio_id, listening_id, deleted=True)


@router.post("/listenings/{listening_id}/restore")
def restore_listening(asking: AskingNow, connection: DbNow, listening_id: int) -> ListeningPublic:
    db.mark_listening_deleted(connection, asking.studio_id, listening_id, deleted=False)
    return _public(asking, connection, db.get_listening(connection, asking.studio_id, listening_id))


@router.get("/takes/{take_id}/beside/{listening_id}")
def beside(asking: AskingNow, connection: DbNow, take_id: int, listening_id: int) -> list[BesidePublic]:
    """What the teacher heard beside what the checker measured, place by place."""
    take = takes_db.get_take(connection, asking.studio_id, take_id)
    piece = pieces_db.get_piece(connection, asking.studio_id, take["piece_id"])
    heard = db.get_listening(connection, asking.studio_id, listening_id)
    if heard["piece_id"] != take["piece_id"]:
        raise TakeError("that was heard of another piece.", where="listening_id", kept="Nothing was changed.")
    score = views.played_then(piece, KeptSettings.model_validate(take["settings"]))
    _, onsets = _onsets(asking, connection, heard)
    spots = spots_of_document(take["document"], score)
    beat = score.measures[0].meter.beat_quarters
    return [
        BesidePublic(**_slip(score, one.onset_quarters).model_dump(), heard=one.heard, measured=one.measured)
        for one in lay_beside(onsets, spots, beat)
    ]


def _onsets(asking: Asking, connection: Connection, row: Row) -> tuple[Score, list[Quarters]]:
    """The score in the order that held then, and where in it the slips were heard."""
    piece = pieces_db.get_piece(connection, asking.studio_id, row["piece_id"])
    settings = KeptSettings.model_validate(row["settings"])
    score = views.played_then(piece, settings)
    task = task_of(score, settings, piece["level"])
    start = task.measures[0].start_quarters
    return score, [start + at for at in heard_onsets(task, row["slips"], row["first_beat_s"], settings.bpm)]


def _slip(score: Score, onset: Quarters) -> HeardSlip:
    place = score.place_at(Fraction(onset))
    words = f"{place_words(score, place)} · {beat_words(score.measure_of(place), place.offset_quarters)}"
    return HeardSlip(onset_quarters=float(onset), place_text=words)


def _public(asking: Asking, connection: Connection, row: Row) -> ListeningPublic:
    score, onsets = _onsets(asking, connection, row)
    settings = KeptSettings.model_validate(row["settings"])
    return ListeningPublic(
        id=row["id"],
        created_at=row["created_at"],
        bpm=settings.bpm,
        measures=settings.measures,
        hands=settings.hands,
        slips=[_slip(score, onset) for onset in onsets],
    )
