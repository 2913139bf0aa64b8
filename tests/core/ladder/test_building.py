"""From a piece to its ladder: the rungs of a piece as written by hand, what each answer of school changes, and what must
hold of every ladder. Common practice, no source; docs/trade.md 3.3."""

from __future__ import annotations

import itertools
from fractions import Fraction

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hard_score import hard_score
from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.counting.counting import default_bpm
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.school import QUESTIONS, parse_school, school_of
from laptick.core.practice.ladder.stages import GateKind, Stage
from laptick.core.together.seams import seams_of

#: Two lines of four bars: stage, bars, hands, gate of every rung, in order.
HARBOUR_STEPS = """
hear 1-4 both word
count 1-4 both word
right 1-4 right one-clean
left 1-4 left one-clean
lap 1-4 both one-clean
line-up 1-4 both word
join 1-1 both one-clean
join 1-2 both one-clean
join 2-3 both one-clean
join 3-4 both one-clean
seams 2-3 both one-clean
join 1-4 both two-of-three
hear 5-8 both word
count 5-8 both word
right 5-8 right one-clean
left 5-8 left one-clean
lap 5-8 both one-clean
line-up 5-8 both word
join 5-5 both one-clean
join 5-6 both one-clean
join 6-7 both one-clean
join 7-8 both one-clean
seams 7-7 both one-clean
join 5-8 both two-of-three
join 1-8 both two-of-three
tempo 1-8 both two-days
finish 1-8 both one-clean
finish 1-8 both word
finish 1-8 both word
"""


def written(score, ladder) -> str:
    names = [measure.number for measure in score.measures]
    lines = (f"{r.stage.value} {names[r.first]}-{names[r.last]} {r.hands} {r.gate.value}" for r in ladder.rungs)
    return "\n".join(lines)


def built(score, level=Level.FIRST_YEAR, **chosen):
    target = default_bpm(score) or 60.0
    return build_ladder(
        score, level, Practised(target), {key.replace("_", "-"): value for key, value in chosen.items()}
    )


def stages(ladder) -> list[Stage]:
    return [rung.stage for rung in ladder.rungs]


def test_a_piece_by_hand():
    score = demo_score("harbour-steps")
    assert written(score, built(score)) == HARBOUR_STEPS.strip()


class TestSchool:
    score = demo_score("harbour-steps")

    def test_the_whole_piece_through_each_stage(self):
        ladder = built(self.score, scope="piece")
        assert stages(ladder).count(Stage.RIGHT) == stages(ladder).count(Stage.HEAR) == 1
        assert {rung.group for rung in ladder.rungs} == {"the piece", "the whole"}

    def test_line_by_line_is_usual_below_intermediate(self):
        assert [school_of(level)["scope"] for level in Level] == ["line", "line", "piece", "piece"]
        assert [school_of(level)["fray"] for level in Level] == ["back", "never-back", "never-back", "never-back"]

    def test_counted_before_it_is_heard(self):
        assert stages(built(self.score, first="count"))[:2] == [Stage.COUNT, Stage.HEAR]

    def test_together_at_once(self):
        assert not {Stage.RIGHT, Stage.LEFT} & set(stages(built(self.score, start="together")))

    @pytest.mark.parametrize(("first", "stage"), [("right", Stage.RIGHT), ("left", Stage.LEFT)])
    def test_the_first_hand(self, first, stage):
        ladder = built(self.score, first_hand=first)
        assert next(one for one in stages(ladder) if one in (Stage.RIGHT, Stage.LEFT)) is stage

    def test_the_later_layer_holds(self):
        school = school_of(Level.FIRST_YEAR, {"first": "count"}, {"first": "hear", "click": "at-tempo"})
        assert (school["first"], school["click"], school.chosen) == ("hear", "at-tempo", {"first", "click"})

    @pytest.mark.parametrize("chosen", [{"mood": "happy"}, {"scope": "page"}])
    def test_what_there_is_none_of(self, chosen):
        with pytest.raises(OptionError):
            school_of(Level.ADVANCED, chosen)

    def test_as_written_in_a_shell(self):
        assert parse_school(["scope=line", "first=count"]) == {"scope": "line", "first": "count"}
        with pytest.raises(OptionError, match="no choice of school"):
            parse_school(["scope"])


