"""A left hand's patterns, forms, cross-rhythms and turns of even notes against bars written by hand (docs/trade.md 2.2,
3.3, 3.5, common practice), and what must hold of every one of them."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from hard_score import hard_score
from helpers import DEMO, demo_score, score_of
from laptick.core.base.errors import LapTickError, OptionError
from laptick.core.counting.counting import count_line
from laptick.core.drills.chords import Chord, chord_of
from laptick.core.drills.crosses import make_cross, sentence_of
from laptick.core.drills.forms import FILLS, FORMS, Form, bars_of, make_form
from laptick.core.drills.layers import Layer, chords_proposed, chords_typed, chords_written, make_layer
from laptick.core.drills.patterns import PATTERNS, pattern_of
from laptick.core.drills.scales import scale_of
from laptick.core.drills.variants import make_variant, shares_of
from laptick.core.score.score import Hand, Mark, MarkKind, Score, mark_order
from laptick.core.takes.task import lap_task
from laptick.formats.drills import make_drill
from laptick.formats.musicxml.file import read_musicxml
from laptick.formats.musicxml_writing.writer import write_musicxml

#: One bar of 4/4 under a high tune, over C: lengths in quarters and tones, chords joined by +.
IN_FOUR = {
    "pulse": "1:C3 1:C3 1:C3 1:C3",
    "half-speed": "2:C3 2:C3",
    "double-speed": "1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3",
    "low-high": "1:C3 1:C4 1:C3 1:C4",
    "low-high-doubled": "1/2:C3 1/2:C4 1/2:C3 1/2:C4 1/2:C3 1/2:C4 1/2:C3 1/2:C4",
    "shorts-long": "1/2:C3 1/2:C3 1:C4 1/2:C3 1/2:C3 1:C4",
    "3+3+2": "3/2:C3 3/2:C4 1:C3",
    "waltz": "1:C3 1:G3+C4 1:G3+C4 1:C3",
    "broken-chord": "1/2:C3 1/2:E3 1/2:G3 1/2:E3 1/2:C3 1/2:E3 1/2:G3 1/2:E3",
    "boogie": "1/2:C3 1/2:E3 1/2:G3 1/2:A3 1/2:B♭3 1/2:A3 1/2:G3 1/2:E3",
    "held-chord": "4:C3+G3",
}
#: Other meters: signature, pattern, one bar.
OTHERWISE = [
    ((3, 4), "waltz", "1:C3 1:G3+C4 1:G3+C4"),
    ((3, 4), "half-speed", "2:C3 1:C3"),
    ((3, 4), "boogie", "1/2:C3 1/2:E3 1/2:G3 1/2:A3 1/2:B♭3 1/2:A3"),
    ((2, 4), "3+3+2", "3/4:C3 3/4:C4 1/2:C3"),
    ((2, 4), "waltz", "1:C3 1:G3+C4"),
    ((6, 8), "double-speed", "1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3 1/2:C3"),
    ((6, 8), "low-high-doubled", "1:C3 1/2:C4 1:C3 1/2:C4"),
    ((6, 8), "broken-chord", "1/2:C3 1/2:E3 1/2:G3 1/2:C3 1/2:E3 1/2:G3"),
    ((5, 4), "low-high", "1:C3 1:C4 1:C3 1:C4 1:C3"),
]

#: The tune lies this high, so that every pattern has its octave.
TUNES = {(4, 4): "C6/w | C6/w", (3, 4): "C6/h. | C6/h.", (2, 4): "C6/h | C6/h", (6, 8): "C6/h. | C6/h.",
         (5, 4): "C6/w D6/q | C6/w D6/q"}  # fmt: skip


def left(score: Score, bar: int = 0) -> str:
    measure = score.measures[bar]
    told: dict[Fraction, list[str]] = {}
    lengths: dict[Fraction, Fraction] = {}
    for note in score.notes:
        if note.hand is Hand.LEFT and note.measure_index == bar:
            at = note.onset_quarters - measure.start_quarters
            if note.tied_from_before:
                lengths[max(lengths)] += note.duration_quarters if note.pitch is not None else 0
                continue
            told.setdefault(at, []).append(note.name)
            lengths[at] = note.duration_quarters
    return " ".join(f"{lengths[at]}:{'+'.join(names)}" for at, names in told.items())


def layered(signature: tuple[int, int], pattern: str, roots: str = "C", **more) -> Score:
    score = score_of(TUNES[signature], time=signature)
    return make_layer(score, Layer(((0, pattern_of(pattern)),), chords_typed(score, roots), **more)).score


@pytest.mark.parametrize(("pattern", "bar"), IN_FOUR.items())
def test_patterns_by_hand(pattern, bar):
    assert left(layered((4, 4), pattern)) == bar


def test_every_pattern_is_written_by_hand():
    assert set(IN_FOUR) == set(PATTERNS)


@pytest.mark.parametrize(("signature", "pattern", "bar"), OTHERWISE)
def test_patterns_in_other_meters_by_hand(signature, pattern, bar):
    assert left(layered(signature, pattern)) == bar


#: Octave, third, fifth, sixth and seventh over the root in every key, by hand; the root nearest to C3, of two as near
#: the lower one.
KEYS = {
    "C": "C4 E3 G3 A3 B♭3", "Db": "D♭4 F3 A♭3 B♭3 C♭4", "D": "D4 F♯3 A3 B3 C4", "Eb": "E♭4 G3 B♭3 C4 D♭4",
    "E": "E4 G♯3 B3 C♯4 D4", "F": "F4 A3 C4 D4 E♭4", "F#": "F♯3 A♯2 C♯3 D♯3 E3", "G": "G3 B2 D3 E3 F3",
    "Ab": "A♭3 C3 E♭3 F3 G♭3", "A": "A3 C♯3 E3 F♯3 G3", "Bb": "B♭3 D3 F3 G3 A♭3", "B": "B3 D♯3 F♯3 G♯3 A3",
}  # fmt: skip


@pytest.mark.parametrize("pattern", IN_FOUR)
@pytest.mark.parametrize("root", KEYS)
def test_every_pattern_in_every_key_by_hand(root, pattern):
    octave, third, fifth, sixth, seventh = KEYS[root].split()
    tones = {"C4": octave, "E3": third, "G3": fifth, "A3": sixth, "B♭3": seventh}
    tones["C3"] = f"{octave[:-1]}{int(octave[-1]) - 1}"
    words = [word.partition(":") for word in IN_FOUR[pattern].split()]
    bar = " ".join(f"{length}:{'+'.join(tones[name] for name in names.split('+'))}" for length, _, names in words)
    assert left(layered((4, 4), pattern, root)) == bar


def test_the_octave_gives_way_to_the_fifth_and_the_root_goes_lower():
    low = score_of("B3/w | B3/w")
    under = make_layer(low, Layer(((0, pattern_of("low-high")),), (chord_of("C"),) * 2)).score
    assert left(under) == "1:C2 1:C3 1:C2 1:C3"  # an octave lower: C4 would reach into the tune
    short = make_layer(low, Layer(((0, pattern_of("low-high")),), (chord_of("C"),) * 2, span_steps=5)).score
    assert left(short) == "1:C3 1:G3 1:C3 1:G3"  # the hand does not span an octave


def test_a_tune_that_lies_too_low_is_said_to():
    with pytest.raises(OptionError, match="too low"):
        make_layer(score_of("C2/w"), Layer(((0, pattern_of("boogie")),), (chord_of("C"),)))


@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.sampled_from([*DEMO, "hard"]), st.sampled_from(list(PATTERNS)), st.integers(4, 9), st.booleans())
def test_no_key_is_wanted_by_both_hands_and_no_chord_is_beyond_the_span(name, pattern, span, is_proposed):
    score = hard_score(6) if name == "hard" else demo_score(name)
    chords = chords_proposed(score) if is_proposed or chords_written(score) is None else chords_written(score)
    try:
        made = make_layer(score, Layer(((0, pattern_of(pattern)),), chords, is_proposed, None, span)).score
    except OptionError as error:
        assert (name == "hard", "too low" in error.what) == (True, True)  # noqa: PT017
        return
    for measure in made.measures:
        right = {n.pitch for n in made.notes if n.hand is Hand.RIGHT and n.measure_index == measure.index}
        struck = {n.pitch for n in made.notes if n.hand is Hand.LEFT and n.measure_index == measure.index}
        assert not struck & right
        assert max(struck, default=0) < min((p for p in right if p is not None), default=128)
        if span < 7 and struck:
            assert max(struck) - min(struck) < 12
    back = read_musicxml(write_musicxml(made))
    assert [(n.hand, n.onset_quarters, n.pitch, n.name) for n in back.notes if not n.is_grace] == [
        (n.hand, n.onset_quarters, n.pitch, n.name) for n in made.notes if not n.is_grace
    ]
    assert count_line(back, Hand.LEFT).bars == count_line(made, Hand.LEFT).bars


def test_another_pattern_in_mid_run_is_said_ahead():
    score = score_of("C6/w | C6/w | C6/w | C6/w")
    patterns = ((0, pattern_of("pulse")), (2, pattern_of("3+3+2")))
    made = make_layer(score, Layer(patterns, (chord_of("C"),) * 4)).score
    assert left(made, 1) == IN_FOUR["pulse"]
    assert left(made, 2) == IN_FOUR["3+3+2"]
    assert [(m.text, m.onset_quarters) for m in made.marks if m.kind is MarkKind.CUE] == [("three, three, two", 8)]


def test_touch_by_hand():
    score = score_of("C6/q D6/q E6/q F6/q")
    made = make_layer(
        score, Layer(((0, pattern_of("pulse")),), (chord_of("C"),), touch={Hand.LEFT: "staccato", Hand.RIGHT: "legato"})
    ).score
    names = {note.id: note for note in made.notes}
    dots = [names[m.note_id].hand for m in made.marks if m.kind is MarkKind.ARTICULATION]
    assert dots == [Hand.LEFT] * 4
    [slur] = [m for m in made.marks if m.kind is MarkKind.SLUR]
    assert (slur.hand, slur.onset_quarters, slur.end_quarters) == (Hand.RIGHT, 0, 3)


class TestRoots:
    def test_typed(self):
        score = score_of("C5/w | D5/w | E5/w | C5/w")
        assert [c.name for c in chords_typed(score, "C, Dm G7")] == ["C", "Dm", "G", "G"]
        for wrong in ("", "H", "C " * 9):
            with pytest.raises(OptionError):
                chords_typed(score, wrong)

    def test_written(self):
        score = score_of("C5/w | D5/w | E5/w")
        marks = [Mark(MarkKind.CHORD_SYMBOL, Fraction(at), text) for at, text in ((0, "C"), (8, "A♭maj7/E♭"))]
        marked = replace(score, marks=tuple(sorted([*score.marks, *marks], key=mark_order)))
        assert [c.name for c in chords_written(marked)] == ["C", "C", "A♭maj7"]
        assert chords_written(score) is None

    def test_proposed_of_a_tune_whose_chords_are_plain(self):
        """C E G C | F A C5 A | G B D G | C: the chords that are in it."""
        score = score_of("C4/q E4/q G4/q C5/q | F4/q A4/q C5/q A4/q | G4/q B4/q D5/q G4/q | C5/w")
        assert [c.name for c in chords_proposed(score)] == ["C", "F", "G", "C"]

    @pytest.mark.parametrize(
        ("text", "name", "third"),
        [("C", "C", "E4"), ("F#m7", "F♯m", "A4"), ("Bbmaj7", "B♭maj7", "D5"), ("Edim", "Edim", "G4"),
         ("Gsus4", "Gsus4", "C5"), ("A-", "Am", "C5"), ("E♭7/G", "E♭", "G4")],
    )  # fmt: skip
    def test_symbols(self, text, name, third):
        chord = chord_of(text)
        assert chord.name == name
        found, key = chord.tone("third", 4)
        assert key == (third and Chord(third[0]).root_key(int(third[-1])))
        assert key % 12 in chord.classes()
        assert found


class TestForms:
    def test_the_twelve_bars_by_hand(self):
        """Root, third, fifth and a rest in every bar; the last one walks down together."""
        score = make_form(Form(bars_of("twelve-bar"), scale_of("C-major"))).score
        roots = ["C4", "C4", "C4", "C4", "F4", "F4", "C4", "C4", "G4", "F4", "C4"]
        for bar, root in enumerate(roots):
            names = [n.name for n in score.notes if n.hand is Hand.RIGHT and n.measure_index == bar]
            assert names == {
                "C4": ["C4", "E4", "G4"], "F4": ["F4", "A4", "C5"], "G4": ["G4", "B4", "D5"],
            }[root]  # fmt: skip
        last = [(n.hand.value, n.name) for n in score.notes if n.measure_index == 11]
        assert [name for hand, name in last if hand == "right"] == ["C5", "G4", "E4", "C4"]
        assert [name for hand, name in last if hand == "left"] == ["C4", "G3", "E3", "C3"]

    @pytest.mark.parametrize("form", list(FORMS))
    @pytest.mark.parametrize("fill", list(FILLS))
    @pytest.mark.parametrize("key", ["C-major", "F#-major", "Eb-major", "B-major"])
    def test_rests_are_filled_and_it_comes_back_from_a_file(self, form, fill, key):
        score = make_form(Form(bars_of(form), scale_of(key), fill=fill)).score
        claps = [n for n in score.notes if n.pitch is None]
        bars = len(bars_of(form)) - 1
        assert len(claps) == {"none": 0, "one-clap": bars, "two-claps": 2 * bars, "chords": 0}[fill]
        if fill == "chords":
            assert "1/2:" in left(score)
        back = read_musicxml(write_musicxml(score))
        assert [(n.hand, n.onset_quarters, n.pitch) for n in back.notes] == [
            (n.hand, n.onset_quarters, n.pitch) for n in score.notes
        ]
        assert count_line(back, None).bars == count_line(score, None).bars

    def test_a_pattern_of_ones_own_is_moved_with_its_rests(self):
        pattern = score_of("C4/e E4/e r/q G4/q r/q", "C3/h C3/h")
        score = make_form(Form(bars_of("I,IV,V"), scale_of("C-major"), pattern, walks=False)).score
        told = [
            [
                (n.name, str(n.onset_quarters - 4 * bar))
                for n in score.notes
                if n.measure_index == bar and n.hand is Hand.RIGHT
            ]
            for bar in range(3)
        ]
        assert told == [
            [("C4", "0"), ("E4", "1/2"), ("G4", "2")],
            [("F4", "0"), ("A4", "1/2"), ("C5", "2")],
            [("G4", "0"), ("B4", "1/2"), ("D5", "2")],
        ]

    @pytest.mark.parametrize("bars", ["", "I,,IV", "VIII", "I," * 300 + "I"])
    def test_no_form(self, bars):
        with pytest.raises(LapTickError):
            bars_of(bars)


class TestCrosses:
    @pytest.mark.parametrize(
        ("ratio", "sentence"),
        [
            ("3:2", "together, right, left, right"),
            ("2:3", "together, left, right, left"),
            ("4:3", "together, right, left, right, left, right"),
            ("3:4", "together, left, right, left, right, left"),
        ],
    )
    def test_the_sentence_by_hand(self, ratio, sentence):
        assert sentence_of(ratio) == sentence

    def test_three_against_two_is_counted_as_one(self):
        """docs/trade.md 2.2: 1 trip & let."""
        score = make_cross(scale_of("C-major"), "3:2").score
        counts = count_line(score, None).bars[0]
        assert [(c.say, str(c.offset_quarters)) for c in counts if c.offset_quarters < 1] == [
            ("1", "0"), ("trip", "1/3"), ("&", "1/2"), ("let", "2/3"),
        ]  # fmt: skip

    @pytest.mark.parametrize("ratio", ["2:2", "4:2", "5:4", "3", ""])
    def test_no_cross(self, ratio):
        with pytest.raises(OptionError):
            make_cross(scale_of("C-major"), ratio)


class TestVariants:
    @pytest.mark.parametrize(
        ("pattern", "shares"),
        [
            ("quick-quick-long", "1/4 1/4 1/2"),
            ("long-quick-quick", "1/2 1/4 1/4"),
            ("quick-long-quick", "1/4 1/2 1/4"),
            ("quick-quick-quick-long", "1/6 1/6 1/6 1/2"),
            ("long-quick-long-quick", "1/3 1/6 1/3 1/6"),
        ],
    )
    def test_shares_by_hand(self, pattern, shares):
        assert [str(share) for share in shares_of(pattern)] == shares.split()
        assert sum(shares_of(pattern)) == 1

    @pytest.mark.parametrize("pattern", ["", "quick-quick", "quick-quick-quick", "long-long-long", "slow-quick-long"])
    def test_no_turn(self, pattern):
        with pytest.raises(OptionError):
            shares_of(pattern)

    def test_a_bar_of_six_eight_by_hand(self):
        score = score_of("C5/e D5/e E5/e F5/q.", "C3/q. C3/q.", time=(6, 8))
        made = make_variant(score, score.measures, "quick-quick-long").score
        right = [(n.name, str(n.onset_quarters), str(n.duration_quarters)) for n in made.notes if n.hand is Hand.RIGHT]
        assert right == [("C5", "0", "3/8"), ("D5", "3/8", "3/8"), ("E5", "3/4", "3/4"), ("F5", "3/2", "3/2")]
        assert left(made) == "3/2:C3 3/2:C3"

    def test_some_bars_of_a_piece_stand_by_themselves(self):
        score = score_of("C5/w | C5/s D5/s E5/s F5/s G5/q r/h | C5/w")
        made = make_variant(score, score.measures[1:2], "long-quick-long-quick").score
        assert len(made.measures) == 1
        assert [str(n.onset_quarters) for n in made.notes] == ["0", "1/3", "1/2", "5/6", "1"]
        with pytest.raises(OptionError, match="even notes"):
            make_variant(score, score.measures[:1], "quick-quick-long")


def test_claps_are_strikes_of_their_own_kind():
    """Written and read again they are claps; the lap taps them, a keyboard is not asked for them."""
    made = make_form(Form(bars_of("I,IV"), scale_of("C-major"), fill="two-claps", walks=False)).score
    read = read_musicxml(write_musicxml(made))
    claps = [note.onset_quarters for note in read.notes if note.is_clap]
    assert claps == [Fraction(3), Fraction(7, 2), Fraction(7), Fraction(15, 2)]
    tapped = lap_task(read, assigned_bpm=60)
    keyed = lap_task(read, assigned_bpm=60, with_pitches=True)
    assert set(claps) <= {one.onset_quarters for one in tapped.expected}
    assert not set(claps) & {one.onset_quarters for one in keyed.expected}
    assert len(keyed.expected) == sum(note.pitch is not None for note in read.notes)


def test_a_strike_without_a_key_that_is_no_clap_is_asked_for_at_the_keys():
    """Rhythm alone, played on any key."""
    score = score_of("C4/q D4/q E4/h")
    rhythm = replace(score, notes=tuple(replace(note, pitch=None, name="x") for note in score.notes))
    assert len(lap_task(rhythm, assigned_bpm=60, with_pitches=True).expected) == 3


def symbols(score: Score, *said: tuple[int, str]) -> Score:
    marks = [*score.marks, *(Mark(MarkKind.CHORD_SYMBOL, Fraction(at), text) for at, text in said)]
    return replace(score, marks=tuple(sorted(marks, key=mark_order)))


def test_a_chord_that_changes_inside_a_bar_by_hand():
    """C, from beat 3 on G; F, and what is no chord changes nothing."""
    score = symbols(score_of("C6/w | C6/w"), (0, "C"), (2, "G"), (4, "F"), (6, "N.C."))
    made = make_drill("layer", {"of": "x", "pattern": "broken-chord"}, lambda _: score).score
    assert left(made) == "1/2:C3 1/2:E3 1/2:G3 1/2:E3 1/2:G2 1/2:B2 1/2:D3 1/2:B2"
    assert left(made, 1) == "1/2:F2 1/2:A2 1/2:C3 1/2:A2 1/2:F2 1/2:A2 1/2:C3 1/2:A2"
    typed = make_drill("layer", {"of": "x", "pattern": "pulse", "roots": "D"}, lambda _: score).score
    assert left(typed) == "1:D3 1:D3 1:D3 1:D3"
    told = [[m.text for m in one.marks if m.kind is MarkKind.CHORD_SYMBOL] for one in (made, typed)]
    assert told == [["C", "G", "F", "N.C."], ["D"]]
