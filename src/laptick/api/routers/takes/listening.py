"""Listening: slips as the teacher heard them, kept like takes, and laid beside what was measured."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.takes import BesidePublic, ListeningCreate, ListeningPublic
from laptick.api.views.takes import listening_public, slip_public
from laptick.studio.takes import listening
from laptick.studio.takes.listening import Heard

router = APIRouter(route_class=ModelRoute, tags=["listening"])


@router.post("/pieces/{piece_id}/listenings", status_code=201)
def add_listening(studio: StudioNow, piece_id: Id, heard: ListeningCreate) -> ListeningPublic:
    """Keeps the slips of one hearing; one without slips is one too."""
    kept = Heard(heard.slips, heard.first_beat_s, heard.client_key)
    return listening_public(listening.add_listening(studio, piece_id, heard, kept))


@router.get("/pieces/{piece_id}/listenings")
def list_listenings(studio: StudioNow, piece_id: Id) -> list[ListeningPublic]:
    return [listening_public(one) for one in listening.list_listenings(studio, piece_id)]


@router.delete("/listenings/{listening_id}", status_code=204)
def delete_listening(studio: StudioNow, listening_id: Id) -> None:
    listening.delete_listening(studio, listening_id)


@router.post("/listenings/{listening_id}/restore")
def restore_listening(studio: StudioNow, listening_id: Id) -> ListeningPublic:
    return listening_public(listening.restore_listening(studio, listening_id))


@router.get("/takes/{take_id}/beside/{listening_id}")
def beside(studio: StudioNow, take_id: Id, listening_id: Id) -> list[BesidePublic]:
    """What the teacher heard beside what the checker measured, place by place."""
    score, places = listening.beside(studio, take_id, listening_id)
    return [
        BesidePublic(**slip_public(score, one.onset_quarters).model_dump(), heard=one.heard, measured=one.measured)
        for one in places
    ]
