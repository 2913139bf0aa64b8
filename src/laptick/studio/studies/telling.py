"""What a take tells its study: a try at a rung, and the rungs below that a clean one shows to be known.

Every function here is part of a use case of takes; the piece's row is locked before the study's, always.
"""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.activity import Activity
from laptick.core.base.errors import LapTickError
from laptick.core.base.units import nearest_mark
from laptick.core.practice.ladder.events import EventKind
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.practice.ladder.rungs import named_bars
from laptick.core.practice.ladder.stages import AT_TEMPO, Rung, stage_of_key
from laptick.core.practice.ladder.standing import Played, rung_of, ticked_by
from laptick.core.score.within import parse_within
from laptick.db import judgements as judgements_db
from laptick.db import rungs as rungs_db
from laptick.db import studies as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.db.rungs import NewEvent
from laptick.studio.days import day_of, today
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.open_study import Study, opened, refold
from laptick.studio.takes.settings import TakeSettings, kept_settings
from laptick.studio.use_case import Studio

CHECKER, TEACHER = "the checker", "the teacher"

#: A take slower than that share of what was asked was played at a tempo of its own.
AS_ASKED = 0.95


def is_tempo_free(settings: TakeSettings) -> bool:
    """Below the tempo stage even but slower passes, at the tempo played."""
    stage = stage_of_key(settings.rung or "")
    return stage is not None and stage not in AT_TEMPO


@dataclass(frozen=True)
class TakeTold:
    """A take as its study hears of it. ``median_bpm``: as it was played, where that is known."""

    take_id: int
    settings: TakeSettings
    outcome: Outcome
    median_bpm: float | None
    day: int

    @property
    def bpm(self) -> float:
        """The tempo it counts for: as it was asked, or, where it was clean and slower, as it was played."""
        asked, median = self.settings.bpm, self.median_bpm
        if self.outcome is not Outcome.STEADY or median is None or not is_tempo_free(self.settings):
            return asked
        return median if median < AS_ASKED * asked else asked


def played_of(piece: Piece, settings: TakeSettings) -> Played | None:
    """The bars of a take by index, and the spot of them; ``None`` where the piece no longer has them."""
    score = piece.score
    activity = Activity(settings.activity)
    try:
        within = None if settings.within is None else parse_within(settings.within)
        if settings.measures is None:
            return Played(0, len(score.measures) - 1, activity, settings.hands, within)
        first, dash, last = settings.measures.partition("-")
        bars = named_bars(score, first, last if dash else first)
    except LapTickError:
        return None
    return Played(bars[0], bars[-1], activity, settings.hands, within)


def rung_tried(study: Study, played: Played, settings: TakeSettings) -> Rung | None:
    """The rung a take is a try of: the one asked for, where it was just that; else the one that asks for it."""
    asked = study.ladder.rung(settings.rung or "")
    if asked is not None and (asked.first, asked.last, asked.hands, asked.activity, asked.within) == (
        played.first,
        played.last,
        played.hands,
        played.activity,
        played.within,
    ):
        return asked
    return rung_of(study.ladder, played)


def tell_take(studio: Studio, piece: Piece, row: Row, told: TakeTold) -> Rung | None:
    """Adds what a take says to its study and folds it; gives the rung it was a try of."""
    study = opened(studio, piece, row)
    played = played_of(piece, told.settings)
    if played is None:
        return None
    rung = rung_tried(study, played, told.settings)
    events = [] if rung is None else [_try(rung, told, piece)]
    events += _ticks(study, played, rung, told)
    _keep(studio, study, events, piece)
    return rung


def _keep(studio: Studio, study: Study, events: list[NewEvent], piece: Piece) -> None:
    if not events:
        return
    rungs_db.add_events(studio.connection, studio.id, study.id, events)
    refold(studio, study.id, study.edited, piece.target_bpm, [event.rung for event in events])


def _try(rung: Rung, told: TakeTold, piece: Piece) -> NewEvent:
    at_target = nearest_mark(told.bpm) >= nearest_mark(piece.target_bpm)
    return NewEvent(
        rung.key, EventKind.TRY.value, told.day, CHECKER, told.take_id, told.outcome.value, told.bpm, at_target
    )


