"""Takes written by hand for what a pooled mean hides: one hand that excuses the other, long runs that rush, a bass let go
early, a tempo that steps, landings. Each figure is worked out here; the beat is 1 s (60 beats a minute) unless said.

Common practice, no source; the deviations round each place are ``HAND_WRITTEN_MS`` (helpers.py), an ordinary player's.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction as F

import pytest

from hand_written import Moved, found, keys, nothing, played
from helpers import score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.judging.findings import look_at
from laptick.core.judging.judgement import judge_take
from laptick.core.judging.praising import praise_of
from laptick.core.judging.telling import tell
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.roadmap import laid_round
from laptick.core.score.score import Hand
from laptick.core.takes.task import Expected, Task, lap_task

#: Both hands rest on 3, and come in on 4; eleven bars of it and a last one.
BOTH_REST = score_of(
    " | ".join(["C5/q D5/q r/q E5/q", "E5/q D5/q r/q C5/q"] * 6 + ["C5/w"]),
    " | ".join(["C3/q D3/q r/q G3/q", "E3/q D3/q r/q C3/q"] * 6 + ["C3/w"]),
)


class TestOneHandDoesNotExcuseTheOther:
    def test_without_a_fault_nothing_is_found(self):
        assert found(keys(BOTH_REST), played(keys(BOTH_REST))) == {}

    def test_the_left_hand_holds_through_its_rests(self):
        """675 ms into every rest of 1 s; the limit is 30 % of the beat, 300 ms. The right hand lets go in time."""
        task = keys(BOTH_REST)
        before_rest = {float(e.onset_quarters) for e in task.expected if e.onset_quarters % 4 == 1}
        over = found(
            task, played(task, up=lambda e: 0.705 * (e.hand is Hand.LEFT and float(e.onset_quarters) in before_rest))
        )
        assert over.keys() == {"rest-run-over"}
        assert over["rest-run-over"] == pytest.approx(675, abs=60)

    @pytest.mark.parametrize("hand", list(Hand))
    def test_one_hand_comes_in_late(self, hand):
        """200 ms at every entry of one hand; a strike may lie 7 % of the beat, 70 ms, from it."""
        task = keys(BOTH_REST)
        late = found(task, played(task, moved=lambda e: 0.2 * (e.hand is hand and e.onset_quarters % 4 == 3)))
        assert late.keys() == {"late-entry"}
        assert late["late-entry"] == pytest.approx(200, abs=25)

    def test_in_half_of_the_places(self):
        """Six of twelve entries of the left hand, 180 ms."""
        task = keys(BOTH_REST)
        late = found(
            task,
            played(
                task,
                moved=lambda e: (
                    0.18 * (e.hand is Hand.LEFT and e.onset_quarters % 4 == 3 and e.onset_quarters // 4 % 2 == 0)
                ),
            ),
        )
        assert late.keys() == {"late-entry"}
        assert late["late-entry"] == pytest.approx(180, abs=30)


#: Four long runs of eighths, and pairs between them; the left hand has quarters.
LONG_RUNS = score_of(
    " | ".join(["C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e", "C5/q D5/e E5/e F5/q G5/e F5/e", "E5/q D5/q C5/h"] * 4),
    " | ".join(["C3/h G3/h", "C3/q E3/q G3/q E3/q", "G3/h C3/h"] * 4),
)


def in_long_run(quarters: float) -> float:
    """How much of a long run (the four beats of every third bar) has gone by at an instant, in beats, all together."""
    whole, inside = divmod(quarters, 12)
    return 4 * whole + min(4.0, inside)


class TestLongRuns:
    def test_rush_and_pull_the_beat_along(self):
        """At 80 % of their time; the pairs even. Limit: 9 % of an eighth and what MIDI cannot tell."""
        task = keys(LONG_RUNS)
        rushed = found(task, played(task, clock=lambda q: q - 0.2 * in_long_run(q)))
        assert "rushed-run" in rushed
        assert rushed["rushed-run"] == pytest.approx(0.2, abs=0.04)

    def test_of_one_hand_alone(self):
        """The right hand 15 % faster inside its long runs, landing 600 ms before the left, then back."""
        task = keys(LONG_RUNS, 60)

        def early(e: Expected) -> float:
            inside = float(e.onset_quarters % 12)
            return -0.15 * inside if e.hand is Hand.RIGHT and inside <= 4 else 0.0

        rushed = found(task, played(task, moved=early))
        assert "rushed-run" in rushed
        assert rushed["rushed-run"] == pytest.approx(0.15, abs=0.03)

    def test_even_ones_are_not_blamed(self):
        assert found(keys(LONG_RUNS), played(keys(LONG_RUNS))) == {}


#: A held bass under quarters of the same hand would be two voices; here the left hand holds, and the right has a tune.
HELD = score_of(
    " | ".join(["C5/q D5/q E5/q", "F5/q E5/e D5/e C5/q"] * 4),
    " | ".join(["C3/h.", "G3/h."] * 4),
    time=(3, 4),
)


class TestLengths:
    def test_a_bass_let_go_early(self):
        """At 1.2 of its 3 beats, seven of eight times: 1,800 ms short; the limit is 35 % of a beat."""
        task = keys(HELD)
        cut = found(task, played(task, up=lambda e: -1.77 * (e.hand is Hand.LEFT and e.onset_quarters > 0)))
        assert cut.keys() == {"long-cut"}
        assert cut["long-cut"] == pytest.approx(1800, abs=120)

    @pytest.mark.parametrize("level", list(Level))
    def test_detached_accompaniment_is_touch(self, level):
        """Quarters of a pulse let go after two fifths of their beat, as a good player may."""
        pulse = score_of(
            " | ".join(["C5/h E5/h", "G5/w"] * 4), " | ".join(["C3/q E3/q G3/q E3/q", "C3/q G3/q E3/q G3/q"] * 4)
        )
        task = keys(pulse)
        assert "long-cut" not in found(task, played(task, up=lambda e: -0.57 * (e.hand is Hand.LEFT)), level)

    def test_a_key_struck_again_by_the_other_hand_is_not_let_go_early(self):
        """The right hand's whole note ends where the left strikes its key, on beat 3 of every bar."""
        task = keys(score_of(" | ".join(["C5/w"] * 8), " | ".join(["C3/q G3/q C5/q G3/q"] * 8)))
        take = played(task, up=lambda e: -2.0 * (e.hand is Hand.RIGHT))
        checked = check_take(task, take)
        assert checked.measured is not None
        whole = [note for note in checked.measured.long_notes if note.hand is Hand.RIGHT]
        assert {note.written_quarters for note in whole} == {2}
        assert found(task, take) == {}

    def test_quarters_after_eighths_short(self):
        """17 % short in nine of fourteen bars, the beat pulled along: a bias, whatever the spread. Limit 9 %."""
        score = score_of(" | ".join(["C5/e D5/e E5/q F5/e E5/e D5/q"] * 14), " | ".join(["C3/w"] * 14))
        task = keys(score)
        short = {0, 1, 3, 4, 6, 8, 9, 11, 12}

        def clock(quarters: float) -> float:
            bar, inside = divmod(quarters, 4)
            lost = sum(2.0 for b in range(int(bar)) if b in short)
            if bar in short:
                lost += min(1.0, max(0.0, inside - 1)) + min(1.0, max(0.0, inside - 3))
            return quarters - 0.17 * lost

        assert "long-rushed" in found(task, played(task, clock=clock))


