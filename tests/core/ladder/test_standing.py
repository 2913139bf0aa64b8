"""Where a student stands: what is next, what a take shows, what is known elsewhere, and where a rung that will not go
leads to – to an end, always. Common practice, no source; docs/trade.md 3.3."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import demo_score
from laptick.core.base.activity import Activity
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.gates import TRIES_A_DAY, Evidence, Outcome, fold
from laptick.core.practice.ladder.standing import (
    BarState,
    Played,
    bar_standings,
    for_today,
    leads_to,
    next_rung,
    rung_of,
    start_tempo,
    ticked_by,
)

SCORE = demo_score("harbour-steps")
LADDER = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88))
KEYS = [rung.key for rung in LADDER.rungs]


def passed(*keys: str, day: int = 1):
    return {key: fold(LADDER.rung(key).gate, [Evidence(Outcome.WORD, day, "the teacher")]) for key in keys}


def failed(tries: int, *keys: str, day: int = 1):
    return {key: fold(LADDER.rung(key).gate, [Evidence(Outcome.NOT_YET, day, "the checker")] * tries) for key in keys}


def test_the_lowest_that_is_not_passed_is_next_and_three_of_its_line_are_for_today():
    assert next_rung(LADDER, {}, 1).key == KEYS[0]
    assert [rung.key for rung in for_today(LADDER, {}, 1)] == KEYS[:3]
    states = passed(*KEYS[:10])
    assert [rung.key for rung in for_today(LADDER, states, 1)] == KEYS[10:12]  # two are left of the line
    assert for_today(LADDER, passed(*KEYS), 1) == []


def test_what_had_its_tries_waits_for_another_day():
    states = passed(*KEYS[:2]) | failed(TRIES_A_DAY, KEYS[2])
    assert next_rung(LADDER, states, 1).key == KEYS[3]
    assert next_rung(LADDER, states, 2).key == KEYS[2]


@pytest.mark.parametrize(
    ("played", "key"),
    [
        (Played(0, 3, Activity.LAP, "both"), "lap:1-4:both"),
        (Played(0, 0, Activity.PLAY, "both"), "join:1-1:both"),
        (Played(4, 7, Activity.PLAY, "left"), "left:5-8:left"),
        (Played(0, 7, Activity.PLAY, "both"), "join:1-8:both"),
        (Played(0, 7, Activity.LAP, "both"), None),
        (Played(0, 1, Activity.PLAY, "right"), None),
    ],
)
def test_the_rung_that_asks_for_just_this(played, key):
    found = rung_of(LADDER, played)
    assert (found and found.key) == key


#: What is played → what a clean take of it shows to be known, by hand.
SHOWN = [
    (Played(0, 3, Activity.COUNT, "both"), ["hear:1-4:both"]),
    (Played(0, 3, Activity.LAP, "both"), ["hear:1-4:both", "count:1-4:both"]),
    (Played(0, 3, Activity.PLAY, "right"), ["hear:1-4:both"]),
    (
        Played(0, 1, Activity.PLAY, "both"),  # bar 3 holds what bar 1 does
        ["join:1-1:both"],
    ),
    (
        Played(0, 3, Activity.PLAY, "both"),
        ["hear:1-4:both", "count:1-4:both", "right:1-4:right", "left:1-4:left", "lap:1-4:both", "line-up:1-4:both",
         "join:1-1:both", "join:1-2:both", "join:2-3:both", "join:3-4:both", "seams:2-3@0:both"],
    ),
]  # fmt: skip


@pytest.mark.parametrize(("played", "keys"), SHOWN)
def test_what_a_clean_take_shows(played, keys):
    tried = rung_of(LADDER, played)
    assert [rung.key for rung in ticked_by(LADDER, played, tried, {})] == keys


def test_all_of_it_on_the_lap_shows_both_lines():
    found = ticked_by(LADDER, Played(0, 7, Activity.LAP, "both"), None, {})
    assert {rung.key for rung in found} == {
        f"{stage}:{bars}:both" for stage in ("hear", "count", "lap") for bars in ("1-4", "5-8")
    }


def test_a_bar_is_known_where_it_recurs():
    """Bars 1, 3 and 5 hold the same."""
    bars = bar_standings(LADDER, passed("join:1-1:both"))
    assert [bar.state is BarState.KNOWN for bar in bars] == [LADDER.same_as[i] == 0 for i in range(8)]
    assert [bar.elsewhere for bar in bars] == [i != 0 and LADDER.same_as[i] == 0 for i in range(8)]
    begun = bar_standings(LADDER, passed("hear:1-4:both"))
    assert [bar.state for bar in begun[:2]] == [BarState.BEGUN] * 2


def test_both_hands_begin_no_faster_than_one_was_clean():
    joined = LADDER.rung("join:1-2:both")
    assert start_tempo(LADDER, joined, {}) == joined.tempos[0] == 56
    assert start_tempo(LADDER, joined, {"right:1-4:right": 60.0, "left:1-4:left": 50.0}) == 50
    assert start_tempo(LADDER, LADDER.rung("lap:1-4:both"), {"right:1-4:right": 40.0}) == 56


@pytest.mark.parametrize(("fray", "first"), [("back", "right:1-4:right"), ("never-back", "seams:2-3@0:both")])
def test_a_line_that_will_not_go_leads_back_or_to_smaller_pieces(fray, first):
    ladder = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88), {"fray": fray})
    rung = ladder.rung("join:1-4:both")
    assert leads_to(ladder, rung, failed(TRIES_A_DAY, rung.key), 1).key == first


@settings(max_examples=40)
@given(st.sampled_from(KEYS), st.sampled_from(["back", "never-back"]))
def test_who_cannot_pass_comes_to_an_end(key, fray):
    ladder = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88), {"fray": fray})
    rung, states, steps = ladder.rung(key), {}, 0
    while rung is not None:
        assert steps < len(ladder.rungs)
        states |= failed(TRIES_A_DAY, rung.key)
        rung, steps = leads_to(ladder, rung, states, 1), steps + 1
