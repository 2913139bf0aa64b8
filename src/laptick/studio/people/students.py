"""Students: added, shown, changed, given studies, taken off the list and put back.

A student's level goes before a piece's: its studies' ladders are built at it, its takes judged by it. Those who left
are kept for a while, with all they played, so that it can be undone.
"""

from __future__ import annotations

import json
import logging
from dataclasses import dataclass, replace
from datetime import datetime

from laptick.core.base.errors import LapTickError, LimitError, OptionError
from laptick.core.base.levels import Level
from laptick.core.measuring.limits import MOST_SOFTER_PERCENT
from laptick.core.planning.tonight import MOST_THINGS
from laptick.core.practice.ladder.school import school_of
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN
from laptick.db import studies as studies_db
from laptick.db.engine.connect import Row
from laptick.db.people import students as db
from laptick.db.people.students import StudentFacts as StudentFacts  # who keeps one has it from here
from laptick.db.shelf import every_ladder_changed
from laptick.studio.days import start_of, today
from laptick.studio.pieces.face import Progress, kept_progress, progress_document, progress_of_study
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.studies.open_study import opened, refold
from laptick.studio.studies.studies import study_of
from laptick.studio.use_case import Studio, use_case

log = logging.getLogger("laptick")

#: A studio holds so many students, and one of them so many studies that are shown.
MOST_STUDENTS, MOST_STUDIES = 2000, 200

#: So many students are given a study at once.
MOST_AT_ONCE = 100

#: Practice is shown over so many days.
DAYS_SHOWN = 28

#: To be raised when a study's progress comes out otherwise than before.
_VERSION = 1


@dataclass(frozen=True)
class Student:
    """``level``: of the playing, ``None``: as each piece says; ``span``: how far a hand reaches, as an interval (8: an
    octave); ``is_built_in``: whose studies are meant where no student is named."""

    id: int
    name: str
    is_built_in: bool
    level: Level | None
    span: int | None
    school: dict[str, str]
    days_a_week: int | None
    minutes_a_day: int | None
    note: str
    is_paused: bool
    things_a_day: int | None
    softer_percent: int
    version: int


@dataclass(frozen=True)
class OnList:
    """A student as the list shows one. ``practised``: for each of the last ``DAYS_SHOWN`` days, today last, was there a
    take?"""

    student: Student
    studies: int
    practised: tuple[bool, ...]


@dataclass(frozen=True)
class StudyGiven:
    """A study as its student's page shows it. ``progress``: ``None`` where its ladder cannot be built."""

    id: int
    piece_id: int
    measures: str
    title: str
    composer: str
    given_at: datetime
    is_ended: bool
    takes: int
    last_at: datetime | None
    progress: Progress | None


@dataclass(frozen=True)
class StudentShown:
    """``overruled``: how many takes of the last ``DAYS_SHOWN`` days the teacher calls better than the checker."""

    student: Student
    studies: list[StudyGiven]
    practised: tuple[bool, ...]
    overruled: int


def student_of(row: Row) -> Student:
    """A stored student, read as if it were damaged."""
    try:
        school = json.loads(row["school"])
    except ValueError:
        school = None
    if not isinstance(school, dict):
        log.warning("how student %s is taught was damaged", row["id"])
        school = {}
    return Student(
        id=row["id"],
        name=row["name"],
        is_built_in=bool(row["is_built_in"]),
        level=Level(row["level"]) if row["level"] in set(Level) else None,
        span=row["span"] if row["span"] is not None and LEAST_SPAN <= row["span"] <= MOST_SPAN else None,
        school={str(key): str(value) for key, value in school.items()},
        days_a_week=row["days_a_week"],
        minutes_a_day=row["minutes_a_day"],
        note=row["note"],
        is_paused=bool(row["is_paused"]),
        things_a_day=row["things_a_day"] if row["things_a_day"] in range(1, MOST_THINGS + 1) else None,
        softer_percent=min(row["softer_percent"], MOST_SOFTER_PERCENT),
        version=row["version"],
    )


@use_case
def list_students(studio: Studio, after_id: int | None = None, most: int = 50, find: str = "") -> list[OnList]:
    """The studio's students by name: ``most`` of those after one, whose names hold ``find``."""
    rows = db.list_students(studio.connection, studio.id, after_id=after_id, most=most, find=find)
    ids = [row["id"] for row in rows]
    studies = db.studies_on_the_go(studio.connection, studio.id, ids)
    practised = _practised(studio, ids)
    return [OnList(student_of(row), studies.get(row["id"], 0), practised[row["id"]]) for row in rows]


def _practised(studio: Studio, ids: list[int]) -> dict[int, tuple[bool, ...]]:
    day = today(studio)
    begins = [start_of(one, studio.zone) for one in range(day - DAYS_SHOWN + 1, day + 1)]
    found = db.days_practised(studio.connection, studio.id, ids, begins)
    return {student_id: tuple(at in days for at in range(DAYS_SHOWN)) for student_id, days in found.items()}


@use_case
def get_student(studio: Studio, student_id: int) -> StudentShown:
    """A student with the studies that were given, how far each has come, and the days of practice."""
    return _shown(studio, student_id)


