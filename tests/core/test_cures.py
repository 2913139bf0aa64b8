"""Causes of stops, cures by rung and school, what is said first, and the new faults. Tables by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import F, demo_score, played_by_hand, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.judging.cures import CURES, cure_for
from laptick.core.judging.finding import FINDING_FACTS, Finding, FindingCode
from laptick.core.judging.finding_words import say
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.measuring.stop_causes import causes_of
from laptick.core.score.score import Hand, Place
from laptick.core.student.faults import FAULTS, parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.listening import Beside, MeasuredSlip, heard_onsets, lay_beside
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task

HARBOUR = demo_score("harbour-steps")
KEYS = lap_task(HARBOUR, assigned_bpm=66, with_pitches=True)
TAPS = lap_task(HARBOUR, assigned_bpm=66)
RIGHT = lap_task(HARBOUR, assigned_bpm=66, with_pitches=True, hands=(Hand.RIGHT,))


def finding(code, amount=2.0, **change):
    return replace(Finding(code, Place("3", F(0)), amount, 1.0, "share", 1.0, Hand.RIGHT, F(1, 2)), **change)


def test_every_code_has_a_rank_words_a_cure_and_its_better():
    assert set(FindingCode) == set(FINDING_FACTS) == set(CURES)
    for code in CURES:
        assert say(KEYS, finding(code)).endswith(".")
        for task in (KEYS, TAPS, RIGHT):
            for many in (2.0, 9.0):
                cure = cure_for(task, finding(code, many), back_to_one_hand=True)
                assert "{" not in cure.text
                assert len(cure.text) < 120


@pytest.mark.parametrize(
    ("task", "code", "amount", "alone", "expected"),
    [
        (KEYS, "uneven", 2, True, ("one-hand", "play")),  # school A: back to one hand
        (KEYS, "uneven", 2, False, ("slow-steady", None)),  # school B: slower, together
        (RIGHT, "uneven", 2, True, ("slow-steady", None)),  # there is no other hand to leave out
        (TAPS, "uneven", 2, True, ("slow-steady", None)),  # nothing alone on the lap
        (KEYS, "hands-apart", 9, False, ("lap-first", "lap")),  # far apart: away from the keys first
        (KEYS, "hands-apart", 2, False, ("meet", None)),
        (TAPS, "hands-apart", 9, False, ("meet", None)),
        (KEYS, "missing", 2, False, ("line-up", None)),
        (TAPS, "missing", 2, False, ("count-first", "count")),
        (KEYS, "rushed-run", 2, False, ("count-steady", "count")),
        (KEYS, "long-cut", 2, False, ("hold", None)),
        (KEYS, "rest-run-over", 2, False, ("lift", None)),
        (KEYS, "limping", 9, True, ("one-hand-swapped", "play")),
    ],
)
def test_the_cure_by_rung_hands_and_school(task, code, amount, alone, expected):
    cure = cure_for(task, finding(code, amount), back_to_one_hand=alone)
    assert (cure.code, cure.rung) == expected


@pytest.mark.parametrize(
    ("task", "expected"),
    [(KEYS, ("lap-first", "lap")), (TAPS, ("count-first", "count")), (RIGHT, ("count-first", "count"))],
)
def test_without_a_beat_it_is_sought_away_from_the_keys(task, expected):
    cure = cure_for(task, finding("uneven", 2, beatless=True), back_to_one_hand=True)
    assert (cure.code, cure.rung) == expected
    assert len(cure.text) < 120


def with_strays(task, source, missing, extra):
    """A clean take with some strikes that were matched to nothing on both sides."""
    checked = check_take(task, simulate(task, seed=1, source=source))
    strays = {"missing": tuple(range(missing)), "extra": tuple(range(extra))}
    return replace(checked, matching=replace(checked.matching, **strays))


def test_strikes_out_of_place_are_said_after_the_unevenness_that_explains_them():
    both = [finding("missing", 5), finding("extra", 4), finding("uneven", 2)]
    keys = with_strays(KEYS, Source.MIDI, 5, 4)
    verdict = give_verdict(keys, both)
    assert (verdict.main.finding.code, verdict.also.finding.code) == ("uneven", "missing")
    assert give_verdict(keys, both[:2]).main.finding.code == "missing"
    assert give_verdict(with_strays(KEYS, Source.MIDI, 9, 4), both).main.finding.code == "missing"


def test_of_taps_out_of_place_nothing_is_said_but_the_unevenness():
    both = [finding("missing", 5), finding("extra", 4), finding("uneven", 2)]
    verdict = give_verdict(with_strays(TAPS, Source.TAPS, 5, 4), both)
    assert (verdict.main.finding.code, verdict.also) == ("uneven", None)
    left_out = finding("missing", 8, until=Place("5", F(0)))
    assert give_verdict(with_strays(TAPS, Source.TAPS, 5, 4), [*both, left_out]).main.finding.until
    assert give_verdict(with_strays(TAPS, Source.TAPS, 5, 0), both[::2]).main.finding.code == "missing"


class TestCauses:
    score = score_of(
        "C5/q D5/q E5/q F5/q | C6/q D6/q C6/q B5/q | C5+E6/q D5/q E5/q F5/q", "C3/q D3/q C3/h | C3/w | C2/h D2/h"
    )
    task = lap_task(score, assigned_bpm=60, with_pitches=True)

    def between(self, before, here):
        first = next(e for e in self.task.expected if e.onset_quarters == before)
        return causes_of(self.task, first, next(e for e in self.task.expected if e.onset_quarters == here))

    def test_by_hand(self):
        assert self.between(0, 1) == ()  # C–D and C–D: the next finger of two hands that stay where they are
        # C5 to F5 lie under one hand, B5 to D6 under another; the left hand's C3 stays where it is.
        assert self.between(3, 4) == ("bar-line", "hand-move")
        assert self.between(4, 5) == ()
        assert self.between(7, 8) == ("bar-line", "hand-move", "both-change", "wide-reach")  # C5 to E6 in one hand

    def test_away_from_the_keys_no_hand_moves(self):
        task = lap_task(self.score, assigned_bpm=60)
        last = [e for e in task.expected if e.onset_quarters in (7, 8)]
        assert causes_of(task, last[0], last[-1]) == ("bar-line",)


class TestFaults:
    @pytest.mark.parametrize("kind", sorted(FAULTS))
    def test_every_fault_can_be_written_and_played(self, kind):
        fault = parse_fault(FAULTS[kind].example)
        kite = lap_task(demo_score("kite-over-the-orchard"), assigned_bpm=66, with_pitches=True)  # it has triplets
        task = kite if kind == "bend-triplets" else KEYS
        plain, bent = (simulate(task, seed=2, faults=f, source=Source.MIDI) for f in ((), (fault,)))
        assert plain.strikes != bent.strikes

    def test_key_ups_lie_where_the_level_has_them(self):
        """At first-year skill a clean take's long notes end early, and its rests are run into, by 60 % of the limits."""
        limits = LIMITS[Level.FIRST_YEAR]
        cut, over = [], []
        for seed in range(20):
            measured = check_take(KEYS, simulate(KEYS, level=Level.FIRST_YEAR, seed=seed, source=Source.MIDI)).measured
            quarter_ms = 60_000 / measured.median_bpm
            cut += [
                quarter_ms * (float(n.written_quarters) - n.sounded_quarters)
                for n in measured.long_notes
                if not n.before_rest
            ]
            over += [entry.ran_over_ms for entry in measured.entries]
        beat_ms = 60_000 / 66
        assert sorted(cut)[len(cut) // 2] == pytest.approx(0.6 * limits.cut_ms(beat_ms), rel=0.2)
        assert sorted(over)[len(over) // 2] == pytest.approx(0.6 * limits.over_ms(beat_ms), rel=0.25)

    def test_taps_cannot_be_held(self):
        with pytest.raises(OptionError, match="no key-up"):
            simulate(TAPS, faults=[parse_fault("hold-rests=40")])


class TestListening:
    def test_a_slip_belongs_to_the_note_a_quarter_second_before_the_key(self):
        task = lap_task(score_of("C5/q D5/q E5/q F5/q | G5/w"), assigned_bpm=60)
        assert heard_onsets(task, [4.3, 6.2, 6.3, 30.0, 0.0], 4.0, 60) == [0, 1, 2, 4, 0]

    def test_heard_and_measured_meet_within_a_beat_nearest_first(self):
        measured = [MeasuredSlip(F(4), "late"), MeasuredSlip(F(9, 2), "missing"), MeasuredSlip(F(12), "extra")]
        assert lay_beside([F(5), F(20)], measured, F(1)) == [
            Beside(F(4), False, "late"),
            Beside(F(5), True, "missing"),
            Beside(F(12), False, "extra"),
            Beside(F(20), True, None),
        ]

    def test_each_is_used_once(self):
        assert lay_beside([F(4), F(4)], [MeasuredSlip(F(4), "late")], F(1)) == [
            Beside(F(4), True, "late"), Beside(F(4), True, None),
        ]  # fmt: skip


def test_long_notes_rushed_are_not_uneven_besides():
    task = lap_task(score_of(" | ".join(["C5/e D5/e E5/q F5/e E5/e D5/q"] * 6)), assigned_bpm=60, with_pitches=True)
    now, shifts = 0.0, {}
    for index, expected in enumerate(task.expected):
        shifts[index] = -now
        now += 300.0 if expected.until_next_quarters == 1 else 0.0
    judged = judge_take(task, played_by_hand(task, shifts_ms=shifts, source=Source.MIDI), LIMITS[Level.ELEMENTARY])
    codes = {f.code for f in judged.findings}
    assert "long-rushed" in codes
    assert not codes & {"uneven", "rushed-run"}
