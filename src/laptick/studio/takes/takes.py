"""Takes: sent in, read from a file or simulated, judged and stored with their judgement; listed, noted, deleted."""

from __future__ import annotations

import secrets
from contextlib import suppress
from dataclasses import dataclass, replace

from laptick.core.base.errors import DuplicateError, NotFoundError, OptionError, TakeError
from laptick.core.base.levels import Level
from laptick.core.base.units import Seconds
from laptick.core.practice.ladder.events import EventKind
from laptick.core.score.roadmap import MOST_TIMES_ROUND
from laptick.core.student.faults import Fault
from laptick.core.student.student import simulate
from laptick.core.takes.amount import check_amount
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.take_state import TakeState
from laptick.db import jobs as jobs_db
from laptick.db import pieces as pieces_db
from laptick.db import studies as studies_db
from laptick.db import takes as db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.db.shelf import takes_changed
from laptick.formats.documents.check import VerdictTold, read_verdict
from laptick.formats.documents.take import stored_strikes
from laptick.formats.take_files import read_take
from laptick.studio.days import today
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.open_study import at_level_of, played_by
from laptick.studio.studies.telling import tell_change, tell_of_old_takes
from laptick.studio.takes.first_judging import KIND, judge_first, judge_kept, key_of
from laptick.studio.takes.judging import Document, performance_of, task_of
from laptick.studio.takes.kept import listed_take
from laptick.studio.takes.passage import passage_of
from laptick.studio.takes.settings import KeptSettings, TakeSettings
from laptick.studio.takes.shown import ShownTake, read_or_none, shown_take
from laptick.studio.use_case import Studio, use_case

#: When the first beat of a simulated take falls on its clock.
LEAD_S = 2.0


@dataclass(frozen=True)
class Played:
    """What was played, by whom (``student``, ``simulated``, ``file``). ``client_key``: made up by the sender, so that
    what is sent twice is kept once; ``day``: when, as ``studies.today`` counts, ``None`` for today."""

    strikes: Document
    by: str
    client_key: str | None = None
    day: int | None = None


def settings_kept(piece: Piece, wanted: TakeSettings) -> KeptSettings:
    """What was asked for, with the counting choices, the playing order and the pencilled changes that hold now."""
    layers = (("studio", piece.studio_choices), ("piece", piece.own_choices))
    return KeptSettings(
        **{name: getattr(wanted, name) for name in TakeSettings.model_fields},
        choices={name: document for name, document in layers if document} or None,
        order=piece.order_kept,
        pencil=piece.pencil or None,
        entry=piece.entry_document,
    )


@dataclass(frozen=True)
class Kept:
    """A take that is stored. ``strikes``: how many."""

    id: int
    strikes: int


#: Up to so many strikes are judged while the sender waits; what is longer, by a job.
JUDGED_AT_ONCE = 1000

#: A request that breaks off between storing and judging leaves its take to a worker after so long.
LEFT_TO_WORKER_S: Seconds = 20.0


def keep_take(studio: Studio, piece: Piece, wanted: TakeSettings, played: Played) -> Kept:
    """Stores what was played, to be judged: at once, or by the job that is put into the queue with it. Gives the one
    that was sent before, where it was sent twice.

    Raises:
        TakeError, LimitError: nothing that can be judged was played.
        OptionError: the piece has no such bars, or that is the study of another.
    """
    known = sent_before(studio, played.client_key)
    if known is not None:
        return Kept(known, 0)
    study = study_for(studio, piece, wanted)
    piece = played_by(studio, piece, study["student_id"])
    settings = as_often_as_played(piece, settings_kept(piece, wanted), played)
    strikes = check_playable(piece, settings, played)
    new = db.NewTake(
        piece_id=piece.id,
        study_id=study["id"],
        activity=settings.activity,
        settings=settings.document(),
        assigned_bpm=settings.bpm,
        level=piece.level.value,
        strikes=played.strikes,
        played_by=played.by,
        client_key=played.client_key,
    )
    take_id = db.add_take(studio.connection, studio.id, new)
    students_db.give_tried(studio.connection, studio.id, study["id"])
    due_in_s = LEFT_TO_WORKER_S if strikes <= JUDGED_AT_ONCE else 0.0
    job = jobs_db.NewJob(KIND, key_of(take_id), {"take_id": take_id}, due_in_s)
    jobs_db.add_job(studio.connection, studio.id, job)
    return Kept(take_id, strikes)


def check_playable(piece: Piece, settings: KeptSettings, played: Played) -> int:
    """Refuses what cannot be a take of that, before it is stored; gives the number of its strikes.

    Raises:
        TakeError, LimitError, OptionError: see ``keep_take``.
    """
    performance = performance_of(played.strikes)
    task = task_of(piece.played, settings, piece.level, performance.knows)
    check_amount(task, performance)
    return len(performance.strikes)


