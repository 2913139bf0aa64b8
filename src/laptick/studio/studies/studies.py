"""Studies: shown; how they are taught, the teacher's hand in the ladder, her word on a rung, what the student says."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import LimitError, OptionError, RefusedError
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.edits import MOST_EDITS, check_edit
from laptick.core.practice.ladder.events import EventKind
from laptick.core.practice.ladder.school import school_of
from laptick.core.practice.ladder.stages import GateKind, Rung
from laptick.core.practice.ladder.standing import leads_to, next_rung
from laptick.core.practice.ladder.tempo_steps import Feel, Move
from laptick.db import pieces as pieces_db
from laptick.db import rungs as rungs_db
from laptick.db import shelf as shelf_db
from laptick.db import studies as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.db.rungs import NewEvent
from laptick.formats.documents.ladder_edits import Document, edit_document, edit_of
from laptick.studio.days import today
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.open_study import Answers, Study, opened, refold
from laptick.studio.studies.telling import TEACHER, tell_of_old_takes
from laptick.studio.use_case import AskerRole, Studio, use_case


def study_of(studio: Studio, piece_id: int, measures: str = "", student_id: int | None = None) -> Study:
    """A student's study of a piece (``measures`` empty) or of a passage, with what its rungs have come to; the built-in
    one's where none is named.

    Raises:
        NotFoundError: there is no such piece, or no such student.
        OptionError: the piece has no such bars.
    """
    piece = open_piece(studio, piece_id)
    if measures:
        piece.score.select_measures(measures)
    row = db.study_of_piece(studio.connection, studio.id, piece_id, measures, student_id)
    return opened(studio, piece, tell_of_old_takes(studio, piece, row))


def _by_id(studio: Studio, study_id: int, *, held: bool) -> tuple[Piece, Row]:
    """A study's piece and row; ``held``: until the transaction ends, the piece first."""
    row = db.get_study(studio.connection, studio.id, study_id)
    piece = open_piece(studio, row["piece_id"])
    if held:
        with studio.connection.cursor() as cursor:
            shelf_db.takes_changed(cursor, studio.id, piece.id)
        row = db.lock_study(studio.connection, studio.id, study_id)
    return piece, tell_of_old_takes(studio, piece, row)


@use_case
def get_study(studio: Studio, piece_id: int, measures: str = "", student_id: int | None = None) -> Study:
    """A student's study of a piece or passage; made when it is first looked at."""
    return study_of(studio, piece_id, measures, student_id)


@use_case
def list_passages(studio: Studio, piece_id: int, student_id: int | None = None) -> list[str]:
    """The passages of a piece that a student has a study of, the built-in one where none is named."""
    pieces_db.check_piece(studio.connection, studio.id, piece_id)
    if student_id is None:
        student_id = students_db.built_in_student(studio.connection, studio.id)["id"]
    rows = db.list_studies(studio.connection, studio.id, piece_id)
    return [row["measures"] for row in rows if row["measures"] and row["student_id"] == student_id]


# -- how it is taught ------------------------------------------------------------------------------------


@use_case
def set_school(studio: Studio, study_id: int, answers: Answers) -> Study:
    """The answers of one study, in place of those before; the ladder is built anew, what was tried stays.

    Raises:
        OptionError: a question or an answer that there is none of.
    """
    piece, row = _by_id(studio, study_id, held=True)
    school_of(piece.level, answers)
    db.set_school(studio.connection, studio.id, study_id, dict(answers))
    return _refolded(studio, piece, db.lock_study(studio.connection, studio.id, row["id"]))


@use_case
def set_studio_school(studio: Studio, level: Level | None, answers: Answers) -> None:
    """How the studio teaches, at a level or at every one.

    Raises:
        OptionError: a question or an answer that there is none of.
    """
    school_of(level or Level.ELEMENTARY, answers)
    db.put_school_choice(studio.connection, studio.id, level.value if level else "", dict(answers))
    shelf_db.every_ladder_changed(studio.connection, studio.id)


@use_case
def studio_school(studio: Studio) -> dict[str, Answers]:
    """What the studio answers, by level; ``""``: at every level."""
    return dict(db.school_choices(studio.connection, studio.id))


def _refolded(studio: Studio, piece: Piece, row: Row) -> Study:
    """The study as it is now, its rungs folded by the gates they have now."""
    study = opened(studio, piece, row)
    refold(studio, study.id, study.edited, piece.target_bpm)
    return opened(studio, piece, row)


def refold_studies(studio: Studio, piece: Piece) -> None:
    """Another target, another level: what the rungs of a piece come to, folded anew."""
    for row in db.list_studies(studio.connection, studio.id, piece.id):
        held = db.lock_study(studio.connection, studio.id, row["id"])
        _refolded(studio, piece, held)


# -- the teacher's hand in it ----------------------------------------------------------------------------