#: Quarters and halves in both hands, sixteen bars.
PLAIN = score_of(
    " | ".join(["C5/q D5/q E5/q F5/q", "G5/h E5/q D5/q"] * 8), " | ".join(["C3/h G3/h", "E3/q G3/q C3/h"] * 8)
)


class TestTempo:
    def test_a_step_stays(self):
        """From bar 9 on 16 % slower: the second half lasts 1/0.84 of its time."""
        task = keys(PLAIN, 80)
        slower = found(task, played(task, clock=lambda q: 0.75 * (q + max(0.0, q - 32) * (1 / 0.84 - 1))))
        assert slower.keys() == {"drift"}
        assert slower["drift"] == pytest.approx(0.16, abs=0.04)

    def test_a_drift_under_phrases_that_breathe(self):
        """Nine per cent slower from first to last bar, and the last beat of every second bar 15 % broader."""
        task = keys(PLAIN, 80)

        def clock(quarters: float) -> float:
            pairs, inside = divmod(quarters, 8)
            broad = 0.15 * (pairs + max(0.0, inside - 7))
            share = quarters / 64
            return 0.75 * (quarters * (1 + 0.096 * share / 2) + broad)

        assert "drift" in found(task, played(task, clock=clock), Level.ADVANCED)

    @pytest.mark.parametrize("level", list(Level))
    def test_phrases_that_breathe_are_music(self, level):
        """The last beat of every second bar 15 % broader, the last two beats of all a fifth."""
        task = keys(PLAIN, 80)

        def clock(quarters: float) -> float:
            pairs, inside = divmod(quarters, 8)
            return 0.75 * (quarters + 0.15 * (pairs + max(0.0, inside - 7)) + 0.2 * max(0.0, quarters - 62))

        blamed = found(task, played(task, clock=clock), level)
        assert not blamed.keys() & {"drift", "hesitation", "long-rushed", "uneven"}


