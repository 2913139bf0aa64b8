"""A stored piece with everything the studio knows of it: its file as read and pencilled, its playing order, how it is
counted.

Reading the same bytes the same way gives the same score, so the newest readings are kept in memory.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from datetime import datetime
from functools import cached_property
from typing import Any

from laptick.core.base.errors import OptionError, StorageError
from laptick.core.base.levels import Level
from laptick.core.base.units import Bpm, LengthNaming
from laptick.core.base.weighed import Weighed
from laptick.core.counting.choices import CountChoice, CountChoices, Density
from laptick.core.editing.changes import PencilChange
from laptick.core.editing.entry import Entry, entry_score
from laptick.core.score.roadmap import in_played_order, order_of_names, play_order
from laptick.core.score.score import Score
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.db.engine.connect import Row
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.documents.entry import entry_of
from laptick.formats.documents.pencil import changes_of
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.parts.reading import Reading, reading_of
from laptick.formats.score_files import PencilledFile, ScoreFile, open_score, with_pencil
from laptick.studio.takes.settings import KeptSettings
from laptick.studio.use_case import Studio

Document = dict[str, Any]


#: Original by its hash, file name, reading, and whether it may be silent: what a score is read from.
ReadFrom = tuple[str, str, str, bool]


def _notes_of(file: ScoreFile) -> int:
    return len(file.score.notes) + len(file.score.rests) + NOTES_A_BAR * len(file.score.measures)


#: A read score takes about 5.5 kB a note, with its file's tree and what is worked out of it: so many are 140 MB.
MOST_NOTES_KEPT, NOTES_A_BAR = 25_000, 2

_READ: Weighed[ReadFrom, ScoreFile] = Weighed(MOST_NOTES_KEPT, _notes_of)
_PENCILLED: Weighed[tuple[ReadFrom, str, LengthNaming], PencilledFile] = Weighed(
    MOST_NOTES_KEPT // 2, lambda pencilled: _notes_of(pencilled.file)
)


def read_as(original: bytes, filename: str, reading: Document, *, allow_silent: bool = False) -> ScoreFile:
    """A file as it is read one way; read once, for whoever asks next gets the same.

    Raises:
        ScoreError, LimitError: it cannot be read so.
    """
    key = _read_from(original, filename, reading, allow_silent=allow_silent)
    return _READ.of(
        key, lambda: open_score(original, filename=filename, reading=reading_of(reading), allow_silent=allow_silent)
    )


def _read_from(original: bytes, filename: str, reading: Document, *, allow_silent: bool) -> ReadFrom:
    return hashlib.sha256(original).hexdigest(), filename, json.dumps(reading, sort_keys=True), allow_silent


@dataclass(frozen=True)
class Piece:
    """``reading``, ``play_order`` (bars by name), ``pencil`` and ``entry`` are stored documents, ``None`` where there
    is none; ``studio_choices`` and ``own_choices`` those of how it is counted."""

    id: int
    title: str
    composer: str
    filename: str
    level: Level
    target_bpm: Bpm
    created_at: datetime
    original: bytes
    reading_document: Document | None
    play_order: list[str] | None
    pencil: list[Document] | None
    pencil_version_id: int | None
    entry_document: Document | None
    entry_version: int
    drill_document: Document | None
    studio_choices: Document
    own_choices: Document

    @property
    def stem(self) -> str:
        """Its file's name without the ending, for files that are made from it."""
        return self.filename.rsplit(".", 1)[0]

    @property
    def read_as(self) -> tuple[Any, ...]:
        """What its score is read from: the same gives the same score."""
        return (*self._read_from, json.dumps(self.pencil or []), self.naming)

    @cached_property
    def stamp(self) -> str:
        """A hash of all there is of it: what is made of the piece is out of date when this is another."""
        told = {one.name: getattr(self, one.name) for one in fields(self) if one.name != "original"}
        told["original"] = hashlib.sha256(self.original).hexdigest()
        return hashlib.sha256(json.dumps(told, sort_keys=True, default=str).encode()).hexdigest()

    @cached_property
    def choices(self) -> CountChoices:
        """All counting choices that bear on it."""
        return choices_of(self.studio_choices, self.own_choices, self.level.value)

    def choices_at(self, density: Density | None) -> CountChoices:
        """The same, counted as densely as is asked for, where it is."""
        if density is None:
            return self.choices
        return replace(self.choices, piece=CountChoice(density=density).over(self.choices.piece))

    @cached_property
    def naming(self) -> LengthNaming:
        """What the studio calls lengths."""
        return naming_of(self.studio_choices)

    @cached_property
    def reading(self) -> Reading:
        return reading_of(self.reading_document or {})

    @cached_property
    def changes(self) -> tuple[PencilChange, ...]:
        """What was pencilled into it."""
        return changes_of(self.pencil or [])

    @cached_property
    def entry(self) -> Entry | None:
        """What was typed, of a passage that was typed here."""
        return None if self.entry_document is None else entry_of(self.entry_document)

    @cached_property
    def _read_from(self) -> ReadFrom:
        # A passage that is being typed may be without a note.
        is_typed = self.entry_document is not None
        return _read_from(self.original, self.filename, self.reading_document or {}, allow_silent=is_typed)

    @property
    def read_file(self) -> ScoreFile:
        """The file as it was read, without the pencil."""
        return self.read_otherwise(self.reading_document or {})

    def read_otherwise(self, reading: Document) -> ScoreFile:
        """The file as it would be read another way.

        Raises:
            ScoreError: it gives no score that way.
        """
        return read_as(self.original, self.filename, reading, allow_silent=self.entry_document is not None)

    @cached_property
    def pencilled(self) -> PencilledFile:
        """The file with the pencilled changes made, and what became of each."""
        if not self.pencil:
            return PencilledFile(self.read_file, ())
        key = (self._read_from, json.dumps(self.pencil), self.naming)
        return _PENCILLED.of(key, lambda: with_pencil(self.read_file, self.changes, self.naming))

    @property
    def file(self) -> ScoreFile:
        """The file as it is used: read, and pencilled."""
        return self.pencilled.file

    @property
    def score(self) -> Score:
        """The written score, as it is used."""
        return self.file.score

    @cached_property
    def played(self) -> Score:
        """The score in played order: the teacher's own, else that of the signs."""
        own = None if self.play_order is None else _order_of(self.score, self.play_order)
        return in_played_order(self.score, own)

    @property
    def order_kept(self) -> list[str] | None:
        """The playing order that holds now, bars by name; ``None``: as written."""
        return None if self.played is self.score else [measure.number for measure in self.played.measures]

    def played_then(self, kept: KeptSettings) -> Score:
        """The score as it was when a take was made: with the changes and in the order kept with it."""
        then = replace(self, pencil=kept.pencil)
        if kept.entry is not None:
            then = replace(then, original=write_musicxml(entry_score(entry_of(kept.entry))))
        score, order = then.score, kept.order
        return score if order is None else in_played_order(score, _order_of(score, order))


