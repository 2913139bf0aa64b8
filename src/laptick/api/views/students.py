"""Students as they are sent."""

from __future__ import annotations

from laptick.api.schemas.people import students as schemas
from laptick.api.schemas.people.tonight import ThingPublic, TonightPublic
from laptick.core.base.units import quarters_to_text
from laptick.core.practice.ladder.stages import Stage
from laptick.studio.people.students import OnList, Student, StudentFacts, StudentShown, StudyGiven
from laptick.studio.people.tonight import ThingTonight, Tonight

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
        things_a_day=wanted.things_a_day,
        softer_percent=wanted.softer_percent,
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
        overruled=shown.overruled,
    )


def tonight_public(tonight: Tonight) -> TonightPublic:
    return TonightPublic(
        student_id=tonight.student.id,
        student=tonight.student.name,
        things=[_thing(one) for one in tonight.things],
        minutes=tonight.minutes,
        going=tonight.going,
        practised_today=tonight.practised_today,
    )


def _thing(thing: ThingTonight) -> ThingPublic:
    study, rung = thing.study, thing.rung
    return ThingPublic(
        study_id=study.id,
        piece_id=study.piece.id,
        passage=study.measures,
        piece=study.piece.title,
        rung=rung.key,
        stage=rung.stage,
        words=thing.words,
        title=rung.title,
        task=thing.task,
        touch=rung.touch,
        done=thing.done,
        hands=rung.hands,  # type: ignore[arg-type]
        first=rung.first,
        last=rung.last,
        measures=thing.measures,
        rounds=rung.rounds,
        bpm=study.next_bpm(rung),
        beat_quarters=quarters_to_text(rung.beat_quarters),
        minutes=thing.minutes,
        clean=list(study.standing(rung).state.last),
        is_played=rung.activity is not None and rung.stage is not Stage.COUNT,
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
