"""Passages that are typed here: begun, shown, and stored as they are typed. A passage is a piece like any other."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import NotFoundError
from laptick.core.base.levels import Level
from laptick.core.editing.entry import BarFault, Entry, bar_faults, entry_score
from laptick.db import pieces as db
from laptick.formats.documents.entry import entry_document, entry_of
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.studio.pieces.open_piece import Document, Piece, open_piece
from laptick.studio.pieces.shelf import UNMARKED_BPM, ShownPiece, shown_piece
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class ShownEntry:
    """A typed passage, its version, and what is not right in its bars yet."""

    entry: Entry
    version: int
    faults: tuple[BarFault, ...]


def new_passage(entry: Entry, *, demo_key: str | None = None) -> db.NewPiece:
    """A typed passage as a piece to be stored."""
    return db.NewPiece(
        title=entry.title,
        composer="",
        filename=f"{plain_stem(entry.title)}.musicxml",
        original=write_musicxml(entry_score(entry)),
        level=Level.ELEMENTARY.value,
        target_bpm=entry.bpm or UNMARKED_BPM,
        demo_key=demo_key,
        entry=entry_document(entry),
    )


def plain_stem(title: str) -> str:
    """A name for a file."""
    kept = "".join(letter if letter.isalnum() else "-" for letter in title.lower())
    return "-".join(part for part in kept.split("-") if part)[:60] or "passage"


@use_case
def add_entry(studio: Studio, document: Document) -> ShownPiece:
    """Begins a passage and puts it on the shelf.

    Raises:
        OptionError, LimitError: the document is no passage.
    """
    piece_id = db.add_piece(studio.connection, studio.id, new_passage(entry_of(document)))
    return shown_piece(studio, piece_id)


def _typed(studio: Studio, piece_id: int) -> tuple[Piece, Entry]:
    piece = open_piece(studio, piece_id)
    if piece.entry is None:
        raise NotFoundError("this piece was not typed here.", todo="Correct it with the pencil.")
    return piece, piece.entry


@use_case
def get_entry(studio: Studio, piece_id: int) -> ShownEntry:
    """A typed passage.

    Raises:
        NotFoundError: the piece was not typed here.
    """
    piece, entry = _typed(studio, piece_id)
    return ShownEntry(entry, piece.entry_version, tuple(bar_faults(entry, piece.naming)))


@use_case
def put_entry(studio: Studio, piece_id: int, version: int, document: Document) -> ShownEntry:
    """The passage as it is typed now, in place of its ``version``. Bars may be unfinished or too long: they are kept
    so, and said.

    Raises:
        ConflictError: it was stored by another window meanwhile.
    """
    piece, _ = _typed(studio, piece_id)
    entry = entry_of(document)
    changed = db.TypedAnew(
        entry=entry_document(entry),
        original=write_musicxml(entry_score(entry)),
        title=entry.title,
        target_bpm=entry.bpm or piece.target_bpm,
    )
    db.set_entry(studio.connection, studio.id, piece_id, version, changed)
    return ShownEntry(entry, version + 1, tuple(bar_faults(entry, piece.naming)))