#: Triplets and the beat after them.
TRIPLETS = score_of(
    " | ".join(["C5/et D5/et E5/et F5/q G5/et F5/et E5/et D5/q"] * 6 + ["C5/w"]),
    " | ".join(["C3/q G3/q E3/q G3/q"] * 6 + ["C3/w"]),
)


class TestLandings:
    def test_late_after_every_triplet(self):
        """A third of a triplet's note, 111 ms at 60: the limit is 70 ms and what MIDI cannot tell."""
        task = keys(TRIPLETS)
        lands = {1, 3}
        late = found(
            task,
            played(
                task,
                moved=lambda e: (
                    0.111 * (e.hand is Hand.RIGHT and e.onset_quarters % 4 in lands and e.onset_quarters < 24)
                ),
            ),
        )
        assert late.keys() == {"late-landing"}
        assert late["late-landing"] == pytest.approx(111, abs=15)

    def test_on_time_nothing_is_found(self):
        assert found(keys(TRIPLETS), played(keys(TRIPLETS))) == {}


#: Two bars of eighths over quarters, and one that is all eighths.
CHUNK = score_of(
    "C5/q D5/e E5/e F5/e E5/e D5/q | E5/e F5/e G5/e F5/e E5/q C5/q | C5/w",
    "C3/q G3/q E3/q G3/q | C3/q E3/q G3/q E3/q | C3/w",
)


def round_task(bars: int, times_round: int, bpm: float = 80) -> Task:
    score = laid_round(CHUNK, CHUNK.measures[:bars], times_round)
    return lap_task(score, assigned_bpm=bpm, with_pitches=True)


def in_pairs(quarters: float) -> float:
    """Beats of eighths gone by in the two bars: beats 2 and 3 of the first, 1 and 2 of the second."""
    twice, inside = divmod(quarters, 8)
    return 4 * twice + min(2.0, max(0.0, inside - 1)) + min(2.0, max(0.0, inside - 4))


class TestRound:
    """A chunk of two bars four times round is one take; once through it tells too little."""

    def test_eighths_that_rush_are_found(self):
        """At 75 % of their time, the beat pulled along: 0.25; the limit is 9 % and what MIDI cannot tell."""
        task = round_task(2, 4)
        rushed = found(task, played(task, clock=lambda q: 0.75 * (q - 0.25 * in_pairs(q))))
        assert "rushed-run" in rushed
        assert rushed["rushed-run"] == pytest.approx(0.25, abs=0.05)

    def test_eighths_that_limp_are_found(self):
        """3 : 2 in every pair of the right hand: (3 − 2) / (3 + 2) = 0.2; the second of each is 75 ms late at 80."""
        task = round_task(2, 4)
        second = {F(1, 2)}
        limping = found(
            task, played(task, moved=lambda e: 0.075 * (e.hand is Hand.RIGHT and e.onset_quarters % 1 in second))
        )
        assert limping.keys() == {"limping"}
        assert limping["limping"] == pytest.approx(0.2, abs=0.04)

    @pytest.mark.parametrize("bars", [1, 2])
    @pytest.mark.parametrize("level", list(Level))
    def test_without_a_fault_nothing_is_found(self, bars, level):
        assert found(round_task(bars, 4), played(round_task(bars, 4)), level) == {}

    def test_once_through_is_told_to_be_too_short(self):
        task = round_task(2, 1)
        judged = judge_take(
            task, played(task, clock=lambda q: 0.75 * (q - 0.25 * in_pairs(q))), LIMITS[Level.ELEMENTARY]
        )
        assert judged.findings == ()
        assert judged.verdict.cure.code == "round"
        assert not any("even" in sentence or "tempo" in sentence for sentence in judged.verdict.good)

    def test_each_round_is_a_pass(self):
        task = round_task(2, 4)
        assert [(m.number, m.pass_number) for m in task.measures] == [(n, p) for p in (1, 2, 3, 4) for n in ("1", "2")]

    @pytest.mark.parametrize(("bars", "times_round"), [(3, 9), (3, 0)])
    def test_out_of_bounds_is_refused(self, bars, times_round):
        with pytest.raises(OptionError, match="times round"):
            round_task(bars, times_round)


