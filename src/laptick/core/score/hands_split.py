"""One line of notes given to two hands.

A search over the instants, low notes to the left hand and high ones to the right: it weighs how wide a
hand would have to reach, how far each hand would have to move from where it was, and how far it would
play from its side of the middle. Method: ours, a beam search; no note is given out alone.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand

#: Keys a hand covers without reaching (an octave and a tone), and what each key more costs.
SPAN, BEYOND_SPAN = 14, 3.0

#: Where each hand is at home, in MIDI keys, and what playing away from there costs a key.
HOMES = {Hand.LEFT: 50.0, Hand.RIGHT: 70.0}
AWAY = 0.12

#: What moving a hand costs a key.
MOVING = 0.25

#: How quickly a hand's place follows what it plays, and how many hypotheses are kept.
FOLLOWING = 0.6
BEAM = 12


def split_hands(notes: Sequence[tuple[Quarters, int | None]], split_pitch: int | None = None) -> list[Hand]:
    """The hand of each (onset, pitch); ``split_pitch`` and above are the right hand where it is given.

    Strikes without pitch go to the right hand.
    """
    if split_pitch is not None:
        return [Hand.RIGHT if pitch is None or pitch >= split_pitch else Hand.LEFT for _, pitch in notes]
    order = sorted(range(len(notes)), key=lambda i: (notes[i][0], notes[i][1] or 0))
    pitched = [i for i in order if notes[i][1] is not None]
    result = [Hand.RIGHT] * len(notes)
    #: (cost, place of the left, place of the right, how many low notes of each instant go to the left)
    beam: list[tuple[float, float, float, tuple[int, ...]]] = [(0.0, HOMES[Hand.LEFT], HOMES[Hand.RIGHT], ())]
    groups = [list(group) for _, group in itertools.groupby(pitched, key=lambda i: notes[i][0])]
    for number, group in enumerate(groups):
        pitches = [notes[i][1] or 0 for i in group]
        grown = []
        for cost, left, right, path in beam:
            for low in range(len(group) + 1):
                more, new_left = _cost(pitches[:low], left, Hand.LEFT)
                extra, new_right = _cost(pitches[low:], right, Hand.RIGHT)
                grown.append((cost + more + extra, new_left, new_right, (*path, low)))
        grown.sort(key=lambda item: item[0])
        beam = grown[:BEAM]
        if len(beam[0][3]) > 300:  # settled: the older part no longer differs in anything that matters
            _, left, right, path = beam[0]
            _write(path, groups[number + 1 - len(path) : number + 1], result)
            beam = [(0.0, left, right, ())]
    path = beam[0][3]
    _write(path, groups[len(groups) - len(path) :], result)
    return result


def _write(path: tuple[int, ...], groups: list[list[int]], result: list[Hand]) -> None:
    for low, group in zip(path, groups, strict=True):
        for index in group[:low]:
            result[index] = Hand.LEFT


def _cost(pitches: Sequence[int], place: float, hand: Hand) -> tuple[float, float]:
    """What it costs a hand at ``place`` to play these keys, and where it is then."""
    if not pitches:
        return 0.0, place
    middle = (pitches[0] + pitches[-1]) / 2
    cost = MOVING * abs(middle - place) + BEYOND_SPAN * max(0, pitches[-1] - pitches[0] - SPAN)
    side = 1 if hand is Hand.RIGHT else -1
    # Only the wrong side of home costs: a right hand may climb as high as it likes.
    cost += AWAY * sum(max(0.0, side * (HOMES[hand] - pitch)) for pitch in pitches)
    return cost, place + FOLLOWING * (middle - place)
