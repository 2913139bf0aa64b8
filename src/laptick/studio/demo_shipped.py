"""The demo as it ships: made by ``tools/make_demo_studio.py`` from ``demo`` and ``demo_students``, brought in as any
file of a studio is, and moved to today. A studio that has nothing yet has it so in a moment; judging its takes anew
takes as long as judging takes."""

from __future__ import annotations

import io
import json
from dataclasses import replace
from importlib import resources

from laptick.core.practice.ladder.gates import RungState
from laptick.db import pieces as pieces_db
from laptick.db import rungs as rungs_db
from laptick.db.moving import later, rows
from laptick.db.people import students as students_db
from laptick.db.people import teachers as teachers_db
from laptick.formats.documents.ladder_edits import standing_document, standing_of_document
from laptick.studio.days import today
from laptick.studio.demo import DEMO, PASSAGE_KEY
from laptick.studio.demo_students import STUDENTS
from laptick.studio.moving.importing import bring
from laptick.studio.use_case import Studio, use_case

FILE = "studio.zip"


@use_case
def add_shipped_demo(studio: Studio) -> tuple[int, int] | None:
    """Adds the demo to a studio that has nothing and was never anybody's; gives how many pieces and students. ``None``:
    it is somebody's, whose name, time zone and ways of teaching a file of a studio would be put in place of."""
    connection = studio.connection
    is_somebodys = teachers_db.has_teacher(connection) or teachers_db.demo_teacher(connection, studio.id) is not None
    if is_somebodys or not rows.is_empty(connection, studio.id):
        return None
    data = (resources.files("laptick") / "demo" / FILE).read_bytes()
    brought = bring(studio, io.BytesIO(data))
    for piece_id, key in zip(brought.pieces, (PASSAGE_KEY, *(demo.key for demo in DEMO)), strict=True):
        pieces_db.set_demo_key(studio.connection, studio.id, piece_id, key)
    _built_in, *students = brought.students
    for student_id, demo in zip(students, STUDENTS, strict=True):
        students_db.set_demo_key(studio.connection, studio.id, student_id, demo.key)
    _move_to_today(studio)
    return len(brought.pieces), len(students)


def _move_to_today(studio: Studio) -> None:
    """What was practised on the last day was practised today."""
    last = later.newest_day(studio.connection, studio.id)
    days = 0 if last is None else today(studio) - last
    later.move_days(studio.connection, studio.id, days)
    for row in rungs_db.every_state(studio.connection, studio.id):
        standing = standing_of_document(json.loads(row["state"]))
        state = _later(standing.state, days)
        new = rungs_db.NewState(
            row["rung"], row["gate"], state.passed_day, row["passed_by"],
            standing_document(replace(standing, state=state)),
        )  # fmt: skip
        rungs_db.put_states(studio.connection, studio.id, row["study_id"], [new])


def _later(state: RungState, days: int) -> RungState:
    last, tries = state.today
    return replace(
        state,
        passed_day=None if state.passed_day is None else state.passed_day + days,
        clean_days=frozenset(day + days for day in state.clean_days),
        today=(last + days if last else 0, tries),
    )
