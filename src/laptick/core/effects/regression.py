"""One regression of strike times: the beat, the phrases, and every effect at its place.

For every strike of either hand, ``played = begin + pace · clock + hands apart + stops + phrases + slope + Σ effects +
noise``, by generalised least squares with weak priors. Each kind's places are estimated one by one, hand by hand, the
others' known only by their class and a little more: so a rushed run makes no entry late, and no hand excuses the other.
Long takes are worked out in stretches, so that the work grows with the length.

Source: generalised least squares (Aitken 1935); ridge priors as in Bayesian linear regression; the choice of effects,
priors and noise is ours and measured in docs/operating-curve.md.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Quarters
from laptick.core.effects.columns import NEAR, WAYS, Place, outside
from laptick.core.effects.noise import Floats, Ints, Strikes, strike_noise, wanders
from laptick.core.effects.phrases import Shape, broad
from laptick.core.effects.places import Kind, Scale, Spot
from laptick.core.score.score import Hand

#: A stretch has at most so many strikes.
STRETCH_STRIKES = 120
#: … and so many more on each side.
MARGIN_STRIKES = 20

#: Prior SDs. Of one effect (share of a time; seconds), weak enough to determine nothing that is played …
SHARE_SD, STRIKE_SD_S = 0.5, 0.3
#: … and of what one place differs from its class, in limits, where another kind is asked for.
OTHER_SD = 0.7
#: … and of every effect, while the player's own scale is sought.
ORDINARY_SD = 0.5
PHRASE_SD, SLOPE_SD, APART_SD_S, STOP_SD_S = 0.15, 0.3, 0.2, 5.0

#: What is too short is so against the rest: of runs and gaps, and of all that the beat goes along with, only one can be
#: asked for at once, the others differing as an ordinary player's do, all alike (SD, in limits).
CONFOUNDED: dict[Kind, Kind] = {Kind.RUN: Kind.GAP, Kind.GAP: Kind.RUN}
CONFOUNDED_SD = 0.2

#: What is left out while a kind is asked for.
EXCLUDED: dict[Kind, frozenset[Kind]] = {
    Kind.RUN: frozenset({Kind.GAP, Kind.BEGINNING}),
    Kind.GAP: frozenset({Kind.RUN, Kind.BEGINNING}),
    Kind.ENTRY: frozenset({Kind.GAP, Kind.BEGINNING}),
    Kind.LANDING: frozenset({Kind.GAP, Kind.BEGINNING}),
    Kind.BEGINNING: frozenset({Kind.GAP}),
}

#: A strike further out than this is given more variance.
OUTLYING = 2.5
#: How well the player plays, as a share of the limit's SD: from the residuals, within these.
LOWEST_SCALE, HIGHEST_SCALE, FIRST_SCALE = 0.25, 6.0, 0.6
#: Rounds of that, at most; fewer when one changes it by less than this share.
ROUNDS, SETTLED = 4, 0.15

#: Another way of an effect is believed when it explains the take so much better (log of the evidence); that the beat
#: waits for one strike, when it does so much more.
BELIEVED, BELIEVED_STRIKE = 3.0, 8.0


@dataclass(frozen=True)
class Estimates:
    """Of the places of one kind (of runs, in one hand): each one's effect, in its own unit, how these err
    together, and the number of the way it works in."""

    kind: Kind
    spots: tuple[Spot, ...]
    values: Floats
    covariance: Floats
    ways: tuple[int, ...]


@dataclass(frozen=True)
class Take:
    """What the regression is given. ``steps``: onsets from which the playing began anew, after a stop or a bend."""

    strikes: Strikes
    hands: tuple[Hand | None, ...]
    steps: tuple[float, ...]
    phrases: tuple[Shape, ...]
    scale: Scale


Class = tuple[Kind, int, Quarters | None]


class _Stretch:
    """A stretch of a take: its strikes, its columns, and their products under the noise.

    Columns in order: what is common, each place in each of its ways, and the times played.
    """

    def __init__(self, take: Take, strikes: Strikes, places: Sequence[Place], judged: Sequence[bool]) -> None:
        self.take, self.strikes, self.places, self.judged = take, strikes, list(places), list(judged)
        self.classes: dict[Class, list[int]] = {}
        for index, place in enumerate(self.places):
            key = (place.spot.kind, place.hand, place.spot.interval_quarters)
            self.classes.setdefault(key, []).append(index)
        common, self.common_sd = _common(take, strikes)
        self.common = list(range(common.shape[1]))
        columns = [common]
        self.ways: list[list[int]] = []
        at = len(self.common)
        for place in self.places:
            ways = WAYS[place.spot.kind]
            columns.append(np.array([way(strikes, place) for way in ways]).T)
            self.ways.append(list(range(at, at + len(ways))))
            at += len(ways)
        self.columns = np.column_stack([*columns, strikes.played_s])
        self.way = [0] * len(self.places)
        self.wander = wanders(strikes, take.scale) + 1e-10 * np.eye(len(strikes))
        self.noise = strike_noise(strikes)
        self.wide = np.ones(len(strikes))
        self.weak = np.array([STRIKE_SD_S if _is_strike(p.spot.kind) else SHARE_SD for p in self.places])
        self.limits = np.array([p.spot.limit for p in self.places])

    def weigh(self, scale: float) -> None:
        """The products under the noise of a player at this share of the limit."""
        source = np.full(len(self.strikes), self.take.scale.uncertainty_s**2 / 2)
        noise = (scale * scale * self.noise + np.diag(source)) * np.sqrt(self.wide[:, None] * self.wide[None, :])
        self.inverse = np.linalg.inv(self.wander + noise)
        self.products = self.columns.T @ (self.inverse @ self.columns)

    def _chosen(self) -> list[int]:
        return [*self.common, *(ways[way] for ways, way in zip(self.ways, self.way, strict=True))]

    def residuals(self) -> Floats:
        """How far each strike lies from where the others have it, in SDs; the effects of a class are what they may be,
        and each place differs from its class as an ordinary player's does."""
        picks, sd = self._by_class()
        columns = self.columns[:, self._chosen()] @ picks
        weighed = self.inverse @ columns
        apart = self.inverse - weighed @ np.linalg.solve(columns.T @ weighed + np.diag(1 / sd**2), weighed.T)
        standardised: Floats = (apart @ self.columns[:, -1]) / np.sqrt(np.maximum(np.diag(apart), 1e-12))
        return standardised

    def choose_ways(self) -> None:
        """Of each class the way that explains the take best."""
        for key, members in self.classes.items():
            ways = range(1, len(WAYS[key[0]]))
            if len(members) < 2:
                continue
            for i in members:
                self.way[i] = 0
            best, kept = self._evidence() + (BELIEVED_STRIKE if _is_strike(key[0]) else BELIEVED), 0
            for way in ways:
                for i in members:
                    self.way[i] = way
                evidence = self._evidence()
                if evidence > best:
                    best, kept = evidence, way
            for i in members:
                self.way[i] = kept

    def _evidence(self) -> float:
        at = self._chosen()
        picks, sd = self._by_class()
        products = picks.T @ self.products[np.ix_(at, at)] @ picks + np.diag(1 / sd**2)
        factor = np.linalg.cholesky(products)
        half = np.linalg.solve(factor, picks.T @ self.products[at, -1])
        return float(0.5 * half @ half - np.log(np.diag(factor)).sum())

    def _by_class(self) -> tuple[Floats, Floats]:
        """(the chosen columns that each parameter is made of, prior SDs): what is common, each place by itself as an
        ordinary player's differ, and each class alike."""
        first = len(self.common)
        size = first + len(self.places)
        alike = [_indicator(size, [first + i for i in members]) for members in self.classes.values()]
        freely = [self.weak[members[0]] for members in self.classes.values()]
        sd = np.concatenate([self.common_sd, ORDINARY_SD * self.limits, freely])
        return np.column_stack([np.eye(size), *alike]), sd

    def solve(self, kind: Kind, hand: int | None) -> tuple[list[int], Floats, Floats]:
        """(which places, their effects, the covariance of these) of one kind; of runs for one hand at a time."""
        own = [i for i, p in enumerate(self.places) if p.spot.kind is kind and hand in (None, p.hand)]
        if not any(self.judged[i] for i in own):
            return [], np.zeros(0), np.zeros((0, 0))
        carried = any(self._carries(i) for i in own)
        beside, others = [], []
        for i, place in enumerate(self.places):
            if place.spot.kind is kind:
                continue
            if place.spot.kind is CONFOUNDED.get(kind) or (carried and self._carries(i)):
                beside.append(i)
            elif place.spot.kind not in EXCLUDED[kind]:
                others.append(i)
        at = self._chosen()
        first = len(self.common)
        size = len(at) + 1
        picks = np.zeros((size, first + len(own) + len(others)))
        picks[:first, :first] = np.eye(first)
        picks[[first + i for i in own + others], range(first, picks.shape[1])] = 1.0
        blocks, sd = [picks], [self.common_sd, self.weak[own], OTHER_SD * self.limits[others]]
        chosen = set(others)
        for members in self.classes.values():
            kept = [i for i in members if i in chosen]
            if kept:
                blocks.append(_indicator(size, [first + i for i in kept]))
                sd.append(self.weak[kept[:1]])
        for members in self.classes.values():
            if kept := [i for i in members if i in beside]:
                blocks.append(_indicator(size, [first + i for i in kept]))
                sd.append(CONFOUNDED_SD * self.limits[kept[:1]])
        products, target = self._with_others_runs(kind, hand, own, at)
        if products.shape[0] == size:
            blocks.append(_indicator(size, [size - 1]))
            sd.append(np.array([SHARE_SD]))
        chosen_columns = np.column_stack(blocks)[: products.shape[0]]
        sds = np.concatenate(sd)
        precision = chosen_columns.T @ products @ chosen_columns + np.diag(1 / sds**2)
        covariance = np.linalg.inv(precision)
        effects = covariance @ (chosen_columns.T @ target)
        mine = [first + n for n, i in enumerate(own) if self.judged[i]]
        return [i for i in own if self.judged[i]], effects[mine], np.asarray(covariance[np.ix_(mine, mine)])

    def _carries(self, index: int) -> bool:
        """Does all that follows move with a place?"""
        return _is_strike(self.places[index].spot.kind) == (self.way[index] == 1)

    def _with_others_runs(self, kind: Kind, hand: int | None, own: list[int], at: list[int]) -> tuple[Floats, Floats]:
        """The products of the chosen columns and the times, with the runs of the other hand where own ones are not:
        where both run at once they cannot be told apart."""
        products, target = self.products[np.ix_(at, at)], self.products[at, -1]
        theirs = [p for p in self.places if p.spot.kind is Kind.RUN and p.hand != hand]
        if kind is not Kind.RUN or not theirs:
            return products, target
        column = outside(self.strikes, theirs, [self.places[i] for i in own])
        weighed = self.inverse @ column
        beside = self.columns[:, at].T @ weighed
        whole = np.block([[products, beside[:, None]], [beside[None, :], np.array([[column @ weighed]])]])
        return whole, np.append(target, weighed @ self.columns[:, -1])


