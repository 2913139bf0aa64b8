"""One regression of strike times: the beat, the phrases, and every effect at its place.

For every strike of either hand, ``played = begin + pace · clock + hands apart + stops + phrases + slope + Σ effects +
noise``, by generalised least squares with weak priors. Each kind's places are estimated one by one, hand by hand, the
others' known only by their class and a little more: so a rushed run makes no entry late, and no hand excuses the other.
Long takes are worked out in stretches, so that the work grows with the length.

Source: generalised least squares (Aitken 1935); ridge priors as in Bayesian linear regression; the choice of effects,
priors and noise is ours and measured in docs/operating-curve.md. How much places differ: by expectation and
maximisation (Dempster, Laird & Rubin, J. Royal Statistical Society B 39, 1977, from memory).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Quarters
from laptick.core.effects.columns import NEAR, WAYS, Place, as_places, outside
from laptick.core.effects.common import Take, everywhere
from laptick.core.effects.inverses import inverse
from laptick.core.effects.noise import Floats, Ints, Strikes, strike_noise, wanders
from laptick.core.effects.places import Kind, Spot
from laptick.core.effects.spread import Residuals, drawn_to, spread_of

#: A stretch has at most so many strikes.
STRETCH_STRIKES = 120
#: … and so many more on each side.
MARGIN_STRIKES = 20

#: Prior SDs. Of one effect (share of a time; seconds), weak enough to determine nothing that is played …
SHARE_SD, STRIKE_SD_S = 0.5, 0.3
#: … and of what one place differs from its class, in limits, where another kind is asked for.
OTHER_SD = 0.7
#: … and of every effect, in limits, while the player's own scale is sought. Who enters late half the time is not
#: unsteady everywhere: for what else is asked a single strike is freer than for how steady the playing is.
ORDINARY_SD, FREE_STRIKE_SD = 0.5, 1.2
SLOPE_SD = 0.3
#: From so many places of a class on is found, in so many rounds, by how much they differ.
DIFFER_PLACES, DIFFER_ROUNDS = 4, 2

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
#: How well the player plays, as a share of the limit's SD: from the residuals, within these, from an ordinary one on.
LOWEST_SCALE, HIGHEST_SCALE, FIRST_SCALE = 0.25, 6.0, 0.6
#: Rounds of that, at most; fewer when one changes it by less than this share.
ROUNDS, SETTLED = 4, 0.12

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


Class = tuple[Kind, int, Quarters | None]


class _Stretch:
    """A stretch of a take: its strikes, its columns, and their products under the noise.

    Columns in order: what is common, each place in each of its ways, and the times played but for begin and pace;
    ``mine`` are those that are chosen.
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
        self.ways: list[list[int]] = [[] for _ in self.places]
        at, onset = len(self.common), strikes.onset[:, None]
        for kind, ways in WAYS.items():
            own = [i for i, place in enumerate(self.places) if place.spot.kind is kind]
            if own:
                of_kind = as_places(strikes, [self.places[i] for i in own])
                columns += [way(onset, of_kind) for way in ways]
                for number, i in enumerate(own):
                    self.ways[i] = [at + number + len(own) * way for way in range(len(ways))]
                at += len(own) * len(ways)
        self.columns = np.column_stack([*columns, _about(strikes)])
        self.way = [0] * len(self.places)
        self.wander = wanders(strikes, take.scale) + 1e-10 * np.eye(len(strikes))
        self.noise = strike_noise(strikes)
        self.wide = np.ones(len(strikes))
        self.weak = np.array([STRIKE_SD_S if _is_strike(p.spot.kind) else SHARE_SD for p in self.places])
        self.limits = np.array([p.spot.limit for p in self.places])
        own_class = np.zeros(len(self.places))
        for number, members in enumerate(self.classes.values()):
            own_class[members] = number
        self.same_class = (own_class[:, None] == own_class[None, :]).astype(np.float64)
        free = [FREE_STRIKE_SD if _is_strike(place.spot.kind) else ORDINARY_SD for place in self.places]
        self.free = self._alike(np.array(free))

    def ordinary(self) -> Floats:
        """The prior precision of an ordinary player, but that the places of a class differ from each other as they are
        seen to do: a fault at half of them makes nobody unsteady."""
        differ, first = np.full(len(self.places), ORDINARY_SD), len(self.common)
        told = [members for members in self.classes.values() if len(members) >= DIFFER_PLACES]
        for _ in range(DIFFER_ROUNDS if told else 0):
            covariance = inverse(self.products[:-1, :-1] + self._alike(differ))
            effects = (covariance @ self.products[:-1, -1])[first:] / self.limits
            unsure = covariance[first:, first:] / np.outer(self.limits, self.limits)
            for members in told:
                values, own = effects[members], unsure[np.ix_(members, members)]
                squares = np.square(values - values.mean()).sum() + np.trace(own) - own.sum() / len(members)
                differ[members] = max(ORDINARY_SD, float(np.sqrt(squares / (len(members) - 1))))
        return self._alike(differ)

    def _alike(self, differ: Floats) -> Floats:
        """The prior precision of what is common and of every place: the effects of a class are what they may be, and
        each place differs from its class by so many limits."""
        first = len(self.common)
        each = 1 / (differ * self.limits) ** 2
        precision = np.diag(np.concatenate([1 / self.common_sd**2, each]))
        # Sherman and Morrison: the inverse of a diagonal and what all of a class have alike.
        alike = each[:, None] * each[None, :] * self.same_class
        precision[first:, first:] -= alike / (1 / self.weak**2 + self.same_class @ each)[:, None]
        return precision

    def weigh(self, scale: float) -> None:
        """The products under the noise of a player at this share of the limit."""
        source = self.strikes.unsure_s**2 / 2
        noise = (scale * scale * self.noise + np.diag(source)) * np.sqrt(self.wide[:, None] * self.wide[None, :])
        self.weight = inverse(self.wander + noise)
        self._weigh_chosen()

    def _weigh_chosen(self) -> None:
        """The products of the columns that are chosen, the times last."""
        self.mine = self.columns[:, [*self._chosen(), -1]]
        self.weighed = self.weight @ self.mine
        self.products = self.mine.T @ self.weighed

    def _chosen(self) -> list[int]:
        return [*self.common, *(ways[way] for ways, way in zip(self.ways, self.way, strict=True))]

    def residuals(self, prior: Floats) -> Residuals:
        """How far each strike lies from where the others have it."""
        weighed = self.weighed[:, :-1]
        explained = inverse(self.products[:-1, :-1] + prior) @ weighed.T
        left = self.weighed[:, -1] - explained.T @ self.products[:-1, -1]
        alone = np.diag(self.weight)
        own = alone - np.einsum("ij,ji->i", weighed, explained)
        told = np.minimum(1.0, np.maximum(0.0, own / alone))
        return Residuals(left / np.sqrt(np.maximum(own, 1e-12)), told)

    def choose_ways(self) -> None:
        """Of each class the way that explains the take best."""
        products = self.columns.T @ (self.weight @ self.columns)
        now: float | None = None
        for key, members in self.classes.items():
            ways = range(1, len(WAYS[key[0]]))
            if len(members) < 2:
                continue
            for i in members:
                self.way[i] = 0
            found = {0: self._evidence(products) if now is None else now}
            best, kept = found[0] + (BELIEVED_STRIKE if _is_strike(key[0]) else BELIEVED), 0
            for way in ways:
                for i in members:
                    self.way[i] = way
                found[way] = self._evidence(products)
                if found[way] > best:
                    best, kept = found[way], way
            for i in members:
                self.way[i] = kept
            now = found[kept]
        self._weigh_chosen()

    def _evidence(self, every: Floats) -> float:
        """Of the ways chosen, up to what all have alike. ``every``: the products of all columns."""
        at = self._chosen()
        size = len(at)
        # With the times as a last row, one factor has both the determinant and what is left of the times.
        at.append(every.shape[0] - 1)
        bordered = every[np.ix_(at, at)]
        bordered[:size, :size] += self.free
        # The same for every choice: nothing is left of the times of one who plays exactly, but for rounding.
        bordered[size, size] += 1.0 + 1e-9 * bordered[size, size]
        factor = np.diag(np.linalg.cholesky(bordered))
        return float(-0.5 * factor[-1] ** 2 - np.log(factor[:-1]).sum())

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
        first = len(self.common)
        size = self.mine.shape[1]
        alone = [*self.common, *(first + i for i in own + others)]
        together, sd = [], [self.common_sd, self.weak[own], OTHER_SD * self.limits[others]]
        chosen = set(others)
        for members in self.classes.values():
            kept = [i for i in members if i in chosen]
            if kept:
                together.append([first + i for i in kept])
                sd.append(self.weak[kept[:1]])
        for members in self.classes.values():
            if kept := [i for i in members if i in beside]:
                together.append([first + i for i in kept])
                sd.append(CONFOUNDED_SD * self.limits[kept[:1]])
        products, target = self._with_others_runs(kind, hand, own)
        if len(products) == size:
            together.append([size - 1])
            sd.append(np.array([SHARE_SD]))
        sds = np.concatenate(sd)
        precision = _taken(_taken(products, alone, together).T, alone, together) + np.diag(1 / sds**2)
        mine = [first + n for n, i in enumerate(own) if self.judged[i]]
        # Of the inverse only what is told of is worked out.
        asked = np.zeros((len(sds), len(mine) + 1))
        asked[mine, range(len(mine))] = 1.0
        asked[:, -1] = _taken(target[None, :], alone, together)[0]
        solved: Floats = np.asarray(np.linalg.solve(precision, asked)[mine], dtype=np.float64)
        covariance = solved[:, :-1]
        return [i for i in own if self.judged[i]], solved[:, -1], np.asarray((covariance + covariance.T) / 2)

    def _carries(self, index: int) -> bool:
        """Does all that follows move with a place?"""
        return _is_strike(self.places[index].spot.kind) == (self.way[index] == 1)

    def _with_others_runs(self, kind: Kind, hand: int | None, own: list[int]) -> tuple[Floats, Floats]:
        """The products of the chosen columns and the times, with the runs of the other hand where own ones are not:
        where both run at once they cannot be told apart."""
        products, target = self.products[:-1, :-1], self.products[:-1, -1]
        theirs = [p for p in self.places if p.spot.kind is Kind.RUN and p.hand != hand]
        if kind is not Kind.RUN or not theirs:
            return products, target
        column = outside(self.strikes, theirs, [self.places[i] for i in own])
        weighed = self.weight @ column
        beside = self.mine[:, :-1].T @ weighed
        whole = np.block([[products, beside[:, None]], [beside[None, :], np.array([[column @ weighed]])]])
        return whole, np.append(target, weighed @ self.mine[:, -1])


