"""Following: bars left out, repeats taken or not, upbeats, early ends, ornaments, another passage than asked for."""

from __future__ import annotations

from dataclasses import replace

import pytest

from helpers import F, demo_score, played_by_hand, score_of
from laptick.core.base.levels import Level
from laptick.core.following.matching import match
from laptick.core.judging.findings import find_findings
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.other_passage import find_passage
from laptick.core.judging.telling import tell
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.roadmap import in_played_order
from laptick.core.score.score import Hand, Mark, MarkKind, Note, Signs
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import lap_task

HARBOUR, KITE = demo_score("harbour-steps"), demo_score("kite-over-the-orchard")


def on_keys(score, bpm=66, **options):
    task = lap_task(score, assigned_bpm=bpm, with_pitches=True)
    return task, played_by_hand(task, source=Source.MIDI, **options)


def of_bars(task, performance, bars, gap_s=None):
    """The take cut to some bars, in their order, each following the last in tempo."""
    strikes, now = [], 2.0
    for bar in bars:
        measure = task.measures[bar]
        start_s = 2.0 + float(task.bar_start(measure)) * task.quarter_s
        length_s = float(measure.length_quarters) * task.quarter_s
        inside = [s for s in performance.strikes if start_s - 0.1 <= s.played_s < start_s + length_s - 0.1]
        strikes += [replace(s, played_s=s.played_s - start_s + now) for s in inside]
        now += length_s + (gap_s or 0.0)
    return replace(performance, strikes=tuple(sorted(strikes, key=lambda s: s.played_s)))


class TestSkips:
    task, whole = on_keys(HARBOUR)

    def test_bars_left_out_are_named_and_their_notes_are_not_missing_besides(self):
        checked = check_take(self.task, of_bars(self.task, self.whole, (0, 1, 5, 6, 7)))
        [skip] = checked.matching.skips
        places = [self.task.place(self.task.expected[i]).measure for i in (skip.from_index, skip.expected_index)]
        assert places == ["3", "6"]
        assert not checked.matching.missing
        [finding] = find_findings(checked, LIMITS[Level.ELEMENTARY])
        verdict = judge_take(self.task, checked.performance, LIMITS[Level.ELEMENTARY]).verdict
        assert finding.code == "missing"
        assert verdict.main.text == "You left out bars 3 to 5."
        assert "bars 3 to 5" in verdict.cure.text

    def test_a_later_start_and_an_early_end_leave_the_rest_missing(self):
        task, whole = on_keys(KITE)
        no_upbeat = replace(whole, strikes=whole.strikes[1:40])
        matching = match(task, no_upbeat)
        assert 0 in matching.missing
        assert set(matching.missing) >= set(range(45, len(task.expected)))
        assert len(matching.matches) == 39


class TestRepeats:
    written = score_of(
        "C5/q D5/q E5/q F5/q | G5/q A5/q B5/q C6/q | A5/q G5/q F5/q E5/q",
        "C3/h E3/h | G3/h F3/h | C3/h G3/h",
    )

    def score(self):
        """Bars 1 and 2 repeated."""
        signs = (Signs(forward=True), Signs(backward=2), Signs())
        bars = tuple(replace(m, signs=s) for m, s in zip(self.written.measures, signs, strict=True))
        return replace(self.written, measures=bars)

    def test_a_repeat_that_was_not_taken_is_no_fault(self):
        asked = in_played_order(self.score())
        assert [m.number for m in asked.measures] == ["1", "2", "1", "2", "3"]
        task, whole = on_keys(asked)
        judged = judge_take(task, of_bars(task, whole, (0, 1, 4)), LIMITS[Level.ELEMENTARY])
        [skip] = judged.checked.matching.skips
        assert skip.repeat
        assert judged.findings == ()
        assert "You kept the beat going from start to end." in judged.verdict.good

    def test_a_repeat_taken_though_not_asked_for_is_no_restart(self):
        task, whole = on_keys(self.score())
        judged = judge_take(task, of_bars(task, whole, (0, 1, 0, 1, 2)), LIMITS[Level.ELEMENTARY])
        [back] = judged.checked.matching.restarts
        assert back.repeat
        assert judged.findings == ()

    def test_going_back_elsewhere_without_a_gap_is_a_restart(self):
        task, whole = on_keys(HARBOUR)
        matching = match(task, of_bars(task, whole, (0, 1, 2, 1, 2, 3, 4, 5, 6, 7)))
        [back] = matching.restarts
        assert (back.repeat, task.place(task.expected[back.expected_index]).measure) == (False, "2")