def _indicator(size: int, at: list[int]) -> Floats:
    column = np.zeros((size, 1))
    column[at] = 1.0
    return column


def _is_strike(kind: Kind) -> bool:
    return kind in (Kind.ENTRY, Kind.LANDING, Kind.BEGINNING)


def _common(take: Take, strikes: Strikes) -> tuple[Floats, Floats]:
    """(columns, prior SDs) of what is no effect of a place: begin, pace, hands apart, stops, phrases, slope."""
    clock = strikes.clock_s
    length = max(1e-9, float(clock[-1] - clock[0]))
    part = (clock - clock[0]) / length
    columns = [np.ones(len(strikes)), clock, length * (part**2 - part) / 2]
    sds = [100.0, 0.5, SLOPE_SD]
    if strikes.hand.any() and not strikes.hand.all():
        # Who is late with one hand may be so wherever both strike.
        together = np.bincount(strikes.instant)[strikes.instant] > 1
        columns += [strikes.hand - 0.5, (strikes.hand - 0.5) * together]
        sds += [APART_SD_S, APART_SD_S]
    for step in take.steps:
        if strikes.onset[0] < step <= strikes.onset[-1]:
            columns.append((strikes.onset >= step - 1e-6).astype(np.float64))
            sds.append(STOP_SD_S)
    for shape in take.phrases:
        columns.append(broad(strikes, shape.spans))
        sds.append(PHRASE_SD)
    return np.column_stack(columns), np.array(sds)


