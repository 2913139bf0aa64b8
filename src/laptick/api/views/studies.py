"""A study as it is sent."""

from __future__ import annotations

from typing import Literal
from urllib.parse import quote

from laptick.api.schemas import studies as schemas
from laptick.core.base.levels import Level
from laptick.core.base.units import quarters_to_text
from laptick.core.practice.colouring import colouring_of
from laptick.core.practice.ladder.gates import TRIES_A_DAY
from laptick.core.practice.ladder.rungs import measures_of
from laptick.core.practice.ladder.school import QUESTIONS, School
from laptick.core.practice.ladder.spoken import (
    BAR,
    BARS,
    BEAT_KEPT,
    BREAK,
    ENOUGH,
    FROM_BEAT,
    MOVE_PHRASES,
    PASSED,
    STATUS_PHRASES,
    TO,
)
from laptick.core.practice.ladder.stages import GATE_WORDS, STAGE_WORDS, Rung, beat_of, stage_of_key
from laptick.core.practice.ladder.standing import bar_standings, for_today, next_rung
from laptick.core.practice.ladder.ways import WAYS, caution_of, stage_words, task_of
from laptick.core.together.reaches import reaches_of
from laptick.formats.documents.ladder_edits import edit_document
from laptick.formats.pages.practice_sheets import MOST_RUNGS, WeekRung, colouring_html, week_html
from laptick.studio.studies.open_study import Answers, Clip, Study
from laptick.studio.studies.spoken import NextSaid, introduced

Layer = Literal["studio", "level", "student", "study"]

#: After so many minutes a break; children sooner. Source: docs/trade.md 3.6 (common practice).
BREAK_MINUTES, CHILD_BREAK_MINUTES = 20, 10

#: Of what is said after a run, what does not hang on the take.
LIKELY = (*STATUS_PHRASES.values(), BEAT_KEPT, *MOVE_PHRASES.values(), PASSED, ENOUGH, BAR, BARS, TO, FROM_BEAT)

#: Who plays at these levels is a child, as a rule.
CHILDREN = frozenset({Level.FIRST_YEAR, Level.ELEMENTARY})


def study_public(study: Study) -> schemas.StudyPublic:
    day = study.day
    ladder, states = study.ladder, study.states
    following = next_rung(ladder, states, day)
    known = {rung.key for rung in ladder.rungs}
    reaches = frozenset(reach.measure_index for reach in reaches_of(study.piece.score))
    near = for_today(ladder, states, day)
    return schemas.StudyPublic(
        id=study.id,
        student_id=study.student_id,
        student=study.student,
        span=study.span,
        level=study.piece.level,
        piece_id=study.piece.id,
        measures=study.measures,
        rungs=[_rung_public(study, rung, day, reaches, is_near=rung in near) for rung in ladder.rungs],
        now=None if following is None else following.key,
        today=[rung.key for rung in near],
        is_done=all(study.standing(rung).state.is_passed for rung in ladder.rungs),
        bars=[schemas.BarPublic(state=bar.state, elsewhere=bar.elsewhere) for bar in bar_standings(ladder, states)],
        school=school_public(study.ladder.school, study.piece.level, study),
        edits=len(study.edits),
        edits_version=study.edits_version,
        over=[
            schemas.OverPublic(number=number, kind=str(edit_document(study.edits[number])["kind"]), why=why)
            for number, why in study.edited.over.items()
        ],
        out_of_date=[
            schemas.OutOfDatePublic(
                key=key, words=_key_words(key), tries=standing.state.tries, is_passed=standing.state.is_passed
            )
            for key, standing in study.standings.items()
            if key not in known
        ],
        tries_a_day=TRIES_A_DAY,
        break_minutes=CHILD_BREAK_MINUTES
        if study.piece.level in (Level.FIRST_YEAR, Level.ELEMENTARY)
        else BREAK_MINUTES,
        break_said=clip_public(study.clips([BREAK])[0]),
        likely=[clip_public(clip) for clip in study.clips(LIKELY)],
        ways=[schemas.WayPublic(key=key, words=way.words) for key, way in WAYS.items()],
    )


def _key_words(key: str) -> str:
    """A rung's key in words, for one that is not on the ladder."""
    stage, (_, _, rest) = stage_of_key(key), key.partition(":")
    words = STAGE_WORDS[stage] if stage else key
    return f"{words}, bars {rest.partition(':')[0]}"


