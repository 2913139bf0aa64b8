"""Questions to the student: what is asked, and what came of an answer."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from laptick.api.schemas.common import Schema
from laptick.core.practice.question import QuestionKind


class QuestionKindPublic(Schema):
    """``questions``: how many the piece has an answer to; ``asked``, ``right``: those answered so far, and those
    whose last answer was right."""

    kind: QuestionKind
    title: str
    questions: int
    asked: int
    right: int


class QuestionPublic(Schema):
    """A question without its answer. ``notes``: ids of the notes and rests it is about."""

    kind: QuestionKind
    key: str
    text: str
    measure: str
    notes: list[str]
    options: list[str]
    many: bool


class AnswerCreate(Schema):
    key: str = Field(max_length=100)
    given: list[Annotated[str, Field(max_length=400)]] = Field(max_length=4000)


class AnswerPublic(Schema):
    """``answer``: the right options; ``said``: the same in words."""

    is_right: bool
    answer: list[str]
    said: str
