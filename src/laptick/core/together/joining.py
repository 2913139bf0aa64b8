"""What each event costs the one who joins the hands: the items of every event of a score, in order.

Costs are those of ``costs.py``; seconds are at a tempo. Moves follow Fitts (J. Experimental Psychology 47, 1954, from
memory): the time a move takes grows with the logarithm of its distance, and what time there is takes from it. Rhythms
against each other cost by the common division they need (after Tenney's harmonic distance, from memory).
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from laptick.core.base.kept import Kept
from laptick.core.base.units import Bpm
from laptick.core.score.meter import Meter
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.core.together.costs import WEIGHTS, Item, Reason, Weights
from laptick.core.together.events import BarEvents, Event, Letter, events_of
from laptick.core.together.shifts import Manner, Shift, shifts_of
from laptick.core.together.spans import CLOSED_STEPS, OCTAVE, Family, Span
from laptick.core.together.windows import Grip, grips_of, windows_of


@dataclass(frozen=True, slots=True)
class Joined:
    """An event with what it costs: ``rhythm`` in time, ``motion`` by how the hands get to their keys."""

    event: Event
    beat: int
    rhythm: tuple[Item, ...]
    motion: tuple[Item, ...]


@dataclass(frozen=True, slots=True)
class _Hand:
    """Of one hand, by the tick of a strike: its grips, shifts, and grips that reach too far."""

    every: tuple[Grip, ...]
    grips: dict[int, Grip]
    shifts: dict[int, Shift]
    reaches: frozenset[int]


def joined_bars(score: Score, quarter_bpm: Bpm, span: Span = OCTAVE, weights: Weights = WEIGHTS) -> list[list[Joined]]:
    """The events of every bar with their costs, at so many quarters a minute."""
    return JOINED.of(score, (quarter_bpm, span, weights), lambda: _Joining(score, quarter_bpm, span, weights).bars())


JOINED: Kept[Score, tuple[Bpm, Span, Weights], list[list[Joined]]] = Kept()


class _Joining:
    def __init__(self, score: Score, quarter_bpm: Bpm, span: Span, weights: Weights) -> None:
        self.score, self.weights = score, weights
        self.quarter_bpm = quarter_bpm
        self.hands = {hand: _hand(score, hand, span) for hand in HANDS}
        self.patterns: Counter[object] = Counter()
        self._meter: Meter | None = None
        self._starts: list[int] = []
        self._lengths: list[int] = []

    def bars(self) -> list[list[Joined]]:
        before: Event | None = None
        found = []
        for bar in events_of(self.score):
            joined = []
            beats = _by_beat(bar, *self._beats_of(bar.measure))
            for number, beat in beats.items():
                events = beat.events
                self._crossed = self._cross_rhythm(bar, beat, len(beats))
                self._factor = self._pattern(beat)
                for event in events:
                    rhythm = list(self._rhythm(beat.start, before, event))
                    if event is events[0] and self._crossed:
                        rhythm.append(Item(Reason.CROSS_RHYTHM, self._crossed * self._factor))
                    motion = [*self._motion(before, event)] if before else []
                    motion += self._in_the_way(event)
                    joined.append(Joined(event, number, tuple(rhythm), tuple(motion)))
                    before = event
            found.append(joined)
        return found

    def _beats_of(self, measure: Measure) -> tuple[list[int], list[int]]:
        """Where the beats of a bar begin, and how long they are, in ticks."""
        ticks, meter = self.score.ticks_of, measure.meter
        if meter is not self._meter:
            self._meter = meter
            self._starts = [ticks(beat.start_quarters) for beat in meter.beats]
            self._lengths = [ticks(beat.length_quarters) for beat in meter.beats]
        first = ticks(measure.start_quarters) - ticks(measure.lead_quarters)
        return [first + start for start in self._starts], self._lengths

    # -- in time ---------------------------------------------------------------------------------------

    def _pattern(self, beat: _Beat) -> float:
        key = tuple((event.ticks - beat.start, event.letter) for event in beat.events)
        seen = self.patterns[key]
        self.patterns[key] += 1
        return self.weights.pattern[min(seen, len(self.weights.pattern) - 1)]

    def _rhythm(self, beat_ticks: int, before: Event | None, event: Event) -> Iterator[Item]:
        weights = self.weights
        yield Item(None, weights.event)
        if before is None:
            return
        solo = before.letter is not Letter.TOGETHER
        if event.letter is Letter.TOGETHER:
            if solo:
                yield Item(None, weights.together_after_solo)
            return
        on_beat = event.ticks == beat_ticks
        if solo and before.letter is not event.letter and not self._crossed:
            cost = weights.alternate if on_beat else weights.alternate_off_beat
            yield Item(Reason.ALTERNATE, cost * self._factor)
        if on_beat and self._is_held_off_the_beat(event):
            yield Item(Reason.OFF_BEAT, weights.off_beat * self._factor)

    def _is_held_off_the_beat(self, event: Event) -> bool:
        """One hand strikes on the beat while the other holds what it struck between beats."""
        own = {sound.hand for sound in event.struck}
        for sound in event.held:
            if sound.hand in own:
                continue
            measure = self.score.measures[sound.measure_index]
            position = measure.position_of(sound.onset_quarters)
            if all(position != beat.start_quarters for beat in measure.meter.beats):
                return True
        return False

    def _cross_rhythm(self, bar: BarEvents, beat: _Beat, beats: int) -> float:
        """What two divisions of a beat, or of the bar, ask for that do not go into each other; 0 where they do."""
        parts = []
        for hand in HANDS:
            own = [e.ticks - beat.start for e in beat.events if any(s.hand is hand for s in e.struck)]
            inside = [beat.length // math.gcd(offset, beat.length) for offset in own if offset]
            parts.append(math.lcm(*inside) if inside else 0)
        if all(parts):
            common = math.lcm(*parts)
            if common > max(parts):
                return self.weights.cross_rhythm * math.log2(common)
        ratio = bar.ratio
        if ratio and min(ratio.right, ratio.left) > 1:
            return self.weights.cross_rhythm * math.log2(math.lcm(ratio.right, ratio.left)) / math.sqrt(beats)
        return 0.0

    # -- on the keys -----------------------------------------------------------------------------------

    def _motion(self, before: Event, event: Event) -> Iterator[Item]:
        weights = self.weights
        striking = [hand for hand in HANDS if event.ticks in self.hands[hand].grips]
        at_once = weights.at_once if len(striking) > 1 else 1.0
        shifting = [shift for hand in striking if (shift := self.hands[hand].shifts.get(event.ticks))]
        for shift in shifting:
            yield move_cost(shift, at_once, self.quarter_bpm, weights)
        if len(shifting) == 2:
            mirrored = shifting[0].steps == -shifting[1].steps
            share = weights.mirrored_share if mirrored else 1.0
            yield Item(Reason.BOTH_CHANGE, weights.both_shift * share)
        elif len(striking) == 2:
            yield from self._both_new(event)
        for hand in striking:
            yield from self._chord(hand, event.ticks)
        if before.letter is event.letter is Letter.TOGETHER and len(striking) == 2:
            yield from self._together(event)

    def _grip(self, hand: Hand, ticks: int) -> tuple[Grip, Grip | None]:
        """A hand's grip at a tick, and the one before it."""
        own = self.hands[hand]
        grip = own.grips[ticks]
        return grip, own.every[grip.index - 1] if grip.index else None

    def _both_new(self, event: Event) -> Iterator[Item]:
        fresh, held = [], 0.0
        for hand in HANDS:
            grip, before = self._grip(hand, event.ticks)
            fresh.append(len(set(grip.keys) - set(before.keys)) if before else 0)
            if before and len(before.keys) > 1:
                beat = self.score.ticks_of(self.score.measures[before.measure_index].meter.beat_quarters)
                held = max(held, (before.end_ticks - before.ticks) / beat)
        if min(fresh) and max(fresh) > 1:
            weights = self.weights
            yield Item(Reason.BOTH_CHANGE, weights.both_change_after_held if held >= 2 else weights.both_change)

    def _chord(self, hand: Hand, ticks: int) -> Iterator[Item]:
        grip, before = self._grip(hand, ticks)
        shape = [step - grip.keys[0][0] for step, _ in grip.keys]
        if before is not None and len(shape) > 1:
            old = [step - before.keys[0][0] for step, _ in before.keys]
            if shape != old:
                yield Item(None, self.weights.chord_note * (len(shape) - 1))
            elif before.keys[0][0] != grip.keys[0][0] and _semitones(before) != _semitones(grip):
                yield Item(Reason.SAME_FINGERS_OTHER_SPREAD, self.weights.other_spread)
        if ticks in self.hands[hand].reaches:
            yield Item(Reason.WIDE_REACH, self.weights.beyond_span)
        elif shape[-1] >= OCTAVE.steps:
            yield Item(None, self.weights.octave)
        if before is not None and ticks not in self.hands[hand].shifts and _apart(before, grip) >= CLOSED_STEPS:
            yield Item(None, self.weights.stretch)

    def _together(self, event: Event) -> Iterator[Item]:
        weights = self.weights
        steps = []
        for hand in HANDS:
            grip, before = self._grip(hand, event.ticks)
            if before is None:
                return
            # The outer finger that carries the line: the top of the right hand, the bottom of the left.
            outer = -1 if hand is Hand.RIGHT else 0
            steps.append(grip.keys[outer][0] - before.keys[outer][0])
        right, left = steps
        if right == left == 0:
            return
        if right * left > 0:
            keys = [self._grip(hand, event.ticks)[0].keys[-1][1] for hand in HANDS]
            if right != left:
                yield Item(Reason.NEAR_PARALLEL, weights.near_parallel)
            elif (keys[0] - keys[1]) % 12:
                yield Item(Reason.NEAR_PARALLEL, weights.parallel)
        elif right == -left:
            yield Item(Reason.MIRRORED, weights.mirrored)
        elif right * left < 0:
            yield Item(None, weights.contrary_unequal)
        else:
            yield Item(None, weights.one_stays)

    def _in_the_way(self, event: Event) -> Iterator[Item]:
        """A key that both want, and a hand beyond the other's keys."""
        weights = self.weights
        sounding = [*event.struck, *event.held]
        pitches = {hand: [s.pitch for s in sounding if s.hand is hand and s.pitch is not None] for hand in HANDS}
        right, left = pitches[Hand.RIGHT], pitches[Hand.LEFT]
        if not right or not left:
            return
        if set(right) & set(left):
            yield Item(Reason.KEY_CLASH, weights.key_clash)
        elif max(left) > min(right):
            yield Item(Reason.OVER_THE_OTHER_HAND, weights.over_the_other_hand)


