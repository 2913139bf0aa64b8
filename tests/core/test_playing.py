"""The schedule against times worked out by hand: 4/4, a pickup, 6/8 in beats and in units, a change of meter, rit.,
fermata; rounds, silences, echoes, cue words; and what the voice leaves out when it is fast."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import LimitError, OptionError
from laptick.core.counting.choices import Compound, choose
from laptick.core.counting.word_tables import TABLES, System
from laptick.core.play_along.grooves import GROOVES, check_groove, grooves_for, hits
from laptick.core.play_along.rounds import Between, EchoBy, EchoIn, echo_parts, hear_parts, play_parts
from laptick.core.play_along.schedule import Role, Schedule, Sounding, Track
from laptick.core.play_along.scheduling import VOICE, make_schedule
from laptick.core.play_along.voice import SHIPPED, SaidWord, WordSample, reading_of, thin
from laptick.core.score.meter import TimeSignature, meter_of
from laptick.core.score.score import Hand, Mark, MarkKind, Score, TempoMark
from laptick.core.score.score_clock import BEND_SPEEDS, Clock

FOUR = score_of("C5/q D5/q E5/e F5/e G5/q | C5/h D5/h", "C3/h D3/h | E3/w")


def played(
    score: Score, *, bpm: float = 60, measures: str | None = None, hands=(Hand.RIGHT, Hand.LEFT), **how
) -> Schedule:
    rounds = {key: how.pop(key) for key in ("rounds", "between", "gap_beats") if key in how}
    choices = how.pop("choices", None)
    parts = play_parts(score, score.select_measures(measures), bpm, **rounds)
    return make_schedule(score, parts, hands=hands, choices=choices, sounding=Sounding(**how))


def times(schedule: Schedule, *tracks: Track, count_in: bool = False) -> list[tuple[float, str]]:
    return [(round(s.at_s, 6), s.sound) for s in schedule.of(*tracks) if s.is_count_in is count_in]


def marked(score: Score, *marks: Mark, tempos: tuple[TempoMark, ...] = ()) -> Score:
    return replace(score, marks=marks, tempos=tempos)


class TestByHand:
    def test_four_four_at_60(self):
        schedule = played(FOUR)
        assert (schedule.first_beat_s, schedule.end_s) == (4, 12)
        words = [(w.at_s, w.say) for w in schedule.words if w.is_count_in]
        assert words == [(0, "1"), (0.5, "&"), (1, "2"), (1.5, "&"), (2, "ready"), (2.5, "&"), (3, "go"), (3.5, "&")]
        assert times(schedule, Track.CLICK)[:5] == [
            (4, "click-bar"), (5, "click-beat"), (6, "click-beat"), (7, "click-beat"), (8, "click-bar"),
        ]  # fmt: skip
        assert times(schedule, Track.RIGHT)[:3] == [(4, "tone:72"), (5, "tone:74"), (6, "tone:76")]
        assert times(schedule, Track.LEFT) == [(4, "tone:48"), (6, "tone:50"), (8, "tone:52")]
        assert times(schedule, *VOICE)[:5] == [
            (4, "word:1"), (5, "word:2"), (6, "word:3"), (6.5, "word:and"), (7, "word:4"),
        ]  # fmt: skip
        # Bar 2: 2 and 4 are held by both hands.
        assert [s.track for s in schedule.of(*VOICE) if s.at_s >= 8] == [
            Track.STRIKE,
            Track.HOLD,
            Track.STRIKE,
            Track.HOLD,
        ]

    def test_three_four_with_a_pickup(self):
        """At 60 two beats are counted before the pickup on 3; the bar begins one second after it."""
        score = score_of("G4/q | C5/q D5/q E5/q | C5/h.", time=(3, 4), pickup=True)
        schedule = played(score)
        assert schedule.first_beat_s == 2
        assert [(w.at_s, w.say) for w in schedule.words][:4] == [(0, "1"), (1, "2"), (2, "3"), (3, "1")]
        assert times(schedule, Track.CLICK)[:2] == [(2, "click-beat"), (3, "click-bar")]
        # The waltz of its first whole bar: low on 1, soft on 2 and 3; on the pickup the third beat's.
        assert [(s.at_s, s.sound) for s in schedule.of(Track.BACKING)][:4] == [
            (2, "drum-soft"), (3, "drum-low"), (4, "drum-soft"), (5, "drum-soft"),
        ]  # fmt: skip

    SIX = score_of("C5/q. D5/e E5/e F5/e", time=(6, 8))

    def test_six_eight_in_beats(self):
        """Dotted quarter = 60, two bars counted in: 1 2 ready go, a second each."""
        schedule = played(self.SIX, choices=choose(compound=Compound.BEATS))
        assert schedule.first_beat_s == 4
        assert times(schedule, Track.CLICK) == [(4, "click-bar"), (5, "click-beat")]
        third = round(1 / 3, 6)
        assert times(schedule, *VOICE) == [
            (4, "word:1"), (5, "word:2"), (5 + third, "word:la"), (round(5 + 2 / 3, 6), "word:li"),
        ]  # fmt: skip

    def test_six_eight_in_units(self):
        """The same at 40: an eighth lasts half a second, and every one is clicked and said."""
        schedule = played(self.SIX, bpm=40, choices=choose(compound=Compound.UNITS))
        assert schedule.first_beat_s == 3
        assert times(schedule, Track.CLICK) == [
            (3, "click-bar"), (3.5, "click-division"), (4, "click-division"),
            (4.5, "click-beat"), (5, "click-division"), (5.5, "click-division"),
        ]  # fmt: skip
        assert [sound for _, sound in times(schedule, *VOICE)] == [f"word:{n}" for n in range(1, 7)]

    def test_a_change_of_meter_keeps_the_quarter(self):
        """3/4 after 2/4 at 120: bars of 1 and 1.5 seconds."""
        two = score_of("C5/q D5/q | C5/h", time=(2, 4))
        three = TimeSignature(3, 4)
        bars = (two.measures[0], replace(two.measures[1], signature=three, length_quarters=Fraction(3)))
        schedule = played(replace(two, measures=bars), bpm=120)
        bar_clicks = [
            s.at_s - schedule.first_beat_s
            for s in schedule.of(Track.CLICK)
            if s.sound == "click-bar" and not s.is_count_in
        ]
        assert bar_clicks == pytest.approx([0, 1])
        assert schedule.end_s - schedule.first_beat_s == pytest.approx(2.5)

    def test_a_passage_and_one_hand(self):
        score = demo_score("harbour-steps")
        schedule = played(score, measures="2-3", hands=(Hand.LEFT,))
        assert schedule.end_s - schedule.first_beat_s == 8
        assert not schedule.of(Track.RIGHT)
        assert (schedule.cursor[0][1], schedule.cursor[-1][1]) == (4, 12)

    def test_a_hand_alone_is_counted_as_it_is_played(self):
        """The left hand's half notes: 1 and 3 strike, 2 and 4 hold; together the right hand strikes on 2 as well."""
        alone = [s.track for s in played(FOUR, hands=(Hand.LEFT,)).of(*VOICE) if not s.is_count_in][:4]
        assert alone == [Track.STRIKE, Track.HOLD, Track.STRIKE, Track.HOLD]
        assert [s.track for s in played(FOUR).of(*VOICE) if not s.is_count_in][:2] == [Track.STRIKE, Track.STRIKE]

    def test_rests_are_whispered(self):
        schedule = played(score_of("C5/q r/q D5/q r/q"), hands=(Hand.RIGHT,))
        assert times(schedule, Track.REST) == [(5, "whisper:2"), (7, "whisper:4")]

    def test_a_tie_is_one_tone_and_knocks_have_no_pitch(self):
        score = score_of("C5/q C5/h~ C5/q", "C3/w")
        tied = played(score).of(Track.RIGHT)
        assert [(s.at_s, round(s.length_s, 3)) for s in tied] == [(4, 0.92), (5, 2.76)]
        knocks = times(played(score, knocks=True), Track.RIGHT, Track.LEFT)
        assert sorted(knocks) == [(4, "knock-left"), (4, "knock-right"), (5, "knock-right")]

    def test_silence_lasts_longer_than_any_written_gap(self):
        long_rest = score_of("C5/q r/h. | r/w | C5/w")
        assert played(long_rest).silence_s > 8


