"""Spots of a passage: what of it is asked for, phrases that cut bars as chunks, and the one seam of a line that has a rung
of its own, by hand. Common practice, no source; docs/trade.md 1 (7), 3.3."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import demo_score
from laptick.core.base.activity import Activity
from laptick.core.base.errors import LapTickError, OptionError
from laptick.core.base.levels import Level
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.verdict import Status
from laptick.core.measuring.limits import limits_of
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.edits import AddRung, SetHands, SplitRung, apply_edits, check_edit
from laptick.core.practice.ladder.spots import Halt
from laptick.core.practice.ladder.stages import Stage
from laptick.core.practice.ladder.standing import Played, rung_of, ticked_by
from laptick.core.score.roadmap import laid_round
from laptick.core.score.score import Place
from laptick.core.score.within import Cut, Within, check_within, parse_within
from laptick.core.student.faults import Fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task

SCORE = demo_score("harbour-steps")
LADDER = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88))


class TestText:
    def test_is_read_as_it_is_written(self):
        within = parse_within("3..1/2")
        assert (within.from_quarters, within.to_quarters) == (3, Fraction(1, 2))
        assert within.text == "3..1/2"

    @given(st.fractions(0, 12, max_denominator=48), st.fractions(0, 12, max_denominator=48))
    def test_comes_back(self, begins, ends):
        assert parse_within(Within(begins, ends).text) == Within(begins, ends)

    @pytest.mark.parametrize("text", ["", "3", "3.1", "..", "3..", "-1..2", "1e9..2", "1/0..2", "3..1/2..4", "9" * 40])
    def test_anything_else_is_refused(self, text):
        with pytest.raises(OptionError):
            parse_within(text)

    @pytest.mark.parametrize(("text", "first", "last"), [("4..0", 0, 1), ("0..4", 0, 1), ("3..2", 0, 0)])
    def test_a_spot_lies_inside_its_bars(self, text, first, last):
        with pytest.raises(OptionError, match="no spot"):
            check_within(parse_within(text), SCORE.measures[first], SCORE.measures[last])

    def test_in_words(self):
        words = Within(Fraction(3), Fraction(0)).words
        assert words(SCORE.measures[2], SCORE.measures[3]) == "from beat 4 of bar 3 to beat 1 of bar 4"
        assert Within(Fraction(1), Fraction(5, 2)).words(SCORE.measures[2], SCORE.measures[2]) == (
            "from beat 2 to the note after beat 3 of bar 3"
        )


class TestTask:
    def asked(self, text: str, first: int, last: int, times: int = 1):
        measures = SCORE.measures[first : last + 1]
        score = laid_round(SCORE, measures, times) if times > 1 else SCORE
        cut = Cut(parse_within(text), len(measures))
        chosen = score.measures if times > 1 else measures
        return lap_task(score, assigned_bpm=60, measures=chosen, with_pitches=True, cut=cut)

    def whole(self, first: int, last: int):
        return lap_task(SCORE, assigned_bpm=60, measures=SCORE.measures[first : last + 1], with_pitches=True)

    @pytest.mark.parametrize(("text", "first", "last"), [("3..0", 1, 2), ("1..5/2", 6, 6), ("2..3", 0, 3)])
    def test_only_what_lies_in_it_is_asked_for_every_time_round(self, text, first, last):
        within, bars = parse_within(text), last - first + 1
        expected = [
            (one.onset_quarters, one.hand, one.pitch)
            for one in self.whole(first, last).expected
            if (one.measure_index > first or one.offset_quarters >= within.from_quarters)
            and (one.measure_index < last or one.offset_quarters <= within.to_quarters)
        ]
        asked = self.asked(text, first, last)
        assert [(one.onset_quarters, one.hand, one.pitch) for one in asked.expected] == expected
        if bars <= 4:
            length = asked.length_quarters
            rounds = self.asked(text, first, last, times=3)
            assert [(one.onset_quarters, one.hand, one.pitch) for one in rounds.expected] == [
                (time * length + onset, hand, pitch) for time in range(3) for onset, hand, pitch in expected
            ]

    def test_after_its_last_strike_comes_silence_for_as_long_as_one_likes(self):
        asked = self.asked("3..0", 1, 2, times=2)
        last_of_hand = [one for one in asked.expected if one.offset_quarters == 0]
        assert last_of_hand
        assert {one.until_next_quarters for one in last_of_hand} == {None}

    @pytest.mark.parametrize("level", list(Level))
    def test_who_plays_it_well_passes_and_who_waits_at_it_is_told(self, level):
        rung = LADDER.rung("seams:2-3@0:both")
        for seed in range(4):
            task = self.asked(rung.within.text, rung.first, rung.last, times=rung.rounds)
            for faults, expected in (((), None), ((Fault("hesitate", 0.9, "3"),), "hesitation")):
                played = simulate(task, level=level, seed=seed, faults=faults, source=Source.MIDI, lead_s=2.0)
                judged = judge_take(task, played, limits_of(level, {}))
                codes = [finding.code.value for finding in judged.findings]
                assert codes[:1] == ([expected] if expected else []), (seed, faults)
                assert (judged.verdict.status is Status.STEADY) is (expected is None)


class TestPhrases:
    """Phrases begin in the middle of bar 3, at bar 5 and in the middle of bar 6."""

    STARTS = (Place("3", Fraction(2)), Place("5", Fraction(0)), Place("6", Fraction(2)))

    def joined(self, **asked):
        practised = Practised(88, phrase_starts=self.STARTS, **asked)
        ladder = build_ladder(SCORE, Level.FIRST_YEAR, practised, {"chunks": "phrases"})
        return [rung for rung in ladder.rungs if rung.stage is Stage.JOIN]

    def test_by_hand(self):
        assert [(one.title, one.first, one.last, one.within and one.within.text) for one in self.joined()] == [
            ("Phrase 1", 0, 2, "0..3/2"),
            ("Phrase 2", 2, 3, "2..2"),
            ("Bars 1–4", 0, 3, None),
            ("Phrase 3", 4, 5, "0..3/2"),
            ("Phrase 4", 5, 7, "2..2"),
            ("Bars 5–8", 4, 7, None),
            ("Bars 1–8", 0, 7, None),
        ]

    def test_nothing_goes_beyond_the_passage(self):
        found = self.joined(first=2, last=5)
        assert all(2 <= one.first <= one.last <= 5 for one in found)

    def test_every_strike_of_a_line_lies_in_some_phrase(self):
        covered = set()
        for rung in self.joined():
            if rung.within is not None:
                bars = SCORE.measures[rung.first : rung.last + 1]
                cut = Cut(rung.within, len(bars))
                task = lap_task(SCORE, assigned_bpm=60, measures=bars, cut=cut)
                covered |= {one.onset_quarters + bars[0].start_quarters for one in task.expected}
        every = lap_task(SCORE, assigned_bpm=60)
        assert covered == {one.onset_quarters for one in every.expected}


class TestHalts:
    def seams(self, *halts: Halt):
        ladder = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88, halts=halts))
        return [(rung.key, rung.why) for rung in ladder.rungs if rung.stage is Stage.SEAMS]

    def test_where_it_was_halted_goes_before_the_hardest_and_one_a_line_is_enough(self):
        hardest = self.seams()
        assert [key for key, _ in hardest] == ["seams:2-3@0:both", "seams:7-7@3:both"]
        halted = self.seams(Halt(Place("4", Fraction(0)), 2), Halt(Place("3", Fraction(0)), 5))
        assert halted[0] == ("seams:2-3@0:both", "It waited here in 5 takes.")
        assert halted[1] == hardest[1]
        assert self.seams(Halt(Place("4", Fraction(0)), 2))[0] == ("seams:3-4@0:both", "It waited here in 2 takes.")

    @pytest.mark.parametrize(
        "place",
        [Place("99", Fraction(0)), Place("1", Fraction(0)), Place("2", Fraction(1, 7)), Place("5", Fraction(0))],
    )
    def test_a_place_that_is_none_of_the_line_changes_nothing_of_it(self, place):
        assert self.seams(Halt(place, 3))[0] == self.seams()[0]

    def test_a_halt_across_the_lines_is_joined_with_the_lines(self):
        # Bar 5 begins a line: the way into it is in no line.
        assert self.seams(Halt(Place("5", Fraction(0)), 3)) == self.seams()


class TestStanding:
    SPOT = Within(Fraction(3), Fraction(0))

    def test_a_take_of_a_spot_is_a_try_of_its_rung_and_of_no_other(self):
        seam = LADDER.rung("seams:2-3@0:both")
        played = Played(seam.first, seam.last, Activity.PLAY, "both", seam.within)
        assert rung_of(LADDER, played).key == seam.key
        assert rung_of(LADDER, Played(1, 2, Activity.PLAY, "both")).key == "join:2-3:both"

    def test_it_ticks_what_lies_in_it_only(self):
        seam = LADDER.rung("seams:2-3@0:both")
        assert ticked_by(LADDER, Played(1, 2, Activity.PLAY, "both", seam.within), seam, {}) == []
        inner = Played(0, 3, Activity.PLAY, "both", Within(Fraction(2), Fraction(1)))
        keys = {rung.key for rung in ticked_by(LADDER, inner, LADDER.rung("join:1-8:both"), {})}
        assert {"join:2-3:both", "seams:2-3@0:both"} <= keys
        assert not keys & {"join:1-1:both", "join:1-2:both", "join:3-4:both", "join:1-4:both"}

    def test_a_take_of_the_bars_ticks_the_spot(self):
        line = LADDER.rung("join:1-4:both")
        ticked = ticked_by(LADDER, Played(0, 3, Activity.PLAY, "both"), line, {})
        assert LADDER.rung("seams:2-3@0:both") in ticked


class TestEdits:
    ADD = AddRung(Stage.JOIN, "3", "4", "both", "join:1-1:both", within="3..1")

    def test_a_drill_is_cut_from_any_spot(self):
        edited = apply_edits(SCORE, LADDER, [self.ADD])
        assert edited.over == {}
        rung = edited.ladder.rung("join:3-4@3..1:both")
        assert (rung.title, rung.rounds) == ("From beat 4 of bar 3 to beat 2 of bar 4", 4)
        assert edited.ladder.rungs.index(rung) == LADDER.rungs.index(LADDER.rung("join:1-1:both")) + 1

    def test_other_hands_at_the_same_spot(self):
        edited = apply_edits(SCORE, LADDER, [self.ADD, SetHands("join:3-4@3..1:both", "left")])
        rung = edited.ladder.rung("left:3-4@3..1:left")
        assert (rung.hands, rung.within) == ("left", parse_within("3..1"))

    @pytest.mark.parametrize(
        ("within", "stage"), [("5..1", Stage.JOIN), ("3..4", Stage.JOIN), ("x", Stage.JOIN), ("3..1", Stage.HEAR)]
    )
    def test_what_is_no_spot_is_refused(self, within, stage):
        with pytest.raises(LapTickError):
            check_edit(SCORE, LADDER, AddRung(stage, "3", "4", "both", None, within=within))

    def test_a_spot_is_not_split(self):
        ladder = apply_edits(SCORE, LADDER, [self.ADD]).ladder
        with pytest.raises(OptionError, match="not split"):
            check_edit(SCORE, ladder, SplitRung("join:3-4@3..1:both", "4"))
