"""Seams: what the hands have to do on arrival, worked by hand at 84 quarters a minute. Common practice, no source."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction as F

import pytest
from hypothesis import given, settings
from passages import passages

from helpers import score_of
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import Signs
from laptick.core.together.costs import Reason
from laptick.core.together.seams import Seam, Spot, Where, seams_of
from sampling import sampled


def at_bar(right: str, left: str, bar: int = 1) -> Seam:
    return next(s for s in seams_of(score_of(right, left)) if s.to.measure_index == bar and s.where is Where.BAR_LINE)


def test_both_hands_leap_an_octave_outward():
    """0.42 · log2 8 / (1 + 0.18 / 0.4) · 1.4 = 1.21 each, 0.18 for two that mirror, 0.12 for unequal outer steps: 2.7."""
    seam = at_bar("C5/q D5/q G5/q E5/q | C6/q D6/q E6/q G6/q", "C3/q D3/q G3/q E3/q | C2/q D2/q E2/q G2/q")
    assert seam.cost == pytest.approx(2.72, abs=0.02)
    assert seam.points == pytest.approx(83.7, abs=0.5)
    assert seam.reasons[0] is Reason.MOVES_WITHOUT_TIME
    assert (seam.before, seam.to) == (Spot(0, F(3)), Spot(1, F(0)))


def test_a_chord_held_long_then_both_change():
    """0.2 for two new notes of another shape, 0.49 after eight counts, 0.12 for the sixth it opens to, −0.03 mirrored."""
    seam = at_bar("C5/w~ | C5/w | D5/w", "C3+E3+G3/w~ | C3+E3+G3/w | B2+D3+G3/w", bar=2)
    assert seam.cost == pytest.approx(0.78, abs=0.01)
    assert seam.reasons[0] is Reason.BOTH_CHANGE


def test_nothing_to_do_on_arrival_costs_next_to_nothing():
    assert at_bar("C5/q D5/q E5/q C5/q | C5/q D5/q E5/q C5/q", "C3/w | C3/w").points < 8


def test_it_begins_where_the_hand_that_moves_last_played():
    """The right hand rests on 4; the left plays on to it and stays."""
    seam = at_bar("C4/q E4/q G4/q r/q | G4/q A4/q B4/q D5/q", "C3/q G3/q C3/q G3/q | C3/q G3/q C3/q G3/q")
    assert (seam.before, seam.to) == (Spot(0, F(2)), Spot(1, F(0)))
    assert Reason.MOVES_WITHOUT_TIME not in seam.reasons


def test_a_move_inside_a_bar_is_a_seam_between_its_beats():
    found = seams_of(score_of("C4/q D4/q C5/q D5/q", "C3/w"))
    assert [(s.where, s.before, s.to) for s in found] == [(Where.INSIDE, Spot(0, F(1)), Spot(0, F(2)))]


def test_met_before_it_is_half_as_hard():
    bar, far = "C5/q D5/q E5/q G5/q", "C6/q D6/q E6/q G6/q"
    found = seams_of(score_of(f"{bar} | {far} | {bar} | {far}", " | ".join(["C3/w"] * 4)))
    costs = {seam.to.measure_index: seam.cost for seam in found}
    assert costs[3] == pytest.approx(costs[1] / 2)


def test_the_end_of_a_repeat_leads_back_to_its_start():
    score = score_of("C5/q D5/q E5/q G5/q | C6/q D6/q E6/q G6/q", "C3/w | C3/w")
    last = replace(score.measures[1], signs=Signs(backward=2))
    repeated = replace(score, measures=(score.measures[0], last))
    assert play_order(repeated).order == (0, 1, 0, 1)
    back = next(s for s in seams_of(repeated) if s.where is Where.REPEAT)
    assert (back.before, back.to) == (Spot(1, F(3)), Spot(0, F(0)))
    assert back.points > 50


@given(score=passages())
@settings(max_examples=sampled(40, 200), deadline=None)
def test_hardest_first_and_each_goes_on(score):
    found = seams_of(score)
    assert [s.points for s in found] == sorted((s.points for s in found), reverse=True)
    for seam in found:
        assert 0 <= seam.points <= 100
        before, to = seam.before, seam.to
        assert (before.measure_index, before.offset_quarters) < (to.measure_index, to.offset_quarters)


def test_into_a_new_line_the_eyes_jump():
    """The same bars, the second of them on a new line: 0.15 more."""
    score = score_of("C5/q D5/q E5/q C5/q | D5/q E5/q C5/q D5/q", "C3/w | C3/w")
    broken = replace(score, measures=(score.measures[0], replace(score.measures[1], line=2, bar_in_line=1)))
    plain, jumped = (seams_of(one)[0] for one in (score, broken))
    assert jumped.cost == pytest.approx(plain.cost + 0.15)
    assert Reason.LINE_JUMP in jumped.reasons
    assert Reason.LINE_JUMP not in plain.reasons
