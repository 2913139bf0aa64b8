"""Verdict ranking, statistics, units, playing order of sound, and the simulated student's promises."""

from __future__ import annotations

from dataclasses import replace
from statistics import median, stdev

import pytest

from helpers import DEMO, F, demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.statistics import npvi
from laptick.core.base.units import bpm_text, check_bpm, convert_bpm, nearest_mark, slower_mark
from laptick.core.judging.finding import Finding, FindingCode
from laptick.core.judging.findings import find_findings
from laptick.core.judging.verdict import Status, give_verdict
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.evenness import group_figures
from laptick.core.measuring.limits import LIMITS
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.places import beat_words, place_words
from laptick.core.score.roadmap import in_played_order
from laptick.core.score.score import Hand, Place
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task

SCORE = demo_score("harbour-steps")
TASK = lap_task(SCORE, assigned_bpm=66)


def finding(code, amount=2.0, limit=1.0):
    return Finding(code, Place("3", F(0)), amount, limit, "share", 1.0, Hand.RIGHT, F(1, 2))


class TestVerdict:
    checked = check_take(TASK, simulate(TASK, seed=1))

    def verdict(self, *findings):
        return give_verdict(self.checked, list(findings))

    def test_no_finding_is_steady(self):
        assert self.verdict().status is Status.STEADY

    def test_one_small_finding_is_nearly(self):
        verdict = self.verdict(finding("rushed-run"))
        assert verdict.status is Status.NEARLY
        assert verdict.main.text == "You rush the eighths in bar 3."
        assert verdict.place_text == "bar 3 · line 1, bar 3"

    def test_one_large_finding_is_not_yet(self):
        assert self.verdict(finding("rushed-run", amount=9)).status is Status.NOT_YET

    def test_a_broken_beat_comes_first_whatever_its_size(self):
        verdict = self.verdict(finding("rushed-run", amount=9), finding("hesitation", amount=1.1))
        assert verdict.status is Status.NOT_YET
        assert (verdict.main.finding.code, verdict.also.finding.code) == ("hesitation", "rushed-run")

    def test_the_worse_of_two_alike_leads_and_is_not_said_twice(self):
        verdict = self.verdict(finding("rushed-run", 2), finding("rushed-run", 3))
        assert verdict.main.finding.amount == 3
        assert verdict.also is None

    def test_every_code_has_words_and_a_cure(self):
        for code in FindingCode:
            verdict = self.verdict(finding(code))
            assert verdict.main.text.endswith(".")
            assert verdict.cure.text.endswith((".", "?"))
            assert "%" not in verdict.main.text + verdict.cure.text


@pytest.mark.parametrize(("strikes", "words"), [(20, "bar 4"), (28, "bar 2, second time")])
def test_who_breaks_off_is_told_how_far_and_which_time_through(strikes, words):
    """Five stones: its first four bars are repeated; the beat is lost before bar 3, and the take ends early."""
    task = lap_task(in_played_order(demo_score("five-stones")), assigned_bpm=60, with_pitches=True)
    whole = simulate(task, seed=5, faults=[parse_fault("hesitate=3:1.5")], source=Source.MIDI)
    checked = check_take(task, replace(whole, strikes=whole.strikes[:strikes]))
    praised = give_verdict(checked, find_findings(checked, LIMITS[Level.ELEMENTARY])).good
    assert praised == (f"You kept going to {words}.",)


def test_places_have_both_names_and_beats():
    kite = demo_score("kite-over-the-orchard")
    assert place_words(kite, Place("7", F(0))) == "bar 7 · line 2, bar 3"
    assert place_words(kite, Place("0", F(0))) == "bar 0 · line 1, pickup"
    assert beat_words(kite.measures[0], F(0)) == "beat 3"
    assert beat_words(kite.measures[1], F(3, 2)) == "the note after beat 2"


def test_npvi_of_a_hand_worked_sequence():
    """Intervals 1, 3, 1: twice 100·2/2 = 100 each; mean 100. Equal intervals: 0. (Grabe & Low 2002.)"""
    assert npvi([1, 3, 1]) == pytest.approx(100)
    assert npvi([2, 2, 2]) == 0
    assert npvi([5]) == 0


def test_tempo_units_and_marks():
    assert convert_bpm(180, F(1, 2), F(3, 2)) == pytest.approx(60)
    assert (nearest_mark(61), nearest_mark(300), slower_mark(66), slower_mark(40)) == (60, 208, 60, 40)
    for absurd in (0, -5, 9.9, 401, float("nan"), float("inf")):
        with pytest.raises(OptionError):
            check_bpm(absurd)


@pytest.mark.parametrize(
    ("bpm", "text"),
    [(53.333333333333336, "53"), (91.9998, "92"), (66.5, "66.5"), (120, "120"), (92.0, "92"), (59.49, "59")],
)
def test_a_tempo_is_written_as_people_write_it(bpm, text):
    assert bpm_text(bpm) == text


def test_bar_letters():
    assert [bar.letter for bar in bar_likeness(SCORE)] == ["A", "B", "A", "C", "A", "D", "E", "F"]
    many = score_of(" | ".join(f"C5/{code}" for code in ("w", "h. r/q", "h r/h", "w")))
    assert [bar.letter for bar in bar_likeness(many)] == ["A", "B", "C", "A"]


