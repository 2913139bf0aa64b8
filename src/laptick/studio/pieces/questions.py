"""Questions to the student about a piece: asked without their answers, answered, kept."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from laptick.core.base.errors import NotFoundError, OptionError
from laptick.core.practice.question import Question, QuestionKind
from laptick.core.practice.questions import next_questions, questions
from laptick.db import answers as db
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.use_case import Studio, use_case

#: Questions given at a time.
ROUND = 10


@dataclass(frozen=True)
class KindProgress:
    """How many questions of a kind a piece has, how many were asked, and how many of those were answered rightly the
    last time."""

    kind: QuestionKind
    questions: int
    asked: int
    right: int


def _made(piece: Piece, kind: QuestionKind) -> list[Question]:
    return questions(piece.score, kind, piece.choices, piece.target_bpm)


@use_case
def list_kinds(studio: Studio, piece_id: int) -> list[KindProgress]:
    """Every kind of question and how far the student is with it."""
    piece = open_piece(studio, piece_id)
    known = db.last_answers(studio.connection, studio.id, piece_id)
    result = []
    for kind in QuestionKind:
        made = {question.key for question in _made(piece, kind)}
        last = {key: right for key, (right, _) in known.get(kind, {}).items() if key in made}
        result.append(KindProgress(kind, len(made), len(last), sum(last.values())))
    return result


@use_case
def list_questions(studio: Studio, piece_id: int, kind: QuestionKind) -> tuple[Piece, list[Question]]:
    """The questions to ask next: never asked ones first, then those answered wrongly."""
    piece = open_piece(studio, piece_id)
    known = db.last_answers(studio.connection, studio.id, piece_id).get(kind, {})
    return piece, next_questions(_made(piece, kind), known, ROUND)


@use_case
def answer_question(
    studio: Studio, piece_id: int, kind: QuestionKind, key: str, given: Collection[str]
) -> tuple[Question, bool]:
    """Keeps an answer, and only then tells the right one: the question, and whether it was answered rightly.

    Raises:
        NotFoundError: the score was changed, and the question is gone.
        OptionError: not one of the answers that are offered.
    """
    made = _made(open_piece(studio, piece_id), kind)
    question = next((one for one in made if one.key == key), None)
    if question is None:
        raise NotFoundError(
            "that question has no answer any more: the score was changed.",
            kept="Nothing was stored.",
            todo="Ask the next.",
        )
    chosen = set(given)
    if not chosen or not chosen <= set(question.options):
        raise OptionError("an answer is one of what is offered.", where="given", kept="Nothing was stored.")
    is_right = chosen == question.answer
    answer = db.NewAnswer(kind=kind, question=question.key, given=sorted(chosen), is_right=is_right)
    db.add_answer(studio.connection, studio.id, piece_id, answer)
    return question, is_right