@use_case
def edit_ladder(studio: Studio, study_id: int, before: int, document: Document) -> Study:
    """One more edit of the ladder, made on version ``before``.

    Raises:
        OptionError: an edit that cannot be made, or is not understood.
        ConflictError: the ladder was changed meanwhile.
    """
    piece, row = _by_id(studio, study_id, held=True)
    study = opened(studio, piece, row)
    edit = edit_of(document)
    check_edit(piece.score, study.ladder, edit)
    if len(study.edits) >= MOST_EDITS:
        raise LimitError(
            f"a ladder takes {MOST_EDITS} changes.", kept="Nothing was changed.", todo="Put it back to as it was built."
        )
    edits = [*map(edit_document, study.edits), edit_document(edit)]
    db.set_edits(studio.connection, studio.id, study_id, before, edits)
    return _refolded(studio, piece, db.lock_study(studio.connection, studio.id, study_id))


@use_case
def undo_edit(studio: Studio, study_id: int, before: int, *, every: bool = False) -> Study:
    """Takes the last edit back, or every one.

    Raises:
        ConflictError: the ladder was changed meanwhile.
    """
    piece, row = _by_id(studio, study_id, held=True)
    study = opened(studio, piece, row)
    left = [] if every else [*map(edit_document, study.edits[:-1])]
    db.set_edits(studio.connection, studio.id, study_id, before, left)
    return _refolded(studio, piece, db.lock_study(studio.connection, studio.id, study_id))


# -- somebody's word -------------------------------------------------------------------------------------


def _rung(study: Study, key: str) -> Rung:
    rung = study.ladder.rung(key)
    if rung is None:
        raise OptionError("this rung is no longer on the ladder.", where="rung", kept="Nothing was changed.")
    return rung


_THEMSELVES = {AskerRole.STUDENT: "the student", AskerRole.PARENT: "a parent"}


@use_case
def say_word(studio: Studio, study_id: int, rung: str, by: str = TEACHER, why: str = "") -> Study:
    """Somebody's word passes a rung: the teacher's any, the student's one that goes by word. Whoever came by a personal
    link speaks for themselves, whatever is sent.

    Raises:
        OptionError: there is no such rung, or it is not the student's to pass.
    """
    piece, row = _by_id(studio, study_id, held=True)
    study = opened(studio, piece, row)
    if studio.asker is not None and studio.asker.role in _THEMSELVES:
        by = _THEMSELVES[studio.asker.role]
    if by != TEACHER and _rung(study, rung).gate is not GateKind.WORD:
        raise OptionError("this rung is passed by playing it.", where="rung", kept="Nothing was changed.")
    _rung(study, rung)
    return _added(studio, study, row, [NewEvent(rung, EventKind.WORD.value, today(studio), by, why=why)])


@use_case
def take_word_back(studio: Studio, study_id: int, rung: str) -> Study:
    """Takes every word on a rung back; what was played still counts.

    Raises:
        RefusedError: it is not the teacher who asks: that word may be the teacher's.
    """
    if studio.only_student_id is not None:
        raise RefusedError("a word is taken back by the teacher.", kept="Nothing was changed.")
    piece, row = _by_id(studio, study_id, held=True)
    study = opened(studio, piece, row)
    return _added(studio, study, row, [NewEvent(rung, EventKind.WORD_BACK.value, today(studio), TEACHER)])


def _added(studio: Studio, study: Study, row: Row, events: list[NewEvent]) -> Study:
    rungs_db.add_events(studio.connection, studio.id, study.id, events)
    students_db.give_tried(studio.connection, studio.id, study.id)
    refold(studio, study.id, study.edited, study.piece.target_bpm, [event.rung for event in events])
    return opened(studio, study.piece, row)


@use_case
def say_feel(studio: Studio, take_id: int, feel: Feel) -> Study:
    """What the student says after a run: how it was, or that it is enough."""
    take = takes_db.get_take(studio.connection, studio.id, take_id)
    piece, row = _by_id(studio, take["study_id"], held=True)
    study = opened(studio, piece, row)
    known = rungs_db.rungs_of_take(studio.connection, studio.id, take_id)
    events = [
        NewEvent(key, EventKind.FEEL.value, today(studio), "the student", take_id, feel=feel.value) for key in known
    ]
    return _added(studio, study, row, events)


# -- what comes next -------------------------------------------------------------------------------------


@dataclass(frozen=True)
class NextStep:
    """What a try leads to. ``move``: of the tempo at this rung, whose next try is at ``bpm``; ``is_passed``: the rung
    is, ``newly``: by this try; ``to``: the rung to go to, where that is another one; ``is_enough``: for today."""

    rung: Rung
    move: Move | None
    bpm: int
    is_passed: bool
    newly: bool
    to: Rung | None
    is_enough: bool


def next_step(study: Study, rung: Rung, day: int) -> NextStep:
    """What the newest try at a rung leads to: on when it is passed, something smaller when it had its tries."""
    standing = study.standing(rung)
    state = standing.state
    to, is_enough = None, False
    if standing.move in (Move.END, Move.END_AND_TELL):
        is_enough = True
    elif state.is_passed:
        to = next_rung(study.ladder, study.states, day)
        is_enough = to is None
    elif state.is_enough_on(day):
        to = leads_to(study.ladder, rung, study.states, day)
        is_enough = to is None
    elif day in state.clean_days and rung.gate is GateKind.TWO_DAYS:
        is_enough = True
    newly = state.is_passed and bool(state.last) and state.last[-1] and state.passed_day == day
    return NextStep(rung, standing.move, study.next_bpm(rung), state.is_passed, newly, to, is_enough)
