"""Who saw, changed or deleted what of people; and the erasing of a student who left. The list holds no content: when,
who, what was done, to which row."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.core.base.errors import ConflictError
from laptick.db.moving.bundles import drop_bundles
from laptick.db.people import audit as db
from laptick.db.people import students as students_db
from laptick.db.shelf import every_ladder_changed
from laptick.studio.use_case import AskerRole, Studio, use_case

#: What only looks, and how long that stays the same look.
SEEN = frozenset({"looked at", "heard"})
SEEN_MINUTES = 10


@dataclass(frozen=True)
class Line:
    """``who``: by name, ``None``: one who is not here any more; ``of_name``: the student it was done to, likewise."""

    id: int
    at: datetime
    role: AskerRole
    who: str | None
    what: str
    of_kind: str | None
    of_id: int | None
    of_name: str | None


@dataclass(frozen=True)
class WhoLeft:
    id: int
    name: str
    left_at: datetime


@use_case
def note(studio: Studio, what: str, of_kind: str | None, of_id: int | None) -> None:
    """That it was done, by who asks; what is seen again and again, once in a while."""
    asker = studio.asker
    if asker is None:
        return
    new = db.NewLine(asker.role.value, asker.teacher_id, asker.student_id, what, of_kind, of_id)
    if what in SEEN and db.was_noted(studio.connection, studio.id, new, SEEN_MINUTES):
        return
    db.add_line(studio.connection, studio.id, new)


@use_case
def list_audit(studio: Studio, before_id: int | None, most: int) -> list[Line]:
    """The newest first."""
    rows = db.list_lines(studio.connection, studio.id, before_id, most)
    known = set(AskerRole)
    return [Line(**row | {"role": AskerRole(row["role"])}) for row in rows if row["role"] in known]


@use_case
def list_who_left(studio: Studio) -> list[WhoLeft]:
    """Students off the list, with all that was played."""
    rows = db.students_who_left(studio.connection, studio.id)
    return [WhoLeft(row["id"], row["name"], row["deleted_at"]) for row in rows]


@use_case
def erase(studio: Studio, student_id: int) -> None:
    """Deletes all that is kept of a student who left, sound included, for good.

    Raises:
        NotFoundError: there is no such student.
        ConflictError: the student has not left, or is the one that every studio has.
    """
    row = students_db.get_student(studio.connection, studio.id, student_id, deleted=True)
    if row["deleted_at"] is None or row["is_built_in"]:
        raise ConflictError(
            "only a student who left the studio is erased.",
            kept="Nothing was changed.",
            todo="Let the student leave first.",
        )
    every_ladder_changed(studio.connection, studio.id)
    drop_bundles(studio.connection, studio.id)  # files that hold what is erased
    db.erase_student(studio.connection, studio.id, student_id)
