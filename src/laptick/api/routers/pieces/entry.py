"""Quick entry: a passage typed here, a score like any other from its first note."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import UNMARKED_BPM, piece_now, studio_naming
from laptick.api.schemas.common import Level
from laptick.api.schemas.entry import BarFaultPublic, EntryCreate, EntryPublic, EntryUpdate
from laptick.api.schemas.pieces import PiecePublic
from laptick.core.base.errors import NotFoundError
from laptick.core.base.units import LengthNaming
from laptick.core.editing.entry import Entry, bar_faults, entry_score
from laptick.db import pieces as db
from laptick.db.engine.connect import Row
from laptick.formats.documents.entry import entry_document, entry_of
from laptick.formats.musicxml_writing.writer import write_musicxml

router = APIRouter(tags=["entry"])


@router.post("/entries", status_code=201)
def add_entry(asking: AskingNow, connection: DbNow, wanted: EntryCreate) -> PiecePublic:
    """Begins a passage and puts it on the shelf."""
    entry = entry_of(wanted.model_dump(mode="json"))
    piece_id = db.add_piece(
        connection,
        asking.studio_id,
        title=entry.title,
        composer="",
        filename=f"{_plain(entry.title)}.musicxml",
        original=write_musicxml(entry_score(entry)),
        level=Level.ELEMENTARY.value,
        target_bpm=entry.bpm or UNMARKED_BPM,
        entry=entry_document(entry),
    )
    return piece_now(asking, connection, piece_id)


def _plain(title: str) -> str:
    """A name for a file."""
    kept = "".join(letter if letter.isalnum() else "-" for letter in title.lower())
    return "-".join(part for part in kept.split("-") if part)[:60] or "passage"


def _stored(asking: AskingNow, connection: DbNow, piece_id: int) -> Row:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    if piece["entry"] is None:
        raise NotFoundError("this piece was not typed here.", todo="Correct it with the pencil.")
    return piece


@router.get("/pieces/{piece_id}/entry")
def get_entry(asking: AskingNow, connection: DbNow, piece_id: int) -> EntryPublic:
    piece = _stored(asking, connection, piece_id)
    return _public(entry_of(piece["entry"]), piece["entry_version"], studio_naming(asking, connection))


@router.put("/pieces/{piece_id}/entry")
def put_entry(asking: AskingNow, connection: DbNow, piece_id: int, wanted: EntryUpdate) -> EntryPublic:
    """The passage as it is typed now. Bars may be unfinished or too long: they are kept so, and said."""
    piece = _stored(asking, connection, piece_id)
    entry = entry_of(wanted.model_dump(mode="json", exclude={"version"}))
    db.set_entry(
        connection,
        asking.studio_id,
        piece_id,
        wanted.version,
        entry=entry_document(entry),
        original=write_musicxml(entry_score(entry)),
        title=entry.title,
        target_bpm=entry.bpm or piece["target_bpm"],
    )
    return _public(entry, wanted.version + 1, studio_naming(asking, connection))


def _public(entry: Entry, version: int, naming: LengthNaming) -> EntryPublic:
    return EntryPublic(
        **entry_document(entry),
        version=version,
        bar_quarters=str(entry.signature.bar_quarters),
        faults=[
            BarFaultPublic(
                bar_index=fault.bar_index, hand=fault.hand.value, text=fault.text, is_unfinished=fault.is_unfinished
            )
            for fault in bar_faults(entry, naming)
        ],
    )
