"""Signed in for a test: as a teacher, or as whoever came by a personal link."""

from __future__ import annotations

from argon2 import PasswordHasher

from laptick.db.engine.connect import DbSettings, connect, transaction
from laptick.db.people import teachers
from laptick.studio.people.links import make_link, open_link
from laptick.studio.people.secret_words import use_hasher
from laptick.studio.people.sign_in import Credentials, add_teacher, sign_in
from laptick.studio.use_case import AskerRole, Studio

TEACHER, PASSWORD = "Ada Brook", "four small grey stones"

# A guess is dear in life; here it would be most of the time.
use_hasher(PasswordHasher(time_cost=1, memory_cost=8, parallelism=1))


def teacher_cookies(db: DbSettings, *, studio_id: int = 1, name: str = TEACHER, port: int = 0) -> dict[str, str]:
    """What a browser keeps of a teacher who has just signed in; she is added where there is none of that name."""
    connection = connect(db)
    try:
        studio = Studio(connection, 0)
        with transaction(connection):
            if teachers.teacher_named(connection, name) is None:
                add_teacher(studio, studio_id, name, PASSWORD)
        found = sign_in(studio, Credentials(name, PASSWORD))
        return {f"laptick-session-{port}": found.token}
    finally:
        connection.close()


def link_cookies(
    db: DbSettings,
    student_id: int,
    role: AskerRole = AskerRole.STUDENT,
    *,
    studio_id: int = 1,
    port: int = 0,
    held_by: str = "",
) -> dict[str, str]:
    """What a phone keeps on which a new personal link was opened."""
    connection = connect(db)
    try:
        token = make_link(Studio(connection, studio_id), student_id, role, None, held_by)
        found = open_link(Studio(connection, 0), token, "", "a phone")
        return {f"laptick-session-{port}": found.token}
    finally:
        connection.close()
