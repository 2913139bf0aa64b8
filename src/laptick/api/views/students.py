"""Students as they are sent."""

from __future__ import annotations

from laptick.api.schemas.people import students as schemas
from laptick.studio.people.students import OnList, Student, StudentFacts, StudentShown, StudyGiven

_FACTS = tuple(schemas.StudentFactsPublic.model_fields)


def student_public(student: Student) -> schemas.StudentPublic:
    return schemas.StudentPublic(
        **{name: getattr(student, name) for name in (*_FACTS, "id", "is_built_in", "version")},
    )


def facts_of(wanted: schemas.StudentFactsPublic) -> StudentFacts:
    """What is to be kept of a student."""
    return StudentFacts(
        name=wanted.name.strip(),
        level=None if wanted.level is None else wanted.level.value,
        span=wanted.span,
        school=wanted.school,
        days_a_week=wanted.days_a_week,
        minutes_a_day=wanted.minutes_a_day,
        note=wanted.note,
        is_paused=wanted.is_paused,
    )


def student_short(listed: OnList) -> schemas.StudentShort:
    student = listed.student
    return schemas.StudentShort(
        id=student.id,
        name=student.name,
        level=student.level,
        is_paused=student.is_paused,
        is_built_in=student.is_built_in,
        studies=listed.studies,
        practised=list(listed.practised),
    )


def student_shown(shown: StudentShown) -> schemas.StudentShownPublic:
    return schemas.StudentShownPublic(
        student=student_public(shown.student),
        studies=[_study(one) for one in shown.studies],
        practised=list(shown.practised),
    )


def _study(given: StudyGiven) -> schemas.StudyShort:
    progress = given.progress
    return schemas.StudyShort(
        id=given.id,
        piece_id=given.piece_id,
        measures=given.measures,
        title=given.title,
        composer=given.composer,
        given_at=given.given_at,
        is_ended=given.is_ended,
        takes=given.takes,
        last_at=given.last_at,
        rungs=0 if progress is None else progress.rungs,
        passed=0 if progress is None else progress.passed,
        next_words=None if progress is None else progress.next_words,
        bar_states=[] if progress is None else list(progress.bars),
        unread=progress is None,
    )
