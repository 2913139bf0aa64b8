"""What was removed and can still be put back."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.db.people import removed as db
from laptick.db.people.removed import KEPT_DAYS as KEPT_DAYS  # what is said of it is what holds
from laptick.studio.use_case import Studio, use_case

#: So many are shown, the newest.
MOST_SHOWN = 200


@dataclass(frozen=True)
class Removed:
    """``kind``: piece, student, take or listening; ``words``: the title or name; ``whose``: of a take; ``created_at``:
    when it was played."""

    kind: str
    id: int
    words: str
    whose: str | None
    deleted_at: datetime
    created_at: datetime | None


@use_case
def list_removed(studio: Studio) -> list[Removed]:
    """The newest first."""
    return [Removed(**row) for row in db.list_removed(studio.connection, studio.id, MOST_SHOWN)]