class TestPraise:
    """Praise is for what is well inside its limit, and stands on enough notes; not for whatever goes unblamed."""

    SIXTEENTHS = score_of(
        " | ".join(["C5/s D5/s E5/s F5/s G5/q F5/s E5/s D5/s C5/s D5/q"] * 8), " | ".join(["C3/q G3/q E3/q G3/q"] * 8)
    )

    def even(self, moved: Moved, level: Level) -> F | None:
        task = keys(self.SIXTEENTHS, 72)
        _, judging = look_at(check_take(task, played(task, moved=moved)), LIMITS[level])
        assert judging is not None
        return praise_of(judging).even

    @pytest.mark.parametrize("level", list(Level))
    def test_even_sixteenths_are_praised(self, level):
        assert self.even(nothing, level) == F(1, 4)

    @pytest.mark.parametrize("level", list(Level))
    def test_swung_ones_are_not(self, level):
        """1.6 : 1 of 208 ms: the second of each pair 48 ms late, 0.23; first-year's floor of 40 ms is a fifth."""
        second = {F(1, 4), F(3, 4)}

        def swung(e: Expected) -> float:
            return 0.048 * (e.hand is Hand.RIGHT and e.onset_quarters % 1 in second)

        assert self.even(swung, level) != F(1, 4)


class TestSlowingsAndStops:
    def judged(
        self, clock: Callable[[float], float], level: Level = Level.ADVANCED
    ) -> tuple[set[str], list[list[str]]]:
        task = keys(PLAIN, 80)
        judged = judge_take(task, played(task, clock=clock), LIMITS[level])
        document = tell(judged)
        return {str(f.code) for f in judged.findings}, [stop.causes for stop in document.hesitations]

    @pytest.mark.parametrize("level", list(Level))
    def test_the_last_two_beats_of_all_much_broader_are_a_slowing(self, level):
        """Beats 3 and 4 of the last bar but one 1.3 and 1.6 times as long, the last bar one and a half times."""

        def clock(quarters: float) -> float:
            return 0.75 * (quarters + 0.3 * min(1, max(0, quarters - 58)) + 0.6 * min(1, max(0, quarters - 59))
                           + 0.5 * max(0, quarters - 60))  # fmt: skip

        codes, _ = self.judged(clock, level)
        assert "hesitation" not in codes

    def test_a_gap_without_a_slowing_before_it_is_a_stop(self):
        """The beat as ever, then a halt of one beat before bar 9."""
        codes, causes = self.judged(lambda q: 0.75 * (q + (q >= 32)))
        assert codes == {"hesitation"}
        assert all("slowing" not in one for one in causes)

    @pytest.mark.parametrize("level", [Level.INTERMEDIATE, Level.ADVANCED])
    def test_the_last_beat_of_every_phrase_a_third_broader_is_told_as_slowing(self, level):
        """1.35 times, every four bars: seven twentieths of a beat, where a stop is a fifth of one."""

        def clock(quarters: float) -> float:
            phrases, inside = divmod(quarters, 16)
            return 0.75 * (quarters + 0.35 * (phrases + max(0.0, inside - 15)))

        codes, causes = self.judged(clock, level)
        assert "hesitation" not in codes
        assert all(one[0] == "slowing" for one in causes)
