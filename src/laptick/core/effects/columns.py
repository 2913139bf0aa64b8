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
from numpy.typing import NDArray

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


@dataclass(frozen=True)
class Places:
    """Places of one kind as arrays, each along the columns; ``gone_s``: of the clock, inside each at every strike;
    ``own``: which strikes are of its hand."""

    start: Floats
    end: Floats
    gone_s: Floats
    own: NDArray[np.bool_]


def as_places(strikes: Strikes, places: Sequence[Place]) -> Places:
    hand = np.array([place.hand for place in places])
    gone_s = gone_by_each(strikes, [(place.start, place.end) for place in places])
    return Places(
        np.array([place.start for place in places]),
        np.array([place.end for place in places]),
        gone_s,
        (strikes.hand[:, None] == hand) | (hand < 0),
    )


def gone_by(strikes: Strikes, start: float, end: float) -> Floats:
    """Seconds of the clock gone by inside a span, at every strike."""
    low, high = np.interp([start, end], strikes.onset, strikes.clock_s)
    return np.clip(strikes.clock_s, low, high) - low


def gone_by_each(strikes: Strikes, spans: Sequence[tuple[float, float]]) -> Floats:
    """The same of many spans, a column each."""
    ends = np.asarray(spans, dtype=np.float64).reshape(-1, 2)
    edges = np.interp(ends, strikes.onset, strikes.clock_s)
    low, high = edges[:, 0], edges[:, 1]
    gained: Floats = np.clip(strikes.clock_s[:, None], low, high) - low
    return gained


def pulled_along(onset: Floats, places: Places) -> Floats:
    return -places.gone_s


def own_with_landing(onset: Floats, places: Places) -> Floats:
    return np.where(places.own & (onset <= places.end + NEAR), -places.gone_s, 0.0)


def own_inside(onset: Floats, places: Places) -> Floats:
    return np.where(places.own & (onset < places.end - NEAR), -places.gone_s, 0.0)


def this_strike(onset: Floats, places: Places) -> Floats:
    return (places.own & (np.abs(onset - places.end) < NEAR)).astype(np.float64)


def beat_waits(onset: Floats, places: Places) -> Floats:
    return (onset > places.end - NEAR).astype(np.float64)


def gap_alone(onset: Floats, places: Places) -> Floats:
    """The next strike of both hands comes early, and then the beat is back."""
    return np.where(np.abs(onset - places.end) < NEAR, -places.gone_s, 0.0)


def made_good(onset: Floats, places: Places) -> Floats:
    """The first strike of a run late, the others less and less so, the landing on time."""
    inside = places.own & (onset > places.start - NEAR) & (onset < places.end - NEAR)
    return np.where(inside, (places.end - onset) / (places.end - places.start), 0.0)


def outside(strikes: Strikes, others: Sequence[Place], mine: Sequence[Place]) -> Floats:
    """Seconds gone by inside other places where no own one is at the same time."""
    edges = sorted({edge for p in (*others, *mine) for edge in (p.start, p.end)})
    gained = np.zeros(len(strikes))
    for low, high in itertools.pairwise(edges):
        middle = (low + high) / 2
        if any(p.start < middle < p.end for p in others) and not any(p.start < middle < p.end for p in mine):
            gained -= gone_by(strikes, low, high)
    return gained


#: Of the strikes' onsets (a column) and places, a column each.
Column = Callable[[Floats, Places], Floats]

#: What an effect of each kind may do; the first stands unless the take says otherwise.
WAYS: dict[Kind, tuple[Column, ...]] = {
    Kind.RUN: (pulled_along, own_with_landing, own_inside),
    Kind.ENTRY: (this_strike, beat_waits),
    Kind.LANDING: (this_strike, beat_waits),
    Kind.GAP: (pulled_along, gap_alone),
    Kind.BEGINNING: (made_good,),
}