class TestClock:
    def test_a_rit_is_the_sum_of_its_instants(self):
        """The closed form against a sum over 200,000 slices of (1 + (w³ − 1)x)^(−1/3)."""
        score = marked(FOUR, Mark(MarkKind.SLOWER, Fraction(4), "rit.", Fraction(8)))
        clock, w = Clock(score, score.measures[0], 60), BEND_SPEEDS[MarkKind.SLOWER]
        x = (np.arange(200_000) + 0.5) / 200_000
        expected = 4 * float(np.mean((1 + (w**3 - 1) * x) ** (-1 / 3)))
        assert clock.at(Fraction(8)) - clock.at(Fraction(4)) == pytest.approx(expected, abs=1e-8)
        assert clock.at(Fraction(4)) == 4
        beats = [clock.at(Fraction(q + 1)) - clock.at(Fraction(q)) for q in range(4, 8)]
        assert beats == sorted(beats)
        assert 1 < beats[0] < beats[-1] < 1 / w

    def test_after_it_the_tempo_is_back(self):
        score = marked(FOUR, Mark(MarkKind.SLOWER, Fraction(2), "rit.", Fraction(4)))
        clock = Clock(score, score.measures[0], 60)
        assert clock.at(Fraction(5)) - clock.at(Fraction(4)) == pytest.approx(1)

    def test_a_passage_that_begins_inside_a_rit_goes_on_with_it(self):
        score = marked(FOUR, Mark(MarkKind.SLOWER, Fraction(0), "rit.", Fraction(8)))
        whole, part = Clock(score, score.measures[0], 60), Clock(score, score.measures[1], 60)
        for onset in (4, 5, 7):
            assert part.at(Fraction(onset)) - part.at(Fraction(4)) == pytest.approx(
                whole.at(Fraction(onset)) - whole.at(Fraction(4))
            )

    def test_faster_is_faster(self):
        score = marked(FOUR, Mark(MarkKind.FASTER, Fraction(0), "accel.", Fraction(8)))
        clock = Clock(score, score.measures[0], 60)
        assert clock.at(Fraction(8)) < 8
        assert clock.at(Fraction(1)) - clock.at(Fraction(0)) > clock.at(Fraction(8)) - clock.at(Fraction(7))

    def test_a_fermata_holds_its_note_once_more(self):
        """A half note under a fermata at 60: two seconds more before bar 2; what sounds under it lasts till then."""
        note = next(n for n in FOUR.notes if n.hand is Hand.RIGHT and n.onset_quarters == 4)
        score = marked(FOUR, Mark(MarkKind.FERMATA, note.onset_quarters, note_id=note.id))
        schedule = played(score, hands=(Hand.RIGHT,))
        strikes = [s.at_s for s in schedule.of(Track.RIGHT)]
        assert strikes[-2:] == [8, 12]
        assert schedule.end_s == 14
        assert [at_s for at_s, onset in schedule.cursor if onset == 6] == [10, 12]

    def test_a_fermata_at_the_end_is_held_too(self):
        last = FOUR.notes[-1]
        assert played(marked(FOUR, Mark(MarkKind.FERMATA, last.onset_quarters, note_id=last.id))).end_s == 14

    def test_a_printed_tempo_keeps_its_proportion(self):
        """Quarter = 60, then 90 in bar 2: at a chosen 40 the second bar goes at 60."""
        tempos = (TempoMark(Fraction(0), 60, Fraction(1)), TempoMark(Fraction(4), 90, Fraction(1)))
        score = marked(FOUR, tempos=tempos)
        schedule = played(score, bpm=40)
        clicks = [s.at_s for s in schedule.of(Track.CLICK) if not s.is_count_in]
        assert np.diff(clicks) == pytest.approx([1.5] * 4 + [1] * 3)
        # Chosen for a passage that begins there, the tempo is that passage's.
        assert played(score, bpm=40, measures="2").end_s - played(score, bpm=40, measures="2").first_beat_s == 6

    @given(st.sampled_from(DEMO), st.integers(30, 200), st.data())
    def test_time_goes_on_and_scales(self, name, bpm, data):
        score = demo_score(name)
        onsets = sorted(data.draw(st.lists(st.fractions(0, score.end_quarters, max_denominator=24), min_size=2)))
        slow, fast = Clock(score, score.measures[0], bpm), Clock(score, score.measures[0], 2 * bpm)
        seconds = [slow.at(onset) for onset in onsets]
        assert seconds == sorted(seconds)
        assert [2 * fast.at(onset) for onset in onsets] == pytest.approx(seconds)
        assert all(slow.until(onset) <= slow.at(onset) for onset in onsets)


