"""Takes written by hand for what a pooled mean hides: one hand that excuses the other, long runs that rush, a bass let go
early, a tempo that steps, landings. Each figure is worked out here; the beat is 1 s (60 beats a minute) unless said.

Common practice, no source; the deviations round each place are ``HAND_WRITTEN_MS`` (helpers.py), an ordinary player's.
"""

from __future__ import annotations

from collections.abc import Callable

import pytest

from helpers import HAND_WRITTEN_MS, score_of
from laptick.core.base.levels import Level
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMITS
from laptick.core.score.score import Hand, Score
from laptick.core.takes.performance import Performance, Source, Strike
from laptick.core.takes.task import Expected, Task, lap_task

#: (strike) → seconds it is moved, and seconds its key-up is moved against its written end.
Moved = Callable[[Expected], float]


def nothing(_: Expected) -> float:
    return 0.0


def played(
    task: Task, *, moved: Moved = nothing, up: Moved = nothing, clock: Callable[[float], float] | None = None
) -> Performance:
    """Keys, each struck at its place (through ``clock``: quarters → seconds) and let go 30 ms before its written end."""
    lengths = {(n.hand, n.onset_quarters, n.pitch): n.duration_quarters for n in task.score.notes}
    at = clock or (lambda quarters: quarters * task.quarter_s)
    strikes = []
    for index, expected in enumerate(task.expected):
        onset, hand = expected.onset_quarters, expected.hand
        length = lengths[hand, onset, expected.pitch] if hand else 1
        on_s = 2 + at(float(onset)) + moved(expected) + HAND_WRITTEN_MS[index * 5 % len(HAND_WRITTEN_MS)] / 1000
        off_s = max(on_s + 0.02, 2 + at(float(onset + length)) - 0.03 + up(expected))
        strikes.append(Strike(on_s, None, expected.pitch, 64, off_s))
    return Performance(Source.MIDI, tuple(sorted(strikes, key=lambda s: s.played_s)))


def found(task: Task, take: Performance, level: Level = Level.ELEMENTARY) -> dict[str, float]:
    """The codes found, each with its amount."""
    checked = check_take(task, take)
    assert checked.followed
    return {str(f.code): f.amount for f in find_findings(checked, LIMITS[level])}


def keys(score: Score, bpm: float = 60) -> Task:
    return lap_task(score, assigned_bpm=bpm, with_pitches=True)


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
