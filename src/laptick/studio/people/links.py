"""Personal links: a student, or a parent, opens one student's own practice without a password.

A link is long and kept as a hash only, so it is shown once; a new one in its place, or taking it back, ends what was
opened by the old one. A PIN, where the teacher wants one, is asked when it is opened; wrong ones cost time as wrong
passwords do, and a new link ends that, too.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from laptick.core.base.errors import LimitError, NotFoundError, OptionError, RefusedError
from laptick.db import recordings as recordings_db
from laptick.db.people import links as db
from laptick.db.people import sessions as sessions_db
from laptick.db.people import students as students_db
from laptick.studio.people.names import is_same_name
from laptick.studio.people.secret_words import is_right, new_token, pin_hash, token_hash
from laptick.studio.people.sign_in import Refused, SignedIn, asker_of, too_often, utc_now, wait_after
from laptick.studio.use_case import AskerRole, Studio, use_case

#: How long a phone stays signed in that came by a link.
STAY = timedelta(days=180)

#: Who can be given one.
ROLES = (AskerRole.STUDENT, AskerRole.PARENT)

#: So many parents, or who stands for one, have links to a student.
MOST_LINKS = 8


@dataclass(frozen=True)
class Link:
    """``held_by``: by which parent; ``has_agreed``: that one agreed, by a consent that holds, to sound being kept, and
    hears it; ``opened_at``: when it was opened last."""

    id: int
    role: AskerRole
    held_by: str
    has_agreed: bool
    has_pin: bool
    created_at: datetime
    opened_at: datetime | None


@use_case
def list_links(studio: Studio, student_id: int) -> list[Link]:
    """
    Raises:
        NotFoundError: there is no such student.
    """
    students_db.get_student(studio.connection, studio.id, student_id)
    rows = db.links_of_student(studio.connection, studio.id, student_id)
    agreed = [row["given_by"] for row in recordings_db.list_consents(studio.connection, studio.id, student_id)]
    return [
        Link(
            row["id"],
            AskerRole(row["role"]),
            row["held_by"],
            bool(row["held_by"]) and any(is_same_name(name, row["held_by"]) for name in agreed),
            bool(row["has_pin"]),
            row["created_at"],
            row["opened_at"],
        )
        for row in rows
        if row["role"] in ROLES
    ]


@use_case
def make_link(studio: Studio, student_id: int, role: AskerRole, pin: str | None, held_by: str = "") -> str:
    """A link, in place of the one that the same person had: its token, which nobody can look up again. ``held_by``:
    which parent it is for, as the consents name them: that one hears the sound that they agreed to.

    Raises:
        NotFoundError: there is no such student.
        OptionError: the PIN is none, a teacher was to get a link, or a student's is to be held by somebody.
        LimitError: there are links for as many parents as one can have.
    """
    held_by = " ".join(held_by.split())
    if held_by and role is not AskerRole.PARENT:
        raise OptionError("a student's link is held by the student.", where="held_by", kept="Nothing was changed.")
    known = [row for row in db.links_of_student(studio.connection, studio.id, student_id) if row["role"] == role]
    if len(known) >= MOST_LINKS and not any(is_same_name(row["held_by"], held_by) for row in known):
        raise LimitError(
            f"a student has links for at most {MOST_LINKS} parents.",
            where="held_by",
            kept="Nothing was changed.",
            todo="Take one back first.",
        )
    if role not in ROLES:
        raise OptionError("a link is for a student or a parent.", where="role", kept="Nothing was changed.")
    students_db.get_student(studio.connection, studio.id, student_id)
    token = new_token()
    kept_pin = None if pin is None else pin_hash(pin)
    db.put_link(studio.connection, studio.id, db.NewLink(student_id, role.value, token_hash(token), kept_pin, held_by))
    return token


@use_case
def remove_link(studio: Studio, student_id: int, link_id: int) -> None:
    """
    Raises:
        NotFoundError: there is none.
    """
    if not db.remove_link(studio.connection, studio.id, student_id, link_id):
        raise NotFoundError("there is no such link.", kept="Nothing was changed.")


@use_case
def try_to_open(studio: Studio, token: str, pin: str, calls_itself: str) -> SignedIn | Refused:
    """Opens a link, or counts that its PIN was wrong."""
    row = db.link_of_token(studio.connection, token_hash(token))
    if row is None:
        return Refused(
            RefusedError("this link is not good any more.", where="token", todo="Ask your teacher for a new one.")
        )
    if row["pin_hash"] is not None:
        if row["until"] is not None and row["until"] > utc_now():
            return Refused(too_often(row["until"], "PINs", "ask your teacher for a new link"))
        if not pin:
            return Refused(RefusedError("your PIN is asked for.", where="pin"))
        if not is_right(row["pin_hash"], pin):
            wait_s = wait_after(row["fails"] + 1)
            until = utc_now() + timedelta(seconds=wait_s) if wait_s else None
            db.set_fails(studio.connection, row["id"], row["fails"] + 1, until)
            return Refused(RefusedError("this PIN is not right.", where="pin", kept="Nothing was changed."))
    db.was_opened(studio.connection, row["id"])
    kept = new_token()
    sessions_db.add_session(
        studio.connection,
        sessions_db.NewSession(
            token_hash(kept), row["studio_id"], None, row["id"], calls_itself[:200], utc_now() + STAY
        ),
    )
    session = sessions_db.session_of(studio.connection, token_hash(kept))
    assert session is not None
    return SignedIn(kept, "", asker_of(session), stays=True)


def open_link(studio: Studio, token: str, pin: str, calls_itself: str) -> SignedIn:
    """
    Raises:
        RefusedError: the link is not good any more, or its PIN is missing or wrong.
    """
    found = try_to_open(studio, token, pin, calls_itself)
    if isinstance(found, Refused):
        raise found.error
    return found
