"""What was struck beside what was asked for: other keys in the place of notes, keys too many, and a hand of an event so
far from the other that it seems to be one."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from laptick.core.base.units import Seconds
from laptick.core.following.by_ear.ear import Ear, Found
from laptick.core.following.by_ear.other_keys import (
    BETWEEN,
    BLURRED_KEYS,
    LOW_KEY,
    NEAR_KEYS,
    TOGETHER,
    TOGETHER_KEYS,
    is_noise,
    key_struck,
    left_over,
    taken_for,
)
from laptick.core.hearing.hands import Pair
from laptick.core.hearing.neighbours import NEIGHBOURS, Look, struck_instead
from laptick.core.hearing.presence import EVERY_KEY, NEW, Beside, Usual, loudness_of, share_of
from laptick.core.score.score import HANDS, Hand
from laptick.core.takes.performance import Strike

#: Below this key the next ones are told from it by a longer look too: what the spectrum shows of them runs together.
LOOKED_LONGER_KEY = 60

#: One hand of an event may be struck so far from the other, and is no key too many then.
FAR_S = 0.200

#: (event, when it was found, hand) → when that hand was struck.
Far = dict[tuple[int, Seconds, Hand], Seconds]


@dataclass(frozen=True)
class Struck:
    """``notes``: by event and when it was found, the expected strikes whose keys were struck; ``mistaken``: by those
    and the expected strike, the key that was struck in its place."""

    notes: Mapping[tuple[int, Seconds], frozenset[int]]
    mistaken: Mapping[tuple[int, Seconds, int], Strike]


def without_mistaken(
    ear: Ear, usual: Usual, found: Sequence[Found], struck: dict[tuple[int, Seconds], frozenset[int]]
) -> Struck:
    """What was struck without the notes in whose place a key near by was, and those keys."""
    mistaken: dict[tuple[int, Seconds, int], Strike] = {}
    left = {}
    for one, until_s in zip(found, [*(other.at_s for other in found[1:]), math.inf], strict=True):
        there = struck[one.event, one.at_s]
        chord = frozenset(ear.pitches(one.event))
        for index in there if one.event not in ear.ornamented else ():
            pitch = ear.key(index)
            if pitch is None:
                continue
            others = [other for other in chord if other != pitch]
            strike = taken_for(ear.spectrum, usual, pitch, Beside(others, ear.cents, one.at_s), chord)
            if strike is None and pitch < LOOKED_LONGER_KEY:
                near = [pitch + by for by in NEIGHBOURS if pitch + by not in chord]
                strike = _by_longer_look(ear, pitch, near, Look(one.at_s, until_s, ear.cents, others))
            if strike is not None:
                mistaken[one.event, one.at_s, index] = strike
        left[one.event, one.at_s] = there - {key[2] for key in mistaken if key[:2] == (one.event, one.at_s)}
    return Struck(left, mistaken)


def _by_longer_look(
    ear: Ear, pitch: int, near: Sequence[int], look: Look, *, seems_struck: bool = True
) -> Strike | None:
    """The strike of the key near one that was struck in its place."""
    there = [key for key in near if key in EVERY_KEY]
    key = struck_instead(ear.fine.sound, pitch, there, look, seems_struck=seems_struck)
    return None if key is None else Strike(look.at_s, pitch=key)


def unasked(
    ear: Ear,
    usual: Usual,
    found: Sequence[Found],
    struck: Struck,
    hands_s: Sequence[Seconds],
) -> tuple[list[Strike], Far]:
    """Keys struck that nothing asked for: between events and their hands, and in the place of a note that was not
    heard. And those that an event near by asked for: one hand of it, far from the other. None of either where most of
    what is left over is no key."""
    ordered = sorted(found, key=lambda one: one.at_s)
    strikes, far, strong = _between_events(ear, usual, ordered, hands_s)
    if is_noise(strong):
        return [], {}
    for one, until_s in zip(ordered, [*(other.at_s for other in ordered[1:]), math.inf], strict=True):
        too_many = _together(ear, usual, struck, one)
        strikes += [] if too_many is None else [too_many]
        strikes += _in_place(ear, usual, struck, one, until_s)
    return strikes, far


def _between_events(
    ear: Ear, usual: Usual, ordered: Sequence[Found], hands_s: Sequence[Seconds]
) -> tuple[list[Strike], Far, list[Strike | None]]:
    """Keys struck between events; which of them are a hand of one; and what is strong there, each with its key if it is
    one."""
    pitches = [pitch for event in range(len(ear.events.members)) for pitch in ear.pitches(event)]
    keys = range(max(21, min(pitches) - 3), min(108, max(pitches) + 3) + 1)
    times = [one.at_s for one in ordered]
    alone = set(left_over(ear.groups, [*times, *hands_s]))
    strikes: list[Strike] = []
    strong: list[Strike | None] = []
    far: Far = {}
    for at_s in left_over(ear.groups, [*times, *hands_s], every=True):
        before = ordered[max(0, bisect_right(times, at_s) - 1)]
        turned = ear.ornamented.get(before.event)
        if turned is not None and at_s - before.at_s < float(turned.duration_quarters) * ear.task.quarter_s:
            continue
        sounding = ear.pitches(before.event)
        # A key that sounds since the event before is not struck anew, but where one hand came later than the other.
        not_these = frozenset() if ear.is_of_both(before.event) else frozenset(sounding)
        strike = key_struck(ear.spectrum, usual, keys, Beside(sounding, ear.cents, at_s), not_these, clear=BETWEEN)
        own = None if strike is None else _asked_near(ear, usual, ordered, strike)
        if own is not None:
            far[own] = at_s
            continue
        another = None if strike is None or strike.pitch in sounding else strike
        if at_s in alone:
            strong.append(another)
        if another is not None:
            strikes.append(another)
    return strikes, far, strong


def _together(ear: Ear, usual: Usual, struck: Struck, one: Found) -> Strike | None:
    """A key too many that falls together with an event of which all keys were struck."""
    chord = frozenset(ear.pitches(one.event))
    there = [index for index in struck.notes[one.event, one.at_s] if ear.key(index) is not None]
    if len(there) != len(chord) or one.event in ear.ornamented:
        return None
    close = {pitch + by for pitch in chord for by in range(-TOGETHER_KEYS, TOGETHER_KEYS + 1)}
    close -= {low + by for low in chord if low < LOW_KEY for by in range(-BLURRED_KEYS, BLURRED_KEYS + 1)}
    beside = Beside(sorted(chord), ear.cents, one.at_s)
    return key_struck(ear.spectrum, usual, sorted(close), beside, chord, clear=TOGETHER)


def _in_place(ear: Ear, usual: Usual, struck: Struck, one: Found, until_s: Seconds) -> Iterator[Strike]:
    """Keys in the place of those of an event that were not struck. ``until_s``: when something else is."""
    there, chord = struck.notes[one.event, one.at_s], frozenset(ear.pitches(one.event))
    others = [other for index in there if (other := ear.key(index)) is not None]
    for index in ear.events.members[one.event]:
        pitch = ear.key(index)
        if index in there or pitch is None:
            continue
        near = range(pitch - NEAR_KEYS, pitch + NEAR_KEYS + 1)
        instead = struck.mistaken.get((one.event, one.at_s, index))
        instead = instead or key_struck(ear.spectrum, usual, near, Beside(others, ear.cents, one.at_s), chord)
        if instead is None:
            look = Look(one.at_s, until_s, ear.cents, others)
            around = [key for key in near if key not in chord]
            instead = _by_longer_look(ear, pitch, around, look, seems_struck=False)
        if instead is not None:
            yield instead


def _asked_near(ear: Ear, usual: Usual, ordered: Sequence[Found], strike: Strike) -> tuple[int, Seconds, Hand] | None:
    """The event of both hands near by, and the hand of it, that a key struck was asked of; unless it was struck with
    that event too, as a note is that is ornamented."""
    near = sorted(
        (one for one in ordered if abs(one.at_s - strike.played_s) <= FAR_S),
        key=lambda one: abs(one.at_s - strike.played_s),
    )
    for one in near:
        own = [hand for hand in HANDS if strike.pitch in ear.pitches(one.event, hand, every=False)]
        if not ear.is_of_both(one.event) or len(own) != 1 or strike.pitch is None:
            continue
        others = [pitch for pitch in ear.pitches(one.event) if pitch != strike.pitch]
        share = share_of(loudness_of(ear.spectrum, strike.pitch, Beside(others, ear.cents, one.at_s)), usual)
        return None if share is None or share.new >= NEW else (one.event, one.at_s, own[0])
    return None


def far_apart(pairs: dict[int, Pair | None], found: Sequence[Found], far: Far) -> dict[int, Pair | None]:
    """The pairs, where a hand was found far from the other with that hand there."""
    for one in found:
        for hand in HANDS:
            at_s = far.get((one.event, one.at_s, hand))
            if at_s is None:
                continue
            right_s, left_s = (at_s, one.at_s) if hand is Hand.RIGHT else (one.at_s, at_s)
            pairs[one.event] = Pair(right_s, left_s, True)
    return pairs