def store_take(studio: Studio, piece: Piece, wanted: TakeSettings, played: Played) -> int:
    """Stores a take and judges it, both or neither; gives its id. For what nobody waits for."""
    kept = keep_take(studio, piece, wanted, played)
    take = db.get_take(studio.connection, studio.id, kept.id)
    if take["state"] == TakeState.WAITING.value:
        judge_kept(studio, piece, take, day=played.day or today(studio))
    return kept.id


def sent_before(studio: Studio, client_key: str | None) -> int | None:
    """The take that a sender's key belongs to, if it was stored before.

    Raises:
        NotFoundError: it is another student's than the asker may see.
    """
    known = db.take_sent_before(studio.connection, studio.id, client_key)
    if known is not None:
        study_id = db.get_take(studio.connection, studio.id, known)["study_id"]
        studio.check_whose(studies_db.get_study(studio.connection, studio.id, study_id)["student_id"])
    return known


def piece_for(studio: Studio, piece_id: int, wanted: TakeSettings) -> Piece:
    """The piece at the level of whose study is asked for; nothing is made."""
    piece = open_piece(studio, piece_id)
    if wanted.study_id is not None:
        study = studies_db.get_study(studio.connection, studio.id, wanted.study_id)
        studio.check_whose(study["student_id"])
        return played_by(studio, piece, study["student_id"])
    if studio.only_student_id is not None:
        return played_by(studio, piece, studio.only_student_id)
    return at_level_of(piece, students_db.built_in_student(studio.connection, studio.id))


def study_for(studio: Studio, piece: Piece, wanted: TakeSettings) -> Row:
    """The study a take belongs to, which knows of the takes before it. The piece is held first, then the study.

    Raises:
        OptionError: it is the study of another piece.
        NotFoundError: there is no such study.
    """
    if wanted.study_id is None:
        row = studies_db.study_of_piece(studio.connection, studio.id, piece.id, student_id=studio.only_student_id)
    else:
        row = studies_db.get_study(studio.connection, studio.id, wanted.study_id)
        studio.check_whose(row["student_id"])
    if row["piece_id"] != piece.id:
        raise OptionError("that is the study of another piece.", where="study_id", kept="Nothing was stored.")
    if not row["takes_told"]:
        with studio.connection.cursor() as cursor:
            takes_changed(cursor, studio.id, piece.id)
    return tell_of_old_takes(studio, piece, row)


def as_often_as_played(piece: Piece, settings: KeptSettings, played: Played) -> KeptSettings:
    """A passage that goes round goes as often as it was played: a round more or fewer is no fault. What cannot be read
    is left to the checker, which says so."""
    if settings.times_round == 1:
        return settings
    passage_of(piece.played, settings)  # refused if it is too long to go round
    try:
        performance = performance_of(played.strikes)  # without what was struck along with the count-in
    except TakeError:
        return settings
    once = settings.model_copy(update={"times_round": 1})
    asked = len(task_of(piece.played, once, piece.level, performance.knows).expected)
    times = min(MOST_TIMES_ROUND, max(1, round(len(performance.strikes) / asked)))
    return settings.model_copy(update={"times_round": times})


@use_case
def keep(studio: Studio, piece_id: int, wanted: TakeSettings, played: Played) -> Kept:
    """Stores a take, tapped or played on a keyboard, to be judged; errors as ``keep_take``."""
    return keep_take(studio, open_piece(studio, piece_id), wanted, played)


@use_case
def take_sent(studio: Studio, client_key: str | None) -> Kept | None:
    """The take that was sent with a key."""
    known = sent_before(studio, client_key)
    return None if known is None else Kept(known, 0)


def add_take(studio: Studio, piece_id: int, wanted: TakeSettings, played: Played) -> ShownTake:
    """Stores a take, then judges it: two transactions, so that what was played is kept whatever becomes of the rest. A
    long one is shown as it waits for its job. Errors as ``keep_take``."""
    try:
        kept = keep(studio, piece_id, wanted, played)
    except DuplicateError:  # the same was sent at the same time: it is kept once
        sent = take_sent(studio, played.client_key)
        if sent is None:
            raise
        kept = sent
    if kept.strikes <= JUDGED_AT_ONCE:
        judge_first(studio, kept.id)
    return get_take(studio, kept.id)


def add_take_file(studio: Studio, piece_id: int, wanted: TakeSettings, data: bytes, filename: str) -> ShownTake:
    """A take from a file: Standard MIDI, or taps as the command line writes them.

    Raises:
        TakeError, LimitError: no take that can be read.
    """
    strikes = stored_strikes(read_take(data, filename=filename)) | {"filename": filename}
    return add_take(studio, piece_id, wanted, Played(strikes, "file"))


@dataclass(frozen=True)
class Simulation:
    """How the simulated student plays. ``skill``: ``None``, at the level of the piece; ``seed``: ``None``, any."""

    skill: Level | None = None
    seed: int | None = None
    faults: tuple[Fault, ...] = ()


