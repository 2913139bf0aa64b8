"""Studies: the ladder as it is climbed, the school it follows, what the teacher does to it."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from laptick.api.schemas.common import Level, Schema, Version
from laptick.core.base.activity import Activity
from laptick.core.practice.ladder.stages import Beat, GateKind, Stage
from laptick.core.practice.ladder.standing import BarState
from laptick.core.practice.ladder.tempo_steps import Feel, Move
from laptick.studio.takes.settings import HandChoice

RungState = Literal["untouched", "begun", "passed"]


class ClipPublic(Schema):
    """A phrase or a number, and where its sound is."""

    say: str
    file: str


class GatePublic(Schema):
    kind: GateKind
    words: str


class RungPublic(Schema):
    """A rung as it is climbed. ``first`` and ``last``: bars by index; ``measures``: by name, ``None``: all of the
    piece; ``within``: only that spot of them; ``beat``: what of it is heard while a take is recorded; ``bpm``: of the
    next try, ``tempos`` those it goes through; ``clean``: of the last tries that count; ``tries_today`` of
    ``tries_a_day``; ``is_enough``: of these for today; ``passed_by``: whose word or judgement,
    ``passed_why``: as the teacher put it; ``is_own``: the teacher
    made or changed it; ``intro``: said before it in a session (of those for today, and those that were tried)."""

    key: str
    title: str
    stage: Stage
    stage_words: str
    task: str
    activity: Activity | None
    first: int
    last: int
    measures: str | None
    within: str | None
    beat: Beat
    hands: HandChoice
    group: str
    rounds: int
    tempos: list[int]
    bpm: int
    beat_quarters: str
    gate: GatePublic
    touch: str | None
    why: str
    is_own: bool
    state: RungState
    clean: list[bool]
    tries_today: int
    is_enough: bool
    passed_by: str | None
    passed_why: str
    intro: list[ClipPublic]
    caution: str | None


class SchoolAnswerPublic(Schema):
    value: str
    words: str
    why: str


class SchoolQuestionPublic(Schema):
    """``chosen``: who chose the answer that holds, ``None``: it is usual at the level."""

    key: str
    words: str
    answers: list[SchoolAnswerPublic]
    value: str
    usual: str
    chosen: Literal["studio", "level", "student", "study"] | None


class WayPublic(Schema):
    """Another way of joining, to be added as a rung."""

    key: str
    words: str


class OverPublic(Schema):
    """An edit that could not be made any more, in words."""

    number: int
    kind: str
    why: str


class OutOfDatePublic(Schema):
    """A rung that is no longer on the ladder, and whose takes are kept."""

    key: str
    words: str
    tries: int
    is_passed: bool


class BarPublic(Schema):
    """``elsewhere``: known because the same was learnt in another bar."""

    state: BarState
    elsewhere: bool


class StudyPublic(Schema):
    """``now``: the rung that is next, ``None`` when it is enough for today or all is done; ``today``: at most three;
    ``tries_a_day``: of one rung; ``break_minutes``: after so many a break, told by ``break_said``; ``likely``: to be
    said after a run; ``level``: of who plays it; ``span``: how far a hand of theirs reaches, ``None``: not known."""

    id: int
    student_id: int
    student: str
    span: int | None
    level: Level
    piece_id: int
    measures: str
    rungs: list[RungPublic]
    now: str | None
    today: list[str]
    is_done: bool
    bars: list[BarPublic]
    school: list[SchoolQuestionPublic]
    edits: int
    edits_version: int
    over: list[OverPublic]
    out_of_date: list[OutOfDatePublic]
    tries_a_day: int
    break_minutes: int
    break_said: ClipPublic
    ways: list[WayPublic]
    likely: list[ClipPublic]


class SchoolUpdate(Schema):
    """The answers that are chosen, in place of those before; what is left out is as usual."""

    answers: dict[str, Annotated[str, Field(max_length=60)]] = Field(max_length=30)


class StudioSchoolPublic(Schema):
    """By level; ``""``: at every level. ``questions``: all there are, with what is usual at each level."""

    answers: dict[str, dict[str, str]]
    questions: list[SchoolQuestionPublic]
    usual: dict[Level, dict[str, str]]


class EditCreate(Schema):
    """One change of a ladder, made on ``version``: see ``formats/documents/ladder_edits``."""

    version: Version
    edit: dict[str, Any] = Field(max_length=20)


class UndoCreate(Schema):
    version: Version
    every: bool = False


class WordCreate(Schema):
    """Passes a rung, or takes that back. ``by``: the student passes what goes by word."""

    rung: str = Field(max_length=120)
    by: Literal["the teacher", "the student"] = "the teacher"
    why: str = Field(default="", max_length=500)
    back: bool = False


class FeelCreate(Schema):
    feel: Feel


class NextPublic(Schema):
    """What a take leads to. ``text``: as it is said, ``clips``: in sound; ``onward``: of it what
    comes now, with its tempo; ``bpm``: of the next try at ``rung``; ``to``:
    the rung to go to, where that is another; ``is_enough``: for today."""

    rung: str
    text: str
    onward: str
    clips: list[ClipPublic]
    move: Move | None
    bpm: int
    is_passed: bool
    newly: bool
    to: str | None
    is_enough: bool
