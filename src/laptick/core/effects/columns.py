"""What each effect would do to every strike: the columns of the regression, in seconds per unit of the effect.

A run that goes too fast either pulls the beat along – all that follows comes sooner, in both hands – or it is one
hand's own: inside it and at its landing, or inside it alone, and after it the hand is back. An entry, a landing and the
strike after a long gap are late by themselves, or the beat waits with them. Which of these a student does is told from
the take, for all places of a kind, hand and length alike.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.effects.noise import Floats, Strikes
from laptick.core.effects.places import Kind, Spot

NEAR = 1e-6


@dataclass(frozen=True)
class Place:
    """A spot among the strikes: its hand's number (-1: both), and where it begins and ends."""

    spot: Spot
    hand: int
    start: float
    end: float


def _own(strikes: Strikes, place: Place) -> Floats:
    return np.ones(len(strikes)) if place.hand < 0 else (strikes.hand == place.hand).astype(np.float64)


def gone_by(strikes: Strikes, start: float, end: float) -> Floats:
    """Seconds of the clock gone by inside a span, at every strike."""
    low, high = np.interp([start, end], strikes.onset, strikes.clock_s)
    return np.clip(strikes.clock_s, low, high) - low


def pulled_along(strikes: Strikes, place: Place) -> Floats:
    return -gone_by(strikes, place.start, place.end)


def own_with_landing(strikes: Strikes, place: Place) -> Floats:
    return pulled_along(strikes, place) * _own(strikes, place) * (strikes.onset <= place.end + NEAR)


def own_inside(strikes: Strikes, place: Place) -> Floats:
    return pulled_along(strikes, place) * _own(strikes, place) * (strikes.onset < place.end - NEAR)


def this_strike(strikes: Strikes, place: Place) -> Floats:
    return _own(strikes, place) * (np.abs(strikes.onset - place.end) < NEAR)


def beat_waits(strikes: Strikes, place: Place) -> Floats:
    return (strikes.onset > place.end - NEAR).astype(np.float64)


def gap_alone(strikes: Strikes, place: Place) -> Floats:
    """The next strike of both hands comes early, and then the beat is back."""
    return pulled_along(strikes, place) * (np.abs(strikes.onset - place.end) < NEAR)


def made_good(strikes: Strikes, place: Place) -> Floats:
    """The first strike of a run late, the others less and less so, the landing on time."""
    inside = (strikes.onset > place.start - NEAR) & (strikes.onset < place.end - NEAR)
    return _own(strikes, place) * inside * (place.end - strikes.onset) / (place.end - place.start)


def outside(strikes: Strikes, others: Sequence[Place], mine: Sequence[Place]) -> Floats:
    """Seconds gone by inside other places where no own one is at the same time."""
    edges = sorted({edge for p in (*others, *mine) for edge in (p.start, p.end)})
    gained = np.zeros(len(strikes))
    for low, high in itertools.pairwise(edges):
        middle = (low + high) / 2
        if any(p.start < middle < p.end for p in others) and not any(p.start < middle < p.end for p in mine):
            gained -= gone_by(strikes, low, high)
    return gained


Column = Callable[[Strikes, Place], Floats]

#: What an effect of each kind may do; the first stands unless the take says otherwise.
WAYS: dict[Kind, tuple[Column, ...]] = {
    Kind.RUN: (pulled_along, own_with_landing, own_inside),
    Kind.ENTRY: (this_strike, beat_waits),
    Kind.LANDING: (this_strike, beat_waits),
    Kind.GAP: (pulled_along, gap_alone),
    Kind.BEGINNING: (made_good,),
}
