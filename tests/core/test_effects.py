"""What pulls at the beat: effects recovered from takes without noise, pooled amounts and the two-part test worked by hand,
tempo steps; and what must hold of every take.

Sources: means and standard errors by hand; the two-part test's cases by what was put in. Common practice elsewhere.
"""

from __future__ import annotations

from fractions import Fraction
from statistics import NormalDist

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import score_of
from laptick.core.base.levels import Level
from laptick.core.effects.beyond import ask_all, wary_of_unsteady
from laptick.core.effects.inverses import inverse
from laptick.core.effects.meetings import late_at_places_only
from laptick.core.effects.phrases import possible
from laptick.core.effects.places import Kind, Scale, find_spots
from laptick.core.effects.pooling import Margins, apart, ask, in_part, pooled, questions
from laptick.core.effects.regression import estimate
from laptick.core.effects.spread import Residuals, drawn_to, spread_of
from laptick.core.effects.taking import as_take
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Expected, lap_task

#: Pairs and fours of eighths, rests in both hands, landings: eight bars.
PIECE = score_of(
    " | ".join(
        ["C5/e D5/e E5/q r/q F5/q", "C5/e D5/e E5/e F5/e G5/q E5/q", "C5/q r/q E5/e D5/e C5/q", "E5/h C5/h"] * 3
    ),
    " | ".join(["C3/q E3/q G3/q E3/q", "C3/h r/q G3/q", "C3/q E3/q r/q G3/q", "C3/h G3/h"] * 3),
)
TASK = lap_task(PIECE, assigned_bpm=72)
SCALE = Scale(LIMITS[Level.ELEMENTARY], TASK.beat_quarters, 60 / 72, 0.005)


def taps(moved, clock=None) -> Performance:
    at = clock or (lambda quarters: quarters * TASK.quarter_s)
    strikes = [Strike(2 + at(float(e.onset_quarters)) + moved(e), e.hand) for e in TASK.expected]
    return Performance(Source.TAPS, tuple(sorted(strikes, key=lambda s: s.played_s)), 2.0, None)


def effects(moved, kind: Kind, clock=None) -> list[tuple[Hand | None, float]]:
    measured = check_take(TASK, taps(moved, clock)).measured
    assert measured is not None
    found, _ = estimate(as_take(TASK, measured, SCALE), find_spots(TASK, measured, SCALE))
    return [
        (spot.hand, value)
        for one in found
        if one.kind is kind
        for spot, value in zip(one.spots, one.values, strict=True)
    ]


def still(_: Expected) -> float:
    return 0.0


class TestEffectsAreRecovered:
    def test_none_where_there_is_none(self):
        for kind in Kind:
            assert all(abs(value) < 0.005 for _, value in effects(still, kind)), kind

    def test_entries_of_one_hand(self):
        """120 ms at every entry of the left hand, the right on time."""
        entering = {Fraction(7), Fraction(11)}
        late = effects(lambda e: 0.12 * (e.hand is Hand.LEFT and e.onset_quarters % 16 in entering), Kind.ENTRY)
        assert [value for hand, value in late if hand is Hand.LEFT] == pytest.approx([0.12] * 6, abs=0.015)
        assert [value for hand, value in late if hand is Hand.RIGHT] == pytest.approx([0] * 6, abs=0.015)

    def test_runs_that_pull_the_beat_along(self):
        """Every run a fifth too fast, all that follows sooner: 1/4 of a bar's four beats in bar 1, 1/2 in bar 2."""
        runs = [(16 * n + a, 16 * n + b) for n in range(3) for a, b in ((0, 1), (4, 6), (10, 11))]

        def clock(quarters: float) -> float:
            return TASK.quarter_s * (quarters - 0.2 * sum(min(max(0.0, quarters - a), b - a) for a, b in runs))

        assert [value for _, value in effects(still, Kind.RUN, clock)] == pytest.approx([0.2] * 9, abs=0.05)

    def test_landings(self):
        lands = {Fraction(1), Fraction(6), Fraction(11)}
        late = effects(lambda e: 0.1 * (e.hand is Hand.RIGHT and e.onset_quarters % 16 in lands), Kind.LANDING)
        assert [value for _, value in late] == pytest.approx([0.1] * 9, abs=0.015)