def _about(strikes: Strikes) -> Floats:
    """The times played, less begin and pace: what these are is left open, and small numbers lose nothing."""
    line = np.column_stack([np.ones(len(strikes)), strikes.clock_s])
    left: Floats = strikes.played_s - line @ np.linalg.lstsq(line, strikes.played_s, rcond=None)[0]
    return left


def _taken(products: Floats, alone: Sequence[int], together: Sequence[Sequence[int]]) -> Floats:
    """Columns by themselves, and the sums of others that have one effect."""
    return np.column_stack([products[:, alone], *(products[:, rows].sum(axis=1) for rows in together)])


def _is_strike(kind: Kind) -> bool:
    return kind in (Kind.ENTRY, Kind.LANDING, Kind.BEGINNING)


def _common(take: Take, strikes: Strikes) -> tuple[Floats, Floats]:
    """(columns, prior SDs) of what is no effect of a place: everything in ``common``, a slope, and one hand late
    wherever both strike."""
    columns, sds = everywhere(take, strikes)
    clock = strikes.clock_s
    length = max(1e-9, float(clock[-1] - clock[0]))
    part = (clock - clock[0]) / length
    columns.append(length * (part**2 - part) / 2)
    sds.append(SLOPE_SD)
    if strikes.hand.any() and not strikes.hand.all():
        together = np.bincount(strikes.instant)[strikes.instant] > 1
        columns.append((strikes.hand.astype(np.float64) - 0.5) * together)
        sds.append(take.together_sd_s)
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
    for stretch in stretches:
        stretch.weigh(scale)
    scale = _settled(stretches, scale, widens=False)
    for stretch in stretches:
        stretch.choose_ways()
    # Only when it is known how each class works can be told which strikes lie far out.
    scale = _settled(stretches, scale, widens=True)
    residuals = [stretch.residuals(stretch.ordinary()) for stretch in stretches]
    player = drawn_to(FIRST_SCALE, scale * spread_of(residuals), residuals)
    return list(_gathered(stretches, range(len(take.hands)))), min(HIGHEST_SCALE, max(LOWEST_SCALE, player))


def _settled(stretches: Sequence[_Stretch], scale: float, *, widens: bool) -> float:
    """How well the player plays, from the residuals, with the stretches weighed by it. ``widens``: strikes that lie far
    out are given more variance."""
    for turn in range(ROUNDS):
        residuals = [stretch.residuals(stretch.free) for stretch in stretches]
        spread = spread_of(residuals)
        scale = min(HIGHEST_SCALE, max(LOWEST_SCALE, scale * spread))
        if (turn or not widens) and abs(spread - 1) < SETTLED:
            break
        for stretch, residual in zip(stretches, residuals, strict=True):
            if widens:
                stretch.wide = np.maximum(1.0, (np.abs(residual.in_sds) / (OUTLYING * max(spread, 0.3))) ** 2)
            stretch.weigh(scale)
    return scale


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
