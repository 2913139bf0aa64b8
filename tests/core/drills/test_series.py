"""One tune over one accompaniment after the other, and a pattern of one's own, by hand (docs/trade.md 3.3, common
practice); and the ladder that goes from one cue to the next."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import LimitError, OptionError
from laptick.core.base.levels import Level
from laptick.core.drills.layers import Layer, chords_typed
from laptick.core.drills.met import touched
from laptick.core.drills.patterns import PATTERNS, pattern_of, pattern_written
from laptick.core.drills.series import Run, make_series, taking_turns
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.score.score import Hand, MarkKind, Score
from laptick.formats.drills import make_drill
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml

TUNE = score_of("C5/q D5/q E5/q F5/q | G5/h A5/h | G5/q F5/q E5/q D5/q | C5/w")


def told(score: Score, bar: int, hand: Hand = Hand.LEFT) -> str:
    """A bar of one hand: where each strike is, how long, and its keys."""
    start = score.measures[bar].start_quarters
    struck: dict[Fraction, list[str]] = {}
    for note in score.notes_of_measure(bar):
        if note.hand is hand:
            struck.setdefault(note.onset_quarters - start, [str(note.duration_quarters)]).append(note.name)
    return " ".join(f"{at}:{length}:{'+'.join(names)}" for at, (length, *names) in struck.items())


def left_alone(left: str, time: tuple[int, int] = (4, 4)) -> Score:
    rests = " | ".join(" ".join(f"r/{word.split('/')[1]}" for word in bar.split()) for bar in left.split(" | "))
    return score_of(rests, left, time=time)


def layered(pattern: Score, roots: str, tune: Score = TUNE, **more) -> Score:
    own = pattern_written(pattern)
    return make_series(tune, Layer((), chords_typed(tune, roots), **more), [Run(((0, own),))]).score


# -- a pattern of one's own ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("written", "roots", "bar"),
    [
        # Root, fifth, third, silence, fifth.
        ("C3/e G3/e E3/q r/q G3/q", "C", "0:1/2:C3 1/2:1/2:G3 1:1:E3 3:1:G3"),
        ("C3/e G3/e E3/q r/q G3/q", "F", "0:1/2:F3 1/2:1/2:C4 1:1:A3 3:1:C4"),
        ("C3/e G3/e E3/q r/q G3/q", "Am", "0:1/2:A2 1/2:1/2:E3 1:1:C3 3:1:E3"),
        ("C3/e G3/e E3/q r/q G3/q", "Ab", "0:1/2:A♭2 1/2:1/2:E♭3 1:1:C3 3:1:E♭3"),
        # It was written over another root: G, its octave, its fifth below.
        ("G2/q G3/q D2/h", "C", "0:1:C3 1:1:C4 2:2:G2"),
        # A second and a fourth are no tones of the chord: they stay what they are.
        ("D3/q E3/q G3/q D3/q", "C", "0:1:C3 1:1:D3 2:1:F3 3:1:C3"),
        # Chords, and silence first.
        ("r/q C3+G3/q r/q C3+E3/q", "Dm", "1:1:D3+A3 3:1:D3+F3"),
    ],
)
def test_a_pattern_of_ones_own_over_another_root(written, roots, bar):
    assert told(layered(left_alone(written), roots), 0) == bar


def test_rhythm_alone_is_the_root():
    written = left_alone("C3/e C3/e D3/q E3/h")
    tapped = replace(written, notes=tuple(replace(note, pitch=None, name="x") for note in written.notes))
    assert told(layered(tapped, "G"), 0) == "0:1/2:G2 1/2:1/2:G2 1:1:G2 2:2:G2"


def test_a_pattern_is_what_the_right_hand_plays_where_the_left_is_silent():
    assert told(layered(score_of("C4/q G4/q E4/h"), "C"), 0) == "0:1:C3 1:1:G3 2:2:E3"


def test_it_is_of_its_first_whole_bar_and_goes_on_in_bars_of_other_lengths():
    pattern = left_alone("C3/q G3/e E3/e | C3/h", (2, 4))
    bar = "0:1:C3 1:1/2:G3 3/2:1/2:E3 2:1:C3 3:1/2:G3 7/2:1/2:E3"
    assert told(layered(pattern, "C"), 0) == bar
    three = score_of("C5/h. | C5/h.", time=(3, 4))
    assert told(layered(pattern, "C", three), 0) == "0:1:C3 1:1/2:G3 3/2:1/2:E3 2:1:C3"


def test_beats_of_another_kind_are_refused_in_words():
    six = score_of("C5/h. | C5/h.", time=(6, 8))
    with pytest.raises(OptionError, match="beats of two parts, bar 1 has three"):
        layered(left_alone("C3/q G3/q"), "C", six)
    with pytest.raises(OptionError, match="nothing is struck in bar 1"):
        pattern_written(score_of("r/w | C4/w"))


def test_what_is_too_far_for_the_hand_comes_nearer():
    """Root, tenth, octave: with room for a seventh only the fifth stands for both."""
    pattern = left_alone("C3/q E4/q C4/h")
    assert told(layered(pattern, "C"), 0) == "0:1:C3 1:1:E4 2:2:C4"
    assert told(layered(pattern, "C", span_steps=6), 0) == "0:1:C3 1:1:G3 2:2:G3"


# -- in a series -----------------------------------------------------------------------------------------


def series(*patterns: str, held: bool = False, turns: int = 0, tune: Score = TUNE, roots: str = "C F G C") -> Score:
    found = [pattern_of(name) for name in patterns]
    runs = [Run(((0, one),), is_held) for one in found for is_held in ((True, False) if held else (False,))]
    if turns:
        runs += taking_turns(found, tune.measures, turns)
    return make_series(tune, Layer((), chords_typed(tune, roots)), runs).score


def said(score: Score, kind: MarkKind) -> list[tuple[str, str]]:
    return [(score.measure_at(m.onset_quarters).number, m.text) for m in score.marks if m.kind is kind]


def test_a_series_is_called_pattern_by_pattern():
    made = series("pulse", "low-high", held=True, turns=2)
    assert [measure.number for measure in made.measures] == [str(n) for n in range(1, 21)]
    assert said(made, MarkKind.CUE) == [
        ("1", "the pulse, a chord on top"), ("5", "the pulse"), ("9", "low and high, a chord on top"),
        ("13", "low and high"), ("17", "the pulse"), ("19", "low and high"),
    ]  # fmt: skip
    assert [bar for bar, _ in said(made, MarkKind.REHEARSAL)] == ["1", "5", "9", "13", "17"]
    assert said(made, MarkKind.CHORD_SYMBOL)[:4] == [("1", "C"), ("2", "F"), ("3", "G"), ("4", "C")]
    assert told(made, 0) == "0:1:C3 1:1:C3 2:1:C3 3:1:C3"
    assert told(made, 12) == "0:1:C3 1:1:C4 2:1:C3 3:1:C4"
    assert [told(made, bar) for bar in (16, 18)] == [told(made, 4), told(made, 14)]
    for bar in range(4):
        assert told(made, 4 + bar, Hand.RIGHT) == told(TUNE, bar, Hand.RIGHT)
        assert told(made, bar) == told(made, 4 + bar), "the left hand is the same under chords and tune"


def test_a_chord_held_on_top_lies_above_the_left_hand():
    made = series("low-high", held=True)
    assert [told(made, bar, Hand.RIGHT) for bar in range(4)] == [
        "0:4:C5+E5+G5", "0:4:C5+F5+A5", "0:4:D5+G5+B5", "0:4:C5+E5+G5",
    ]  # fmt: skip


def test_a_held_chord_changes_where_the_left_hand_does():
    chords = chords_typed(TUNE, "C")
    layer = Layer((), chords, changes={1: ((Fraction(2), chords_typed(TUNE, "G")[0]),)})
    pulse = pattern_of("pulse")
    made = make_series(TUNE, layer, [Run(((0, pulse),), is_held=True), Run(((0, pulse),))]).score
    assert told(made, 1, Hand.RIGHT) == "0:2:C5+E5+G5 2:2:D5+G5+B5"
    assert told(made, 1) == told(made, 5) == "0:1:C3 1:1:C3 2:1:G2 3:1:G2"


def test_every_pattern_has_its_turn():
    """Three of four bars each over a tune of four: three times through."""
    found = [pattern_of(name) for name in ("pulse", "low-high", "half-speed")]
    runs = taking_turns(found, TUNE.measures, 4)
    assert [[pattern.key for _, pattern in run.patterns] for run in runs] == [["pulse"], ["low-high"], ["half-speed"]]
    assert [run.is_onward for run in runs] == [False, True, True]
    runs = taking_turns(found, TUNE.measures, 2)
    assert [[(bar, pattern.key) for bar, pattern in run.patterns] for run in runs] == [
        [(0, "pulse"), (2, "low-high")], [(0, "half-speed"), (2, "pulse")],
    ]  # fmt: skip


def test_an_upbeat_is_held_each_time():
    tune = score_of("G4/q | C5/q D5/q E5/q F5/q | G5/h.", pickup=Fraction(1))
    made = series("pulse", "low-high", tune=tune, roots="C G")
    assert [told(made, bar) for bar in (0, 3)] == ["", ""]
    assert said(made, MarkKind.CUE) == [("0", "the pulse"), ("3", "low and high")]


def test_too_many_are_refused():
    long = score_of(" | ".join(["C5/w"] * 60))
    with pytest.raises(LimitError, match="4 times 60 bars"):
        series("pulse", "low-high", "half-speed", "double-speed", tune=long, roots="C")


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(sorted(DEMO)), st.lists(st.sampled_from(sorted(PATTERNS)), min_size=1, max_size=3), st.booleans(),
    st.sampled_from(["", "2", "4"]),
)  # fmt: skip
def test_no_key_is_wanted_by_both_hands(name, patterns, held, turns):
    given_words = {"of": "x", "pattern": ",".join(patterns), "held": "yes" if held else "no"}
    if len(patterns) > 1:
        given_words["turns"] = turns
    score = demo_score(name)
    made = make_drill("layer", given_words, lambda _: score).score
    for measure in made.measures:
        of = {hand: [n for n in made.notes_of_measure(measure.index) if n.hand is hand] for hand in Hand}
        if measure.is_pickup or not of[Hand.RIGHT]:
            continue
        assert max((n.pitch or 0 for n in of[Hand.LEFT]), default=0) < min(n.pitch or 128 for n in of[Hand.RIGHT])


# -- its ladder ------------------------------------------------------------------------------------------


def climbed(score: Score, **school: str) -> list[tuple[str, str, str]]:
    ladder = build_ladder(score, Level.ELEMENTARY, Practised(88), {"scope": "cue", **school})
    return [
        (rung.group, rung.stage.value + (f" {rung.way}" if rung.way else ""), f"{rung.first + 1}-{rung.last + 1}")
        for rung in ladder.rungs
    ]


def test_each_pattern_is_said_tapped_held_sung_and_played():
    """The pulse, then at double speed: its rhythm is new, so it is said and tapped again."""
    made = series("pulse", "double-speed", held=True, turns=2)
    assert climbed(made) == [
        ("the pulse, a chord on top", "count", "1-4"), ("the pulse, a chord on top", "lap", "1-4"),
        ("the pulse, a chord on top", "join", "1-4"),
        ("the pulse", "count", "5-8"), ("the pulse", "lap", "5-8"), ("the pulse", "right", "5-8"),
        ("the pulse", "join tune-sung", "5-8"), ("the pulse", "join", "5-8"),
        ("at double speed, a chord on top", "count", "9-12"), ("at double speed, a chord on top", "lap", "9-12"),
        ("at double speed, a chord on top", "join", "9-12"),
        ("at double speed", "count", "13-16"), ("at double speed", "lap", "13-16"),
        ("at double speed", "join tune-sung", "13-16"), ("at double speed", "join", "13-16"),
        ("in turn", "join", "17-20"), ("in turn", "tempo", "17-20"), ("in turn", "finish", "17-20"),
        ("in turn", "finish", "17-20"), ("in turn", "finish", "17-20"),
    ]  # fmt: skip


def test_one_pattern_leads_into_the_other():
    """Three of two bars each over a tune of four: twice through, three joints, each with the bars on either side."""
    made = series("pulse", "half-speed", "low-high", turns=2)
    joints = [bars for group, stage, bars in climbed(made) if group == "one into the other"]
    assert joints == ["13-16", "15-18", "17-20"]


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.sampled_from(sorted(PATTERNS)), min_size=2, max_size=3), st.booleans(), st.sampled_from([0, 1, 2, 3])
)
def test_every_bar_is_joined_and_no_rung_is_there_twice(patterns, held, turns):
    ladder = build_ladder(series(*patterns, held=held, turns=turns), Level.ELEMENTARY, Practised(88), {"scope": "cue"})
    joined = {ladder.same_as[bar] for rung in ladder.rungs if rung.stage.value == "join" for bar in rung.bars}
    assert joined == set(ladder.same_as)
    keys = [rung.key for rung in ladder.rungs]
    assert not [key for key in keys if "again" in key]


def test_without_a_last_run_in_turn_all_of_it_goes_up_to_tempo():
    made = series("pulse", "half-speed")
    assert [rung[1:] for rung in climbed(made) if rung[0] == "the whole"][:2] == [("join", "1-8"), ("tempo", "1-8")]


def test_where_nothing_is_called_lines_are_climbed():
    assert climbed(TUNE)[0][0] == "line 1"
    assert climbed(demo_score("harbour-steps")) == [
        (rung.group, rung.stage.value, f"{rung.first + 1}-{rung.last + 1}")
        for rung in build_ladder(demo_score("harbour-steps"), Level.ELEMENTARY, Practised(88), {"scope": "line"}).rungs
    ]


def test_what_was_written_and_read_again_is_climbed_the_same():
    made = series("pulse", "low-high", held=True, turns=2)
    read = read_musicxml(write_musicxml(made))
    assert climbed(read) == climbed(made)
    assert said(read, MarkKind.CUE) == said(made, MarkKind.CUE)


def test_a_sung_rung_is_of_the_left_hand():
    ladder = build_ladder(series("pulse", "low-high"), Level.ELEMENTARY, Practised(88), {"scope": "cue"})
    sung = [rung for rung in ladder.rungs if rung.way == "tune-sung"]
    assert [(rung.hands, rung.key) for rung in sung] == [
        ("left", "join:1-4:both:tune-sung"), ("left", "join:5-8:both:tune-sung"),
    ]  # fmt: skip


# -- touch -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("asked", "kept", "is_kept", "text"),
    [
        (10, 8, True, "The left hand staccato: 8 of 10 notes short: right."),
        (10, 7, False, "The left hand staccato: 7 of 10 notes short."),
    ],
)
def test_a_touch_is_kept_by_four_notes_of_five(asked, kept, is_kept, text):
    found = touched(Hand.LEFT, "staccato", asked, kept)
    assert found is not None
    assert (found.is_kept, found.text) == (is_kept, text)
    assert touched(Hand.LEFT, "staccato", 0, 0) is None


def test_ids_stay_apart():
    made = series("pulse", "low-high", held=True)
    ids = [note.id for note in made.notes]
    assert len(ids) == len(set(ids))
    assert replace(made, title="").notes == made.notes
