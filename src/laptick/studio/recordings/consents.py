"""That recordings may be kept: who agreed, for whom, when and for what. What is withdrawn takes its sound with it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime

from laptick.core.base.errors import OptionError
from laptick.core.takes.take_state import TakeState
from laptick.db import recordings as db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.db.recordings import NewConsent as NewConsent  # who notes one has it from here
from laptick.studio.people.names import is_same_name
from laptick.studio.use_case import AskerRole, Studio, use_case


@dataclass(frozen=True)
class Consent:
    """``student_id``: ``None`` where it was noted of a name only; nothing more is kept by it."""

    id: int
    student_id: int | None
    student: str
    given_by: str
    purpose: str
    given_on: date


@dataclass(frozen=True)
class Consents:
    """Those that hold, and how much sound the studio keeps."""

    items: list[Consent]
    stored_bytes: int


@use_case
def list_consents(studio: Studio) -> Consents:
    """Of all students, or of the one whose own the asker may see."""
    rows = db.list_consents(studio.connection, studio.id, studio.only_student_id)
    stored = db.stored_bytes(studio.connection, studio.id) if studio.only_student_id is None else 0
    return Consents([Consent(**row) for row in rows], stored)


@use_case
def add_consent(studio: Studio, new: NewConsent) -> Consent:
    """Notes a consent.

    Raises:
        OptionError: it lies in the future.
        NotFoundError: there is no such student.
    """
    if new.given_on > datetime.now(UTC).date():
        raise OptionError("a consent is noted once it was given.", where="given_on", kept="Nothing was noted.")
    student = str(students_db.get_student(studio.connection, studio.id, new.student_id)["name"])
    consent_id = db.add_consent(studio.connection, studio.id, new, student)
    return Consent(consent_id, new.student_id, student, new.given_by, new.purpose, new.given_on)


def may_hear(studio: Studio, recording: Row) -> bool:
    """The teacher and the student hear what is kept of a student; a parent what that parent agreed to."""
    if studio.asker is None or studio.asker.role is not AskerRole.PARENT:
        return True
    consent_id, held_by = recording["consent_id"], studio.asker.held_by
    if consent_id is None or not held_by:
        return False
    return is_same_name(db.given_by(studio.connection, studio.id, consent_id), held_by)


@use_case
def withdraw_consent(studio: Studio, consent_id: int) -> int:
    """Ends a consent, and with it the sound that was kept by it; gives of how many takes that is. What was heard in
    them stays; one that was not heard yet is heard first, and its sound goes then."""
    found = db.withdraw_consent(studio.connection, studio.id, consent_id)
    for row in found:
        if row["state"] in (TakeState.COMING.value, TakeState.WAITING.value):
            db.keep_no_longer(studio.connection, studio.id, row["id"])
        else:
            db.drop_sound(studio.connection, studio.id, row["id"])
    return len(found)
