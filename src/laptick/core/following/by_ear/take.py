"""A recording as a take: what was played of a task, or knocked, and what the recording was like."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from laptick.core.base.errors import TakeError
from laptick.core.base.units import Bpm
from laptick.core.following.by_ear.knocks import knocks_heard
from laptick.core.following.by_ear.transcribing import Transcribed, transcribe
from laptick.core.hearing.groups import Group, rises_of
from laptick.core.hearing.quality import level_of, noise_db_of
from laptick.core.hearing.sound import SHORTEST_S, Sound
from laptick.core.takes.heard import Heard, KnownClick
from laptick.core.takes.performance import MAX_STRIKES, UNKNOWN_KEY, Performance, Source, Strike
from laptick.core.takes.task import Task

#: What is written was played where at least so many of the events heard sound like it, and they, times what they
#: explain of all that is struck, come to so much. Of takes of the piece asked for the least were 0.83 and 0.42, of
#: takes of others the most 0.64 (but for a handful of events) and 0.30; seed 1 of the benchmark.
RECOGNISED, EXPLAINED = 0.6, 0.35

#: Other bars of the piece are taken where they explain so many times what those asked for do, and so much more. Of 360
#: takes of the bars asked for, in nine conditions, all bars explained at most 1.08 times as much; of 118 of others at
#: least 1.16 times, but for one beside a voice (1.08); seeds 9000 and 1000 of ``benchmarks.hearing.other_bars``.
CLEARLY_TIMES, CLEARLY_MORE = 1.11, 0.05


#: Who comes in early does so by less than this, and by less than this share of a beat: what sounds before is the
#: count-in.
EARLY_S, EARLY_BEATS = 0.3, 0.45


def hear_take(
    sound: Sound,
    task: Task,
    *,
    rate: int,
    click_bpm: Bpm | None = None,
    click: KnownClick | None = None,
    whole: Callable[[], Task] | None = None,
) -> Performance:
    """What was played in a recording of a task, or knocked where the task asks for no pitches.

    ``rate``: of the file; ``click_bpm``: of a click that is heard in it; ``click``: of what the device that recorded
    sounded itself: what sounds before its first beat is not listened to; ``whole``: the same hands over all bars, of
    which others than those asked for may have been played. What is neither is given as strikes of no key, and cannot
    be followed.

    Raises:
        TakeError: nothing is struck in the recording, or it ends before the first beat.
    """
    if click is None:
        return _heard(sound, _Asked(task, whole, click_bpm), rate, None)
    beat_s = float(task.beat_quarters) * task.quarter_s
    begin_s = max(0.0, click.first_beat_s - min(EARLY_S, EARLY_BEATS * beat_s))
    rest = sound.since(begin_s)
    if rest.seconds < SHORTEST_S:
        raise _nothing()
    performance = _heard(rest, _Asked(task, whole, click_bpm), rate, click.since(begin_s))
    strikes = tuple(replace(strike, played_s=strike.played_s + begin_s) for strike in performance.strikes)
    return replace(performance, strikes=strikes)


@dataclass(frozen=True)
class _Asked:
    task: Task
    whole: Callable[[], Task] | None
    click_bpm: Bpm | None


def _heard(sound: Sound, asked: _Asked, rate: int, click: KnownClick | None) -> Performance:
    task, click_bpm = asked.task, asked.click_bpm
    told = Heard(sound.seconds, rate, noise_db_of(sound), level_of(sound), click_bpm=click_bpm)
    if not task.asks_pitches:
        knocks = knocks_heard(sound, task, None if click is None else click.first_beat_s)
        if not knocks:
            raise _nothing()
        return Performance(Source.AUDIO, knocks, heard=told)
    rises = rises_of(sound)
    heard = transcribe(sound, task, click, rises=rises)
    if asked.whole is not None and _elsewhere_asks(heard) <= 1:
        other = asked.whole()
        if len(other.measures) > len(task.measures):
            elsewhere = transcribe(sound, other, anywhere=True, rises=rises)
            better = _is_recognised(elsewhere) and elsewhere.meant > _elsewhere_asks(heard)
            heard = elsewhere if better else heard
    is_recognised = _is_recognised(heard)
    told = replace(
        told,
        tuning_cents=heard.tuning.cents if heard.tuning.clear else None,
        told=heard.told,
        chances=heard.chances,
        is_recognised=is_recognised,
    )
    return Performance(Source.AUDIO, heard.strikes if is_recognised else _unknown(heard.groups), heard=told)


def _is_recognised(heard: Transcribed) -> bool:
    return heard.recognised >= RECOGNISED and heard.meant >= EXPLAINED


def _elsewhere_asks(heard: Transcribed) -> float:
    """How much of what is struck other bars must be, to be taken for what was played."""
    return max(CLEARLY_TIMES * heard.meant, heard.meant + CLEARLY_MORE)


def _unknown(groups: tuple[Group, ...]) -> tuple[Strike, ...]:
    """What was struck, on no key that is known."""
    if not groups:
        raise _nothing()
    return tuple(Strike(group.at_s, pitch=UNKNOWN_KEY) for group in groups[:MAX_STRIKES])


def _nothing() -> TakeError:
    return TakeError(
        "nothing is struck in this recording.",
        kept="Nothing was changed.",
        todo="Look whether the microphone was on, and near enough; then record again.",
    )
