"""How the studio counts and judges, and how a piece is counted: stored in place of what was chosen before."""

from __future__ import annotations

from collections.abc import Iterable

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import LengthNaming
from laptick.core.measuring.limits import limits_of
from laptick.db import choices as db
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.sound.speech import check_language
from laptick.studio.pieces.open_piece import Document, Piece, open_piece
from laptick.studio.use_case import Studio, use_case


def studio_choices(studio: Studio) -> Document:
    return db.get_choices(studio.connection, studio.id, None)


@use_case
def get_studio_choices(studio: Studio) -> Document:
    """The studio's stored document; empty where nobody chose."""
    return studio_choices(studio)


@use_case
def get_naming(studio: Studio) -> LengthNaming:
    """What the studio calls lengths."""
    return naming_of(studio_choices(studio))


@use_case
def put_studio_choices(studio: Studio, document: Document, voice_language: str) -> Document:
    """How the studio counts.

    Raises:
        OptionError: what cannot be counted so, no limit, or no language.
    """
    for level in Level:
        choices_of(document, {}, level.value)
        limits_of(level, document.get("limits"))
    check_language(voice_language)
    db.put_choices(studio.connection, studio.id, None, document)
    return studio_choices(studio)


@use_case
def put_piece_choices(studio: Studio, piece_id: int, document: Document, bars: Iterable[str]) -> Piece:
    """How a piece is counted. ``bars``: the names of those that choices are made for.

    Raises:
        OptionError: what cannot be counted so, or a bar that the piece has not.
    """
    piece = open_piece(studio, piece_id)
    choices_of({}, document, piece.level.value)
    known = {measure.number for measure in piece.score.measures}
    for name in bars:
        if name not in known:
            raise OptionError(f"there is no bar “{name}” in this piece.", where="bars", kept="Nothing was changed.")
    db.put_choices(studio.connection, studio.id, piece_id, document)
    return open_piece(studio, piece_id)