def move_cost(shift: Shift, at_once: float, quarter_bpm: Bpm, weights: Weights = WEIGHTS) -> Item:
    """What a shift costs, so many times as much where the other hand strikes at once."""
    if shift.manner is Manner.CROSSING:
        return Item(Reason.MOVES_WITHOUT_TIME, weights.crossing * at_once)
    quarter_s = 60 / quarter_bpm
    rest_s = float(shift.time_quarters) * quarter_s
    long_s = float(shift.before.end_quarters - shift.before.onset_quarters) * quarter_s
    free_s = rest_s + max(0.0, long_s - weights.long_note_s) / 2
    steps = abs(shift.steps)
    law = weights.near_move if steps <= weights.near_steps else weights.move
    cost = law * math.log2(1 + steps) / (1 + free_s / weights.move_time_s) * at_once
    has_time = shift.time_quarters > 0 or steps <= weights.near_steps
    return Item(None if has_time else Reason.MOVES_WITHOUT_TIME, cost)


def _apart(before: Grip, grip: Grip) -> int:
    """Steps from the keys of one grip to the furthest of another."""
    return max(grip.keys[-1][0] - before.keys[0][0], before.keys[-1][0] - grip.keys[0][0])


def _semitones(grip: Grip) -> list[int]:
    return [key - grip.keys[0][1] for _, key in grip.keys]


def _hand(score: Score, hand: Hand, span: Span) -> _Hand:
    own = grips_of(score, hand)
    shifts = {shift.to.ticks: shift for shift in shifts_of(score, hand, span)}
    reaches = frozenset(
        grip.ticks
        for window in windows_of(score, hand, span)
        if window.family is Family.REACH
        for grip in own[window.first : window.last + 1]
    )
    return _Hand(own, {grip.ticks: grip for grip in own}, shifts, reaches)


@dataclass(frozen=True, slots=True)
class _Beat:
    """A beat in ticks, and what happens in it."""

    start: int
    length: int
    events: tuple[Event, ...]


def _by_beat(bar: BarEvents, bounds: Sequence[int], lengths: Sequence[int]) -> dict[int, _Beat]:
    """The events of a bar by the numbers of its beats; beats without any are left out. ``bounds``: where they begin, in
    ticks."""
    found: dict[int, list[Event]] = {}
    at = 0
    for event in bar.events:
        while at + 1 < len(bounds) and event.ticks >= bounds[at + 1]:
            at += 1
        found.setdefault(at, []).append(event)
    return {number: _Beat(bounds[number], lengths[number], tuple(events)) for number, events in found.items()}
