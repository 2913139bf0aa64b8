"""Quick entry: a passage typed here, a score like any other from its first note."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.pieces import PiecePublic
from laptick.api.schemas.writing.entry import BarFaultPublic, EntryCreate, EntryPublic, EntryUpdate
from laptick.api.views.pieces import piece_public
from laptick.formats.documents.entry import entry_document
from laptick.studio.pieces import entry as passages
from laptick.studio.pieces.entry import ShownEntry

router = APIRouter(route_class=ModelRoute, tags=["entry"])


@router.post("/entries", status_code=201)
def add_entry(studio: StudioNow, wanted: EntryCreate) -> PiecePublic:
    """Begins a passage and puts it on the shelf."""
    return piece_public(passages.add_entry(studio, wanted.model_dump(mode="json")))


@router.get("/pieces/{piece_id}/entry")
def get_entry(studio: StudioNow, piece_id: Id) -> EntryPublic:
    return _public(passages.get_entry(studio, piece_id))


@router.put("/pieces/{piece_id}/entry")
def put_entry(studio: StudioNow, piece_id: Id, wanted: EntryUpdate) -> EntryPublic:
    """The passage as it is typed now. Bars may be unfinished or too long: they are kept so, and said."""
    document = wanted.model_dump(mode="json", exclude={"version"})
    return _public(passages.put_entry(studio, piece_id, wanted.version, document))


def _public(shown: ShownEntry) -> EntryPublic:
    return EntryPublic(
        **entry_document(shown.entry),
        version=shown.version,
        bar_quarters=str(shown.entry.signature.bar_quarters),
        faults=[
            BarFaultPublic(
                bar_index=fault.bar_index, hand=fault.hand.value, text=fault.text, is_unfinished=fault.is_unfinished
            )
            for fault in shown.faults
        ],
    )
