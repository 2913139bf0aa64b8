"""Studies: the ladder as it is climbed, its school, the teacher's hand in it, somebody's word, what a student says."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import Id, WhoseQuery
from laptick.api.schemas.studies import (
    EditCreate,
    FeelCreate,
    SchoolUpdate,
    StudioSchoolPublic,
    StudyPublic,
    UndoCreate,
    WordCreate,
)
from laptick.api.views.studies import school_public, study_public
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.school import school_of
from laptick.studio.studies import studies
from laptick.studio.studies.open_study import Study

router = APIRouter(route_class=ModelRoute, tags=["studies"])


def _sent(study: Study) -> Response:
    return Response(study_public(study).model_dump_json(), media_type="application/json")


@router.get("/pieces/{piece_id}/study", response_model=StudyPublic)
def get_study(
    studio: StudioNow,
    piece_id: Id,
    measures: Annotated[str, Query(max_length=40)] = "",
    student: WhoseQuery = None,
) -> Response:
    """A student's study of a piece, or of some of its bars: its ladder, and where the student stands on it."""
    return _sent(studies.get_study(studio, piece_id, measures, student))


@router.get("/pieces/{piece_id}/passages")
def list_passages(studio: StudioNow, piece_id: Id, student: WhoseQuery = None) -> list[str]:
    """The passages of a piece of which a student has a ladder."""
    return studies.list_passages(studio, piece_id, student)


@router.put("/studies/{study_id}/school", response_model=StudyPublic)
def put_school(studio: StudioNow, study_id: Id, update: SchoolUpdate) -> Response:
    """How this study is taught; the ladder is built anew, what was tried stays."""
    return _sent(studies.set_school(studio, study_id, update.answers))


@router.post("/studies/{study_id}/edits", response_model=StudyPublic)
def edit_ladder(studio: StudioNow, study_id: Id, wanted: EditCreate) -> Response:
    """One change of the ladder."""
    return _sent(studies.edit_ladder(studio, study_id, wanted.version, wanted.edit))


@router.post("/studies/{study_id}/edits/undo", response_model=StudyPublic)
def undo_edit(studio: StudioNow, study_id: Id, wanted: UndoCreate) -> Response:
    """Takes the last change back, or every one."""
    return _sent(studies.undo_edit(studio, study_id, wanted.version, every=wanted.every))


@router.post("/studies/{study_id}/words", response_model=StudyPublic)
def say_word(studio: StudioNow, study_id: Id, word: WordCreate) -> Response:
    """Somebody's word passes a rung, or is taken back."""
    if word.back:
        return _sent(studies.take_word_back(studio, study_id, word.rung))
    return _sent(studies.say_word(studio, study_id, word.rung, word.by, word.why))


@router.post("/takes/{take_id}/feel", response_model=StudyPublic)
def say_feel(studio: StudioNow, take_id: Id, said: FeelCreate) -> Response:
    """How a run was, as the student says."""
    return _sent(studies.say_feel(studio, take_id, said.feel))


@router.get("/school")
def get_studio_school(studio: StudioNow) -> StudioSchoolPublic:
    """How the studio teaches: its answers, all questions, and what is usual at each level."""
    return StudioSchoolPublic(
        answers={level: dict(answers) for level, answers in studies.studio_school(studio).items()},
        questions=school_public(school_of(Level.ELEMENTARY), Level.ELEMENTARY, None),
        usual={level: dict(school_of(level).values) for level in Level},
    )


@router.put("/school", status_code=204)
def put_studio_school(studio: StudioNow, update: SchoolUpdate, level: Level | None = None) -> None:
    """How the studio teaches, at a level or at every one."""
    studies.set_studio_school(studio, level, update.answers)