class TestLateAtPlacesOnly:
    """The left hand enters at 7 and 11 of every sixteen quarters; the hands meet there and at seven other moments."""

    ENTERS = frozenset({Fraction(7), Fraction(11)})

    def late(self, e: Expected) -> float:
        return 0.12 * (e.hand is Hand.LEFT and e.onset_quarters % 16 in self.ENTERS)

    def asked(self, moved) -> bool:
        measured = check_take(TASK, taps(moved)).measured
        assert measured is not None
        return late_at_places_only(as_take(TASK, measured, SCALE), find_spots(TASK, measured, SCALE))

    def test_a_hand_late_at_its_entries(self):
        assert self.asked(self.late)

    @pytest.mark.parametrize("hand", list(Hand))
    def test_a_hand_late_throughout_is_not(self, hand):
        assert not self.asked(lambda e: 0.12 * (e.hand is hand))

    def test_nor_one_that_is_on_time(self):
        assert not self.asked(still)

    def test_with_a_perfect_other_hand_no_lag_is_read_into_it(self):
        """The entries have their whole lateness, the landings none."""
        measured = check_take(TASK, taps(self.late)).measured
        assert measured is not None
        late = [one for one in ask_all(TASK, measured, SCALE).beyond if one.kind is Kind.ENTRY]
        assert [(one.hand, one.amount) for one in late] == [(Hand.LEFT, pytest.approx(0.12, abs=0.015))]


class TestPooling:
    def test_a_mean_and_its_error(self):
        """Values 1, 2, 1, 2, each known to 0.3 with an ordinary spread of 0.4: the mean is 1.5; one place has an error of
        0.5, four by themselves 0.25; the seen spread (SD 0.577, of the mean 0.289) counts as 4 of 10 places."""
        mean, error = pooled(apart([1, 2, 1, 2], [0.3] * 4), 0.4)
        assert mean == pytest.approx(1.5)
        assert error == pytest.approx((0.6 * 0.25**2 + 0.4 * 0.2887**2) ** 0.5, rel=0.01)

    def test_what_lies_within_its_limit_is_not_named(self):
        assert ask(apart([0.9, 1.0, 0.8, 0.95, 1.05, 0.85], [0.1] * 6), Margins(3, 0.15)) is None

    def test_what_lies_beyond_is(self):
        answer = ask(apart([1.5, 1.7, 1.6, 1.4, 1.5, 1.6], [0.1] * 6), Margins(3, 0.15))
        assert answer is not None
        assert answer.amount == pytest.approx(1.55, abs=0.02)

    def test_fewer_than_can_be_judged_are_not(self):
        assert ask(apart([3.0, 3.0], [0.1] * 2), Margins(3, 0.15)) is None

    def test_half_of_the_places(self):
        answer = in_part(apart([0.1, 2.0, -0.1, 2.1, 0.0, 1.9, 0.2, 2.0], [0.15] * 8), Margins(3, 0.2))
        assert answer is not None
        assert answer.in_part
        assert answer.rows == (1, 3, 5, 7)
        assert answer.amount == pytest.approx(2.0, abs=0.16)

    def test_one_place_far_out_does_not_hide_the_others(self):
        """By hand: a stray place is as likely in every model, so that what the others say stands."""
        answer = in_part(apart([0.1, 2.0, -0.1, 2.1, 0.0, 1.9, 0.2, 2.0, -400.0], [0.15] * 9), Margins(3, 0.2))
        assert answer is not None
        assert set(answer.rows) >= {1, 3, 5, 7}
        assert answer.amount == pytest.approx(2.0, abs=0.16)

    def test_the_last_third(self):
        """Six places on time, then three at twice the limit: too few for the half of them (1.2 with an error of 0.3), and
        clear by themselves."""
        answer = ask(apart([0.1, -0.1, 0, 0.1, 0, -0.1, 2.0, 1.9, 2.1], [0.1] * 9), Margins(3, 0.15, affected=4))
        assert answer is not None
        assert answer.rows == (6, 7, 8)
        assert not answer.in_part
        assert answer.amount == pytest.approx(2.0)

    def test_a_third_of_too_few_places_is_none(self):
        """The last third of seven places is two, where three are asked for: the later half, of four, is all there is."""
        amounts = apart([0.1, 0, -0.1, 0, 0.1, 3.0, 3.1], [0.1] * 7)
        answers = [answer for answer in questions(amounts, Margins(3, 0.15, affected=9)) if answer is not None]
        assert all(len(answer.rows) >= 3 for answer in answers)
        assert (5, 6) in {one.rows for one in questions(amounts, Margins(2, 0.15, affected=9)) if one is not None}

    def test_two_places_are_no_habit(self):
        assert in_part(apart([0.0, 2.0, 0.1, 0.0, 2.0, -0.1], [0.15] * 6), Margins(3, 0.2)) is None

    @given(st.lists(st.floats(-0.5, 0.85), min_size=5, max_size=30))
    def test_places_within_their_limit_are_never_part_of_a_fault(self, values):
        assert in_part(apart(values, [0.1] * len(values)), Margins(3, 0.2)) is None