@pytest.mark.parametrize("bpm", [33, 44, 100, 132])
@pytest.mark.parametrize("source", [Source.MIDI, Source.TAPS])
def test_half_and_double_tempo_are_followed(bpm, source):
    task = lap_task(HARBOUR, assigned_bpm=66, with_pitches=source is Source.MIDI)
    matching = match(task, replace(played_by_hand(task, bpm=bpm, source=source), first_beat_s=None))
    assert (len(matching.matches), matching.extra) == (len(task.expected), ())


class TestAnotherPassage:
    whole = lap_task(HARBOUR, assigned_bpm=66, with_pitches=True)

    def test_says_which_bars_it_seems_to_be(self):
        first = lap_task(HARBOUR, assigned_bpm=66, measures=HARBOUR.select_measures("1-4"), with_pitches=True)
        last = lap_task(HARBOUR, assigned_bpm=66, measures=HARBOUR.select_measures("5-8"), with_pitches=True)
        played = simulate(last, seed=3, source=Source.MIDI)
        judged = judge_take(first, played, LIMITS[Level.ELEMENTARY], whole=lambda: self.whole)
        assert judged.verdict.status is Status.COULD_NOT_FOLLOW
        assert judged.passage.words == "bars 5 to 8"
        assert "bars 5 to 8" in judged.verdict.cure.text
        assert judge_take(last, played, LIMITS[Level.ELEMENTARY]).verdict.status is Status.STEADY

    def test_one_hand_asked_and_a_middle_passage_of_the_whole_piece(self):
        middle = lap_task(KITE, assigned_bpm=77, measures=KITE.select_measures("5-8"), with_pitches=True)
        asked = lap_task(KITE, assigned_bpm=77, with_pitches=True)
        played = simulate(middle, seed=5, source=Source.MIDI)
        assert find_passage(asked, played).words == "bars 5 to 8"

    @pytest.mark.parametrize(("asked", "played"), [("1-4", "1-8"), ("5-8", "1-4"), ("5-6", "3-8"), ("1-2", "3-7")])
    def test_a_passage_with_repeats_is_asked_for_by_the_bars_that_it_reaches(self, asked, played):
        """In played order the whole of this piece ends with an earlier bar."""
        score = in_played_order(demo_score("five-stones"))
        whole, part, other = (
            lap_task(score, assigned_bpm=84, measures=score.select_measures(one), with_pitches=True)
            for one in (None, asked, played)
        )
        take = simulate(other, seed=3, source=Source.MIDI)
        told = tell(judge_take(part, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole)).passage
        assert told.measures == played
        assert told.words == f"bars {played[0]} to {played[2]}"
        judged = judge_take(other, take, LIMITS[Level.ELEMENTARY])
        assert (judged.checked.matching.missing, judged.checked.matching.extra) == ((), ())

    @pytest.mark.parametrize(
        ("name", "asked", "played", "source"),
        [
            ("harbour-steps", "5-8", "1-8", Source.MIDI),
            ("harbour-steps", "3-4", "1-4", Source.MIDI),
            ("copper-kettle-parade", "1-4", "3-8", Source.MIDI),
            ("copper-kettle-parade", "1-4", "3-8", Source.TAPS),
            ("copper-kettle-parade", "5-8", "1-16", Source.MIDI),
            ("lantern-boat", "5-8", "1-8", Source.MIDI),
        ],
    )
    def test_bars_much_like_those_asked_for_are_told_all_the_same(self, name, asked, played, source):
        """They can be followed as those, with going back and much too many; as what was played nothing is."""
        score = in_played_order(demo_score(name))
        whole, part, other = (
            lap_task(score, assigned_bpm=66, measures=bars, with_pitches=source is Source.MIDI)
            for bars in (None, score.select_measures(asked), score.select_measures(played))
        )
        take = simulate(other, seed=3, source=source)
        judged = judge_take(part, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole)
        assert judged.verdict.status is Status.COULD_NOT_FOLLOW
        assert judged.passage.measures == other.measures
        assert judge_take(other, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole).passage is None

    @pytest.mark.parametrize("fault", ["", "miss=30", "extra=30", "restart=3", "hesitate=4:3"])
    @pytest.mark.parametrize("name", ["harbour-steps", "copper-kettle-parade", "lantern-boat"])
    def test_the_bars_asked_for_stay_those_however_badly_they_are_played(self, name, fault):
        score = demo_score(name)
        whole, part = (
            lap_task(score, assigned_bpm=66, measures=bars, with_pitches=True)
            for bars in (None, score.select_measures("1-4"))
        )
        for seed in range(3):
            take = simulate(part, seed=seed, faults=[parse_fault(fault)] if fault else [], source=Source.MIDI)
            judged = judge_take(part, take, LIMITS[Level.ELEMENTARY], whole=lambda: whole)
            assert judged.checked.followed

    def test_noise_is_no_passage(self):
        strikes = tuple(Strike(0.37 * i + (i * i % 7) / 11, None, 40 + i * 13 % 40, 64, None) for i in range(40))
        noise = Performance(Source.MIDI, strikes)
        assert find_passage(self.whole, noise) is None
        cure = judge_take(self.whole, noise, LIMITS[Level.ELEMENTARY], whole=lambda: self.whole).verdict.cure
        assert (cure.code, cure.bpm) == ("slower", 60)  # two marks below 66, as it says and as it is set up
        assert find_passage(self.whole, Performance(Source.MIDI, strikes[:5])) is None