def _rung_public(
    study: Study, rung: Rung, day: int, reaches: frozenset[int], *, is_near: bool = False
) -> schemas.RungPublic:
    """``is_near``: it is for today, so what is said before it is sent too."""
    standing = study.standing(rung)
    state = standing.state
    how_far = "passed" if state.is_passed else "begun" if state.tries else "untouched"
    return schemas.RungPublic(
        key=rung.key,
        title=rung.title,
        stage=rung.stage,
        stage_words=stage_words(rung),
        task=task_of(study.piece.score, study.ladder.school, rung),
        caution=caution_of(study.piece.score, study.ladder.school, rung, reaches),
        activity=rung.activity,
        first=rung.first,
        last=rung.last,
        measures=measures_of(study.piece.score, rung),
        within=None if rung.within is None else rung.within.text,
        beat=beat_of(study.ladder.school, rung),
        hands=rung.hands,  # type: ignore[arg-type]
        group=rung.group,
        rounds=rung.rounds,
        tempos=list(rung.tempos),
        bpm=study.next_bpm(rung),
        beat_quarters=quarters_to_text(rung.beat_quarters),
        gate=schemas.GatePublic(kind=rung.gate, words=GATE_WORDS[rung.gate]),
        touch=rung.touch,
        why=rung.why,
        is_own=rung.is_own,
        state=how_far,  # type: ignore[arg-type]
        clean=list(state.last),
        tries_today=state.tries_on(day),
        is_enough=state.is_enough_on(day),
        passed_by=state.passed_by if state.is_passed else None,
        passed_why=state.passed_why if state.is_passed else "",
        intro=[clip_public(clip) for clip in study.clips(introduced(study.piece.score, rung))]
        if is_near or state.tries
        else [],
    )


def week_page(study: Study, paper: str) -> str:
    """The rungs that are not passed, from the lowest on, with boxes for a week."""
    reaches = frozenset(reach.measure_index for reach in reaches_of(study.piece.score))
    open_rungs = [rung for rung in study.ladder.rungs if not study.standing(rung).state.is_passed]
    near = [rung for rung in open_rungs if rung.group == open_rungs[0].group][:MOST_RUNGS]
    shown = [_rung_public(study, rung, study.day, reaches) for rung in near]
    lines = [WeekRung(_named(one), one.task, one.bpm, one.gate.words, one.touch) for one in shown]
    cautions = list(dict.fromkeys(one.caution for one in shown if one.caution))
    minutes = CHILD_BREAK_MINUTES if study.piece.level in CHILDREN else BREAK_MINUTES
    return week_html(study.piece.score, lines, cautions, minutes, paper)


def _named(rung: schemas.RungPublic) -> str:
    """``Lap it: bars 1–4``."""
    return f"{rung.stage_words}: {rung.title[:1].lower()}{rung.title[1:]}"


def colouring_page(study: Study, paper: str) -> str:
    return colouring_html(study.piece.score, colouring_of(study.piece.score), paper)


def school_public(school: School, level: Level, study: Study | None) -> list[schemas.SchoolQuestionPublic]:
    layers: list[tuple[Layer, Answers]] = []
    if study is not None:
        own = study.school
        layers = [("study", own.own), ("student", own.student), ("level", own.level), ("studio", own.studio)]
    return [
        schemas.SchoolQuestionPublic(
            key=key,
            words=question.words,
            answers=[
                schemas.SchoolAnswerPublic(value=answer.value, words=answer.words, why=answer.why)
                for answer in question.answers
            ],
            value=school[key],
            usual=question.usual_at(level),
            chosen=next((name for name, layer in layers if key in layer), None),
        )
        for key, question in QUESTIONS.items()
    ]


def next_public(said: NextSaid) -> schemas.NextPublic:
    step = said.step
    return schemas.NextPublic(
        rung=step.rung.key,
        text=said.text,
        onward=said.onward,
        clips=[clip_public(clip) for clip in said.clips],
        move=step.move,
        bpm=step.bpm,
        is_passed=step.is_passed,
        newly=step.newly,
        to=None if step.to is None else step.to.key,
        is_enough=step.is_enough,
    )


def clip_public(clip: Clip) -> schemas.ClipPublic:
    """Where a phrase's sound is: the studio's own recording of it, else as it is made here."""
    made, own = f"/api/voice/phrase?say={quote(clip.say)}", f"/api/voice/own/{clip.own_id}/audio?"
    return schemas.ClipPublic(say=clip.say, file=made if clip.own_id is None else own)
