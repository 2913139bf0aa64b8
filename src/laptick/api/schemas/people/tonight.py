"""What a student practises tonight."""

from __future__ import annotations

from laptick.api.schemas.common import Schema
from laptick.core.practice.ladder.stages import Stage
from laptick.studio.takes.settings import HandChoice


class ThingPublic(Schema):
    """A rung to be practised. ``passage``: of the study, empty for all of the piece; ``first`` and ``last``: bars by
    index, ``measures``: by name, ``None``: all of the piece; ``clean``: of the last tries that count; ``done``: by what
    it is heard that it is done."""

    study_id: int
    piece_id: int
    passage: str
    piece: str
    rung: str
    stage: Stage
    words: str
    title: str
    task: str
    touch: str | None
    done: str
    hands: HandChoice
    first: int
    last: int
    measures: str | None
    rounds: int
    bpm: int
    beat_quarters: str
    minutes: int
    clean: list[bool]
    is_played: bool


class TonightPublic(Schema):
    """``minutes``: of all of it together; ``going``: studies on the go; ``practised_today``: was there a take today?"""

    student_id: int
    student: str
    things: list[ThingPublic]
    minutes: int
    going: int
    practised_today: bool