class TestOrnaments:
    def score(self):
        """A grace note before the second note, a trill on the fourth."""
        plain = score_of("C5/q D5/q E5/q F5/q | G5/q F5/q E5/q D5/q | C5/q D5/q E5/q F5/q")
        grace = Note("g", Hand.RIGHT, "1", 0, F(1), F(0), 76, "E5", is_grace=True)
        notes = tuple(sorted((*plain.notes, grace), key=lambda n: (n.onset_quarters, n.pitch)))
        trilled = plain.notes[3]
        return replace(plain, notes=notes, marks=(Mark(MarkKind.ORNAMENT, F(3), "trill-mark", note_id=trilled.id),))

    def test_grace_notes_and_trills_are_neither_extra_nor_asked_for(self):
        task, whole = on_keys(self.score(), 60)
        at = 2.0
        ornaments = [Strike(at + 0.92, None, 76, 50, at + 1.0)]
        ornaments += [Strike(at + 3.12 + 0.12 * i, None, (77, 79)[i % 2 == 0], 50, None) for i in range(5)]
        strikes = tuple(sorted((*whole.strikes, *ornaments), key=lambda s: s.played_s))
        matching = match(task, replace(whole, strikes=strikes))
        assert (matching.extra, matching.missing, len(matching.ornaments)) == ((), (), 6)

    def test_other_keys_are_still_too_many(self):
        task, whole = on_keys(self.score(), 60)
        strikes = tuple(sorted((*whole.strikes, Strike(5.5, None, 61, 50, None)), key=lambda s: s.played_s))
        assert len(match(task, replace(whole, strikes=strikes)).extra) == 1


def test_strikes_out_of_place_are_those_strikes():
    """Triplets whose middle note comes a sixth of a beat late, tapped: nothing is missing, nothing too many."""
    score = score_of(
        " | ".join(["C5/et D5/et E5/et F5/q C5/et D5/et E5/et F5/q"] * 3), " | ".join(["C3/q C3/q C3/q C3/q"] * 3)
    )
    task = lap_task(score, assigned_bpm=60)
    late = {i: 165.0 for i, e in enumerate(task.expected) if e.onset_quarters % 1 == F(1, 3)}
    late |= {i: 80.0 for i, e in enumerate(task.expected) if e.onset_quarters % 1 == F(2, 3)}
    matching = match(task, played_by_hand(task, shifts_ms=late))
    assert (matching.missing, matching.extra) == ((), ())
