"""Figures as ratios: hand-worked boundaries and takes, planted faults found, clean takes left alone."""

from __future__ import annotations

import math
from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import DEMO, demo_score, played_by_hand, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.counting.counting import default_bpm
from laptick.core.judging.finding_words import say
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.measuring.ratios import READINGS, centred, group_ratios, nearest
from laptick.core.score.score import Hand
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task
from sampling import sampled

DOTTED = score_of(
    "C5/e. D5/s E5/q F5/e. G5/s A5/q | C5/e. D5/s E5/e F5/e G5/e. F5/s E5/q | E5/q. D5/e C5/e. D5/s E5/q"
    " | C5/h D5/e. E5/s C5/q",
    "C3/q D3/q E3/q F3/q | C3/h E3/h | C3/q D3/q E3/q F3/q | C3/w",
)
TRIPLETS = score_of(
    "C5/et D5/et E5/et F5/q C5/et D5/et E5/et F5/q | G5/q C5/et D5/et E5/et F5/h | C5/et D5/et E5/et F5/q G5/h | C5/w",
    "C3/h D3/h | C3/h D3/h | C3/h D3/h | C3/w",
)


def figures(take: Performance, score, **task):
    checked = check_take(lap_task(score, **task), take)
    assert checked.measured is not None
    return group_ratios(checked.measured.ratios)


class TestReadings:
    """Boundaries lie at the geometric mean of the two ratios: √6 = 2.449 between 3:1 and 2:1, √2 between 2:1 and 1:1."""

    @pytest.mark.parametrize(
        ("written", "played", "reads_as"),
        [
            ((3, 1), (3.0, 1), (3, 1)), ((3, 1), (2.46, 1), (3, 1)), ((3, 1), (2.44, 1), (2, 1)), ((3, 1), (1.3, 1), (1, 1)),
            ((2, 1), (1.42, 1), (2, 1)), ((2, 1), (1.40, 1), (1, 1)), ((2, 1), (2.44, 1), (2, 1)), ((2, 1), (2.5, 1), (3, 1)),
            ((1, 1, 1), (1, 1, 1), (1, 1, 1)), ((1, 1, 1), (1.9, 1, 1), (2, 1, 1)), ((1, 1, 1), (1, 1.1, 2), (1, 1, 2)),
            ((1, 1, 1), (1.2, 1, 1.1), (1, 1, 1)), ((1, 1, 1), (1, 2, 1), (1, 2, 1)),
            ((2, 1, 1), (2, 1, 1), (2, 1, 1)), ((2, 1, 1), (1.2, 1, 1), (1, 1, 1)),
        ],
    )  # fmt: skip
    def test_nearest(self, written, played, reads_as):
        assert nearest(written, centred(played)) == reads_as

    @given(st.sampled_from(sorted(READINGS)), st.floats(0.05, 20))
    def test_a_figure_reads_as_itself_at_any_tempo(self, written, scale):
        assert nearest(written, centred([part * scale for part in written])) == written

    def test_centred_logarithms_by_hand(self):
        assert centred((4, 1)) == pytest.approx((math.log(2), -math.log(2)))