class TestWhatIsKnown:
    def test_a_line_that_comes_again_is_not_climbed_again(self):
        bars = ["C5/q D5/q E5/q F5/q", "G5/h E5/h", "F5/q E5/q D5/q C5/q", "C5/w"]
        left = ["C3/h G3/h", "C3/w", "G3/h B2/h", "C3/w"]
        score = score_of(" | ".join(bars * 2), " | ".join(left * 2))
        ladder = built(score)
        assert {rung.group for rung in ladder.rungs} == {"line 1", "the whole"}
        # Only the way into it is new: it lies in the whole.
        assert (0, 7) in [(rung.first, rung.last) for rung in ladder.rungs if rung.stage is Stage.JOIN]

    def test_a_hand_that_plays_what_it_played_is_not_practised_again(self):
        first = ["C5/q D5/q E5/q F5/q", "G5/h E5/h", "F5/q E5/q D5/q C5/q", "C5/w"]
        second = ["E5/q F5/q G5/q A5/q", "G5/h E5/h", "A5/q G5/q F5/q E5/q", "E5/w"]
        left = ["C3/h G3/h", "C3/w", "G3/h B2/h", "C3/w"]
        ladder = built(score_of(" | ".join(first + second), " | ".join(left * 2)))
        assert stages(ladder).count(Stage.LEFT) == 1
        assert stages(ladder).count(Stage.RIGHT) == 2

    def test_one_hand_alone_is_not_joined(self):
        ladder = built(score_of("C5/q D5/q E5/q F5/q | G5/w", ""))
        assert set(stages(ladder)) == {Stage.HEAR, Stage.COUNT, Stage.RIGHT, Stage.TEMPO, Stage.FINISH}


SCORES = {**{name: demo_score(name) for name in DEMO}, "hard": hard_score(24)}


@settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))
@given(
    st.sampled_from(list(SCORES)),
    st.sampled_from(list(Level)),
    st.fixed_dictionaries(
        {}, optional={k: st.sampled_from([a.value for a in q.answers]) for k, q in QUESTIONS.items()}
    ),
    st.floats(40, 200),
)
def test_what_holds_of_every_ladder(name, level, chosen, target):
    score = SCORES[name]
    ladder = build_ladder(score, level, Practised(target), chosen)
    assert build_ladder(score, level, Practised(target), chosen) == ladder
    rungs = ladder.rungs
    assert len({rung.key for rung in rungs}) == len(rungs)
    assert all(0 <= rung.first <= rung.last < len(score.measures) for rung in rungs)
    assert all(rung.why and rung.title for rung in rungs)
    # No tempo lies above the target, but for what is nearest to it on a metronome.
    assert all(tempo <= max(40, target * Fraction(104, 100)) for rung in rungs for tempo in rung.tempos)
    joined = [rung for rung in rungs if rung.stage is Stage.JOIN]
    if len(score.hands_present()) == 2:
        assert {bar for rung in joined for bar in range(rung.first, rung.last + 1)} == set(range(len(score.measures)))
        for seam in seams_of(score):
            low, high = sorted((seam.before.measure_index, seam.to.measure_index))
            assert any(rung.first <= low and high <= rung.last for rung in joined)
        # From small to large: every group ends with all of it.
        for _, own in itertools.groupby(joined, key=lambda rung: rung.group):
            group = list(own)
            assert group[-1].last - group[-1].first == max(rung.last - rung.first for rung in group)
    assert [rung.gate for rung in rungs if rung.stage is Stage.TEMPO] == [GateKind.TWO_DAYS]
    assert all(rung.rounds == 4 for rung in joined if rung.last - rung.first < 2)


def test_of_a_passage_only_its_bars():
    score = demo_score("harbour-steps")
    ladder = build_ladder(score, Level.ELEMENTARY, Practised(88, 2, 5))
    assert {(rung.first, rung.last) for rung in ladder.rungs if rung.stage is Stage.TEMPO} == {(2, 5)}
    assert all(rung.first >= 2 and rung.last <= 5 for rung in ladder.rungs)


def test_bars_that_a_file_names_alike_or_at_length_make_rungs_of_their_own():
    from dataclasses import replace as other

    score = demo_score("harbour-steps")
    names = ["1", "2", "3", "4", "1", "2", "3", "x" * 300]
    named = other(score, measures=tuple(other(m, number=n) for m, n in zip(score.measures, names, strict=True)))
    keys = [rung.key for rung in built(named).rungs]
    assert len(set(keys)) == len(keys)
    assert max(map(len, keys)) <= 120
