"""Tonight: what a student practises, as her own page shows it, and what done sounds like, for a parent."""

from __future__ import annotations

import logging
from dataclasses import dataclass

from laptick.core.base.errors import LapTickError
from laptick.core.planning.tonight import DONE_SOUNDS, MOST_THINGS, Going, things_for
from laptick.core.practice.ladder.rungs import measures_of
from laptick.core.practice.ladder.stages import Rung
from laptick.core.practice.ladder.ways import stage_words, task_of
from laptick.db import studies as studies_db
from laptick.db.people import students as db
from laptick.studio.days import day_of, today
from laptick.studio.people.students import MOST_STUDIES, Student, student_of
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.studies.open_study import Study, opened
from laptick.studio.use_case import Studio, use_case

log = logging.getLogger("laptick")

#: Minutes that are agreed where nothing is: a child's ten (docs/trade.md 3.6).
USUAL_MINUTES = 10


@dataclass(frozen=True)
class ThingTonight:
    """A rung to be practised, of a study. ``task``: what to do, in a sentence; ``done``: by what it is heard that it is
    done; ``measures``: of the rung, by name, ``None``: all of the piece."""

    study: Study
    rung: Rung
    minutes: int
    words: str
    task: str
    done: str
    measures: str | None


@dataclass(frozen=True)
class Tonight:
    """``going``: how many studies are on the go; ``practised_today``: was there a take today?"""

    student: Student
    things: list[ThingTonight]
    going: int
    practised_today: bool

    @property
    def minutes(self) -> int:
        return sum(thing.minutes for thing in self.things)


@use_case
def get_tonight(studio: Studio, student_id: int) -> Tonight:
    """At most three things of the studies on the go, in about the minutes that are agreed.

    Raises:
        NotFoundError: the studio has no such student.
    """
    student = student_of(db.get_student(studio.connection, studio.id, student_id))
    rows = [row for row in db.studies_given(studio.connection, studio.id, student_id, MOST_STUDIES)
            if row["ended_at"] is None]  # fmt: skip
    takes = db.count_takes(studio.connection, studio.id, [row["id"] for row in rows])
    day = today(studio)
    studies, going = {}, []
    practised_today = False
    for row in rows:
        try:
            study = opened(
                studio,
                open_piece(studio, row["piece_id"]),
                studies_db.get_study(studio.connection, studio.id, row["id"]),
            )
        except LapTickError:
            log.warning("study %s is not for tonight: its ladder cannot be built", row["id"])
            continue
        last = takes[row["id"]]["last"] if row["id"] in takes else None
        idle = None if last is None else day - day_of(studio, last)
        practised_today |= idle == 0
        studies[study.id] = study
        going.append(
            Going(
                study.id,
                [measure.length_quarters for measure in study.piece.score.measures],
                study.ladder,
                study.states,
                {rung.key: study.next_bpm(rung) for rung in study.ladder.rungs},
                idle,
            )
        )
    things = [
        ThingTonight(
            studies[thing.study],
            thing.rung,
            thing.minutes,
            stage_words(thing.rung),
            task_of(studies[thing.study].piece.score, studies[thing.study].ladder.school, thing.rung),
            DONE_SOUNDS[thing.rung.stage],
            measures_of(studies[thing.study].piece.score, thing.rung),
        )
        for thing in things_for(going, day, student.minutes_a_day or USUAL_MINUTES, student.things_a_day or MOST_THINGS)
    ]
    return Tonight(student, things, len(rows), practised_today)