class TestFigures:
    def test_what_of_a_score_is_a_figure(self):
        """Dotted eighths fill a beat, the dotted quarter two; two eighths and a quarter are one; plain quarters none."""
        take = played_by_hand(lap_task(DOTTED, assigned_bpm=60), scale=0)
        found = {(f.hand, f.written, f.length_quarters): len(f.ratios) for f in figures(take, DOTTED, assigned_bpm=60)}
        assert found[Hand.RIGHT, (3, 1), Fraction(1)] == 6
        assert found[Hand.RIGHT, (3, 1), Fraction(2)] == 1
        assert not [key for key in found if key[0] is Hand.LEFT]

    def test_every_ratio_of_a_take_by_hand(self):
        """At 60: bar 1's short notes fall at 0.75 and 2.75; moved 60 ms early they make 690:310 = 2.23."""
        task = lap_task(DOTTED, assigned_bpm=60)
        shorts = [
            i for i, e in enumerate(task.expected) if e.hand is Hand.RIGHT and e.onset_quarters % 1 == Fraction(3, 4)
        ]
        take = played_by_hand(task, scale=0, shifts_ms=dict.fromkeys(shorts, -60.0))
        ratios = next(f for f in figures(take, DOTTED, assigned_bpm=60) if f.length_quarters == 1).ratios
        assert [r.onset_quarters for r in ratios] == [0, 2, 4, 6, 10, 14]
        for ratio in ratios:
            assert ratio.played == pytest.approx((690 / 310, 1), rel=1e-6)
            assert ratio.reads_as == (2, 1)

    def test_two_to_one_in_six_eight(self):
        boat = demo_score("lantern-boat")
        found = figures(played_by_hand(lap_task(boat, assigned_bpm=40), scale=0), boat, assigned_bpm=40)
        assert {f.written for f in found} == {(2, 1)}
        assert all(f.played == pytest.approx((2, 1), rel=1e-6) for f in found)

    def test_a_stop_inside_breaks_the_figure(self):
        task = lap_task(DOTTED, assigned_bpm=60)
        take = played_by_hand(task, scale=0)
        cut = next(i for i, s in enumerate(take.strikes) if s.played_s > take.strikes[0].played_s + 0.7)
        late = [replace(s, played_s=s.played_s + (2.0 if i >= cut else 0)) for i, s in enumerate(take.strikes)]
        whole = figures(take, DOTTED, assigned_bpm=60)
        broken = figures(replace(take, strikes=tuple(late)), DOTTED, assigned_bpm=60)
        assert sum(len(f.ratios) for f in broken) == sum(len(f.ratios) for f in whole) - 1

    @settings(deadline=None)
    @given(st.floats(0.5, 2.0), st.floats(0, 50))
    def test_tempo_and_start_change_no_ratio(self, stretch, shift):
        task = lap_task(DOTTED, assigned_bpm=60)
        take = played_by_hand(task)
        moved = tuple(Strike(s.played_s * stretch + shift, s.hand) for s in take.strikes)
        before = [r.played for f in figures(take, DOTTED, assigned_bpm=60) for r in f.ratios]
        other = replace(take, strikes=moved, first_beat_s=None, click_bpm=None)
        after = [r.played for f in figures(other, DOTTED, assigned_bpm=60 / stretch) for r in f.ratios]
        assert len(before) == len(after)
        for a, b in zip(before, after, strict=True):
            assert a == pytest.approx(b, rel=1e-6)