def _order_of(score: Score, names: Sequence[str]) -> tuple[int, ...]:
    """A stored order; one that names bars the score no longer has gives way to the signs."""
    try:
        return order_of_names(score, names)
    except OptionError:
        return play_order(score).order


def open_piece(studio: Studio, piece_id: int) -> Piece:
    """A piece that is on the shelf.

    Raises:
        NotFoundError: there is none of that id in this studio.
    """
    row = db.get_piece(studio.connection, studio.id, piece_id)
    studio_choices = choices_db.get_choices(studio.connection, studio.id, None)
    own_choices = choices_db.get_choices(studio.connection, studio.id, piece_id)
    return piece_of(row, studio_choices, own_choices)


#: What a stored document of a piece has to be, where there is one.
_STORED: dict[str, type] = {"reading": dict, "play_order": list, "pencil": list, "entry": dict}


def piece_of(row: Row, studio_choices: Document, own_choices: Document) -> Piece:
    """A row as a piece.

    Raises:
        StorageError: what is stored of it is damaged.
    """
    is_damaged = row["level"] not in set(Level) or any(
        row[name] is not None and not isinstance(row[name], kind) for name, kind in _STORED.items()
    )
    if is_damaged or not all(isinstance(name, str) for name in row["play_order"] or ()):
        raise StorageError(
            "what is stored of this piece cannot be read.",
            where=row["title"],
            kept="The file it came from is kept as it was.",
            todo="Save the original file, and put it on the shelf anew.",
        )
    return Piece(
        id=row["id"],
        title=row["title"],
        composer=row["composer"],
        filename=row["filename"],
        level=Level(row["level"]),
        target_bpm=row["target_bpm"],
        created_at=row["created_at"],
        original=row["original"],
        reading_document=row["reading"],
        play_order=row["play_order"],
        pencil=row["pencil"],
        pencil_version_id=row["pencil_version_id"],
        entry_document=row["entry"],
        entry_version=row["entry_version"],
        drill_document=row["drill"],
        studio_choices=studio_choices,
        own_choices=own_choices,
    )
