"""Knocks on lap or lid as strikes: of the hands that the score asks for where they fall.

A knock does not tell whose it is. Where the score asks for both hands and two knocks fall close together, they are one
of either hand, it is not known which: both strikes stand midway. Where they are clearly apart again and again, one
hand keeps the beat while the other comes late: that is the hand that goes on sooner, for it has the run to begin
(common practice, no source). How well faults are told by that is measured by ``benchmarks.hearing.knocks``.
"""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import accumulate
from typing import TypeAlias

from laptick.core.base.units import Quarters, Seconds
from laptick.core.following.by_ear.walking import walk_groups
from laptick.core.following.score_events import ScoreEvents, score_events
from laptick.core.hearing.groups import rises_of
from laptick.core.hearing.sound import Sound
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Strike
from laptick.core.takes.task import Task

#: Weaker than this share of the usual knock is no knock: half of all that is struck, by its strength, is that strong.
KNOCK_SHARE = 0.25

#: Hands that knock together are no further apart than this, nor by more of the way to the next knock.
PAIR_S, PAIR_SHARE = 0.15, 0.4

#: One hand that comes late does so by no more than this; and at so many places at least, which are so large a part of
#: the knocks that nothing else explains. Fewer are knocks too many.
LATE_S, LATE_PLACES, LATE_PART = 0.3, 4, 0.6

#: Hands that are no further apart than this knock together as well as hands do.
APART_S = 0.1

#: The other hand's knock, by the one that was followed.
Pairs: TypeAlias = dict[Seconds, Seconds]


def knocks_heard(sound: Sound, task: Task, first_beat_s: Seconds | None) -> tuple[Strike, ...]:
    """What was knocked of a task without pitches, in order; none where nothing was struck. A strike without a hand is
    none that was asked for. ``first_beat_s``: where it was due, if that is known."""
    events, groups = score_events(task), rises_of(sound).groups
    if not groups:
        return ()
    least = KNOCK_SHARE * _usual_strength([group.strength for group in groups])
    strong = [group for group in groups if group.strength >= least]
    known: dict[Seconds, int] = {}
    for passage in walk_groups(task, events, strong, None, first_beat_s):
        known |= {at_s: event for event, at_s in passage.steps}
    places = {at_s: _place(task, events, event) for at_s, event in known.items()}
    return _strikes([group.at_s for group in strong], places, _onsets_by_hand(task))


def _usual_strength(strengths: Sequence[float]) -> float:
    """Not the median, for where few are asked for, most of what rises may be the noise between them; nor by the
    strongest, which may be a door."""
    in_order = sorted(strengths)
    return in_order[bisect_left(list(accumulate(in_order)), sum(in_order) / 2)]


@dataclass(frozen=True)
class _Place:
    """A written instant: who is asked for there."""

    onset_quarters: Quarters
    hands: tuple[Hand | None, ...]

    @property
    def is_of_both(self) -> bool:
        return len(self.hands) > 1


_Onsets: TypeAlias = Mapping[Hand | None, Sequence[Quarters]]


def _place(task: Task, events: ScoreEvents, event: int) -> _Place:
    members = [task.expected[index] for index in events.members[event]]
    return _Place(members[0].onset_quarters, tuple(sorted({one.hand for one in members}, key=str)))


def _onsets_by_hand(task: Task) -> _Onsets:
    onsets: dict[Hand | None, set[Quarters]] = {}
    for one in task.expected:
        onsets.setdefault(one.hand, set()).add(one.onset_quarters)
    return {hand: sorted(own) for hand, own in onsets.items()}


def _strikes(knocks: Sequence[Seconds], places: Mapping[Seconds, _Place], onsets: _Onsets) -> tuple[Strike, ...]:
    """``knocks``: all, in order; ``places``: of those that were followed."""
    near = _near(knocks, places)
    late = _late(sorted({*knocks} - {*near.values()}), places, {*near})
    pairs = near | late
    apart = {at_s for at_s, other_s in pairs.items() if abs(other_s - at_s) > APART_S}
    stand_apart = len(apart) >= LATE_PLACES
    seconds = {*pairs.values()}
    strikes: list[Strike] = []
    for at_s in knocks:
        if at_s in seconds:
            continue
        if at_s not in places:
            strikes.append(Strike(at_s))
            continue
        place = places[at_s]
        first_s, last_s = sorted((at_s, pairs.get(at_s, at_s)))
        later = _goes_on_sooner(place, onsets) if stand_apart and at_s in apart else None
        for hand in place.hands:
            own_s = (first_s + last_s) / 2 if later is None else last_s if hand is later else first_s
            strikes.append(Strike(own_s, hand, is_apart=not place.is_of_both))
    return tuple(sorted(strikes, key=lambda strike: strike.played_s))


def _near(knocks: Sequence[Seconds], places: Mapping[Seconds, _Place]) -> Pairs:
    """The nearest knock that is nobody else's beside one at which both hands are asked for."""
    found: Pairs = {}
    taken: set[Seconds] = set()
    in_order = sorted(places)
    for number, at_s in enumerate(in_order):
        if not places[at_s].is_of_both:
            continue
        beside = (*in_order[max(0, number - 1) : number], *in_order[number + 1 : number + 2])
        ways_s = [abs(other - at_s) for other in beside]
        reach_s = min(PAIR_S, PAIR_SHARE * min(ways_s, default=PAIR_S / PAIR_SHARE))
        around = knocks[bisect_left(knocks, at_s - reach_s) : bisect_right(knocks, at_s + reach_s)]
        free = [one for one in around if one not in places and one not in taken]
        if free:
            found[at_s] = min(free, key=lambda one: abs(one - at_s))
            taken.add(found[at_s])
    return found


def _late(knocks: Sequence[Seconds], places: Mapping[Seconds, _Place], paired: set[Seconds]) -> Pairs:
    """The knock of a hand that comes late, beside one at which both are asked for and one knocked: between it and its
    neighbour. None where there are too few of them to tell them from knocks too many. ``knocks``: without those that
    are another one's second; ``paired``: which have one."""
    found: Pairs = {}
    in_order = sorted(places)
    unasked = [one for one in knocks if one not in places]
    for one in unasked:
        after = bisect_left(in_order, one)
        beside = [
            at_s
            for at_s in in_order[max(0, after - 1) : after + 1]
            if places[at_s].is_of_both and at_s not in paired and at_s not in found and abs(one - at_s) <= LATE_S
        ]
        if beside:
            found[min(beside, key=lambda at_s: abs(one - at_s))] = one
    is_usual = len(found) >= max(LATE_PLACES, LATE_PART * len(unasked))
    return found if is_usual else {}


def _goes_on_sooner(place: _Place, onsets: _Onsets) -> Hand | None:
    """The hand that strikes next after a place; None where both do, or neither."""

    def next_quarters(hand: Hand | None) -> Fraction | float:
        own = onsets[hand]
        after = bisect_right(own, place.onset_quarters)
        return own[after] if after < len(own) else float("inf")

    by_next = sorted((next_quarters(hand), number) for number, hand in enumerate(place.hands))
    return None if by_next[0][0] == by_next[1][0] else place.hands[by_next[0][1]]
