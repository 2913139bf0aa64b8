"""A study, opened: its ladder as school and teacher made it, and what its rungs have come to.

The ladder is a pure function of the piece, the school, the level and the edits; the newest ones are kept in memory.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any

from laptick.core.base.errors import LapTickError, OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import Bpm, parse_quarters
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.edits import Edit, Edited, apply_edits
from laptick.core.practice.ladder.events import UNTRIED, Event, EventKind, Standing, standing_of
from laptick.core.practice.ladder.gates import Outcome, RungState
from laptick.core.practice.ladder.rungs import named_bars
from laptick.core.practice.ladder.school import school_of
from laptick.core.practice.ladder.spots import HALTED_IN, Halt
from laptick.core.practice.ladder.stages import BY_WORD, GateKind, Ladder, Rung, stage_of_key
from laptick.core.practice.ladder.standing import start_tempo
from laptick.core.practice.ladder.tempo_steps import Feel
from laptick.core.score.score import Place, Score
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN
from laptick.db import rungs as rungs_db
from laptick.db import studies as db
from laptick.db import takes as takes_db
from laptick.db import voice as voice_db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.formats.documents.ladder_edits import edits_of, standing_document, standing_of_document
from laptick.studio.days import today
from laptick.studio.pieces.open_piece import Piece
from laptick.studio.use_case import Studio

log = logging.getLogger("laptick")

Document = dict[str, Any]
Answers = Mapping[str, str]


@dataclass(frozen=True)
class School:
    """The answers that were given, layer by layer: by the studio, by it at this level, for this student, for this
    study."""

    studio: Answers
    level: Answers
    student: Answers
    own: Answers

    @property
    def layers(self) -> tuple[Answers, Answers, Answers, Answers]:
        return self.studio, self.level, self.student, self.own


@dataclass(frozen=True)
class Clip:
    """A phrase or a number that is said; ``own_id``: the studio's own recording of it."""

    say: str
    own_id: int | None


@dataclass(frozen=True)
class Study:
    """``measures``: the passage it is of, empty for all of the piece; ``standings``: by rung, those that are no longer
    on the ladder too; ``over``: the edits that could not be made any more, by their number, with why;
    ``own_words``: the studio's own recordings by what they say; ``day``: today; ``student``: whose it is, by name."""

    id: int
    student_id: int
    student: str
    span: int | None
    piece: Piece
    measures: str
    school: School
    edits: tuple[Edit, ...]
    edits_version: int
    edited: Edited
    standings: dict[str, Standing]
    day: int
    own_words: Mapping[str, int] = field(default_factory=dict)

    def clips(self, phrases: Iterable[str]) -> tuple[Clip, ...]:
        """Phrases with the studio's own recordings of them."""
        return tuple(Clip(phrase, self.own_words.get(phrase)) for phrase in phrases)

    @property
    def ladder(self) -> Ladder:
        return self.edited.ladder

    @cached_property
    def states(self) -> dict[str, RungState]:
        return {key: standing.state for key, standing in self.standings.items()}

    @cached_property
    def fastest(self) -> dict[str, Bpm]:
        return {key: one.fastest_bpm for key, one in self.standings.items() if one.fastest_bpm is not None}

    def standing(self, rung: Rung) -> Standing:
        return self.standings.get(rung.key, UNTRIED)

    def next_bpm(self, rung: Rung) -> int:
        """The tempo of the next try."""
        tempo = self.standing(rung).tempo
        return start_tempo(self.ladder, rung, self.fastest) if tempo is None else tempo.bpm


@dataclass(frozen=True)
class _Asked:
    """What a ladder is built of, as what it is kept by."""

    key: tuple[Any, ...]
    score: Score = field(compare=False)


def opened(studio: Studio, piece: Piece, row: Row) -> Study:
    """A stored study, read as if it were damaged: what of it cannot be read counts as not chosen."""
    student = students_db.get_student(studio.connection, studio.id, row["student_id"], deleted=True)
    piece = at_level_of(piece, student)
    school = _school(studio, piece.level, student, row)
    edits = _readable_edits(_parsed(row["edits"], list))
    halts = _halts(studio, row["id"])
    edited = built(piece, row["measures"], school, edits, halts)
    gates = {rung.key: rung.gate for rung in edited.ladder.rungs}
    stored = rungs_db.list_states(studio.connection, studio.id, row["id"])
    standings = {
        key: _standing(studio, row["id"], piece.target_bpm, state, gates.get(key)) for key, state in stored.items()
    }
    own = voice_db.own_readings(studio.connection, studio.id)
    return Study(
        id=row["id"],
        student_id=row["student_id"],
        student=student["name"],
        span=student["span"] if student["span"] in range(LEAST_SPAN, MOST_SPAN + 1) else None,
        piece=piece,
        measures=row["measures"],
        school=school,
        edits=edits,
        edits_version=row["edits_version"],
        edited=edited,
        standings=standings,
        day=today(studio),
        own_words=own,
    )


def at_level_of(piece: Piece, student: Row) -> Piece:
    """The piece at the level of who plays it; as it is, where the student has none."""
    return replace(piece, level=Level(student["level"])) if student["level"] in set(Level) else piece


def played_by(studio: Studio, piece: Piece, student_id: int) -> Piece:
    """The same, of a student by number."""
    return at_level_of(piece, students_db.get_student(studio.connection, studio.id, student_id, deleted=True))


def _school(studio: Studio, level: Level, student: Row, row: Row) -> School:
    choices = db.school_choices(studio.connection, studio.id)
    layers = (
        choices.get("", {}),
        choices.get(level.value, {}),
        _parsed(student["school"], dict),
        _parsed(row["school"], dict),
    )
    return School(*(_readable_answers(level, layer) for layer in layers))


