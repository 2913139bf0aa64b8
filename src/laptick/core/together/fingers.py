"""Fingerings as they bear on where a hand stands: what one hand can finger without going elsewhere, and the place that
its fingers tell.

While a hand stays, every finger keeps its key (an outer finger may have the neighbour too), a key keeps its finger,
and keys rise with the fingers: upward from the thumb in the right hand, downward in the left. What does not fit begins
a new place. Source: docs/trade.md 3.2 (common practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterable
from statistics import median_low

from laptick.core.base.kept import Kept
from laptick.core.score.score import Hand, MarkKind, Score
from laptick.core.together.spans import COMFORTABLE, FINGERS, OCTAVE, Key, Span

THUMB, FIFTH = 1, FINGERS

#: A finger with the key it is on.
Fingered = tuple[int, Key]

#: How many neighbouring steps a finger may have: the outer ones can open.
STEPS_OF_FINGER = {THUMB: 2, FIFTH: 2}


#: Two fingers stretch so many times what is comfortable before the hand moves: E flat to G by the second and third.
STRETCH = 1.5


def fingers_of(score: Score) -> dict[str, int]:
    """Note id → finger, where the score or the teacher has one; of several the one that is chosen, or stands first."""
    return FINGERINGS.of(score, None, lambda: dict(_fingers(score)))


FINGERINGS: Kept[Score, None, dict[str, int]] = Kept()


def _fingers(score: Score) -> Iterable[tuple[str, int]]:
    found: dict[str, int] = {}
    for mark in score.marks:
        if mark.kind is MarkKind.FINGERING and mark.note_id:
            first = next((letter for letter in mark.text if letter.isdigit()), "")
            if first and THUMB <= int(first) <= FIFTH:
                found.setdefault(mark.note_id, int(first))
    return found.items()


def stays(hand: Hand, fingered: Collection[Fingered], span: Span = OCTAVE) -> bool:
    """Can a hand finger these keys, one after another, where it stands?"""
    steps: dict[int, set[int]] = {}
    keys: dict[int, int] = {}
    for finger, (step, key) in fingered:
        if keys.setdefault(key, finger) != finger:
            return False
        steps.setdefault(finger, set()).add(step)
    if any(max(own) - min(own) >= STEPS_OF_FINGER.get(finger, 1) for finger, own in steps.items()):
        return False
    upward = sorted(steps.items(), reverse=hand is Hand.LEFT)
    if any(max(low) > min(high) for (_, low), (_, high) in itertools.pairwise(upward)):
        return False
    most = STRETCH * span.scale
    return all(
        finger == other or abs(key - at) <= COMFORTABLE[min(finger, other), max(finger, other)] * most
        for (finger, (_, key)), (other, (_, at)) in itertools.combinations(fingered, 2)
    )


def place_of(hand: Hand, fingered: Collection[Fingered]) -> int | None:
    """The step under the hand's lowest finger (the right thumb, the left fifth finger), as these tell it; ``None``
    without any."""
    if not fingered:
        return None
    lowest = THUMB if hand is Hand.RIGHT else FIFTH
    own = [step for finger, (step, _) in fingered if finger == lowest]
    if own:
        return min(own)
    return median_low(sorted(step - abs(finger - lowest) for finger, (step, _) in fingered))


def moved_finger(hand: Hand, place: int, fingered: Collection[Fingered]) -> Fingered | None:
    """The finger nearest to the lowest that is not on its own key of the place, and where it is; ``None`` where all
    are."""
    lowest = THUMB if hand is Hand.RIGHT else FIFTH
    off = [one for one in fingered if one[0] != lowest and one[1][0] != place + abs(one[0] - lowest)]
    return min(off, key=lambda one: abs(one[0] - lowest), default=None)


def crosses(hand: Hand, before: Fingered, to: Fingered) -> bool:
    """Does the hand go on against its fingers: up the keys to a finger nearer the thumb (right hand), and so on?"""
    up = to[1][0] - before[1][0]
    outward = up if hand is Hand.RIGHT else -up
    return outward * (to[0] - before[0]) < 0
