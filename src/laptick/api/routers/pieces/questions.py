"""Questions to the student about a piece: asked without their answers, answered, kept."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id
from laptick.api.schemas.questions import AnswerCreate, AnswerPublic, QuestionKindPublic, QuestionPublic
from laptick.core.practice.question import KIND_TITLES, QuestionKind
from laptick.studio.pieces import questions

router = APIRouter(route_class=ModelRoute, prefix="/pieces/{piece_id}/questions", tags=["questions"])


@router.get("")
def list_question_kinds(studio: StudioNow, piece_id: Id) -> list[QuestionKindPublic]:
    return [
        QuestionKindPublic(
            kind=one.kind, title=KIND_TITLES[one.kind], questions=one.questions, asked=one.asked, right=one.right
        )
        for one in questions.list_kinds(studio, piece_id)
    ]


@router.get("/{kind}")
def list_questions(studio: StudioNow, piece_id: Id, kind: QuestionKind) -> list[QuestionPublic]:
    """The questions to ask next: never asked ones first, then those answered wrongly."""
    piece, asked = questions.list_questions(studio, piece_id, kind)
    return [
        QuestionPublic(
            kind=one.kind,
            key=one.key,
            text=one.text,
            measure=piece.score.measures[one.measure_index].number,
            notes=list(one.notes),
            options=list(one.options),
            many=one.many,
        )
        for one in asked
    ]


@router.post("/{kind}/answers", status_code=201)
def answer_question(studio: StudioNow, piece_id: Id, kind: QuestionKind, wanted: AnswerCreate) -> AnswerPublic:
    """Keeps an answer, and only then tells the right one."""
    question, is_right = questions.answer_question(studio, piece_id, kind, wanted.key, wanted.given)
    answer = [option for option in question.options if option in question.answer]
    return AnswerPublic(is_right=is_right, answer=answer, said=question.said)