def _halts(studio: Studio, study_id: int) -> tuple[Halt, ...]:
    found = []
    for row in takes_db.list_halts(studio.connection, studio.id, study_id, HALTED_IN):
        try:
            found.append(Halt(Place(str(row["measure"]), parse_quarters(row["quarters"])), int(row["takes"])))
        except OptionError:
            log.warning("a place at which a take halted was damaged")
    return tuple(found)


def goes_back(studio: Studio, level: Level, study_id: int) -> bool:
    """Does this study go back to hands alone where joined hands fray?"""
    row = db.get_study(studio.connection, studio.id, study_id)
    student = students_db.get_student(studio.connection, studio.id, row["student_id"], deleted=True)
    return school_of(level, *_school(studio, level, student, row).layers)["fray"] == "back"


def built(piece: Piece, measures: str, school: School, edits: tuple[Edit, ...], halts: tuple[Halt, ...] = ()) -> Edited:
    """The ladder of a piece or passage; read once, for whoever asks next gets the same."""
    answers = tuple(tuple(sorted(layer.items())) for layer in school.layers)
    phrases = piece.reading.phrase_starts
    key = (*piece.read_as, piece.level, piece.target_bpm, measures, answers, phrases, halts)
    return _edited(_Asked(key, piece.score), edits)


@lru_cache(maxsize=64)
def _edited(asked: _Asked, edits: tuple[Edit, ...]) -> Edited:
    return apply_edits(asked.score, _built(asked), edits)


@lru_cache(maxsize=64)
def _built(asked: _Asked) -> Ladder:
    """As it is without any edit, which every edit is made on."""
    *_, level, target_bpm, measures, answers, phrases, halts = asked.key
    first, last = passage_of_study(asked.score, measures)
    layers = [dict(layer) for layer in answers]
    practised = Practised(target_bpm, first, last, phrase_starts=phrases, halts=halts)
    return build_ladder(asked.score, level, practised, *layers)


def passage_of_study(score: Score, measures: str) -> tuple[int, int]:
    """The first and the last bar of a study, by index; one whose bars are gone is of all of the piece."""
    if measures:
        first, dash, last = measures.partition("-")
        try:
            bars = named_bars(score, first, last if dash else first)
        except OptionError:
            log.warning("a study is of bars that are no longer there: %s", measures)
        else:
            return bars[0], bars[-1]
    return 0, len(score.measures) - 1


def _parsed(text: str, kind: type) -> Any:
    try:
        found = json.loads(text)
    except ValueError:
        found = None
    if not isinstance(found, kind):
        log.warning("what is stored of a study was damaged")
        return kind()
    return found


def _readable_answers(level: Level, answers: Any) -> Answers:
    """Those of the answers that there are."""
    found = {}
    for key, value in answers.items() if isinstance(answers, dict) else ():
        try:
            school_of(level, {key: value})
        except LapTickError:
            log.warning("a stored answer of school is none: %s", key)
        else:
            found[key] = value
    return found


def _readable_edits(documents: list[Document]) -> tuple[Edit, ...]:
    try:
        return edits_of(documents)
    except (OptionError, AttributeError):
        log.warning("the edits stored of a ladder were damaged")
        return ()


def _standing(studio: Studio, study_id: int, target_bpm: Bpm, row: Row, gate: GateKind | None) -> Standing:
    """What is stored of a rung; folded anew where it is damaged, or where the rung has another gate now."""
    if gate is None or gate.value == row["gate"]:
        try:
            return standing_of_document(json.loads(row["state"]))
        except (ValueError, TypeError, KeyError):
            log.warning("what is stored of rung %s was damaged", row["rung"])
    events = rungs_db.list_events(studio.connection, studio.id, study_id, [row["rung"]]).get(row["rung"], [])
    return standing_of(gate or gate_of_key(row["rung"]), target_bpm, events_of(events))


def gate_of_key(key: str) -> GateKind:
    """The gate of a rung that is not on the ladder."""
    return GateKind.WORD if stage_of_key(key) in BY_WORD else GateKind.ONE_CLEAN


def events_of(rows: Iterable[Row]) -> list[Event]:
    """Stored events; one that cannot be read is passed over."""
    found = []
    for row in rows:
        try:
            event = Event(
                EventKind(row["kind"]),
                int(row["day"]),
                row["said_by"],
                row["take_id"],
                None if row["outcome"] is None else Outcome(row["outcome"]),
                row["bpm"],
                bool(row["at_target"]),
                None if row["feel"] is None else Feel(row["feel"]),
                row["why"],
            )
        except ValueError:
            log.warning("an event of rung %s was damaged", row["rung"])
        else:
            found.append(event)
    return found


def refold(studio: Studio, study_id: int, edited: Edited, target_bpm: Bpm, rungs: Iterable[str] | None = None) -> None:
    """Writes what rungs come to, out of their events; ``None``: all of the study's. The study is held."""
    gates = {rung.key: rung.gate for rung in edited.ladder.rungs}
    wanted = None if rungs is None else list(dict.fromkeys(rungs))
    stored = rungs_db.list_events(studio.connection, studio.id, study_id, wanted)
    new = []
    for key, rows in stored.items():
        gate = gates.get(key, gate_of_key(key))
        standing = standing_of(gate, target_bpm, events_of(rows))
        state = standing.state
        new.append(rungs_db.NewState(key, gate.value, state.passed_day, state.passed_by, standing_document(standing)))
    rungs_db.put_states(studio.connection, studio.id, study_id, new)
