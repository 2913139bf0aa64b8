"""From what was asked for and what was played to a stored judgement."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any

from laptick.api.schemas.takes import KeptSettings
from laptick.core.base.errors import TakeError
from laptick.core.base.levels import Level
from laptick.core.counting.choices import CountChoice, CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.judging.cures import goes_back_to_one_hand
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.checking import CHECKER_VERSION, check_take
from laptick.core.measuring.limits import limits_of
from laptick.core.measuring.measured import CheckedTake
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.takes.performance import Performance, Source
from laptick.core.takes.task import Task, count_task, lap_task
from laptick.formats.documents.check import check_document
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.documents.take import performance_of_stored


@dataclass(frozen=True)
class Judgement:
    checker_version: str
    status: str
    document: dict[str, Any]


def take_choices(settings: KeptSettings, level: str) -> CountChoices:
    """How a take's count was said: the choices kept with it, the rung card's own on top."""
    kept = settings.choices or {}
    layers = choices_of(kept.get("studio"), kept.get("piece"), level)
    return replace(layers, piece=CountChoice(density=settings.density, compound=settings.compound).over(layers.piece))


def task_of(score: Score, settings: KeptSettings, level: str = Level.ELEMENTARY.value, *, keys: bool = False) -> Task:
    """The strikes a rung asks for, in played order: the written rhythm or notes, or one strike a said count. ``keys``:
    the take knows which keys were struck."""
    measures = score.select_measures(settings.measures)
    hand = HAND_KEYS[settings.hands]
    if settings.rung != "count":
        hands = (hand,) if hand else HANDS
        return lap_task(
            score,
            assigned_bpm=settings.bpm,
            measures=measures,
            hands=hands,
            with_pitches=keys and settings.rung == "play",
        )
    counts = count_line(score, hand, take_choices(settings, level), measures=measures, bpm=settings.bpm)
    return count_task(score, counts, measures, settings.bpm)


#: Taps earlier than this many beats before the first beat were tapped along with the count-in.
COUNT_IN_BEATS = 0.6


def performance_of(strikes: dict[str, Any]) -> Performance:
    """A stored take's strikes as a performance; those along with the count-in stay stored and are left out here.

    Raises:
        TakeError: the times cannot be used, nothing but the count-in was played, or what is stored is damaged.
    """
    with _readable():
        first_beat_s, click_bpm = strikes.get("first_beat_s"), strikes.get("click_bpm")
        begin_s = 0.0 if first_beat_s is None or click_bpm is None else first_beat_s - COUNT_IN_BEATS * 60 / click_bpm
        times = [float(one["t"]) for one in strikes.get("notes", strikes.get("taps", ()))]
        if times and max(times) < begin_s:
            raise TakeError(
                "only the count-in was tapped.",
                where="taps",
                kept="Nothing was stored.",
                todo="Begin after the count-in.",
            )
        return performance_of_stored(strikes, begin_s)


def strikes_shown(strikes: dict[str, Any]) -> list[dict[str, Any]]:
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
            todo="Delete it if it is of no use; other takes are not touched by it.",
        ) from error


def judge(
    score: Score,
    settings: KeptSettings,
    level: Level,
    performance: Performance,
    previous_codes: frozenset[str] | None,
    studio: dict[str, Any],
    alone: Sequence[tuple[KeptSettings, Performance]] = (),
) -> Judgement:
    """``studio``: its choices as they are now; its limits and its names of lengths hold. ``alone``: earlier takes of
    one hand at the same rung, for what joining cost."""
    keys = performance.source is Source.MIDI
    task = replace(task_of(score, settings, level.value, keys=keys), naming=naming_of(studio))
    judged = judge_take(
        task,
        performance,
        limits_of(level, studio.get("limits")),
        whole=lambda: task_of(score, settings.model_copy(update={"measures": None}), level.value, keys=keys),
        previous_codes=previous_codes,
        back_to_one_hand=goes_back_to_one_hand(level),
        alone=tuple(_checked_alone(score, one, played, level) for one, played in alone),
    )
    return Judgement(CHECKER_VERSION, judged.verdict.status.value, check_document(judged))


def _checked_alone(
    score: Score, settings: KeptSettings, performance: Performance, level: Level
) -> tuple[Hand, CheckedTake]:
    hand = HAND_KEYS[settings.hands]
    assert hand is not None
    task = task_of(score, settings, level.value, keys=performance.source is Source.MIDI)
    return hand, check_take(task, performance)
