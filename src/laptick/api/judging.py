"""From what was asked for and what was played to a stored judgement."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

from laptick.api.schemas.takes import KeptSettings
from laptick.core.checking import CHECKER_VERSION, check_take
from laptick.core.choices import CountChoice, CountChoices
from laptick.core.counting import count_line
from laptick.core.errors import TakeError
from laptick.core.findings import find_findings
from laptick.core.limits import Level, limits_of
from laptick.core.performance import Performance, Source, Strike, Task, count_task, lap_task
from laptick.core.score import HANDS, Hand, Score
from laptick.core.verdict import give_verdict
from laptick.formats.check_documents import check_document
from laptick.formats.choice_documents import choices_of, naming_of
from laptick.formats.count_documents import HAND_KEYS


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


def task_of(score: Score, settings: KeptSettings, level: str = Level.ELEMENTARY.value) -> Task:
    """The strikes a rung asks for, in played order: the written rhythm, or one strike a said count."""
    measures = score.select_measures(settings.measures)
    hand = HAND_KEYS[settings.hands]
    if settings.rung == "lap":
        hands = (hand,) if hand else HANDS
        return lap_task(score, assigned_bpm=settings.bpm, measures=measures, hands=hands)
    counts = count_line(score, hand, take_choices(settings, level), measures=measures, bpm=settings.bpm)
    return count_task(score, counts, measures, settings.bpm)


#: Taps earlier than this many beats before the first beat were tapped along with the count-in.
COUNT_IN_BEATS = 0.6


def performance_of(strikes: dict[str, Any]) -> Performance:
    """A stored take's strikes: ``{"taps": [{"t", "hand"}], "first_beat_s", "click_bpm"}``; taps along with
    the count-in stay stored and are left out here.

    Raises:
        TakeError: the times cannot be used, or nothing but the count-in was tapped.
    """
    first_beat_s, click_bpm = strikes.get("first_beat_s"), strikes.get("click_bpm")
    every = [Strike(float(t["t"]), Hand(t["hand"]) if t.get("hand") else None) for t in strikes["taps"]]
    begin_s = 0.0 if first_beat_s is None or click_bpm is None else first_beat_s - COUNT_IN_BEATS * 60 / click_bpm
    kept = tuple(strike for strike in every if not strike.played_s < begin_s)
    if every and not kept:
        raise TakeError(
            "only the count-in was tapped.", where="taps", kept="Nothing was stored.", todo="Begin after the count-in."
        )
    return Performance(Source.TAPS, kept, first_beat_s, click_bpm)


def judge(
    score: Score,
    settings: KeptSettings,
    level: Level,
    performance: Performance,
    previous_codes: frozenset[str] | None,
    studio: dict[str, Any],
) -> Judgement:
    """``studio``: its choices as they are now; its limits and its names of lengths hold."""
    limits = limits_of(level, studio.get("limits"))
    task = replace(task_of(score, settings, level.value), naming=naming_of(studio))
    checked = check_take(task, performance)
    findings = find_findings(checked, limits)
    verdict = give_verdict(checked, findings, previous_codes)
    document = check_document(checked, findings, verdict, limits)
    return Judgement(CHECKER_VERSION, verdict.status.value, document)
