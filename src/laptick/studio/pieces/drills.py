"""Drills: made to be looked at, and kept on the shelf as pieces like any other, with what they were made by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.counting.choices import CountChoices
from laptick.core.drills.drill import Drill
from laptick.core.practice.ladder.building import CUE
from laptick.core.score.score import MarkKind, Score
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.db import studies as studies_db
from laptick.formats.documents.choices import choices_of
from laptick.formats.drills import make_drill
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.studio.pieces.entry import plain_stem
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.pieces.shelf import UNMARKED_BPM, ShownPiece, shown_piece
from laptick.studio.use_case import Studio, use_case

#: A drill is filed under it until somebody says otherwise.
LEVEL = Level.ELEMENTARY


@dataclass(frozen=True)
class Wanted:
    """``options``: as on the command line, but that a score is the number of a piece."""

    kind: str
    options: Mapping[str, str]


def _made(studio: Studio, wanted: Wanted) -> Drill:
    def load(text: str) -> Score:
        if not text.isdigit() or len(text) > 18:
            raise OptionError(f"“{text[:20]}” is no piece.", where="of", todo="Choose a piece of the shelf.")
        return open_piece(studio, int(text)).score

    return make_drill(wanted.kind, wanted.options, load)


@use_case
def try_drill(studio: Studio, wanted: Wanted) -> tuple[Drill, CountChoices]:
    """A drill to be looked at, and how the studio counts it; nothing is kept.

    Raises:
        OptionError, LimitError: it cannot be made.
        NotFoundError: the piece it is made of is not on the shelf.
    """
    known = choices_db.get_choices(studio.connection, studio.id, None)
    return _made(studio, wanted), choices_of(known, None, LEVEL.value)


@use_case
def add_drill(studio: Studio, wanted: Wanted) -> ShownPiece:
    """Keeps a drill on the shelf; one that was made by the same before, and is still there as it was, is given again.

    Raises: as ``try_drill``.
    """
    drill = _made(studio, wanted)
    document = {"kind": wanted.kind, **dict(sorted(wanted.options.items()))}
    original = write_musicxml(drill.score)
    known = db.find_drill(studio.connection, studio.id, document, original)
    if known is not None:
        return shown_piece(studio, known)
    tempos = drill.score.tempos
    new = db.NewPiece(
        title=drill.score.title,
        composer="",
        filename=f"{plain_stem(drill.score.title)}.musicxml",
        original=original,
        level=LEVEL.value,
        target_bpm=tempos[0].bpm if tempos else UNMARKED_BPM,
        drill=document,
    )
    piece_id = db.add_piece(studio.connection, studio.id, new)
    if sum(mark.kind is MarkKind.CUE for mark in drill.score.marks) > 1:
        # One accompaniment after the other is learnt so, unless the teacher says otherwise.
        study = studies_db.study_of_piece(studio.connection, studio.id, piece_id)
        studies_db.set_school(studio.connection, studio.id, study["id"], {"scope": CUE})
    return shown_piece(studio, piece_id)