class TestSpread:
    def test_of_noise_as_broad_as_it_is_thought_to_be(self):
        """Quantiles of a normal: its scale by a t distribution is a little below one, 0.92 where the median's is one."""
        normal = np.array([NormalDist().inv_cdf((i + 0.5) / 4000) for i in range(4000)])
        assert spread_of([Residuals(normal, np.ones(4000))]) == pytest.approx(0.92, abs=0.02)
        assert spread_of([Residuals(3 * normal, np.ones(4000))]) == pytest.approx(3 * 0.92, abs=0.06)

    def test_two_values_by_hand(self):
        """Half of them at 1, half at 2. With s² = 2.618 the weighed squares are 7 / (6 + 1/s²) = 1.097 and
        28 / (6 + 4/s²) = 3.719; their mean, 2.408, is 0.92 s²."""
        by_hand = Residuals(np.array([1.0, -2.0, 2.0, -1.0]), np.ones(4))
        assert spread_of([by_hand]) == pytest.approx(2.618**0.5, abs=0.002)

    def test_one_far_out_widens_it_by_little_and_what_is_not_told_by_nothing(self):
        rng = np.random.default_rng(3)
        values = rng.normal(size=60)
        without = spread_of([Residuals(values, np.ones(60))])
        far = np.append(values, 40.0)
        assert spread_of([Residuals(far, np.ones(61))]) < 1.1 * without
        assert spread_of([Residuals(far, np.append(np.ones(60), 0.0))]) == pytest.approx(without, rel=1e-3)

    def test_errs_less_than_a_median_does(self):
        """On sixty values of a t distribution of four degrees, over and over."""
        rng = np.random.default_rng(4)
        takes = rng.standard_t(4, size=(400, 60))
        ours = np.array([spread_of([Residuals(take, np.ones(60))]) for take in takes])
        medians = np.median(np.abs(takes), axis=1)
        assert np.std(ours) / np.mean(ours) < 0.85 * np.std(medians) / np.mean(medians)

    def test_who_plays_exactly_and_of_whom_nothing_is_told(self):
        assert 0 < spread_of([Residuals(np.zeros(9), np.ones(9))]) < 0.01
        untold = Residuals(np.zeros(9), np.zeros(9))
        assert np.isfinite(spread_of([untold]))
        assert drawn_to(0.6, 2.0, [untold]) == pytest.approx(0.6)

    def test_is_drawn_to_an_ordinary_one_as_five_strikes_would(self):
        """Five strikes that tell of 0.2 and five more of 0.6: the root of the mean of 0.04 and 0.36."""
        five = Residuals(np.ones(5), np.ones(5))
        assert drawn_to(0.6, 0.2, [five]) == pytest.approx(0.2**0.5)


@pytest.mark.parametrize(("player", "times"), [(0.3, 1.0), (0.46, 1.0), (0.56, 1.7), (0.8, 2.1), (2.42, 2.2)])
def test_the_less_steadily_the_clearer(player, times):
    """From 0.46 of the limit on seven times what is more, up to 2.1; of who is far beyond it 2.42 / 1.1."""
    assert wary_of_unsteady(player) == pytest.approx(times)


@pytest.mark.parametrize("kinds", [(Kind.ENTRY,), (Kind.LANDING,), (Kind.ENTRY, Kind.LANDING)], ids="-".join)
def test_who_is_late_at_half_of_the_places_is_no_unsteady_player(kinds):
    """Strikes off by 20 ms (SD); late by 2.5 limits at every other place of each hand: how steadily is played stays what
    it is without, to a tenth, in the middle of a dozen takes."""
    measured = check_take(TASK, taps(still)).measured
    assert measured is not None
    spots = [spot for spot in find_spots(TASK, measured, SCALE) if spot.kind in kinds]
    late = {
        (hand, spot.end_quarters)
        for kind in kinds
        for hand in (Hand.RIGHT, Hand.LEFT)
        for spot in [one for one in spots if (one.hand, one.kind) == (hand, kind)][1::2]
    }

    def player(seed: int, late_s: float) -> float:
        rng = np.random.default_rng(seed)
        off_s = {(e.hand, e.onset_quarters): 0.02 * rng.normal() for e in TASK.expected}
        take = taps(lambda e: off_s[e.hand, e.onset_quarters] + late_s * ((e.hand, e.onset_quarters) in late))
        measured = check_take(TASK, take).measured
        assert measured is not None
        return ask_all(TASK, measured, SCALE).player

    seeds = range(12)
    without = np.median([player(seed, 0.0) for seed in seeds])
    assert np.median([player(seed, 2.5 * SCALE.strike_limit_s) for seed in seeds]) < 1.1 * without