def estimate(take: Take, spots: Sequence[Spot]) -> tuple[list[Estimates], float]:
    """The effects at the places of every kind; and how well the player plays, as a share of the limit."""
    hands = {hand: index for index, hand in enumerate(take.hands)}
    places = [
        Place(s, -1 if s.kind is Kind.GAP else hands[s.hand], float(s.start_quarters), float(s.end_quarters))
        for s in spots
    ]
    if not spots:
        return [], FIRST_SCALE
    stretches = [_Stretch(take, *one) for one in _split(take.strikes, places)]
    scale = FIRST_SCALE
    # First how each class works, then, knowing that, the strikes that lie far out.
    for widens in (False, True):
        for turn in range(ROUNDS):
            for stretch in stretches:
                stretch.weigh(scale)
            residuals = [stretch.residuals() for stretch in stretches]
            # The median of a normal's distances.
            spread = float(np.median(np.abs(np.concatenate(residuals)))) / 0.6745
            scale = min(HIGHEST_SCALE, max(LOWEST_SCALE, scale * spread))
            for stretch, residual in zip(stretches, residuals, strict=True):
                if widens:
                    stretch.wide = np.maximum(1.0, (np.abs(residual) / (OUTLYING * max(spread, 0.3))) ** 2)
            if turn and abs(spread - 1) < SETTLED:
                break
        for stretch in stretches:
            stretch.weigh(scale)
            stretch.choose_ways()
    return list(_gathered(stretches, range(len(take.hands)))), scale


