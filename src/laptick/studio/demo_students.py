"""Students of the demo, invented, and three weeks of their practice up to today: the simulated student climbs their
ladders, each at a level and with faults of one's own, and everything is judged as any take is."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from laptick.core.base.activity import Activity
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.events import EventKind
from laptick.core.practice.ladder.rungs import measures_of
from laptick.core.practice.ladder.stages import GateKind, Rung
from laptick.core.practice.ladder.standing import next_rung
from laptick.core.student.faults import parse_fault
from laptick.db import pieces as pieces_db
from laptick.db import rungs as rungs_db
from laptick.db import studies as studies_db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.db.people import students as db
from laptick.db.people.students import StudentFacts
from laptick.studio.days import start_of, today
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.open_study import Study, opened, refold
from laptick.studio.studies.telling import TEACHER
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Played, Simulation, simulated, simulated_strikes, source_at, store_take
from laptick.studio.use_case import Studio, use_case

#: When the first student begins on a day, after midnight, how much later each next one, and how long a try takes.
BEGINS, A_STUDENT, A_TRY = timedelta(hours=15, minutes=10), timedelta(minutes=35), timedelta(minutes=2)


@dataclass(frozen=True)
class DemoStudy:
    """A piece of the demo; ``days``: so many days ago it was practised; ``tries`` a day; ``faults`` come in every third
    take, ``LAST`` in them is its last bar."""

    piece: str
    days: tuple[int, ...]
    tries: int = 1
    faults: tuple[str, ...] = ()


@dataclass(frozen=True)
class DemoStudent:
    key: str
    facts: StudentFacts
    studies: tuple[DemoStudy, ...]


def _facts(name: str, level: Level, span: int, days: int, minutes: int, *, note: str = "") -> StudentFacts:
    return StudentFacts(name, level.value, span, {}, days, minutes, note, False)


STUDENTS = (
    DemoStudent(
        "aila",
        _facts("Aila", Level.FIRST_YEAR, 6, 5, 10, note="Left wrist sinks after a while.\nLikes to sing along."),
        (
            DemoStudy("lantern-boat", (20, 19, 17, 15, 14, 12), 1),
            DemoStudy("harbour-steps", (10, 9, 7, 6, 4, 3, 1, 0), 1, ("hesitate=LAST:1.1",)),
        ),
    ),
    DemoStudent(
        "bruno",
        _facts("Bruno", Level.FIRST_YEAR, 6, 4, 10),
        (DemoStudy("harbour-steps", (13, 11, 6, 2), 1, ("limp=1.7",)),),
    ),
    DemoStudent(
        "celia",
        _facts("Celia", Level.ELEMENTARY, 8, 5, 20, note="Counts silently; ask for the count aloud."),
        (
            DemoStudy("kite-over-the-orchard", (18, 16, 13, 11, 8, 5, 4, 1), 1, ("spread=90",)),
            DemoStudy("five-stones", (2, 1), 1, ("hesitate=LAST:1.2",)),
        ),
    ),
    DemoStudent(
        "dag",
        _facts("Dag", Level.INTERMEDIATE, 9, 6, 30),
        (
            DemoStudy("copper-kettle-parade", (15, 14, 12, 9, 7, 5, 3, 0), 1, ("rush-runs=0.75",)),
            DemoStudy("five-stones", (19, 18, 17, 16), 1),
        ),
    ),
    DemoStudent(
        "estrid",
        _facts("Estrid", Level.ADVANCED, 10, 3, 45, note="Plays for pleasure, in the evening; was travelling."),
        (DemoStudy("copper-kettle-parade", (20, 18, 16, 15), 1),),
    ),
)


@use_case
def add_demo_students(studio: Studio, *, anew: bool = False) -> int:
    """Adds those who were never on the list, with their practice; gives how many. ``anew``: those who are on it too
    practise what was made anew."""
    known = db.demo_students(studio.connection, studio.id)
    added = 0
    practising: list[_Practising] = []
    for number, demo in enumerate(STUDENTS):
        row = known.get(demo.key)
        if row is None:
            student_id = db.add_student(studio.connection, studio.id, demo.facts)
            db.set_demo_key(studio.connection, studio.id, student_id, demo.key)
            added += 1
        elif anew and row["deleted_at"] is None:
            student_id = row["id"]
        else:
            continue
        for one in demo.studies:
            piece_id = pieces_db.demo_piece(studio.connection, studio.id, one.piece)
            if piece_id is not None:  # else the teacher took it off the shelf
                row = studies_db.study_of_piece(studio.connection, studio.id, piece_id, student_id=student_id)
                practising.append(_Practising(studio, one, number, open_piece(studio, piece_id), row))
    for ago in sorted({ago for student in practising for ago in student.asked.days}, reverse=True):
        for student in practising:  # in the order of time, as takes come in life
            if ago in student.asked.days:
                student.practise(today(studio) - ago)
    return added


@dataclass
class _Practising:
    """A student, by number, at a study (``row``); ``takes``: how many there are."""

    studio: Studio
    asked: DemoStudy
    number: int
    piece: Piece
    row: Row
    takes: int = 0

    def practise(self, day: int) -> None:
        """A day's tries at the rung that is next."""
        studio, piece = self.studio, self.piece
        for turn in range(self.asked.tries):
            rung = _by_word(studio, opened(studio, piece, self.row), day)
            if rung is None:
                break
            study = opened(studio, piece, self.row)
            self.takes += 1
            wanted = TakeSettings(
                activity=rung.activity or Activity.PLAY,
                hands=rung.hands,  # type: ignore[arg-type]
                bpm=study.next_bpm(rung),
                measures=measures_of(piece.score, rung),
                within=None if rung.within is None else rung.within.text,
                times_round=rung.rounds,
                rung=rung.key,
                study_id=study.id,
            )
            last = piece.score.measures[rung.last].number
            texts = [text.replace("LAST", last) for text in self.asked.faults] if self.takes % 3 == 2 else []
            how = Simulation(study.piece.level, 1000 * self.number + self.takes, tuple(map(parse_fault, texts)))
            performance, seed = simulated(study.piece, wanted, how, source_at(wanted.activity))
            played = Played(simulated_strikes(performance, seed, how), "simulated", day=day)
            take_id = store_take(studio, piece, wanted, played)
            at = start_of(day, studio.zone) + BEGINS + self.number * A_STUDENT + turn * A_TRY
            takes_db.set_created(studio.connection, studio.id, take_id, min(at, datetime.now(UTC).replace(tzinfo=None)))


def _by_word(studio: Studio, study: Study, day: int) -> Rung | None:
    """The next rung that is played; those below it that go by word are passed by the teacher's."""
    states = dict(study.states)
    while True:
        rung = next_rung(study.ladder, states, day)
        if rung is None or (rung.activity is not None and rung.gate is not GateKind.WORD):
            return rung
        event = rungs_db.NewEvent(rung.key, EventKind.WORD.value, day, TEACHER)
        rungs_db.add_events(studio.connection, studio.id, study.id, [event])
        refold(studio, study.id, study.edited, study.piece.target_bpm, [rung.key])
        row = studies_db.get_study(studio.connection, studio.id, study.id)
        states = dict(opened(studio, open_piece(studio, study.piece.id), row).states)