class TestFindings:
    def codes(self, score, level, seed, *faults, bpm=72.0):
        task = lap_task(score, assigned_bpm=bpm)
        checked = check_take(task, simulate(task, level=level, seed=seed, faults=[parse_fault(f) for f in faults]))
        return checked, find_findings(checked, LIMITS[level])

    @pytest.mark.parametrize("level", list(Level))
    def test_flattened_dots_are_named(self, level):
        named = 0
        for seed in range(20):
            checked, found = self.codes(DOTTED, level, seed, "flatten-dots=2:1")
            named += "dot-flattened" in {f.code for f in found}
            if found and found[0].code == "dot-flattened":
                verdict = give_verdict(checked, found)
                assert "dotted" in verdict.main.text
        assert named >= (15 if level is Level.FIRST_YEAR else 18)

    @pytest.mark.parametrize(("parts", "words"), [("2:1:1", "long-short-short"), ("1:1:2", "short-short-long")])
    def test_bent_triplets_are_named_as_what_they_became(self, parts, words):
        told = 0
        for seed in range(20):
            checked, found = self.codes(TRIPLETS, Level.ELEMENTARY, seed, f"bend-triplets={parts}", bpm=56)
            verdict = give_verdict(checked, found)
            told += verdict.main is not None and words in verdict.main.text
        assert told >= 12  # the others lose a strike to the matching

    @pytest.mark.parametrize(("early_ms", "text"), [(83, "into a triplet"), (250, "into two equal notes"), (400, None)])
    def test_what_a_dotted_pair_turns_into_and_no_further(self, early_ms, text):
        """At 60 the short note comes 750 ms after the long one: two thirds, a half, and less than that of the beat."""
        task = lap_task(DOTTED, assigned_bpm=60, with_pitches=True)
        shorts = {i: -early_ms for i, e in enumerate(task.expected) if e.onset_quarters % 1 == Fraction(3, 4)}
        take = played_by_hand(task, scale=0.2, shifts_ms=shorts, source=Source.MIDI)
        found = [
            f for f in find_findings(check_take(task, take), LIMITS[Level.INTERMEDIATE]) if f.code == "dot-flattened"
        ]
        assert [text in say(task, f) for f in found] == ([True] if text else [])

    def test_a_duplet(self):
        """6/8 at 40: the short note moved from two thirds to a half of its beat, in every long-short of both hands."""
        boat = demo_score("lantern-boat")
        task = lap_task(boat, assigned_bpm=40)
        clean = check_take(task, played_by_hand(task)).measured
        shorts = {(r.hand, r.onset_quarters + 1) for r in clean.ratios}
        moved = {
            i: -250.0 for i, e in enumerate(task.expected) if (e.hand, e.onset_quarters) in shorts
        }  # a sixth of 1.5 s
        found = find_findings(check_take(task, played_by_hand(task, shifts_ms=moved)), LIMITS[Level.FIRST_YEAR])
        assert "duplet" in {f.code for f in found}

    @pytest.mark.parametrize("level", list(Level))
    def test_clean_takes_are_left_alone(self, level):
        blamed = 0
        for score in (DOTTED, TRIPLETS, *(demo_score(name) for name in DEMO)):
            for seed in range(sampled(8, 25)):
                _, found = self.codes(score, level, seed, bpm=0.8 * (default_bpm(score) or 72))
                blamed += any(f.code in ("dot-flattened", "triplet-bent", "duplet") for f in found)
        assert blamed == 0

    def test_two_dotted_pairs_are_shown_not_judged(self):
        two = score_of("C5/e. D5/s E5/q F5/e. G5/s A5/q | C5/q D5/q E5/q F5/q", "C3/w | D3/w")
        task = lap_task(two, assigned_bpm=60)
        shorts = {i: -83.0 for i, e in enumerate(task.expected) if e.onset_quarters % 1 == Fraction(3, 4)}
        checked = check_take(task, played_by_hand(task, scale=0, shifts_ms=shorts))
        assert [f.reads_as for f in group_ratios(checked.measured.ratios)] == [(2, 1)]
        assert not [f for f in find_findings(checked, LIMITS[Level.ADVANCED]) if f.code == "dot-flattened"]


class TestFaults:
    def test_read_and_refused(self):
        assert parse_fault("flatten-dots=2:1").amount == 2
        assert parse_fault("bend-triplets=2:1:1").parts == (2, 1, 1)
        for wrong in (
            "bend-triplets=2:1",
            "bend-triplets=a:b:c",
            "bend-triplets=9:1:1",
            "bend-triplets=0:1:1",
            "flatten-dots=9",
        ):
            with pytest.raises(OptionError):
                parse_fault(wrong)

    def test_only_the_inner_notes_move(self):
        task = lap_task(TRIPLETS, assigned_bpm=60)
        plain, bent = (simulate(task, seed=4, faults=f) for f in ((), (parse_fault("bend-triplets=2:1:1"),)))
        moved = {
            round(b.played_s - a.played_s, 3)
            for a, b in zip(plain.strikes, bent.strikes, strict=True)
            if a.hand is b.hand
        }
        assert plain.source is Source.TAPS
        assert moved <= {0.0, 0.167, 0.083}
