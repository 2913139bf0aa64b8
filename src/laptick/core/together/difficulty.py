"""How hard bars, seams and pieces are to join, from 0 to 100, with the reasons.

What an event costs is summed over its beat, a beat with many events in a second costs more; a bar is half the mean of
its beats and half its hardest pair of neighbouring beats; what is known from before costs less. A seam is what the
hands have to do on arrival. Points grow with the cost and never past 100; they are the same in every piece.

Source: docs/difficulty.md (ours; the reasons are those of docs/trade.md 3.1, common practice).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from laptick.core.base.kept import Kept
from laptick.core.base.levels import Level
from laptick.core.base.units import Bpm
from laptick.core.rhythm.likeness import BarLikeness, bar_likeness
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.core.together.costs import WEIGHTS, Item, Reason, Weights
from laptick.core.together.joining import Joined, joined_bars
from laptick.core.together.shifts import Manner, shifts_of
from laptick.core.together.sounds import Sound, sounds_of
from laptick.core.together.spans import OCTAVE, Span

#: Where a score says nothing of its tempo: so many quarters a minute.
USUAL_BPM: Bpm = 84.0

#: A reason is told when it makes at least this share of a bar's costs.
TOLD_SHARE = 0.05


def quarters_a_minute(score: Score, bpm: Bpm) -> Bpm:
    """A tempo counted in the piece's beat, in quarters a minute."""
    return bpm * float(score.measures[0].meter.beat_quarters)


@dataclass(frozen=True, slots=True)
class Difficulty:
    """``points`` from 0 to 100; ``reasons``, the weightiest first; ``cost`` before it is made points, and
    ``points_alone``: as if no bar were known from before."""

    points: float
    reasons: tuple[Reason, ...]
    cost: float
    points_alone: float


def bar_difficulties(
    score: Score, quarter_bpm: Bpm = USUAL_BPM, span: Span = OCTAVE, weights: Weights = WEIGHTS
) -> list[Difficulty]:
    """Of every bar."""
    return DIFFICULTIES.of(score, (quarter_bpm, span, weights), lambda: _bars(score, quarter_bpm, span, weights))


DIFFICULTIES: Kept[Score, tuple[Bpm, Span, Weights], list[Difficulty]] = Kept()


def _bars(score: Score, quarter_bpm: Bpm, span: Span, weights: Weights) -> list[Difficulty]:
    bars = joined_bars(score, quarter_bpm, span, weights)
    likeness = bar_likeness(score)
    beside = _beside(score, likeness, weights)
    for index in _thumbs_apart(score, span):
        beside.setdefault(index, []).append(Item(Reason.THUMBS_APART, weights.thumbs_apart))
    return [
        _bar(score.measures[i], joined, alike, beside.get(i, ()), _Scale(quarter_bpm, weights))
        for i, (joined, alike) in enumerate(zip(bars, likeness, strict=True))
    ]


@dataclass(frozen=True, slots=True)
class _Scale:
    """What costs are reckoned by."""

    quarter_bpm: Bpm
    weights: Weights


def _bar(
    measure: Measure,
    joined: Sequence[Joined],
    alike: BarLikeness,
    beside: Sequence[Item],
    scale: _Scale,
) -> Difficulty:
    beats, weights = measure.meter.beats, scale.weights
    costs = [0.0] * len(beats)
    events = [0] * len(beats)
    # What a bar as a whole is like costs in every beat of it.
    every = [Item(item.reason, item.cost * len(beats)) for item in beside]
    for one in joined:
        items = (*one.rhythm, *one.motion)
        costs[one.beat] += sum(item.cost for item in items)
        events[one.beat] += 1
        every += items
    for number, beat in enumerate(beats):
        seconds = float(beat.length_quarters) * 60 / scale.quarter_bpm
        costs[number] *= 1 + weights.density * math.log2(max(1.0, events[number] / seconds / weights.events_per_s))
    for item in beside:
        costs = [cost + item.cost for cost in costs]
    hardest = max(((a + b) / 2 for a, b in itertools.pairwise(costs)), default=costs[0])
    raw = max(0.0, 0.5 * sum(costs) / len(costs) + 0.5 * hardest)
    alone = points_of(raw, weights.bar_scale)
    if alike.same_notes_as is not None:
        raw *= weights.known_notes
    elif alike.same_rhythm_as is not None:
        raw *= weights.known_rhythm
    return Difficulty(points_of(raw, weights.bar_scale), reasons_of(every), raw, alone)