def _gathered(stretches: Sequence[_Stretch], hands: Iterable[int]) -> Iterable[Estimates]:
    asked: list[tuple[Kind, int | None]] = [(Kind.RUN, hand) for hand in hands]
    for kind, hand in [*asked, *((kind, None) for kind in Kind if kind is not Kind.RUN)]:
        spots: list[Spot] = []
        ways: list[int] = []
        values, blocks = [], []
        for stretch in stretches:
            own, effects, covariance = stretch.solve(kind, hand)
            spots += [stretch.places[i].spot for i in own]
            ways += [stretch.way[i] for i in own]
            values.append(effects)
            blocks.append(covariance)
        if spots:
            yield Estimates(kind, tuple(spots), np.concatenate(values), _diagonal(blocks), tuple(ways))


def _diagonal(blocks: Sequence[Floats]) -> Floats:
    size = sum(len(block) for block in blocks)
    whole, at = np.zeros((size, size)), 0
    for block in blocks:
        whole[at : at + len(block), at : at + len(block)] = block
        at += len(block)
    return whole


def _split(strikes: Strikes, places: Sequence[Place]) -> list[tuple[Strikes, list[Place], list[bool]]]:
    """Stretches of about equal length, each with a little more at both ends. A place is judged in the one it begins
    in."""
    count = len(strikes)
    parts = -(-count // STRETCH_STRIKES)
    bounds = [round(i * count / parts) for i in range(parts + 1)]
    found = []
    for low, high in itertools.pairwise(bounds):
        rows: Ints = np.arange(max(0, low - MARGIN_STRIKES), min(count, high + MARGIN_STRIKES))
        inside = strikes.of(rows)
        first, last = inside.onset[0] - NEAR, inside.onset[-1] + NEAR
        begin = strikes.onset[low] - NEAR if low else -np.inf
        end = strikes.onset[high] - NEAR if high < count else np.inf
        own = [p for p in places if first <= p.start and p.end <= last]
        found.append((inside, own, [bool(begin <= p.start < end) for p in own]))
    return found
