"""Touch, from sources that know keys, strengths and key-ups (MIDI): lengths, balance, swells, pedal, smears.

Measured and shown, never a finding: how a piece is to be touched is the teacher's. Strength is MIDI velocity (1–127).
Source: docs/trade.md 4.11 (common practice).
"""

from __future__ import annotations

import itertools
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from laptick.core.base.units import Quarters, Seconds
from laptick.core.following.matching import Matching
from laptick.core.following.own_beat import BeatFit
from laptick.core.measuring.long_notes import shortened_notes, sounding_quarters
from laptick.core.score.score import HANDS, Hand, Mark, MarkKind
from laptick.core.takes.performance import Performance
from laptick.core.takes.task import Task

#: A pedal is changed when it comes down again within this long after going up.
CHANGE_S = 0.6

#: A key beside the right one struck within this long of it is a smear of the same stroke.
SMEAR_S, SMEAR_SEMITONES = 0.05, 2

#: A swell on fewer strikes than this is not told.
ENOUGH_STRIKES = 4

#: Strengths this close are the same.
SAME_STRENGTH = 3.0


#: A note written to be short sounds for no more than this share of its length, one under a slur for no less. Staccato
#: is about half (common practice, no source); the bounds are ours.
SHORT_SHARE, JOINED_SHARE = 0.65, 0.85


@dataclass(frozen=True, slots=True)
class Lengths:
    """How long notes of one kind sound, as a share of what is written (median). ``asked``: those whose length tells,
    ``kept``: how many of them were short or joined; one that strikes the same key again cannot be joined."""

    hand: Hand
    kind: str  # "short": written to be short; "slurred"; "plain"
    notes: int
    share: float
    asked: int = 0
    kept: int = 0


@dataclass(frozen=True, slots=True)
class Swell:
    """A written crescendo or diminuendo: the change of strength along the fitted line, and the largest step against
    its direction."""

    text: str
    onset_quarters: Quarters
    strikes: int
    change: float
    step_back: float

    @property
    def as_written(self) -> bool:
        return self.change > SAME_STRENGTH if self.text == "crescendo" else self.change < -SAME_STRENGTH


@dataclass(frozen=True, slots=True)
class Smear:
    onset_quarters: Quarters
    pitch: int


@dataclass(frozen=True)
class Touch:
    """``strengths``: median velocity of each hand; ``pedal_changes``: how many; ``pedal_after_ms``: from the strike to
    the pedal's coming down again (median)."""

    lengths: tuple[Lengths, ...]
    strengths: tuple[tuple[Hand, float], ...]
    swells: tuple[Swell, ...]
    pedal_changes: int
    pedal_after_ms: float | None
    smears: tuple[Smear, ...]


def measure_touch(task: Task, performance: Performance, matching: Matching, fit: BeatFit) -> Touch | None:
    """The touch of a take, or ``None`` when its source knows no keys."""
    if not task.asks_pitches or not performance.knows.strength or all(s.velocity is None for s in performance.strikes):
        return None
    strikes = performance.strikes
    by_hand: dict[Hand, list[int]] = {hand: [] for hand in HANDS}
    for matched in matching.matches:
        expected = task.expected[matched.expected_index]
        velocity = strikes[matched.strike_index].velocity
        if expected.hand is not None and velocity is not None:
            by_hand[expected.hand].append(velocity)
    changes = _pedal_changes(performance)
    return Touch(
        tuple(_lengths(task, performance, matching, fit)),
        tuple((hand, float(median(values))) for hand, values in by_hand.items() if values),
        tuple(_swells(task, performance, matching)),
        len(changes),
        1000 * median(changes) if changes else None,
        tuple(_smears(task, performance, matching)),
    )


def _lengths(task: Task, performance: Performance, matching: Matching, fit: BeatFit) -> list[Lengths]:
    origin = task.measures[0].start_quarters
    written, short = sounding_quarters(task.score), shortened_notes(task)
    slurs = [mark for mark in task.score.marks if mark.kind is MarkKind.SLUR and mark.end_quarters is not None]
    shares: dict[tuple[Hand, str], list[float]] = {}
    told: dict[tuple[Hand, str], list[bool]] = {}
    again = _struck_again(task) if slurs else frozenset()
    for matched in matching.matches:
        expected, strike = task.expected[matched.expected_index], performance.strikes[matched.strike_index]
        if expected.hand is None or strike.released_s is None or performance.pedal_down(strike.released_s):
            continue
        onset = origin + expected.onset_quarters
        quarters = written.get((expected.hand, onset, expected.pitch))
        quarter_s = fit.quarter_s_at(float(expected.onset_quarters))
        if not quarters or not quarter_s > 0:
            continue
        if short and (expected.hand, expected.onset_quarters) in short:
            kind = "short"
        elif any(_slurred(slur, expected.hand, onset) for slur in slurs):
            kind = "slurred"
        else:
            kind = "plain"
        sounded = (strike.released_s - strike.played_s) / quarter_s
        share = sounded / float(quarters)
        shares.setdefault((expected.hand, kind), []).append(share)
        if kind == "short" or (kind == "slurred" and matched.expected_index not in again):
            is_kept = share <= SHORT_SHARE if kind == "short" else share >= JOINED_SHARE
            told.setdefault((expected.hand, kind), []).append(is_kept)
    return [
        Lengths(
            hand, kind, len(values), median(values), len(told.get((hand, kind), ())), sum(told.get((hand, kind), ()))
        )
        for (hand, kind), values in sorted(shares.items())
    ]


