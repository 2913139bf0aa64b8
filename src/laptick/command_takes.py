"""The commands that deal with takes: ``check``, ``simulate``."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import Any

from laptick.command_files import FALLBACK_BPM, load_score, print_json, read_bytes, write_bytes
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import MAX_BPM, MIN_BPM, TEMPO_UNITS, check_bpm, convert_bpm
from laptick.core.counting.counting import default_bpm
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import STATUS_WORDS
from laptick.core.measuring.limits import LIMITS
from laptick.core.practice.ladder.school import school_of
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.roadmap import in_played_order, laid_round
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import KNOWS_OF_KNOCKS, MAX_TAKE_S, Knows, Performance, Source
from laptick.core.takes.task import Task, lap_task
from laptick.formats.documents.check import check_document
from laptick.formats.documents.take import write_taps
from laptick.formats.midi.take import write_midi_take
from laptick.formats.take_files import MAX_TAKE_BYTES, is_sound, read_take


def _assigned_bpm(score: Score, task_beat_first: Any, tempo: float | None, unit: str | None) -> float:
    """The assigned tempo in the beat of the passage's first bar."""
    beat = task_beat_first
    if tempo is None:
        if unit is not None:
            raise OptionError("--tempo-unit needs --tempo.")
        return default_bpm(score) or FALLBACK_BPM
    return check_bpm(convert_bpm(tempo, TEMPO_UNITS[unit], beat) if unit else tempo)


def _task(options: argparse.Namespace, score: Score, hands: tuple[Hand, ...], knows: Knows) -> Task:
    played = in_played_order(score)
    measures = played.select_measures(getattr(options, "measures", None))
    times_round = getattr(options, "times_round", 1)
    beat = measures[0].meter.beat_quarters
    bpm = _assigned_bpm(score, beat, options.tempo, getattr(options, "tempo_unit", None))
    if times_round != 1:
        played = laid_round(played, measures, times_round)
        measures = played.measures
    return lap_task(
        played,
        assigned_bpm=bpm,
        measures=measures,
        hands=hands,
        with_pitches=knows.pitch,
        with_claps=knows.claps,
    )


def run_check(options: argparse.Namespace) -> int:
    score = load_score(options.score)
    hand = HAND_KEYS[options.hands]
    hands = (hand,) if hand else HANDS
    path = Path(options.take)
    as_heard = _first_bytes(path)
    if is_sound(as_heard):
        knows = KNOWS_OF_KNOCKS if options.as_ == "taps" else Source.AUDIO.knows
        task = _task(options, score, hands, knows)
        performance = _heard(path, task, options.click, lambda: _whole(score, task, hand, knows))
    else:
        performance = read_take(read_bytes(options.take, MAX_TAKE_BYTES), filename=path.name)
        knows = performance.knows
        task = _task(options, score, hands, knows)
    limits = LIMITS[Level(options.level)]
    judged = judge_take(
        task,
        performance,
        limits,
        whole=lambda: _whole(score, task, hand, knows),
        back_to_one_hand=school_of(Level(options.level))["fray"] == "back",
    )
    verdict = judged.verdict
    if options.json:
        print_json(check_document(judged))
        return 0
    print(STATUS_WORDS[verdict.status])
    for sentence in verdict.good:
        print(f"  good: {sentence}")
    if verdict.main:
        print(f"  {verdict.main.text}" + (f" ({verdict.place_text})" if verdict.place_text else ""))
    if verdict.cure:
        print(f"  next: {verdict.cure.text}")
    return 0


def _first_bytes(path: Path) -> bytes:
    """How a file begins; what cannot be read is left to whoever reads it whole."""
    try:
        with path.open("rb") as file:
            return file.read(16)
    except OSError:
        return b""


def _heard(path: Path, task: Task, click: str | None, whole: Callable[[], Task]) -> Performance:
    """A take that was recorded. ``click``: ``72`` or ``72@2.1``, as it is given."""
    from laptick.core.following.by_ear.take import hear_take  # slow to import, and only sound needs it
    from laptick.core.takes.heard import KnownClick
    from laptick.formats.audio.decoding import decode_file

    bpm, first_beat_s = _click(click)
    decoded = decode_file(path, filename=path.name)
    click_known = None if first_beat_s is None else KnownClick(first_beat_s)
    return hear_take(decoded.sound, task, rate=decoded.rate, click_bpm=bpm, click=click_known, whole=whole)


def _click(text: str | None) -> tuple[float | None, float | None]:
    """(tempo, when its first beat fell) of ``72`` or ``72@2.1``."""
    if text is None:
        return None, None
    bpm, at, first = text.partition("@")
    try:
        values = float(bpm), float(first) if at else None
    except ValueError:
        raise OptionError("--click takes a tempo, or tempo@seconds: 72 or 72@2.1.", where="click") from None
    if not MIN_BPM <= values[0] <= MAX_BPM or not 0 <= (values[1] or 0) <= MAX_TAKE_S:
        raise OptionError(
            f"--click takes a tempo of {MIN_BPM:g} to {MAX_BPM:g}, and seconds from the beginning of the take.",
            where="click",
        )
    return values


def _whole(score: Score, task: Task, hand: Hand | None, knows: Knows) -> Task:
    """The same over all bars of the score, once."""
    hands = (hand,) if hand else HANDS
    return lap_task(
        in_played_order(score),
        assigned_bpm=task.assigned_bpm,
        hands=hands,
        with_pitches=knows.pitch,
        with_claps=knows.claps,
    )


def run_simulate(options: argparse.Namespace) -> int:
    suffix = Path(options.out).suffix.lower()
    if suffix not in (".mid", ".json", ".wav"):
        raise OptionError(
            f"writing {suffix or 'a file without ending'} is not possible; use .mid, .wav or .json.", where=options.out
        )
    faults = [parse_fault(text) for group in options.fault for text in group]
    if options.seed < 0:
        raise OptionError("--seed takes a whole number, zero or above.")
    score = load_score(options.score)
    source = Source.TAPS if suffix == ".json" else Source.MIDI
    # A clap sounds, but is no key.
    task = _task(options, score, HANDS, Source.AUDIO.knows if suffix == ".wav" else source.knows)
    performance = simulate(task, level=Level(options.skill), seed=options.seed, faults=faults, source=source)
    if suffix == ".wav":
        from laptick.formats.audio.take import write_wav_take  # slow to import, and only sound needs it

        data = write_wav_take(performance)
    else:
        data = write_midi_take(performance, task) if source.knows.pitch else write_taps(performance).encode()
    write_bytes(options.out, data)
    return 0