def test_phrases_of_eight_bars_may_end_every_two_three_or_four():
    """Of 8 bars: groups of 2, 3 and 4, five places and four widths each, first beats, and five ends."""
    shapes = list(possible([4.0 * bar for bar in range(9)], 1.0))
    assert [sum(s.group == group for s in shapes) for group in ("phrase", "first", "end")] == [60, 1, 5]


def test_a_tempo_step_is_told_with_its_bar():
    """From bar 7 on an eighth slower."""
    take = taps(still, lambda q: TASK.quarter_s * (q + max(0.0, q - 24) / 8))
    measured = check_take(TASK, take).measured
    assert measured is not None
    moved = ask_all(
        TASK, measured, Scale(LIMITS[Level.ELEMENTARY], TASK.beat_quarters, 60 / measured.median_bpm, 0.005)
    ).moved
    assert moved is not None
    assert moved.change is not None
    assert moved.change.bar == 6
    assert moved.change.share == pytest.approx(-0.12, abs=0.03)


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from(list(Hand)), st.floats(1.6, 3.0))
def test_a_fault_of_one_hand_stands_however_the_other_plays(seed, hand, times):
    """Late entries of one hand at half as much again of their limit and more are found, whether the other hand plays as
    people do or is made perfect."""
    spread_s = LIMITS[Level.ELEMENTARY].spread_ms(1000 * 60 / 72) / 1000 + 0.005
    entering = {Hand.LEFT: {Fraction(7), Fraction(11)}, Hand.RIGHT: {Fraction(3), Fraction(10)}}[hand]
    noise = dict(zip(TASK.expected, np.random.default_rng(seed).normal(0, 0.012, len(TASK.expected)), strict=True))

    def late(e: Expected, *, perfect: bool) -> float:
        if e.hand is not hand:
            return 0.0 if perfect else float(noise[e])
        return float(noise[e]) + times * spread_s * (e.onset_quarters % 16 in entering)

    for perfect in (False, True):
        found = find_findings(check_take(TASK, taps(lambda e, p=perfect: late(e, perfect=p))), LIMITS[Level.ELEMENTARY])
        assert any(f.code == "late-entry" and f.hand is hand for f in found)


def test_a_stretch_without_any_place_is_no_error():
    """Runs in the last third only: the first of the stretches holds none, and no other place is asked for."""
    long = score_of(" | ".join(["C5/q D5/q E5/q F5/q"] * 60 + ["C5/e D5/e E5/e F5/e G5/q E5/q"] * 20))
    task = lap_task(long, assigned_bpm=72)
    strikes = tuple(Strike(2 + float(e.onset_quarters) * task.quarter_s, e.hand) for e in task.expected)
    measured = check_take(task, Performance(Source.TAPS, strikes, 2.0, None)).measured
    assert measured is not None
    runs = [spot for spot in find_spots(task, measured, SCALE) if spot.kind is Kind.RUN]
    found, _ = estimate(as_take(task, measured, SCALE), runs)
    assert [len(one.spots) for one in found] == [20]
    assert all(abs(one.values).max() < 0.005 for one in found)


@pytest.mark.parametrize("rows", [1, 2, 48, 49, 97, 150])
def test_an_inverse_by_halves_is_the_inverse(rows):
    """Against numpy's own, and by what an inverse is."""
    clock_s = np.cumsum(np.random.default_rng(rows).uniform(0.1, 0.6, rows))
    covariance = 0.3 * np.minimum(clock_s[:, None], clock_s[None, :]) + 4e-4 * np.eye(rows)
    found = inverse(covariance)
    assert np.allclose(found, np.linalg.inv(covariance), rtol=1e-8, atol=1e-6)
    assert np.allclose(found @ covariance, np.eye(rows), atol=1e-8)
    assert np.allclose(found, found.T, rtol=1e-9, atol=1e-9)
