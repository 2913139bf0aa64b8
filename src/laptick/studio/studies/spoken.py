"""What is said after a take, and between the steps of a session: phrases of the vocabulary with their sounds."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import StorageError
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.practice.ladder.spoken import (
    ALL_DONE,
    BAR,
    BARS,
    ENOUGH,
    MOVE_PHRASES,
    PASSED,
    SMALLER,
    STAGE_PHRASES,
    TO,
    Told,
    said_of,
    sentence,
)
from laptick.core.practice.ladder.stages import Rung
from laptick.core.practice.ladder.tempo_steps import Move
from laptick.core.score.score import Score
from laptick.db import studies as db
from laptick.db import takes as takes_db
from laptick.formats.documents.check import VerdictTold, read_verdict
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.studies.open_study import Clip, Study, opened
from laptick.studio.studies.studies import NextStep, next_step
from laptick.studio.studies.telling import played_of, rung_tried
from laptick.studio.takes.settings import kept_settings
from laptick.studio.use_case import Studio, use_case

KEPT_THE_BEAT = "You kept the beat going"


@dataclass(frozen=True)
class NextSaid:
    """What a take leads to, and how that is said; ``onward``: only what comes now, with its tempo."""

    step: NextStep
    text: str
    onward: str
    clips: tuple[Clip, ...]


def introduced(score: Score, rung: Rung) -> list[str]:
    """What a step of a session begins with: what to do, and where."""
    first, last = score.measures[rung.first].number, score.measures[rung.last].number
    said = [STAGE_PHRASES[rung.stage]]
    if not (first.isdigit() and last.isdigit()):
        return said
    return [*said, BAR, first] if first == last else [*said, BARS, first, TO, last]


@use_case
def said_after(studio: Studio, take_id: int) -> NextSaid | None:
    """What a take leads to at its rung, in words and in sound; ``None`` where it is a try of none.

    Raises:
        NotFoundError: there is no such take.
    """
    take = takes_db.get_take(studio.connection, studio.id, take_id)
    piece = open_piece(studio, take["piece_id"])
    study = opened(studio, piece, db.get_study(studio.connection, studio.id, take["study_id"]))
    settings = kept_settings(take["settings"])
    played = played_of(piece, settings)
    rung = None if played is None else rung_tried(study, played, settings)
    status = take["overruled"] or take["status"]
    if rung is None or status is None:
        return None
    step = next_step(study, rung, study.day)
    onward = _onward(study, step)
    phrases = [*said_of(_told(piece.score, Outcome(status), take)), *onward]
    return NextSaid(step, sentence(phrases), _with_tempo(sentence(onward), step), study.clips(phrases))


def _with_tempo(text: str, step: NextStep) -> str:
    """``Again, a little faster: 72.``"""
    is_here = step.to is None and not step.is_enough and step.move in (Move.FASTER, Move.SLOWER)
    return f"{text.removesuffix('.')}: {step.bpm}." if is_here else text


def _told(score: Score, outcome: Outcome, take: dict[str, object]) -> Told:
    try:
        verdict = read_verdict(take["verdict"])
    except StorageError:
        return Told(outcome)
    kept = any(good.startswith(KEPT_THE_BEAT) for good in verdict.good)
    if verdict.finding is None:
        return Told(outcome, kept)
    place = verdict.place
    bar = None if place is None else place.measure
    return Told(outcome, kept, verdict.finding.code, bar, _beat_before(score, verdict))


def _beat_before(score: Score, verdict: VerdictTold) -> int | None:
    """The beat to begin again from, for what waits: the one before the place."""
    place = verdict.place
    bar = None if place is None else next((m for m in score.measures if m.number == place.measure), None)
    if bar is None or place is None:
        return None
    at = float(bar.lead_quarters) + _quarters(place.offset)
    before = [beat for beat in bar.meter.beats if float(beat.start_quarters) < at - 1e-9]
    if len(before) > (1 if bar.lead_quarters else 0):
        return len(before)
    if bar.index == 0:
        return None
    return len(score.measures[bar.index - 1].meter.beats)


def _quarters(text: str) -> float:
    top, _, bottom = text.partition("/")
    return float(top) / float(bottom or 1)


def _onward(study: Study, step: NextStep) -> list[str]:
    """What comes now."""
    if step.move in (Move.END, Move.END_AND_TELL):
        return [MOVE_PHRASES[step.move]]
    if step.is_enough:
        done = all(study.standing(rung).state.is_passed for rung in study.ladder.rungs)
        return [ALL_DONE] if done else [PASSED, ENOUGH] if step.newly else [ENOUGH]
    if step.to is not None:
        first = PASSED if step.is_passed else SMALLER
        return [first, *introduced(study.piece.score, step.to)]
    return [] if step.move is None else [MOVE_PHRASES[step.move]]
