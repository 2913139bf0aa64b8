"""Listening: slips as the teacher heard them, kept like takes, and laid beside what was measured."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from laptick.core.base.errors import TakeError
from laptick.core.base.levels import Level
from laptick.core.base.units import Quarters, Seconds
from laptick.core.score.score import Score
from laptick.core.takes.listening import Beside, heard_onsets, lay_beside
from laptick.db import listening as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.formats.documents.check import read_check
from laptick.formats.documents.spots import spots_of_document
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.open_study import played_by
from laptick.studio.takes.judging import task_of
from laptick.studio.takes.settings import KeptSettings, TakeSettings, kept_settings
from laptick.studio.takes.shown import read_or_none
from laptick.studio.takes.takes import settings_kept, study_for
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class Heard:
    """What was heard while a student played. ``slips_s``: on the clock whose first beat is at ``first_beat_s``."""

    slips_s: Sequence[Seconds]
    first_beat_s: Seconds
    client_key: str | None = None


@dataclass(frozen=True)
class Listening:
    """One hearing: where in the score, as it was in the order that held then, slips were heard."""

    id: int
    created_at: datetime
    settings: KeptSettings
    score: Score
    onsets_quarters: tuple[Quarters, ...]


def _listening(piece: Piece, row: Row) -> Listening:
    settings = kept_settings(row["settings"])
    score = piece.played_then(settings)
    task = task_of(score, settings, Level(piece.level))
    start = task.measures[0].start_quarters
    onsets = tuple(start + at for at in heard_onsets(task, row["slips"], row["first_beat_s"], settings.bpm))
    return Listening(row["id"], row["created_at"], settings, score, onsets)


def _shown(studio: Studio, listening_id: int) -> Listening:
    row = db.get_listening(studio.connection, studio.id, listening_id)
    return _listening(open_piece(studio, row["piece_id"]), row)


@use_case
def add_listening(studio: Studio, piece_id: int, wanted: TakeSettings, heard: Heard) -> Listening:
    """Keeps the slips of one hearing; one without slips is one too.

    Raises:
        TakeError: a slip has no usable time, or nothing is struck in these bars.
        OptionError: the piece has no such bars.
    """
    piece = open_piece(studio, piece_id)
    if any(not math.isfinite(slip) or slip < 0 for slip in heard.slips_s):
        raise TakeError("a slip has no usable time.", where="slips", kept="Nothing was stored.")
    study = study_for(studio, piece, wanted)
    piece = played_by(studio, piece, study["student_id"])
    # What is heard is one time through.
    settings = settings_kept(piece, wanted.model_copy(update={"times_round": 1}))
    task_of(piece.played, settings, piece.level)
    slips_s = sorted(heard.slips_s)
    new = db.NewListening(piece_id, study["id"], settings.document(), slips_s, heard.first_beat_s, heard.client_key)
    return _shown(studio, db.add_listening(studio.connection, studio.id, new))


@use_case
def list_listenings(studio: Studio, piece_id: int) -> list[Listening]:
    """What was heard of a piece, newest first."""
    piece = open_piece(studio, piece_id)
    return [_listening(piece, row) for row in db.list_listenings(studio.connection, studio.id, piece_id)]


@use_case
def delete_listening(studio: Studio, listening_id: int) -> None:
    """Takes it off the list; it can be brought back."""
    db.mark_listening_deleted(studio.connection, studio.id, listening_id, deleted=True)


@use_case
def restore_listening(studio: Studio, listening_id: int) -> Listening:
    """Brings it back."""
    db.mark_listening_deleted(studio.connection, studio.id, listening_id, deleted=False)
    return _shown(studio, listening_id)


@use_case
def beside(studio: Studio, take_id: int, listening_id: int) -> tuple[Score, list[Beside]]:
    """What the teacher heard beside what the checker measured, place by place, in the score of the take.

    Raises:
        TakeError: that was heard of another piece, or the take is not judged.
    """
    take = takes_db.get_take(studio.connection, studio.id, take_id)
    row = db.get_listening(studio.connection, studio.id, listening_id)
    if row["piece_id"] != take["piece_id"]:
        raise TakeError("that was heard of another piece.", where="listening_id", kept="Nothing was changed.")
    document = read_or_none(read_check, take["document"])
    if document is None:
        raise TakeError("there are no figures of this take.", where="take_id", todo="Judge it again first.")
    piece = open_piece(studio, take["piece_id"])
    score = piece.played_then(kept_settings(take["settings"]))
    spots = spots_of_document(document, score)
    beat = score.measures[0].meter.beat_quarters
    return score, lay_beside(list(_listening(piece, row).onsets_quarters), spots, beat)
