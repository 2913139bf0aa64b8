"""Pieces of the studio: put on the shelf, shown, changed, taken off it and put back; how their files are read and in
which order their bars are played."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import Bpm, LengthNaming, plain_bpm
from laptick.core.counting.counting import default_bpm
from laptick.core.rhythm.phrases import Phrasing, check_places, find_phrases
from laptick.core.score.roadmap import order_of_names
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.db import shelf as shelf_db
from laptick.formats.documents.choices import naming_of
from laptick.formats.parts.reading import reading_of
from laptick.studio.pieces.face import (
    Face,
    Progress,
    face_of,
    faces_to_make,
    keep_face_of_score,
    progress_of,
)
from laptick.studio.pieces.open_piece import Piece, open_piece, read_as
from laptick.studio.studies.open_study import played_by
from laptick.studio.studies.studies import refold_studies
from laptick.studio.use_case import Studio, use_case

#: A piece without a tempo mark gets this target until the teacher sets one.
UNMARKED_BPM = 72.0


@dataclass(frozen=True)
class OnShelf:
    """A piece as the shelf shows it. ``is_drill``: it was made, not read."""

    id: int
    title: str
    composer: str
    level: Level
    target_bpm: Bpm
    naming: LengthNaming
    face: Face
    progress: Progress
    is_drill: bool


@dataclass(frozen=True)
class ShownPiece:
    """``same_file_as``: an earlier piece from the same file."""

    piece: Piece
    same_file_as: int | None = None


def shown_piece(studio: Studio, piece_id: int) -> ShownPiece:
    """A piece that is on the shelf.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    return ShownPiece(open_piece(studio, piece_id))


@use_case
def list_pieces(studio: Studio, after_id: int | None = None, most: int | None = None) -> list[OnShelf]:
    """The shelf, by title: ``most`` of what stands after a piece, or all."""
    naming = naming_of(choices_db.get_choices(studio.connection, studio.id, None))
    return [
        OnShelf(
            id=row["id"],
            title=row["title"],
            composer=row["composer"],
            level=_level(row["level"]),
            target_bpm=row["target_bpm"],
            naming=naming,
            face=face_of(studio, row),
            progress=progress_of(studio, row),
            is_drill=bool(row["is_drill"]),
        )
        for row in shelf_db.list_shelf(studio.connection, studio.id, after_id=after_id, most=most)
    ]


def _level(stored: str) -> Level:
    """Of a damaged row any: its face says that it cannot be read."""
    return Level(stored) if stored in set(Level) else Level.ELEMENTARY


@use_case
def get_original(studio: Studio, piece_id: int) -> tuple[bytes, str]:
    """The file as it came, and its name: also of a piece of which nothing else can be read."""
    row = db.get_piece(studio.connection, studio.id, piece_id)
    return row["original"], row["filename"]


@use_case
def pieces_to_read(studio: Studio) -> int:
    """How many pieces the next look at the shelf has to read: none, but for what changed since the last one."""
    return faces_to_make(studio)


@use_case
def get_piece(studio: Studio, piece_id: int, student_id: int | None = None) -> Piece:
    """A piece that is on the shelf; at the level of a student, where one is named."""
    piece = open_piece(studio, piece_id)
    return piece if student_id is None else played_by(studio, piece, student_id)


@use_case
def show_piece(studio: Studio, piece_id: int) -> ShownPiece:
    """The same, to be shown."""
    return shown_piece(studio, piece_id)


@use_case
def add_piece(studio: Studio, original: bytes, filename: str) -> ShownPiece:
    """Reads a score file and puts it on the shelf.

    Raises:
        ScoreError, LimitError: a file that cannot be read leaves nothing behind.
    """
    score = read_as(original, filename, {}).score
    new = db.NewPiece(
        title=score.title,
        composer=score.composer,
        filename=filename,
        original=original,
        level=Level.ELEMENTARY.value,
        target_bpm=plain_bpm(default_bpm(score) or UNMARKED_BPM),
    )
    piece_id = db.add_piece(studio.connection, studio.id, new)
    keep_face_of_score(studio, piece_id, score, new.target_bpm)
    twin = db.same_file(studio.connection, studio.id, piece_id)
    return ShownPiece(open_piece(studio, piece_id), twin["id"] if twin else None)


@use_case
def update_piece(studio: Studio, piece_id: int, level: Level | None, target_bpm: Bpm | None) -> ShownPiece:
    """What the teacher sets of a piece; ``None`` leaves it as it is."""
    piece = open_piece(studio, piece_id)
    db.update_piece(
        studio.connection,
        studio.id,
        piece_id,
        level=(level or piece.level).value,
        target_bpm=target_bpm or piece.target_bpm,
    )
    refold_studies(studio, open_piece(studio, piece_id))
    return shown_piece(studio, piece_id)


@use_case
def delete_piece(studio: Studio, piece_id: int) -> None:
    """Takes a piece off the shelf; its takes stay with it."""
    db.mark_piece_deleted(studio.connection, studio.id, piece_id, deleted=True)


@use_case
def restore_piece(studio: Studio, piece_id: int) -> ShownPiece:
    """Puts it back."""
    db.mark_piece_deleted(studio.connection, studio.id, piece_id, deleted=False)
    return shown_piece(studio, piece_id)


def phrasing_of(piece: Piece) -> Phrasing:
    """The phrases of a piece: the teacher's, else those found."""
    return find_phrases(piece.score, piece.reading.phrase_starts)


@use_case
def set_play_order(studio: Studio, piece_id: int, order: list[str] | None) -> Piece:
    """The teacher's own playing order (bars by name; ``None``: by the signs); takes made before keep theirs.

    Raises:
        OptionError: a bar that the piece has not.
    """
    piece = open_piece(studio, piece_id)
    if order is not None:
        order_of_names(piece.score, order)
    db.set_reading(studio.connection, studio.id, piece_id, reading=piece.reading_document, play_order=order)
    return open_piece(studio, piece_id)


@use_case
def set_reading(studio: Studio, piece_id: int, document: dict[str, Any]) -> ShownPiece:
    """Reads the file another way.

    Raises:
        OptionError, ScoreError: a way in which the file gives no score.
    """
    piece = open_piece(studio, piece_id)
    reading = reading_of(document)
    known = {part.id for part in piece.file.parts}
    for part in reading.parts:
        if part not in known:
            raise OptionError(f"the file has no part “{part[:20]}”.", where="parts", kept="Nothing was changed.")
    check_places(piece.read_otherwise(reading.document()).score, reading.phrase_starts)
    db.set_reading(studio.connection, studio.id, piece_id, reading=reading.document(), play_order=piece.play_order)
    return shown_piece(studio, piece_id)
