"""From what was asked for and what was played to a stored judgement; judged anew; the teacher's own word."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import lru_cache
from typing import Any

from laptick.core.base.errors import LapTickError, OptionError, TakeError
from laptick.core.base.levels import Level
from laptick.core.counting.choices import CountChoice, CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import CHECKER_VERSION, check_take
from laptick.core.measuring.limits import limits_of, softened
from laptick.core.measuring.measured import CheckedTake
from laptick.core.practice.ladder.events import EventKind
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.takes.performance import Knows, Performance, Source
from laptick.core.takes.task import Task, count_task, lap_task
from laptick.db import choices as choices_db
from laptick.db import jobs as jobs_db
from laptick.db import judgements as judgements_db
from laptick.db import recordings as recordings_db
from laptick.db import takes as db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.formats.documents.check import check_document
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.documents.take import performance_of_stored
from laptick.studio.pieces.open_piece import open_piece
from laptick.studio.studies.open_study import goes_back
from laptick.studio.studies.telling import is_tempo_free, tell_as_new, tell_change
from laptick.studio.takes.kept import whole_take
from laptick.studio.takes.passage import cut_of, passage_of
from laptick.studio.takes.settings import KeptSettings, kept_settings
from laptick.studio.takes.shown import ShownTake, shown_take
from laptick.studio.use_case import Studio, use_case

Document = dict[str, Any]


# -- the strikes that are asked for, and those that were played -----------------------------------------


def take_choices(settings: KeptSettings, level: Level) -> CountChoices:
    """How a take's count was said: the choices kept with it, the card's own on top."""
    kept = settings.choices or {}
    layers = choices_of(kept.get("studio"), kept.get("piece"), level.value)
    return replace(layers, piece=CountChoice(density=settings.density, compound=settings.compound).over(layers.piece))


def task_of(score: Score, settings: KeptSettings, level: Level, knows: Knows = Source.TAPS.knows) -> Task:
    """The strikes that are asked for, in played order: the written rhythm or notes, or one strike a said count.
    ``knows``: what the take can tell of its strikes."""
    cut = cut_of(score, settings.measures, settings.within)
    if cut is not None and settings.activity == "count":
        raise OptionError(
            "a count is said of whole bars.", where="within", kept="Nothing was changed.", todo="Leave the spot out."
        )
    score, measures = passage_of(score, settings)
    hand = HAND_KEYS[settings.hands]
    if settings.activity != "count":
        task = lap_task(
            score,
            assigned_bpm=settings.bpm,
            measures=measures,
            hands=(hand,) if hand else HANDS,
            with_pitches=knows.pitch and settings.activity == "play",
            with_claps=knows.claps,
            cut=cut,
        )
        return replace(task, slower_passes=is_tempo_free(settings))
    counts = count_line(score, hand, take_choices(settings, level), measures=measures, bpm=settings.bpm)
    return count_task(score, counts, measures, settings.bpm)


#: Taps earlier than this many beats before the first beat were tapped along with the count-in.
COUNT_IN_BEATS = 0.6


def performance_of(strikes: Document) -> Performance:
    """A stored take's strikes as a performance; those along with the count-in stay stored and are left out here.

    Raises:
        TakeError: the times cannot be used, nothing but the count-in was played, or what is stored is damaged.
    """
    with _readable():
        first_beat_s, click_bpm = strikes.get("first_beat_s"), strikes.get("click_bpm")
        begin_s = 0.0 if first_beat_s is None or click_bpm is None else first_beat_s - COUNT_IN_BEATS * 60 / click_bpm
        times = [float(one["t"]) for one in strikes["notes" if "notes" in strikes else "taps"]]
        if times and max(times) < begin_s:
            raise TakeError(
                "only the count-in was tapped.",
                where="taps",
                kept="Nothing was stored.",
                todo="Begin after the count-in.",
            )
        return performance_of_stored(strikes, begin_s)


def strikes_shown(strikes: Document) -> list[Document]:
    """All strikes of a stored take, those along with the count-in too; none when what is stored is damaged."""
    try:
        with _readable():
            return [{"t": s.played_s, "hand": s.hand and s.hand.value} for s in performance_of_stored(strikes).strikes]
    except TakeError:
        return []


@contextmanager
def _readable() -> Iterator[None]:
    """What is stored is as this program wrote it; where a disk or a hand has damaged it, one clear error."""
    try:
        yield
    except (AttributeError, KeyError, TypeError, ValueError) as error:
        raise TakeError(
            "what is stored of this take cannot be read.",
            where="strikes",
            kept="It is kept as it is, with what was said of it.",
            todo="Remove it in the list of takes if it is of no use; the others are not touched by it.",
        ) from error


# -- judging ---------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class ToJudge:
    """What was played, as what, by whom. ``take_id``: of a stored take, to be compared with those before it only."""

    piece_id: int
    score: Score
    settings: KeptSettings
    level: Level
    strikes: Document
    study_id: int
    take_id: int | None = None


def judged(studio: Studio, take: ToJudge) -> judgements_db.NewJudgement:
    """Judges strikes with what is known now: the studio's limits, the take before, each hand's take alone.

    Raises:
        TakeError: what is stored of the take cannot be read, or nothing was played.
    """
    known = choices_db.get_choices(studio.connection, studio.id, None)
    performance = performance_of(take.strikes)
    score, settings, level = take.score, take.settings, take.level
    task = replace(task_of(score, settings, level, performance.knows), naming=naming_of(known))
    before = db.Before(
        take.study_id, settings.activity, settings.measures, settings.within, settings.hands, take.take_id
    )
    everything = settings.model_copy(update={"measures": None, "times_round": 1, "within": None})
    judgement = judge_take(
        task,
        performance,
        softened(
            limits_of(level, known.get("limits")),
            students_db.softer_of_study(studio.connection, studio.id, take.study_id),
        ),
        whole=lambda: task_of(score, everything, level, performance.knows),
        previous_codes=db.previous_codes(studio.connection, studio.id, before),
        back_to_one_hand=goes_back(studio, level, take.study_id),
        alone=tuple(_alone(studio, before, score, level)),
    )
    document = check_document(judgement)
    return judgements_db.NewJudgement(
        CHECKER_VERSION,
        judgement.verdict.status.value,
        document,
        document["verdict"],
        [finding.code for finding in judgement.findings],
        document["tempo"]["median_bpm"],
    )


def _alone(studio: Studio, before: db.Before, score: Score, level: Level) -> Iterator[tuple[Hand, CheckedTake]]:
    """The newest take of each hand alone before this one, as it was measured, for what joining cost both hands."""
    if before.activity == "count" or before.hands != "both":
        return
    for row in db.takes_alone(studio.connection, studio.id, before).values():
        # A damaged take of one hand must not keep a new one of both from being judged.
        with suppress(LapTickError):
            key = (json.dumps(row["strikes"]), json.dumps(row["settings"]), level)
            yield _measured_alone(_Alone(key, id(score), score, row))


@dataclass(frozen=True)
class _Alone:
    """A take of one hand, by what its measures hang on: what was struck, what was asked, the level, and the score."""

    key: tuple[str, str, Level]
    score_id: int
    score: Score = field(compare=False)
    row: Row = field(compare=False)


@lru_cache(maxsize=32)
def _measured_alone(alone: _Alone) -> tuple[Hand, CheckedTake]:
    """Measured once: every take of both hands is compared with it. The score is held here, so its ``id`` is its own."""
    settings, performance = kept_settings(alone.row["settings"]), performance_of(alone.row["strikes"])
    hand = HAND_KEYS[settings.hands]
    assert hand is not None
    task = task_of(alone.score, settings, alone.key[2], performance.knows)
    return hand, check_take(task, performance)


#: The kind of job that makes the copy of a kept recording anew, whose click is the beat that was found.
COPY_KIND = "copy"


def _judge_stored(studio: Studio, take_id: int, *, tell: bool = True) -> Status:
    take = whole_take(db.get_take(studio.connection, studio.id, take_id))
    if take["strikes"] is None:
        raise TakeError(
            "nothing of this recording was heard yet, so there is nothing to judge.",
            kept="Nothing was changed.",
            todo="Wait until it was heard, or send it again.",
        )
    piece, settings = open_piece(studio, take["piece_id"]), kept_settings(take["settings"])
    level, score = Level(take["level"]), piece.played_then(settings)
    new = judged(studio, ToJudge(piece.id, score, settings, level, take["strikes"], take["study_id"], take_id))
    judgements_db.add_judgement(studio.connection, studio.id, take_id, new)
    if tell:
        tell_change(studio, take, EventKind.JUDGED, Outcome(new.status))
    recording = recordings_db.recording_of_take(studio.connection, studio.id, take_id)
    if recording is not None and recording["is_kept"]:
        asked = {"take_id": take_id}
        jobs_db.add_job(studio.connection, studio.id, jobs_db.NewJob(COPY_KIND, f"{COPY_KIND}:{take_id}", asked))
    return Status(new.status)


@use_case
def judge_again(studio: Studio, take_id: int) -> ShownTake:
    """Judges a stored take with the present checker; the earlier judgement is kept.

    Raises:
        NotFoundError: there is no such take.
        TakeError, StorageError: what is stored of it cannot be read.
    """
    _judge_stored(studio, take_id)
    return shown_take(studio, take_id)


@use_case
def judge_as_passage(studio: Studio, take_id: int, measures: str | None) -> ShownTake:
    """Takes it for other bars than were asked for, and judges it as those: both, or neither.

    Raises:
        OptionError: the piece has no such bars.
        TakeError, StorageError: what is stored of the take cannot be read.
    """
    take = db.get_take(studio.connection, studio.id, take_id)
    piece = open_piece(studio, take["piece_id"])
    changed = {"measures": measures, "times_round": 1, "within": None}
    settings = kept_settings(take["settings"]).model_copy(update=changed)
    piece.played_then(settings).select_measures(measures)
    tell_change(studio, take, EventKind.DELETED, None)  # what it said of other bars counts no more
    db.set_settings(studio.connection, studio.id, take_id, settings.document())
    _judge_stored(studio, take_id, tell=False)
    tell_as_new(studio, db.get_take(studio.connection, studio.id, take_id))
    return shown_take(studio, take_id)


# -- everything judged anew -------------------------------------------------------------------------------


@dataclass(frozen=True)
class OutdatedTake:
    """A take that another version of the checker judged."""

    id: int
    piece_id: int
    title: str
    created_at: datetime
    status: Status


@use_case
def outdated_takes(studio: Studio) -> list[OutdatedTake]:
    """The takes that wait to be judged anew, oldest first."""
    rows = judgements_db.outdated_takes(studio.connection, studio.id, CHECKER_VERSION)
    return [OutdatedTake(r["id"], r["piece_id"], r["title"], r["created_at"], Status(r["status"])) for r in rows]


@use_case
def judge_one_of_all(studio: Studio, take_id: int) -> Status:
    """Judges one of them."""
    return _judge_stored(studio, take_id)


# -- the teacher's word -----------------------------------------------------------------------------------


@use_case
def overrule(studio: Studio, take_id: int, status: Status, reason: str) -> ShownTake:
    """The teacher's word with its reason, kept beside the figures."""
    shown = shown_take(studio, take_id)
    judgements_db.set_overrule(studio.connection, studio.id, shown.id, status=status.value, reason=reason)
    tell_change(studio, shown.row, EventKind.OVERRULED, Outcome(status.value), reason)
    return shown_take(studio, take_id)


@use_case
def withdraw(studio: Studio, take_id: int) -> ShownTake:
    """The teacher takes her word back: the checker's holds again."""
    shown = shown_take(studio, take_id)
    judgements_db.withdraw_overrule(studio.connection, studio.id, shown.id)
    tell_change(studio, shown.row, EventKind.OVERRULE_BACK, None)
    return shown_take(studio, take_id)
