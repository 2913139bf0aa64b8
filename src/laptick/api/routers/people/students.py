"""Students: listed, added, shown, changed, given studies; and the studio they belong to."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.schemas.common import PAGE, Cursor, Id, PageSize
from laptick.api.schemas.people.search import FoundPiecePublic, FoundPublic, FoundStudentPublic, FoundTakePublic
from laptick.api.schemas.people.students import (
    StudentFactsPublic,
    StudentPage,
    StudentPublic,
    StudentShownPublic,
    StudentUpdate,
    StudiesGiven,
    StudioPublic,
    StudyEnd,
    StudyGive,
)
from laptick.api.schemas.people.tonight import TonightPublic
from laptick.api.views.students import facts_of, student_public, student_short, student_shown, tonight_public
from laptick.studio.people import search, students, studios, tonight

router = APIRouter(route_class=ModelRoute, tags=["people"])


@router.get("/students")
def list_students(
    studio: StudioNow, after: Cursor = None, limit: PageSize = PAGE, find: Annotated[str, Query(max_length=100)] = ""
) -> StudentPage:
    """The studio's students by name, page by page. ``find``: only those whose names hold that."""
    found = students.list_students(studio, after, limit + 1, find)
    items = [student_short(one) for one in found[:limit]]
    return StudentPage(items=items, next=items[-1].id if len(found) > limit else None)


@router.get("/search")
def search_studio(studio: StudioNow, find: Annotated[str, Query(max_length=100)]) -> FoundPublic:
    """Students, pieces and takes that are called so, or have a note that says so: every word of it, in any order."""
    found = search.search(studio, find)
    return FoundPublic(
        students=[FoundStudentPublic(**vars(one)) for one in found.students],
        pieces=[FoundPiecePublic(**vars(one)) for one in found.pieces],
        takes=[FoundTakePublic(**vars(one)) for one in found.takes],
    )


@router.post("/students", status_code=201)
def add_student(studio: StudioNow, facts: StudentFactsPublic) -> StudentPublic:
    return student_public(students.add_student(studio, facts_of(facts)))


@router.get("/students/{student_id}")
def get_student(studio: StudioNow, student_id: Id) -> StudentShownPublic:
    """A student with the studies that were given, and the days of practice."""
    return student_shown(students.get_student(studio, student_id))


@router.get("/students/{student_id}/tonight")
def get_tonight(studio: StudioNow, student_id: Id) -> TonightPublic:
    """What a student practises tonight: at most three things, in about the minutes that are agreed."""
    return tonight_public(tonight.get_tonight(studio, student_id))


@router.put("/students/{student_id}")
def update_student(studio: StudioNow, student_id: Id, update: StudentUpdate) -> StudentShownPublic:
    """What is kept of a student, in place of a version before."""
    return student_shown(students.update_student(studio, student_id, update.version, facts_of(update.facts)))


@router.delete("/students/{student_id}", status_code=204)
def delete_student(studio: StudioNow, student_id: Id) -> None:
    """Takes a student off the list."""
    students.leave(studio, student_id)


@router.post("/students/{student_id}/restore")
def restore_student(studio: StudioNow, student_id: Id) -> StudentShownPublic:
    """Puts a student back on the list."""
    return student_shown(students.come_back(studio, student_id))


@router.post("/studies", status_code=201)
def give_study(studio: StudioNow, wanted: StudyGive) -> StudiesGiven:
    """Gives a piece, or a passage of it, to some students."""
    given = students.give_study(studio, wanted.student_ids, wanted.piece_id, wanted.measures)
    return StudiesGiven(study_ids=given)


@router.put("/studies/{study_id}/ended")
def end_study(studio: StudioNow, study_id: Id, wanted: StudyEnd) -> StudentShownPublic:
    """Ends a study, or takes it up again; what was played stays."""
    return student_shown(students.end_study(studio, study_id, ended=wanted.ended))


@router.get("/studio")
def get_studio(studio: StudioNow) -> StudioPublic:
    facts = studios.get_studio(studio)
    return StudioPublic.model_construct(name=facts.name, time_zone=facts.time_zone, sound_days=facts.sound_days)


@router.put("/studio")
def put_studio(studio: StudioNow, update: StudioPublic) -> StudioPublic:
    """What the studio is called, where its days are, how long sound is kept."""
    facts = studios.StudioFacts(update.name, update.time_zone, update.sound_days)
    return StudioPublic(**vars(studios.update_studio(studio, facts)))