class TestStudent:
    def test_the_same_seed_gives_the_same_take(self):
        assert simulate(TASK, seed=5) == simulate(TASK, seed=5)
        assert simulate(TASK, seed=5) != simulate(TASK, seed=6)

    def test_it_never_plays_on_a_grid(self):
        times = [s.played_s for s in simulate(TASK, seed=3).strikes]
        assert len(set(times)) == len(times)

    @pytest.mark.parametrize("level", list(Level))
    def test_figures_of_clean_takes_lie_at_about_sixty_per_cent_of_the_limits(self, level):
        """Tempo, drift, evenness and hands apart; the spread round the beat stays lower, because strikes
        even enough for the evenness limits lie nearer to the beat than its own limit asks."""
        shares = {"tempo": [], "drift": [], "cv": [], "apart": []}
        limits = LIMITS[level]
        for name in DEMO:
            task = lap_task(demo_score(name), assigned_bpm=60)
            for seed in range(8):
                measured = check_take(task, simulate(task, level=level, seed=seed)).measured
                shares["tempo"].append(abs(measured.median_bpm / 60 - 1) / limits.tempo_share)
                shares["drift"].append(abs(measured.drift) / limits.drift_share)
                shares["apart"].append(median(abs(p.gap_ms) for p in measured.asynchronies) / limits.hands_apart_ms)
                shares["cv"] += [
                    f.robust_cv() / limits.evenness(1000 * f.interval_s)
                    for f in group_figures(measured.runs)
                    if f.intervals >= 6
                ]
        for what, values in shares.items():
            assert 0.48 < median(values) < 0.72, what

    @pytest.mark.parametrize("level", list(Level))
    def test_the_pace_of_long_notes_spreads_at_about_sixty_per_cent_too(self, level):
        """And more at the finer levels: phrases breathe by as much at every level, against smaller limits."""
        shares = []
        for name in DEMO:
            task = lap_task(demo_score(name), assigned_bpm=60, with_pitches=True)
            for seed in range(8):
                gaps = check_take(task, simulate(task, level=level, seed=seed, source=Source.MIDI)).measured.long_gaps
                if len(gaps) >= 6:
                    limit = LIMITS[level].evenness(1000 * median(gap.seconds for gap in gaps))
                    shares.append(stdev(gap.pace for gap in gaps) / limit)
        assert len(shares) >= 20
        assert 0.48 < median(shares) < (0.72 if level in (Level.FIRST_YEAR, Level.ELEMENTARY) else 0.9)

    def test_midi_takes_have_pitches_and_lengths(self):
        task = lap_task(SCORE, assigned_bpm=66, with_pitches=True)
        strikes = simulate(task, source=Source.MIDI).strikes
        assert all(s.pitch and s.velocity and s.released_s > s.played_s for s in strikes)

    @pytest.mark.parametrize(
        "text", ["", "nonsense=1", "limp", "limp=x", "limp=0:0", "jitter=nan", "jitter=-3", "hesitate=1.5", "miss=200"]
    )
    def test_faults_that_cannot_be_read_are_refused(self, text):
        with pytest.raises(OptionError):
            parse_fault(text)

    def test_a_fault_in_a_bar_that_is_not_there_is_refused(self):
        for text in ("hesitate=99:1", "restart=99", "restart=8"):
            with pytest.raises(OptionError):
                task = lap_task(score_of("C5/w"), assigned_bpm=60) if text == "restart=8" else TASK
                simulate(task, faults=[parse_fault(text)])


def test_findings_need_more_than_a_figure_past_its_limit():
    """A take just past a limit on few notes is shown, not blamed: the interval rule."""
    score = score_of("C5/e D5/e E5/q F5/h | C5/e D5/e E5/q F5/h | C5/e D5/e E5/q F5/h")
    task = lap_task(score, assigned_bpm=60)
    performance = simulate(task, seed=2, faults=[parse_fault("jitter=30")])
    checked = check_take(task, performance)
    assert find_findings(checked, LIMITS[Level.FIRST_YEAR]) == []


@pytest.mark.parametrize("source", [Source.MIDI, Source.TAPS])
@pytest.mark.parametrize("bars", [1, 2])
def test_a_take_of_one_or_two_bars_blames_nobody_for_its_timing(bars, source):
    """Whatever the timing; what is missing is told all the same."""
    from laptick.core.judging.judgement import judge_take
    from laptick.core.judging.telling import tell

    for faults in (
        (),
        (parse_fault("rush-runs=0.7"),),
        (parse_fault("drift=20"),),
        (parse_fault("late-after-rest=200"),),
    ):
        for seed in range(6):
            task = lap_task(SCORE, assigned_bpm=60, measures=SCORE.measures[seed : seed + bars])
            played = simulate(task, level=Level.FIRST_YEAR, seed=seed, faults=faults, source=source)
            judged = judge_take(task, played, LIMITS[Level.FIRST_YEAR])
            told = {finding.code for finding in judged.findings}
            assert told <= {"missing", "extra", "wrong-notes", "restart", "hesitation"}
            assert not any("tempo" in good.lower() for good in judged.verdict.good)
            assert any("blames nobody" in one.why for one in tell(judged).withheld)
    task = lap_task(SCORE, assigned_bpm=60, measures=SCORE.measures[:bars])
    gaps = simulate(task, level=Level.FIRST_YEAR, seed=3, faults=(parse_fault("miss=40"),), source=source)
    assert "missing" in {finding.code for finding in judge_take(task, gaps, LIMITS[Level.FIRST_YEAR]).findings}
