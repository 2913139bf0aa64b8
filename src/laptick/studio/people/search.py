"""Students, pieces and takes found by words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.core.judging.verdict import Status
from laptick.db.people import search as db
from laptick.studio.use_case import Studio, use_case

#: So many of each kind are shown; so many words are looked for.
MOST_FOUND, MOST_WORDS = 8, 6


@dataclass(frozen=True)
class FoundStudent:
    id: int
    name: str
    is_paused: bool


@dataclass(frozen=True)
class FoundPiece:
    id: int
    title: str
    composer: str


@dataclass(frozen=True)
class FoundTake:
    """``said``: what holds of it, ``None``: nothing yet."""

    id: int
    piece_id: int
    title: str
    student_id: int
    student: str
    created_at: datetime
    said: Status | None
    note: str


@dataclass(frozen=True)
class Found:
    students: list[FoundStudent]
    pieces: list[FoundPiece]
    takes: list[FoundTake]


@use_case
def search(studio: Studio, text: str) -> Found:
    """What is called so, or has a note that says so; of nothing nothing is found."""
    words = text.split()[:MOST_WORDS]
    if not words:
        return Found([], [], [])
    found = db.search(studio.connection, studio.id, words, MOST_FOUND)
    return Found(
        [FoundStudent(row["id"], row["name"], bool(row["is_paused"])) for row in found.students],
        [FoundPiece(**row) for row in found.pieces],
        [
            FoundTake(
                row["id"], row["piece_id"], row["title"], row["student_id"], row["student"], row["created_at"],
                _status(row["overruled"] or row["status"]), row["note"],
            )
            for row in found.takes
        ],
    )  # fmt: skip


def _status(stored: str | None) -> Status | None:
    known = set(Status)
    return Status(stored) if stored in known else None
