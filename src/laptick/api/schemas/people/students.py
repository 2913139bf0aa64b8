"""Students, and the studies they were given."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from laptick.api.schemas.common import Id, Level, Schema, UtcTime, Version
from laptick.core.measuring.limits import MOST_SOFTER_PERCENT
from laptick.core.planning.tonight import MOST_THINGS
from laptick.core.practice.ladder.standing import BarState
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN
from laptick.studio.people.students import MOST_AT_ONCE

Name = Annotated[str, Field(min_length=1, max_length=200)]
Answers = Annotated[dict[str, Annotated[str, Field(max_length=60)]], Field(max_length=30)]


class StudentFactsPublic(Schema):
    """What is kept of a student. ``level``: of the playing, ``None``: as each piece says; ``span``: how far a hand
    reaches, as an interval (8: an octave); ``school``: how this student is taught, where it is otherwise than the
    studio teaches; ``note``: of hands and technique, for the teacher; ``things_a_day``: the pace, how many things a
    day's practice holds at most; ``softer_percent``: how much wider limits are than the level's."""

    name: Name
    level: Level | None = None
    span: int | None = Field(default=None, ge=LEAST_SPAN, le=MOST_SPAN)
    school: Answers = Field(default_factory=dict)
    days_a_week: int | None = Field(default=None, ge=1, le=7)
    minutes_a_day: int | None = Field(default=None, ge=1, le=300)
    note: str = Field(default="", max_length=4000)
    is_paused: bool = False
    things_a_day: int | None = Field(default=None, ge=1, le=MOST_THINGS)
    softer_percent: int = Field(default=0, ge=0, le=MOST_SOFTER_PERCENT)


class StudentPublic(StudentFactsPublic):
    """``is_built_in``: whose studies are meant where no student is named."""

    id: int
    is_built_in: bool
    version: int


class StudentUpdate(Schema):
    """What is kept, in place of ``version``."""

    version: Version
    facts: StudentFactsPublic


class StudentShort(Schema):
    """``studies``: on the go; ``practised``: for each of the last days, today last, was there a take?"""

    id: int
    name: str
    level: Level | None
    is_paused: bool
    is_built_in: bool
    studies: int
    practised: list[bool]


class StudentPage(Schema):
    """``next``: asked for as ``after``, what comes next."""

    items: list[StudentShort]
    next: int | None


class StudyShort(Schema):
    """A study that was given. ``passed`` of its ``rungs``, ``next_words``: the lowest that is not; ``bar_states``: how
    far every written bar is with both hands; ``unread``: its ladder cannot be built."""

    id: int
    piece_id: int
    measures: str
    title: str
    composer: str
    given_at: UtcTime
    is_ended: bool
    takes: int
    last_at: UtcTime | None
    rungs: int
    passed: int
    next_words: str | None
    bar_states: list[BarState]
    unread: bool


class StudentShownPublic(Schema):
    """``overruled``: how many takes of the days shown the teacher's word calls better than the checker does."""

    student: StudentPublic
    studies: list[StudyShort]
    practised: list[bool]
    overruled: int


class StudyGive(Schema):
    """A piece, or a passage of it, for some students."""

    student_ids: list[Id] = Field(min_length=1, max_length=MOST_AT_ONCE)
    piece_id: Id
    measures: str = Field(default="", max_length=40)


class StudiesGiven(Schema):
    study_ids: list[int]


class StudyEnd(Schema):
    ended: bool


class StudioPublic(Schema):
    """``time_zone``: where its days are, a name of the time zone database; empty: as this machine has it."""

    name: Name
    sound_days: int | None = Field(default=None, ge=1, le=3650)
    time_zone: str = Field(default="", max_length=64)