def simulated(piece: Piece, wanted: TakeSettings, how: Simulation, source: Source) -> tuple[Performance, int]:
    """One take of the simulated student, and its seed."""
    kept = settings_kept(piece, wanted)
    task = task_of(piece.played, kept, piece.level, source.knows)
    seed = secrets.randbelow(2**31) if how.seed is None else how.seed
    level = how.skill or piece.level
    performance = simulate(task, level=level, seed=seed, faults=how.faults, source=source, lead_s=LEAD_S)
    return performance, seed


def simulated_strikes(performance: Performance, seed: int, how: Simulation) -> Document:
    """A simulated take as it is kept, with how it was made."""
    return stored_strikes(performance) | {
        "simulated": {
            "seed": seed,
            "skill": how.skill,
            "faults": [{"kind": f.kind, "amount": f.amount, "measure": f.measure} for f in how.faults],
        }
    }


def source_at(activity: str) -> Source:
    """What the simulated student plays on: keys, or lap and lid."""
    return Source.MIDI if activity == "play" else Source.TAPS


@use_case
def simulate_take(studio: Studio, piece_id: int, wanted: TakeSettings, how: Simulation) -> Played:
    """What the simulated student plays."""
    piece = piece_for(studio, piece_id, wanted)
    performance, seed = simulated(piece, wanted, how, source_at(wanted.activity))
    return Played(simulated_strikes(_beside_click(performance, wanted), seed, how), "simulated")


def add_simulated_take(studio: Studio, piece_id: int, wanted: TakeSettings, how: Simulation) -> ShownTake:
    """Lets the simulated student play, and treats the take like any other."""
    return add_take(studio, piece_id, wanted, simulate_take(studio, piece_id, wanted, how))


@use_case
def stand_in(studio: Studio, piece_id: int, wanted: TakeSettings, how: Simulation) -> Performance:
    """What the stand-in keyboard will play: the simulated student's notes, the first beat at ``LEAD_S``. Nothing is
    stored; the take comes in as from any keyboard."""
    performance, _ = simulated(piece_for(studio, piece_id, wanted), wanted, how, Source.MIDI)
    return performance


def _beside_click(performance: Performance, wanted: TakeSettings) -> Performance:
    """The click is heard beside the keyboard too."""
    return replace(performance, first_beat_s=LEAD_S, click_bpm=wanted.bpm)


@use_case
def get_take(studio: Studio, take_id: int) -> ShownTake:
    """A take with what was said of it."""
    return shown_take(studio, take_id)


@use_case
def list_takes(
    studio: Studio,
    piece_id: int,
    before_id: int | None = None,
    most: int | None = None,
    student_id: int | None = None,
) -> list[tuple[Row, VerdictTold | None]]:
    """A piece's takes with their newest verdicts, newest first: ``most`` of those before one, or all; those of one
    student, or of all."""
    pieces_db.check_piece(studio.connection, studio.id, piece_id)
    rows = db.list_takes(studio.connection, studio.id, piece_id, before_id=before_id, most=most, student_id=student_id)
    return [(row, read_or_none(read_verdict, row["verdict"])) for row in map(listed_take, rows)]


@use_case
def takes_of_student(
    studio: Studio, student_id: int, before_id: int | None, most: int
) -> list[tuple[Row, VerdictTold | None]]:
    """A student's takes of all pieces on the shelf, newest first: ``most`` of those before one."""
    students_db.get_student(studio.connection, studio.id, student_id)
    rows = db.takes_of_student(studio.connection, studio.id, student_id, before_id=before_id, most=most)
    return [(row, read_or_none(read_verdict, row["verdict"])) for row in map(listed_take, rows)]


@use_case
def set_note(studio: Studio, take_id: int, note: str) -> ShownTake:
    """What the teacher writes beside a take."""
    shown = shown_take(studio, take_id)
    db.set_note(studio.connection, studio.id, shown.id, note)
    return shown_take(studio, take_id)


@use_case
def delete_take(studio: Studio, take_id: int) -> None:
    """Takes it off the list; it can be brought back."""
    with suppress(NotFoundError):  # one that is off it already stays off
        take = db.get_take(studio.connection, studio.id, take_id)
        db.mark_take_deleted(studio.connection, studio.id, take_id, deleted=True)
        tell_change(studio, take, EventKind.DELETED, None)
        return
    db.mark_take_deleted(studio.connection, studio.id, take_id, deleted=True)


@use_case
def restore_take(studio: Studio, take_id: int) -> None:
    """Brings it back, as it was: also one that cannot be read."""
    db.mark_take_deleted(studio.connection, studio.id, take_id, deleted=False)
    tell_change(studio, db.get_take(studio.connection, studio.id, take_id), EventKind.RESTORED, None)