class TestRounds:
    def test_counted_in_anew(self):
        schedule = played(FOUR, rounds=3)
        assert [(s.start_s, s.first_beat_s, s.end_s) for s in schedule.stretches] == [
            (0, 4, 12),
            (12, 16, 24),
            (24, 28, 36),
        ]

    def test_after_a_gap(self):
        schedule = played(FOUR, rounds=2, between=Between.GAP, gap_beats=3)
        assert [(s.start_s, s.first_beat_s, s.end_s) for s in schedule.stretches] == [(0, 4, 12), (15, 15, 23)]
        assert not [s for s in schedule.sounds if 12 <= s.at_s < 15]

    def test_straight_on(self):
        schedule = played(FOUR, rounds=2, between=Between.STRAIGHT)
        clicks = [s.at_s for s in schedule.of(Track.CLICK)]
        assert np.diff([at for at in clicks if at >= 4]) == pytest.approx([1] * 15)

    def test_rounds_fit_into_a_quarter_of_an_hour(self):
        assert 600 < played(FOUR, rounds=100).end_s < 910
        assert 850 < played(FOUR, rounds=100, between=Between.STRAIGHT, bpm=50).end_s < 910

    def test_what_cannot_be(self):
        for how in ({"rounds": 0}, {"rounds": 101}, {"gap_beats": 17}):
            with pytest.raises(OptionError):
                played(FOUR, **how)
        with pytest.raises(LimitError, match="minutes of sound"):
            played(score_of(" | ".join(["C5/w"] * 60)), bpm=10)

    def test_silent_bars_run_on_over_rounds(self):
        """One bar of two: of the two-bar passage the second; the same of the next round, and its count-in is heard."""
        schedule = played(FOUR, rounds=2, quiet=(1, 2))
        heard = {s.at_s for s in schedule.sounds}
        assert not [at for at in heard if 8 <= at < 12 or 20 <= at < 24]
        assert {4, 12, 16} <= heard
        one = played(FOUR, measures="1", rounds=4, between=Between.STRAIGHT, quiet=(1, 2))
        assert {int(s.at_s) // 4 for s in one.sounds} == {0, 1, 3}  # count-in, rounds 1 and 3


class TestEcho:
    LINE = score_of("C5/w | D5/w | E5/w", "C3/w | D3/w | E3/w")

    def test_one_bar_two_bars_the_line(self):
        parts = echo_parts(self.LINE, self.LINE.measures, 60)
        names = [(p.role, p.measures[0].number, p.measures[-1].number) for p in parts]
        groups = ["1-1", "2-2", "3-3", "1-2", "3-3", "1-3"]
        assert names == [(role, *g.split("-")) for g in groups for role in (Role.MODEL, Role.ROOM)]
        assert [p.counts_in for p in parts] == [True, *[False] * 11]

    def test_equal_room(self):
        schedule = make_schedule(self.LINE, echo_parts(self.LINE, self.LINE.measures, 60, by=EchoBy.BAR))
        lengths = [s.end_s - s.first_beat_s for s in schedule.stretches]
        assert lengths == [4] * 6
        room = schedule.stretches[1]
        inside = [s for s in schedule.sounds if room.start_s <= s.at_s < room.end_s]
        assert {s.track for s in inside} == {Track.CLICK, Track.BACKING}
        # The last beat of the model's turn says whose turn is next.
        assert [(s.at_s, s.sound) for s in schedule.of(Track.CUE)] == [
            (7, "word:you"),
            (15, "word:you"),
            (23, "word:you"),
        ]

    def test_in_names_and_in_counts(self):
        for given_in, words in ((EchoIn.NAMES, ["word:C"]), (EchoIn.COUNTS, ["word:1", "word:2", "word:3", "word:4"])):
            parts = echo_parts(self.LINE, self.LINE.measures[:1], 60, by=EchoBy.BAR, given_in=given_in)
            schedule = make_schedule(self.LINE, parts)
            said = [s.sound for s in schedule.of(*VOICE) if not s.is_count_in]
            assert said == words
            assert not schedule.of(Track.RIGHT, Track.LEFT, Track.CUE)

    def test_a_pickup_goes_with_its_bar(self):
        score = demo_score("kite-over-the-orchard")
        parts = echo_parts(score, score.measures, 60, by=EchoBy.BAR)
        assert [m.number for m in parts[0].measures] == ["0", "1"]

    def test_heard_whole_then_slowly(self):
        schedule = make_schedule(FOUR, hear_parts(FOUR, FOUR.measures, 120, 60))
        assert [s.end_s - s.first_beat_s for s in schedule.stretches] == [4, 8]
        assert schedule.stretches[1].start_s - schedule.stretches[0].end_s == 2  # two beats at 60
        assert not [s for s in schedule.of(*VOICE) if not s.is_count_in]


class TestVoice:
    def test_cue_words_come_a_beat_ahead_and_alone(self):
        score = marked(FOUR, Mark(MarkKind.CUE, Fraction(4), "move"), Mark(MarkKind.CUE, Fraction(0), "lift"))
        schedule = played(score)
        assert [(s.at_s, s.sound) for s in schedule.of(Track.CUE)] == [(7, "word:move")]
        assert not [s for s in schedule.of(*VOICE) if s.at_s == 7]  # two words at once are none
        assert any("lift" in remark and "left out" in remark for remark in schedule.remarks)
        without = played(score, cues=False)
        assert not without.of(Track.CUE)
        assert [s for s in without.of(*VOICE) if s.at_s == 7]  # the count is there again

    def test_a_cue_at_the_beginning_falls_into_the_round_before(self):
        score = marked(FOUR, Mark(MarkKind.CUE, Fraction(0), "lift"))
        straight = played(score, rounds=2, between=Between.STRAIGHT)
        assert [s.at_s for s in straight.of(Track.CUE)] == [11]
        assert not [s for s in straight.of(*VOICE) if s.at_s == 11]
        after_gap = played(score, rounds=2, between=Between.GAP, gap_beats=2)
        assert [s.at_s for s in after_gap.of(Track.CUE)] == [13]
        echo = make_schedule(score, echo_parts(score, score.measures, 60, by=EchoBy.BAR))
        assert [s.sound for s in echo.of(Track.CUE)] == ["word:you"] * 2
        assert len(echo.remarks) == 1  # that of the counted-in first part

    def test_every_word_of_every_system_has_a_reading_that_ships(self):
        for system, entries in TABLES.items():
            for _, words in entries.values():
                for word in words:
                    assert "{" in word or reading_of(word, system) in SHIPPED, (system, word)
        assert {reading_of(letter, System.NAMES) for letter in "CDEFGABx"} <= set(SHIPPED)

    def test_the_same_letter_is_read_by_its_system(self):
        assert (reading_of("a", System.NUMBERS), reading_of("a", System.DURATION)) == ("uh", "ah")
        assert (reading_of("e", System.NUMBERS), reading_of("E", System.NAMES), reading_of("hop")) == ("e", "e", "hop")

    @staticmethod
    def spots(gap_s: float, length_s: float = 0.16) -> list[SaidWord]:
        """Two 4/4 bars of ``1 e & a``."""
        sample = WordSample("word:x", length_s, 0.05)
        return [SaidWord(i * gap_s, sample, (0 if i % 16 == 0 else 1) if i % 4 == 0 else 3, i // 16) for i in range(32)]

    def test_slow_enough_everything_is_said(self):
        assert thin(self.spots(0.14)) == ((True,) * 32, ())

    def test_too_fast_the_beats_are_left(self):
        said, thinned = thin(self.spots(0.10))
        assert [i for i, one in enumerate(said) if one] == list(range(0, 32, 4))
        assert thinned == ((0, 2), (1, 2))

    def test_faster_still_the_bars_are_left(self):
        said, thinned = thin(self.spots(0.03))
        assert [i for i, one in enumerate(said) if one] == [0, 16]
        assert thinned == ((0, 0), (1, 0))

    @given(st.floats(0.02, 0.4), st.floats(0.05, 0.4))
    def test_no_word_runs_into_the_next(self, gap_s, length_s):
        spots = self.spots(gap_s, length_s)
        said = [spot for spot, one in zip(spots, thin(spots)[0], strict=True) if one]
        bars = [spot.rank == 0 for spot in said]
        for a, b in pairwise(said):
            assert a.end_s <= b.begin_s + 0.03 + 1e-9 or all(bars)

    def test_it_says_that_it_says_less(self):
        sixteenths = score_of("C5/s D5/s E5/s F5/s G5/q A5/h")
        assert not played(sixteenths).remarks
        fast = played(sixteenths, bpm=160)
        assert fast.remarks == (
            "At this tempo words would run into each other: everywhere the voice says the counted beats.",
        )
        assert [w.say for w in fast.words if not w.is_count_in][:4] == ["1", "e", "&", "a"]  # shown all the same


class TestGrooves:
    METERS = ("2/4", "3/4", "4/4", "5/4", "7/4", "2/2", "3/8", "6/8", "9/8", "12/8", "5/8", "7/8", "8/8", "11/8")

    @pytest.mark.parametrize("name", METERS)
    def test_every_meter_has_one_that_marks_its_bar(self, name):
        beats, beat_type = map(int, name.split("/"))
        meter = meter_of(TimeSignature(beats, beat_type), None)
        measure = replace(FOUR.measures[0], signature=meter.signature, length_quarters=meter.bar_quarters)
        for groove in grooves_for(meter):
            found = hits(measure, groove)
            assert found[0].offset_quarters == 0
            assert found[0].sound == "drum-low"
            assert all(0 <= hit.offset_quarters < meter.bar_quarters for hit in found)

    def test_by_meter(self):
        def fitting(beats: int, beat_type: int) -> tuple[str, ...]:
            return grooves_for(meter_of(TimeSignature(beats, beat_type), None))

        assert fitting(4, 4) == ("simple", "three-three-two")
        assert fitting(3, 4) == ("waltz", "simple")
        assert fitting(6, 8) == ("compound",)
        assert fitting(8, 8) == ("groups",)

    def test_three_three_two(self):
        """In 4/4 the sticks fall on the eighths 1, 4 and 7."""
        strong = [h.offset_quarters for h in hits(FOUR.measures[0], "three-three-two") if h.sound != "drum-tick"]
        assert strong == [0, Fraction(3, 2), 3]

    def test_an_unknown_one_is_refused(self):
        with pytest.raises(OptionError, match="no groove"):
            check_groove("polka")
        assert set(GROOVES) >= {"simple", "waltz", "compound", "three-three-two"}
