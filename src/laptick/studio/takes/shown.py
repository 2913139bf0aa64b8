"""A stored take as it is shown: what was asked for, what was said of it, and the score as it was then."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar

from laptick.core.base.errors import StorageError
from laptick.core.base.levels import Level
from laptick.core.score.score import Score
from laptick.db import judgements
from laptick.db import takes as db
from laptick.db.engine.connect import Row
from laptick.formats.documents.check import CheckDocument, VerdictTold, read_check, read_verdict
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.takes.passage import passage_of
from laptick.studio.takes.settings import KeptSettings, kept_settings
from laptick.studio.use_case import Studio

Read = TypeVar("Read")


@dataclass(frozen=True)
class ShownTake:
    """``row``: the stored take with its newest judgement; ``verdict``, ``document``: what that said, ``None`` where
    there is none or it cannot be read; ``overrule``: the teacher's word that holds; ``earlier``: judgements before the
    newest, with their verdicts; ``score``: in the order in which it was to be played."""

    id: int
    row: Row
    settings: KeptSettings
    level: Level
    score: Score
    verdict: VerdictTold | None
    document: CheckDocument | None
    overrule: dict[str, Any] | None
    earlier: list[tuple[Row, VerdictTold | None]]


def shown_take(studio: Studio, take_id: int) -> ShownTake:
    """A take that is not deleted.

    Raises:
        NotFoundError: there is none of that id in this studio.
        StorageError: its settings cannot be read.
    """
    row = db.get_take(studio.connection, studio.id, take_id)
    piece, settings = open_piece(studio, row["piece_id"]), kept_settings(row["settings"])
    return ShownTake(
        take_id,
        row,
        settings,
        Level(row["level"]),
        passage_of(piece.played_then(settings), settings)[0],
        read_or_none(read_verdict, row["verdict"]),
        read_or_none(read_check, row["document"]),
        judgements.get_overrule(studio.connection, studio.id, take_id),
        [
            (earlier, read_or_none(read_verdict, earlier["verdict"]))
            for earlier in judgements.earlier_judgements(studio.connection, studio.id, take_id)
        ],
    )


def read_or_none(reader: Callable[[Any], Read], document: Any) -> Read | None:
    """A stored document; ``None`` where there is none, or a damaged one."""
    if document is None:
        return None
    try:
        return reader(document)
    except StorageError:
        return None
