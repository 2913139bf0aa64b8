"""A use case: a function of the studio whose writes all happen, or none.

``@use_case`` opens the transaction, commits when the function returns and rolls back when it raises; one that only met
others on its way through the tables is run again, for nothing of it was stored. Use cases do not
call each other (a commit inside would break the promise); what two of them share is a plain function beside them.
"""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import tzinfo
from enum import StrEnum
from functools import cached_property, wraps
from typing import Concatenate, ParamSpec, TypeVar
from zoneinfo import ZoneInfo, available_timezones

from laptick.core.base.errors import ContendedError, NotFoundError
from laptick.db.engine.connect import Connection, transaction
from laptick.db.people import studios as studios_db

#: The greatest number a stored row is asked for by: what every JSON reader keeps exactly.
MAX_ID = 2**53 - 1

#: How often a use case is run that meets others storing at the same place, and how long it waits before.
MOST_ATTEMPTS, AGAIN_S = 5, 0.03

P = ParamSpec("P")
R = TypeVar("R")


class AskerRole(StrEnum):
    """Who asks. ``NOBODY``: who is not signed in."""

    NOBODY = "nobody"
    TEACHER = "teacher"
    STUDENT = "student"
    PARENT = "parent"


@dataclass(frozen=True)
class Asker:
    """Who is signed in. ``teacher_id`` of a teacher; ``student_id`` of whoever came by a personal link: only that
    student's own is for them; ``name``: the teacher's or the student's; ``held_by``: by which
    parent the link is held."""

    role: AskerRole
    studio_id: int
    session_id: int
    name: str
    teacher_id: int | None = None
    student_id: int | None = None
    is_demo: bool = False
    held_by: str = ""


@dataclass(frozen=True)
class Studio:
    """The studio a use case acts for, the connection it acts through, and who asks: ``None`` is the program itself, or
    whoever is not signed in."""

    connection: Connection
    id: int
    asker: Asker | None = None

    @property
    def only_student_id(self) -> int | None:
        """The one student whose own the asker may see, ``None``: every one's."""
        return None if self.asker is None else self.asker.student_id

    def check_whose(self, student_id: int) -> None:
        """
        Raises:
            NotFoundError: the asker may see nothing of that student.
        """
        if self.only_student_id not in (None, student_id):
            raise NotFoundError("this is not here.", kept="Nothing was changed.")

    @cached_property
    def zone(self) -> tzinfo | None:
        """Where its days are; ``None``, as this machine has it, also where what is stored names none."""
        name = studios_db.get_studio(self.connection, self.id)["time_zone"]
        return ZoneInfo(name) if name in available_timezones() else None


UseCase = Callable[Concatenate[Studio, P], R]

#: Every use case by ``module.name``.
USE_CASES: dict[str, Callable[..., object]] = {}


def use_case(function: UseCase[P, R]) -> UseCase[P, R]:
    """Makes a function one transaction, and lists it.

    Raises:
        StorageError: the database failed; nothing was stored. Beside what the function raises.
    """

    @wraps(function)
    def whole(studio: Studio, /, *args: P.args, **kwargs: P.kwargs) -> R:
        for attempt in range(1, MOST_ATTEMPTS + 1):
            try:
                with transaction(studio.connection):
                    return function(studio, *args, **kwargs)
            except ContendedError:
                if attempt == MOST_ATTEMPTS:
                    raise
                time.sleep(random.uniform(0, AGAIN_S * attempt))  # so that two do not meet again
        raise AssertionError("unreachable")

    name = f"{function.__module__.rpartition('.')[2]}.{function.__name__}"
    if name in USE_CASES:
        raise TypeError(f"two use cases are called {name}")
    USE_CASES[name] = whole
    return whole
