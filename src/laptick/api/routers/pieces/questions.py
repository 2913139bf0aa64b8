"""Questions to the student about a piece: asked without their answers, answered, kept."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.routers.pieces.pieces import stored_choices
from laptick.api.schemas.questions import AnswerCreate, AnswerPublic, QuestionKindPublic, QuestionPublic
from laptick.api.views import pieces as views
from laptick.core.base.errors import NotFoundError, OptionError
from laptick.core.practice.questions import KIND_TITLES, Question, QuestionKind, next_questions, questions
from laptick.db import answers as db
from laptick.db import pieces as pieces_db

router = APIRouter(prefix="/pieces/{piece_id}/questions", tags=["questions"])

#: Questions given at a time.
ROUND = 10


def _made(asking: AskingNow, connection: DbNow, piece_id: int, kind: QuestionKind) -> list[Question]:
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    choices = stored_choices(asking, connection, piece)
    return questions(views.score_of(piece), kind, choices, piece["target_bpm"])


@router.get("")
def list_question_kinds(asking: AskingNow, connection: DbNow, piece_id: int) -> list[QuestionKindPublic]:
    known = db.last_answers(connection, asking.studio_id, piece_id)
    result = []
    for kind in QuestionKind:
        made = {question.key for question in _made(asking, connection, piece_id, kind)}
        last = {key: right for key, (right, _) in known.get(kind, {}).items() if key in made}
        result.append(
            QuestionKindPublic(
                kind=kind, title=KIND_TITLES[kind], questions=len(made), asked=len(last), right=sum(last.values())
            )
        )
    return result


@router.get("/{kind}")
def list_questions(asking: AskingNow, connection: DbNow, piece_id: int, kind: QuestionKind) -> list[QuestionPublic]:
    """The questions to ask next: never asked ones first, then those answered wrongly."""
    made = _made(asking, connection, piece_id, kind)
    score = views.score_of(pieces_db.get_piece(connection, asking.studio_id, piece_id))
    known = db.last_answers(connection, asking.studio_id, piece_id).get(kind, {})
    return [
        QuestionPublic(
            kind=one.kind,
            key=one.key,
            text=one.text,
            measure=score.measures[one.measure_index].number,
            notes=list(one.notes),
            options=list(one.options),
            many=one.many,
        )
        for one in next_questions(made, known, ROUND)
    ]


@router.post("/{kind}/answers", status_code=201)
def answer_question(
    asking: AskingNow, connection: DbNow, piece_id: int, kind: QuestionKind, wanted: AnswerCreate
) -> AnswerPublic:
    """Keeps an answer, and only then tells the right one."""
    question = next((one for one in _made(asking, connection, piece_id, kind) if one.key == wanted.key), None)
    if question is None:
        raise NotFoundError(
            "that question has no answer any more: the score was changed.",
            kept="Nothing was stored.",
            todo="Ask the next.",
        )
    given = set(wanted.given)
    if not given or not given <= set(question.options):
        raise OptionError("an answer is one of what is offered.", where="given", kept="Nothing was stored.")
    is_right = given == question.answer
    db.add_answer(
        connection, asking.studio_id, piece_id, kind=kind, question=question.key, given=sorted(given), is_right=is_right
    )
    answer = [option for option in question.options if option in question.answer]
    return AnswerPublic(is_right=is_right, answer=answer, said=question.said)