def _shown(studio: Studio, student_id: int) -> StudentShown:
    student = student_of(db.get_student(studio.connection, studio.id, student_id))
    rows = db.studies_given(studio.connection, studio.id, student_id, MOST_STUDIES)
    takes = db.count_takes(studio.connection, studio.id, [row["id"] for row in rows])
    studies = []
    for row in rows:
        played = takes.get(row["id"], {"takes": 0, "last": None})
        studies.append(
            StudyGiven(
                row["id"],
                row["piece_id"],
                row["measures"],
                row["title"],
                row["composer"],
                row["given_at"],
                row["ended_at"] is not None,
                int(played["takes"]),
                played["last"],
                _progress(studio, row, int(played["takes"])),
            )
        )
    overruled = db.count_overruled(studio.connection, studio.id, student_id, DAYS_SHOWN)
    return StudentShown(student, studies, _practised(studio, [student_id])[student_id], overruled)


def _progress(studio: Studio, row: Row, takes: int) -> Progress | None:
    """What is kept of a study's progress; worked out anew, and kept, where it is out of date or damaged."""
    stamp = f"{_VERSION}.{row['progress_now']}"
    if row["progress_of"] == stamp:
        try:
            return replace(kept_progress(json.loads(row["progress"])), takes=takes)
        except (ValueError, TypeError, KeyError):
            log.warning("the progress kept of study %s was damaged", row["id"])
    try:
        piece = open_piece(studio, row["piece_id"])
        study = opened(studio, piece, studies_db.get_study(studio.connection, studio.id, row["id"]))
        progress = progress_of_study(study, takes)
    except LapTickError:
        return None  # the piece says why it cannot be read
    db.set_progress(studio.connection, studio.id, row["id"], progress_document(progress), stamp)
    return progress


@use_case
def add_student(studio: Studio, facts: StudentFacts) -> Student:
    """A new student.

    Raises:
        OptionError: something is asked for that there is none of.
        LimitError: the studio is full.
    """
    _check(facts)
    if db.count_students(studio.connection, studio.id) >= MOST_STUDENTS:
        raise LimitError(f"a studio holds {MOST_STUDENTS} students.", kept="Nobody was added.")
    return student_of(db.get_student(studio.connection, studio.id, db.add_student(studio.connection, studio.id, facts)))


def _check(facts: StudentFacts) -> None:
    if not facts.name.strip():
        raise OptionError("a student has a name.", where="name", kept="Nothing was changed.")
    school_of(Level(facts.level) if facts.level else Level.ELEMENTARY, facts.school)


@use_case
def update_student(studio: Studio, student_id: int, before: int, facts: StudentFacts) -> StudentShown:
    """What is kept of a student, in place of version ``before``; where level or school are others, the rungs are folded
    by the gates they have then.

    Raises:
        OptionError: something is asked for that there is none of.
        ConflictError: it was changed meanwhile.
    """
    _check(facts)
    was = student_of(db.get_student(studio.connection, studio.id, student_id))
    db.update_student(studio.connection, studio.id, student_id, before, facts)
    if (was.level, was.school) != (facts.level and Level(facts.level), facts.school):
        every_ladder_changed(studio.connection, studio.id)  # the pieces are held first, then the studies
        _refold(studio, student_id)
    return _shown(studio, student_id)


def _refold(studio: Studio, student_id: int) -> None:
    for row in db.studies_given(studio.connection, studio.id, student_id, MOST_STUDIES):
        held = studies_db.lock_study(studio.connection, studio.id, row["id"])
        try:
            study = opened(studio, open_piece(studio, row["piece_id"]), held)
        except LapTickError:
            continue  # of a piece that cannot be read nothing is folded until it can
        refold(studio, study.id, study.edited, study.piece.target_bpm)


@use_case
def leave(studio: Studio, student_id: int) -> None:
    """Takes a student off the list; all that was played stays until it is erased.

    Raises:
        OptionError: it is the built-in one.
    """
    row = db.get_student(studio.connection, studio.id, student_id, deleted=True)
    if row["is_built_in"]:
        raise OptionError(
            "this student came with the studio, and is whose practice is meant where nobody is named.",
            kept="Nothing was changed.",
            todo="Rename it, or pause it.",
        )
    db.mark_student_deleted(studio.connection, studio.id, student_id, deleted=True)


@use_case
def come_back(studio: Studio, student_id: int) -> StudentShown:
    """Puts a student who left back on the list."""
    db.get_student(studio.connection, studio.id, student_id, deleted=True)
    db.mark_student_deleted(studio.connection, studio.id, student_id, deleted=False)
    return _shown(studio, student_id)


# -- studies ---------------------------------------------------------------------------------------------


@use_case
def give_study(studio: Studio, student_ids: list[int], piece_id: int, measures: str = "") -> list[int]:
    """Gives a piece, or a passage of it, to one student or several; gives the numbers of their studies. Who had it,
    has it on.

    Raises:
        NotFoundError: there is no such piece, or no such student.
        OptionError: the piece has no such bars.
        LimitError: to too many at once.
    """
    if len(student_ids) > MOST_AT_ONCE:
        raise LimitError(f"a study is given to {MOST_AT_ONCE} students at once.", kept="Nothing was given.")
    given = []
    for student_id in dict.fromkeys(student_ids):
        study = study_of(studio, piece_id, measures, student_id)
        db.give_study(studio.connection, studio.id, study.id)
        given.append(study.id)
    return given


@use_case
def end_study(studio: Studio, study_id: int, *, ended: bool = True) -> StudentShown:
    """Ends a study, or takes it up again; what was played stays."""
    row = studies_db.get_study(studio.connection, studio.id, study_id)
    (db.end_study if ended else db.give_study)(studio.connection, studio.id, study_id)
    return _shown(studio, row["student_id"])