def _ticks(study: Study, played: Played, rung: Rung | None, told: TakeTold) -> list[NewEvent]:
    if told.outcome is not Outcome.STEADY:
        return []
    return [
        NewEvent(below.key, EventKind.TICK.value, told.day, CHECKER, told.take_id, told.outcome.value)
        for below in ticked_by(study.ladder, played, rung, study.states)
    ]


def tell_change(studio: Studio, take: Row, kind: EventKind, outcome: Outcome | None, why: str = "") -> None:
    """Something became of a take that its study knows: judged anew, overruled, deleted and the like. A rung that was
    only ticked by it is looked for in the other clean takes."""
    piece = open_piece(studio, take["piece_id"])
    row = tell_of_old_takes(studio, piece, db.lock_study(studio.connection, studio.id, take["study_id"]))
    study = opened(studio, piece, row)
    known = rungs_db.rungs_of_take(studio.connection, studio.id, take["id"])
    by = CHECKER if kind is EventKind.JUDGED else TEACHER
    told = outcome and outcome.value
    _keep(
        studio, study, [NewEvent(key, kind.value, today(studio), by, take["id"], told, why=why) for key in known], piece
    )
    _tick_again(studio, piece, row)


def _tick_again(studio: Studio, piece: Piece, row: Row) -> None:
    """Every rung that is not passed and that some clean take of the study shows to be known."""
    study = opened(studio, piece, row)
    for take in takes_db.clean_takes(studio.connection, studio.id, row["id"]):
        try:
            settings = kept_settings(take["settings"])
        except LapTickError:
            continue
        played = played_of(piece, settings)
        if played is None:
            continue
        told = TakeTold(take["id"], settings, Outcome.STEADY, None, day_of(studio, take["created_at"]))
        ticks = _ticks(study, played, rung_tried(study, played, settings), told)
        known = rungs_db.rungs_of_take(studio.connection, studio.id, take["id"]) if ticks else []
        new = [one for one in ticks if one.rung not in known]
        if new:
            _keep(studio, study, new, piece)
            study = opened(studio, piece, row)


def tell_as_new(studio: Studio, take: Row) -> None:
    """A stored take is held to be of other bars: there it is a try like any other."""
    piece = open_piece(studio, take["piece_id"])
    row = db.lock_study(studio.connection, studio.id, take["study_id"])
    day = day_of(studio, take["created_at"])
    settings = kept_settings(take["settings"])
    told = TakeTold(take["id"], settings, Outcome(take["status"]), take["median_bpm"], day)
    tell_take(studio, piece, row, told)


def tell_of_old_takes(studio: Studio, piece: Piece, row: Row) -> Row:
    """Takes that were made before there were studies are told once, in the order in which they were played."""
    if row["takes_told"]:
        return row
    row = db.lock_study(studio.connection, studio.id, row["id"])
    if not row["takes_told"]:
        for take in reversed(takes_db.list_takes(studio.connection, studio.id, piece.id)):
            if take["study_id"] == row["id"] and take["status"] is not None:
                _tell_old(studio, piece, row, take)
        _tick_again(studio, piece, row)
        db.set_takes_told(studio.connection, studio.id, row["id"])
    return db.get_study(studio.connection, studio.id, row["id"])


def _tell_old(studio: Studio, piece: Piece, row: Row, take: Row) -> None:
    try:
        settings = kept_settings(take["settings"])
    except LapTickError:
        return  # it is listed as damaged, and counts for nothing
    day = day_of(studio, take["created_at"])
    tell_take(studio, piece, row, TakeTold(take["id"], settings, Outcome(take["status"]), take["median_bpm"], day))
    word = judgements_db.get_overrule(studio.connection, studio.id, take["id"])
    if word is not None:
        known = rungs_db.rungs_of_take(studio.connection, studio.id, take["id"])
        kind, said = EventKind.OVERRULED.value, word["status"]
        events = [NewEvent(key, kind, day, TEACHER, take["id"], said, why=word["reason"]) for key in known]
        _keep(studio, opened(studio, piece, row), events, piece)