def points_of(cost: float, scale: float) -> float:
    return 100 * (1 - math.exp(-cost / scale))


def reasons_of(items: Iterable[Item]) -> tuple[Reason, ...]:
    """Those that make enough of the whole, the weightiest first."""
    told: dict[Reason, float] = {}
    whole = 0.0
    for item in items:
        whole += item.cost
        if item.reason is not None:
            told[item.reason] = told.get(item.reason, 0.0) + item.cost
    enough = [(abs(cost), reason) for reason, cost in told.items() if cost and abs(cost) >= TOLD_SHARE * abs(whole)]
    return tuple(reason for _, reason in sorted(enough, key=lambda one: -one[0]))


#: A piece is so hard as its hard bars are, and a little by all of them.
HARD_SHARE, HARD_PERCENTILE, POWER = 0.6, 0.85, 4

#: Up to so many points a piece is of a level.
LEVELS: dict[Level, float] = {Level.FIRST_YEAR: 20.0, Level.ELEMENTARY: 40.0, Level.INTERMEDIATE: 65.0}


@dataclass(frozen=True, slots=True)
class PieceDifficulty:
    points: float
    level: Level


def piece_difficulty(bars: Sequence[Difficulty]) -> PieceDifficulty:
    """Of the whole: the hard bars as if met for the first time, and all of them as they come."""
    if not bars:
        return PieceDifficulty(0.0, Level.FIRST_YEAR)
    alone = sorted(bar.points_alone for bar in bars)
    at = HARD_PERCENTILE * (len(alone) - 1)
    low = alone[math.floor(at)]
    hard = low + (alone[math.ceil(at)] - low) * (at - math.floor(at))
    mean = (math.fsum(bar.points**POWER for bar in bars) / len(bars)) ** (1 / POWER)
    points = HARD_SHARE * hard + (1 - HARD_SHARE) * mean
    return PieceDifficulty(points, level_of(points))


def level_of(points: float) -> Level:
    """The level that a piece of so many points is of."""
    return next((level for level, most in LEVELS.items() if points <= most), Level.ADVANCED)


# -- what a bar as a whole is like ------------------------------------------------------------------------

#: Both hands in one clef: none of its keys lies below this, or none above that (A3, E4).
TREBLE_FROM, BASS_TO = 57, 64


def _beside(score: Score, likeness: Sequence[BarLikeness], weights: Weights) -> dict[int, list[Item]]:
    by_bar: dict[int, list[Sound]] = {}
    for sound in sounds_of(score):
        by_bar.setdefault(sound.measure_index, []).append(sound)
    found: dict[int, list[Item]] = {}
    for alike in likeness:
        index = alike.measure_index
        own, before = by_bar.get(index, []), by_bar.get(index - 1, [])
        items = []
        hands = {sound.hand for sound in own}
        pitches = [sound.pitch for sound in own if sound.pitch is not None]
        if len(hands) == 2 and pitches and (min(pitches) >= TREBLE_FROM or max(pitches) <= BASS_TO):
            items.append(Item(Reason.ONE_CLEF, weights.one_clef))
        if any(_reversed(own, before, hand) for hand in Hand):
            items.append(Item(Reason.ACCIDENTAL_REVERSED, weights.accidental_reversed))
        if index and own and before and alike.same_rhythm_as is None:
            items.append(Item(Reason.NEW_RHYTHM, weights.new_rhythm))
        if items:
            found[index] = items
    return found


def _thumbs_apart(score: Score, span: Span) -> list[int]:
    """Bars in which both hands cross, and not at the same instants."""
    crossed: dict[int, dict[Hand, set[int]]] = {}
    for hand in HANDS:
        for shift in shifts_of(score, hand, span):
            if shift.manner is Manner.CROSSING:
                crossed.setdefault(shift.measure_index, {}).setdefault(hand, set()).add(shift.to.ticks)
    return [index for index, hands in crossed.items() if len(hands) == 2 and hands[Hand.RIGHT] != hands[Hand.LEFT]]


def _reversed(own: Sequence[Sound], before: Sequence[Sound], hand: Hand) -> bool:
    """Does a hand take back an accidental: the same step, altered otherwise than in the bar before?"""

    def altered(sounds: Sequence[Sound]) -> dict[str, str]:
        return {s.name[0] + s.name[-1]: s.name[1:-1] for s in sounds if s.hand is hand and s.name}

    old, new = altered(before), altered(own)
    return any(step in old and old[step] != sign for step, sign in new.items())