def _struck_again(task: Task) -> frozenset[int]:
    """Expected strikes whose key the same hand strikes again next."""
    found: list[int] = []
    for hand in HANDS:
        by_onset: dict[Quarters, list[int]] = {}
        for index, expected in enumerate(task.expected):
            if expected.hand is hand:
                by_onset.setdefault(expected.onset_quarters, []).append(index)
        for here, after in itertools.pairwise(by_onset[onset] for onset in sorted(by_onset)):
            following = {task.expected[index].pitch for index in after}
            found += [index for index in here if task.expected[index].pitch in following]
    return frozenset(found)


def _slurred(slur: Mark, hand: Hand, onset: Quarters) -> bool:
    """Under a slur, and not its last note: that one is let go."""
    end = slur.end_quarters
    return slur.hand in (None, hand) and end is not None and slur.onset_quarters <= onset < end


def _swells(task: Task, performance: Performance, matching: Matching) -> list[Swell]:
    wedges = [m for m in task.score.marks if m.kind is MarkKind.WEDGE and m.end_quarters is not None]
    if not wedges:
        return []
    origin = task.measures[0].start_quarters
    played = [
        (origin + task.expected[m.expected_index].onset_quarters, task.expected[m.expected_index].hand, velocity)
        for m in matching.matches
        if (velocity := performance.strikes[m.strike_index].velocity) is not None
    ]
    found = []
    for mark in wedges:
        inside = [
            (float(onset), float(velocity))
            for onset, hand, velocity in played
            if mark.onset_quarters <= onset <= (mark.end_quarters or onset) and mark.hand in (None, hand)
        ]
        if len(inside) < ENOUGH_STRIKES or inside[0][0] == inside[-1][0]:
            continue
        slope = _slope(inside)
        louder = mark.text == "crescendo"
        steps = [(b[1] - a[1]) * (-1 if louder else 1) for a, b in itertools.pairwise(inside)]
        found.append(
            Swell(
                mark.text,
                mark.onset_quarters - origin,
                len(inside),
                slope * (inside[-1][0] - inside[0][0]),
                max(0.0, *steps),
            )
        )
    return found


def _slope(points: Sequence[tuple[float, float]]) -> float:
    middle_x = sum(x for x, _ in points) / len(points)
    middle_y = sum(y for _, y in points) / len(points)
    spread = sum((x - middle_x) ** 2 for x, _ in points)
    return sum((x - middle_x) * (y - middle_y) for x, y in points) / spread


def _pedal_changes(performance: Performance) -> list[Seconds]:
    """For every change of pedal: how long after the strike before it the pedal came down again."""
    times = [strike.played_s for strike in performance.strikes]
    after = []
    for (up_s, was_down), (down_s, is_down) in itertools.pairwise(performance.pedal):
        if not was_down and is_down and down_s - up_s <= CHANGE_S:
            index = bisect_right(times, down_s) - 1
            if index >= 0:
                after.append(down_s - times[index])
    return after


def _smears(task: Task, performance: Performance, matching: Matching) -> list[Smear]:
    """Keys too many that were struck along with the one beside them."""
    if not matching.extra:
        return []
    right = [
        (performance.strikes[m.strike_index].played_s, task.expected[m.expected_index])
        for m in matching.matches
        if task.expected[m.expected_index].pitch is not None
    ]
    right.sort(key=lambda one: one[0])
    times = [time for time, _ in right]
    found = []
    for index in matching.extra:
        strike = performance.strikes[index]
        low = bisect_right(times, strike.played_s - SMEAR_S)
        for time, expected in right[low:]:
            if time > strike.played_s + SMEAR_S:
                break
            if strike.pitch is not None and abs(strike.pitch - (expected.pitch or 0)) <= SMEAR_SEMITONES:
                found.append(Smear(expected.onset_quarters, strike.pitch))
                break
    return found
