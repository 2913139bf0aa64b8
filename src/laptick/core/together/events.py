"""Events: what goes down together, what next, what is held, what lifts; and how the hands stand to each other.

An event is an instant at which a hand strikes: **T** both, **R** or **L** one of them. Between two events keys may
lift: told is a key let go while its hand strikes nothing, or while another key of its voice sounds on; going from one
key to the next is none, nor is the end of all. Bars are written ones. Source: docs/trade.md 3.1 (common practice).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.core.together.sounds import Sound, sounds_of


class Letter(StrEnum):
    """Which hands strike."""

    TOGETHER = "T"
    RIGHT = "R"
    LEFT = "L"


_LETTERS = {Hand.RIGHT: Letter.RIGHT, Hand.LEFT: Letter.LEFT}


@dataclass(frozen=True, slots=True)
class Event:
    """``offset_quarters`` from the bar's first instant; ``struck`` and ``held``: the sounds that begin here, and those
    that sound through, by key."""

    measure_index: int
    offset_quarters: Quarters
    ticks: int
    letter: Letter
    struck: tuple[Sound, ...]
    held: tuple[Sound, ...]


@dataclass(frozen=True, slots=True)
class Lift:
    """Keys that one hand lets go at an instant; on a bar line in the bar that begins."""

    measure_index: int
    offset_quarters: Quarters
    ticks: int
    hand: Hand
    sounds: tuple[Sound, ...]


@dataclass(frozen=True, slots=True)
class Ratio:
    """``right`` strikes to ``left``, in lowest terms, both hands evenly spaced."""

    right: int
    left: int

    def __str__(self) -> str:
        return f"{self.right}:{self.left}"


@dataclass(frozen=True, slots=True)
class BarEvents:
    """``ratio`` of the bar, ``None`` where the hands are not evenly spaced over it (*free*); ``mixture``: the ratios it
    goes through from where both strike to where both strike again, neighbours that are alike taken together; empty
    where one of these is free."""

    measure: Measure
    events: tuple[Event, ...]
    lifts: tuple[Lift, ...]
    ratio: Ratio | None
    mixture: tuple[Ratio, ...]


def events_of(score: Score) -> tuple[BarEvents, ...]:
    """Of every bar what happens in it."""
    return EVENTS.of(score, None, lambda: tuple(_bars(score)))


EVENTS: Kept[Score, None, tuple[BarEvents, ...]] = Kept()


def _bars(score: Score) -> list[BarEvents]:
    sounds = sounds_of(score)
    starts = [score.ticks_of(measure.start_quarters) for measure in score.measures]
    events: list[list[Event]] = [[] for _ in score.measures]
    for event in _events(score, sounds):
        events[event.measure_index].append(event)
    lifts: list[list[Lift]] = [[] for _ in score.measures]
    for lift in _lifts(score, sounds, starts):
        lifts[lift.measure_index].append(lift)
    bars = []
    for measure, start in zip(score.measures, starts, strict=True):
        own, length = events[measure.index], score.ticks_of(measure.length_quarters)
        bars.append(
            BarEvents(
                measure,
                tuple(own),
                tuple(lifts[measure.index]),
                _ratio(own, start, start + length),
                _mixture(own, start, start + length),
            )
        )
    return bars


def _events(score: Score, sounds: Sequence[Sound]) -> Iterable[Event]:
    sounding: list[Sound] = []
    index = 0
    while index < len(sounds):
        first, at = sounds[index], sounds[index].ticks
        begin = index
        while index < len(sounds) and sounds[index].ticks == at:
            index += 1
        struck = sounds[begin:index]
        sounding = [sound for sound in sounding if sound.end_ticks > at]
        measure = score.measures[first.measure_index]
        hands = {sound.hand for sound in struck}
        yield Event(
            measure.index,
            first.onset_quarters - measure.start_quarters,
            at,
            Letter.TOGETHER if len(hands) > 1 else _LETTERS[first.hand],
            tuple(struck),
            tuple(sorted(sounding, key=_by_key)) if len(sounding) > 1 else tuple(sounding),
        )
        sounding += struck


def _by_key(sound: Sound) -> tuple[int, Hand]:
    return sound.pitch or 0, sound.hand


def _lifts(score: Score, sounds: Sequence[Sound], starts: Sequence[int]) -> Iterable[Lift]:
    """See the module: (a) its hand strikes nothing, (b) another key of its voice sounds on."""
    strikes = {(sound.hand, sound.ticks) for sound in sounds}
    again = {(sound.hand, sound.pitch, sound.ticks) for sound in sounds}
    last = max((sound.end_ticks for sound in sounds), default=0)
    ending: dict[tuple[int, Hand], list[Sound]] = {}
    voices: dict[tuple[Hand, str], list[Sound]] = {}
    for sound in sounds:
        voices.setdefault((sound.hand, sound.voice), []).append(sound)
        if sound.end_ticks < last and (sound.hand, sound.pitch, sound.end_ticks) not in again:
            ending.setdefault((sound.end_ticks, sound.hand), []).append(sound)
    through = {voice: _Through(own) for voice, own in voices.items()}
    measure = 0
    for (at, hand), ended in sorted(ending.items(), key=lambda one: (one[0][0], HANDS.index(one[0][1]))):
        while measure + 1 < len(starts) and starts[measure + 1] <= at:
            measure += 1
        rests = (hand, at) not in strikes
        let_go = [sound for sound in ended if rests or through[hand, sound.voice].sounds(at)]
        if let_go:
            here = score.measures[measure]
            let_go.sort(key=lambda sound: sound.pitch or 0)
            offset = let_go[0].end_quarters - here.start_quarters
            yield Lift(measure, offset, at, hand, tuple(let_go))


class _Through:
    """Does a voice have a key that sounds before an instant and after it? Asked in the order of time."""

    def __init__(self, sounds: Sequence[Sound]) -> None:
        self._sounds, self._index, self._latest = sounds, 0, 0

    def sounds(self, at: int) -> bool:
        while self._index < len(self._sounds) and self._sounds[self._index].ticks < at:
            self._latest = max(self._latest, self._sounds[self._index].end_ticks)
            self._index += 1
        return self._latest > at


def _ratio(events: Sequence[Event], start: int, end: int) -> Ratio | None:
    counts = []
    for hand in HANDS:
        strikes = [event.ticks for event in events if any(sound.hand is hand for sound in event.struck)]
        # Evenly spaced over all of it: the strikes and the end are as far apart as their number says.
        if not strikes or any((at - start) * len(strikes) != i * (end - start) for i, at in enumerate(strikes)):
            return None
        counts.append(len(strikes))
    common = math.gcd(*counts)
    return Ratio(counts[0] // common, counts[1] // common)


def _mixture(events: Sequence[Event], start: int, end: int) -> tuple[Ratio, ...]:
    meets = [i for i, event in enumerate(events) if event.letter is Letter.TOGETHER]
    if not meets or events[meets[0]].ticks != start or meets[0] != 0:
        return ()
    found: list[Ratio] = []
    for here, after in zip(meets, [*meets[1:], len(events)], strict=True):
        until = events[after].ticks if after < len(events) else end
        ratio = _ratio(events[here:after], events[here].ticks, until)
        if ratio is None:
            return ()
        if not found or found[-1] != ratio:
            found.append(ratio)
    return tuple(found)
