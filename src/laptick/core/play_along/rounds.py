"""What is played in which order: rounds of a passage, echoes, a first hearing.

- *play along*: the passage in rounds, straight on, after a gap of some beats, or counted in anew;
- *echo*: the model plays a group of bars, then the student has equal room: one bar, two bars, a line, or all three of
  them in turn for each line (common practice, no source);
- *hear it*: the whole once at the tempo aimed at, then once slowly.
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from fractions import Fraction
from itertools import groupby

from laptick.core.base.errors import LimitError, OptionError
from laptick.core.base.units import Bpm, Seconds, quarters_to_seconds
from laptick.core.counting.word_tables import System
from laptick.core.play_along.schedule import Role, Track
from laptick.core.play_along.scheduling import VOICE, Part
from laptick.core.score.score import Measure, Score
from laptick.core.score.score_clock import Clock

#: Nothing plays on for longer: a break is due then (docs/trade.md 3.6 asks for one every 20 to 25 minutes).
LONGEST_S: Seconds = 900.0

MAX_ROUNDS, MAX_GAP_BEATS = 100, 16


class Between(StrEnum):
    """What lies between two rounds."""

    STRAIGHT = "straight"
    GAP = "gap"
    COUNT_IN = "count-in"


class EchoBy(StrEnum):
    BAR = "bar"
    TWO = "two"
    LINE = "line"
    GROWING = "growing"


class EchoIn(StrEnum):
    """In what the model gives its turn."""

    COUNTS = "counts"
    NAMES = "names"
    TONES = "tones"


_HANDS = frozenset({Track.RIGHT, Track.LEFT})
_BEAT = frozenset({Track.CLICK, Track.BACKING})

#: What sounds in the model's turn.
MODEL_TRACKS: dict[EchoIn, frozenset[Track]] = {
    EchoIn.COUNTS: VOICE | _BEAT,
    EchoIn.NAMES: VOICE | _BEAT,
    EchoIn.TONES: _HANDS | _BEAT | {Track.CUE},
}


def play_parts(
    score: Score,
    measures: Sequence[Measure],
    bpm: Bpm,
    *,
    rounds: int = 1,
    between: Between = Between.COUNT_IN,
    gap_beats: int = 0,
) -> list[Part]:
    """A passage in rounds; as many of them as are asked for and do not last too long.

    Raises:
        OptionError: rounds or gap out of range.
        LimitError: a single round lasts too long.
    """
    if not 1 <= rounds <= MAX_ROUNDS:
        raise OptionError(f"from 1 to {MAX_ROUNDS} rounds can be played.", where="rounds")
    if not 0 <= gap_beats <= MAX_GAP_BEATS:
        raise OptionError(f"a gap has 0 to {MAX_GAP_BEATS} beats.", where="gap_beats")
    bars, beat = tuple(measures), measures[0].meter.beat_quarters
    first = Part(bars, bpm)
    gap = gap_beats * beat if between is Between.GAP else Fraction(0)
    again = Part(bars, bpm, counts_in=between is Between.COUNT_IN, gap_quarters=gap)
    once = lasts_s(score, bars, bpm)
    if once > LONGEST_S:
        raise _too_long(once)
    between_quarters = 2 * bars[0].meter.bar_quarters if between is Between.COUNT_IN else gap
    each = once + quarters_to_seconds(between_quarters, bpm, beat)
    return [first, *[again] * (min(rounds, max(1, int(LONGEST_S / each))) - 1)]


def echo_parts(
    score: Score, measures: Sequence[Measure], bpm: Bpm, *, by: EchoBy = EchoBy.GROWING, given_in: EchoIn = EchoIn.TONES
) -> list[Part]:
    """The model's turn and the student's room, by turns, in time and without a break.

    Raises:
        LimitError: the whole lasts too long.
    """
    system = System.NAMES if given_in is EchoIn.NAMES else None
    parts: list[Part] = []
    for group in _groups(measures, by):
        for role, tracks in ((Role.MODEL, MODEL_TRACKS[given_in]), (Role.ROOM, _BEAT)):
            parts.append(Part(group, bpm, role, counts_in=not parts, tracks=tracks, system=system))
    # By one clock for all of it: each part would begin one of its own, which takes long where there are many.
    clock = Clock(score, measures[0], bpm)
    total = sum(clock.at(part.measures[-1].end_quarters) - clock.at(part.measures[0].start_quarters) for part in parts)
    if total > LONGEST_S:
        raise _too_long(total)
    return parts


def _groups(measures: Sequence[Measure], by: EchoBy) -> list[tuple[Measure, ...]]:
    """Groups of bars in the order in which they are echoed. A pickup goes with the bar after it."""
    groups: list[tuple[Measure, ...]] = []
    for line in _lines(measures):
        for size in {EchoBy.BAR: (1,), EchoBy.TWO: (2,), EchoBy.LINE: (0,), EchoBy.GROWING: (1, 2, 0)}[by]:
            cut = _cut(line, size or len(line))
            if not (groups and len(cut) == 1 and groups[-1] == cut[0]):
                groups += cut
    return groups


def _lines(measures: Sequence[Measure]) -> list[list[Measure]]:
    lines = [list(line) for _, line in groupby(measures, key=lambda m: (m.line, m.pass_number))]
    if len(lines) > 1 and len(lines[0]) == 1 and lines[0][0].is_pickup:
        lines[1] = lines.pop(0) + lines[0]
    return lines


def _cut(line: Sequence[Measure], size: int) -> list[tuple[Measure, ...]]:
    cut: list[tuple[Measure, ...]] = []
    group: list[Measure] = []
    for measure in line:
        group.append(measure)
        if sum(1 for one in group if not one.is_pickup) == size:
            cut.append(tuple(group))
            group = []
    if group:
        cut.append(tuple(group))
    return cut


def hear_parts(score: Score, measures: Sequence[Measure], bpm: Bpm, slow_bpm: Bpm) -> list[Part]:
    """The whole at the tempo aimed at, two beats of silence, the whole slowly.

    Raises:
        LimitError: it lasts too long.
    """
    bars, tracks = tuple(measures), _HANDS | {Track.CLICK}
    total = lasts_s(score, bars, bpm) + lasts_s(score, bars, slow_bpm)
    if total > LONGEST_S:
        raise _too_long(total)
    gap = 2 * measures[0].meter.beat_quarters
    return [
        Part(bars, bpm, Role.MODEL, tracks=tracks),
        Part(bars, slow_bpm, Role.MODEL, tracks=tracks, gap_quarters=gap),
    ]


def lasts_s(score: Score, measures: Sequence[Measure], bpm: Bpm) -> Seconds:
    """How long a passage lasts by the clock, without count-in."""
    clock = Clock(score, measures[0], bpm)
    return clock.at(measures[-1].end_quarters) - clock.at(measures[0].start_quarters)


def _too_long(total: Seconds) -> LimitError:
    return LimitError(
        f"that would be {total / 60:.0f} minutes of sound; up to {LONGEST_S / 60:.0f} are played.",
        where="measures",
        todo="Choose a shorter passage, or a faster tempo.",
    )
