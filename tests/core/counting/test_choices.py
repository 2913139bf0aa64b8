"""The one order in which counting choices are resolved, words that are changed, and signs in words."""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from helpers import shown
from laptick.core.base.errors import OptionError
from laptick.core.counting.choices import LAYERS, Compound, CountChoice, CountChoices, Density, Syllable, choose
from laptick.core.counting.counting import count_line
from laptick.core.counting.word_tables import System, parse_words, word_table
from laptick.core.score.meter import parse_grouping
from laptick.core.score.score import Hand, MarkKind
from laptick.core.score.sign_words import read_sign_words, read_tempo_words
from laptick.formats.documents.choices import choices_of
from rhythms import rhythm

SYSTEMS = [System.BEATS, System.DURATION, System.FUNCTION, System.LENGTH, System.HANDS, System.NAMES]


@pytest.mark.parametrize("count", range(6))
def test_each_layer_goes_before_the_ones_under_it(count):
    """The first ``count`` of studio, level, piece, hand, bar choose a system each: the last of them holds."""
    layers = [CountChoice(system=SYSTEMS[i]) if i < count else CountChoice() for i in range(5)]
    studio, level, piece, hand, bar = layers
    choices = CountChoices(studio, level, piece, {"right": hand}, {"2": bar})
    assert choices.resolve("right", "2").system is (SYSTEMS[count - 1] if count else System.NUMBERS)
    origin = dict(choices.resolve("right", "2").origins)["system"]
    assert origin == LAYERS[count]
    if count == 5:
        assert choices.resolve("right", "1").system is SYSTEMS[3]  # the bar's choice is that bar's alone
        assert choices.resolve("left", "1").system is SYSTEMS[2]


def test_fields_left_open_come_from_below_and_words_entry_by_entry():
    below = CountChoice(
        density=Density.BAR, words=(("numbers:triplet", ("{n}", "la", "li")), ("numbers:half", ("{n}", "and")))
    )
    above = CountChoice(compound=Compound.BEATS, words=(("numbers:half", ("{n}", "und")),))
    merged = above.over(below)
    assert (merged.density, merged.compound) == (Density.BAR, Compound.BEATS)
    assert dict(merged.words) == {"numbers:triplet": ("{n}", "la", "li"), "numbers:half": ("{n}", "und")}


def test_a_single_syllable_goes_before_everything():
    score = rhythm("4/4", "1/2 1/2 1 2 | 1/2 1/2 1 2")
    choices = CountChoices(
        bars={"1": CountChoice(words=(("numbers:half", ("{n}", "und")),))},
        syllables=(
            Syllable("1", F(1, 2), "right", "ho"),
            Syllable("1", F(1, 2), "both", "hey"),
            Syllable("2", F(2), "both", "land"),
            Syllable("2", F(0), "left", "never here"),
        ),
    )
    bars = count_line(score, Hand.RIGHT, choices).bars
    assert [shown(bar) for bar in bars] == ["1 ho 2 3 (4)", "1 & 2 land (4)"]
    assert shown(count_line(score, None, choices).bars[0]) == "1 hey 2 3 (4)"


def test_a_bar_can_be_counted_another_way_than_its_neighbours():
    score = rhythm("6/8", "1/2 1/2 1/2 3/2 | 1/2 1/2 1/2 3/2")
    choices = CountChoices(piece=CountChoice(compound=Compound.UNITS), bars={"2": CountChoice(compound=Compound.BEATS)})
    assert [shown(bar) for bar in count_line(score, Hand.RIGHT, choices).bars] == ["1 2 3 4 (5) (6)", "1 la li 2"]


WORDS = [
    (["triplet=la-li"], System.NUMBERS, "1 la li 2"),
    (["triplet=&-a"], System.NUMBERS, "1 & a 2"),
    (["triplet={n}-li-lo"], System.NUMBERS, "1 li lo 2"),
    (["beat=ta", "triplet=ta-te-ti"], System.FUNCTION, "ta te ti ta"),
    (["triplet=dum-di-da", "quarter=doo"], System.DURATION, "dum di da doo"),
]


@pytest.mark.parametrize(("texts", "system", "expected"), WORDS)
def test_changed_words(texts, system, expected):
    choices = choose(system=system, words=parse_words(texts, system))
    assert shown(count_line(rhythm("2/4", "1/3 1/3 1/3 1"), Hand.RIGHT, choices).bars[0]) == expected


BAD_WORDS = ["triplet", "triplet=", "nonsense=la", "triplet=la", "triplet=a-b-c-d", "half=" + "x" * 17, "triplet=-li"]


@pytest.mark.parametrize("text", BAD_WORDS)
def test_words_that_cannot_be_are_refused(text):
    with pytest.raises(OptionError):
        parse_words([text], System.NUMBERS)


def test_a_typed_word_is_text_not_a_pattern():
    table = word_table(System.NUMBERS, parse_words(["half={n}-{0.__class__}"], System.NUMBERS))
    assert table.parts(2, False) == ("{n}", "0.__class__")


@pytest.mark.parametrize("text", ["", "x", "3+", "5+2", "3*2", "+".join("2" * 40)])
def test_groupings_that_cannot_be_are_refused(text):
    with pytest.raises(OptionError):
        parse_grouping(text)


def test_stored_documents_become_layers():
    studio = {"studio": {"system": "function"}, "levels": {"advanced": {"density": "steady"}}}
    piece = {"bars": {"3": {"grouping": "2+3"}}, "syllables": [{"measure": "1", "offset": "1/2", "say": "hop"}]}
    choices = choices_of(studio, piece, "advanced")
    resolved = choices.resolve("right", "3")
    assert (resolved.system, resolved.density, resolved.grouping) == (System.FUNCTION, Density.STEADY, (2, 3))
    assert choices.syllables == (Syllable("1", F(1, 2), "both", "hop"),)
    assert choices_of(studio, piece, "elementary").resolve("right").density is Density.BEAT


BAD_DOCUMENTS = [
    {"piece": {"system": "hum"}}, {"piece": {"density": "thick"}}, {"piece": {"beat": "minute"}},
    {"piece": {"grouping": "9+9"}}, {"piece": {"words": {"nonsense": ["a"]}}}, {"syllables": [{"measure": "1"}]},
    {"syllables": [{"measure": "1", "offset": "1/0", "say": "x"}]},
    {"syllables": [{"measure": "1", "offset": "0", "say": "x" * 40}]},
]  # fmt: skip


@pytest.mark.parametrize("document", BAD_DOCUMENTS)
def test_documents_that_cannot_be_are_refused_with_their_place(document):
    with pytest.raises(OptionError) as caught:
        choices_of({}, document, "elementary")
    assert caught.value.where


SIGNS = [
    (["D.C. al Fine"], "da_capo"), (["Da Capo"], "da_capo"), (["D.S."], "dal_segno"), (["Dal Segno al Coda"], "dal_segno"),
    (["D.S. al", "Coda"], "dal_segno"), (["To Coda"], "to_coda"), (["al Coda"], "to_coda"), (["Coda"], "coda"),
    (["Fine"], "fine"), (["FINE."], "fine"), (["Segno"], "segno"), (["Vom Zeichen bis Ende"], "dal_segno"),
    (["Au début"], "da_capo"), (["a fine day at the sea, and home by dark"], ""), (["dolce"], ""), (["cresc."], ""),
]  # fmt: skip


@pytest.mark.parametrize(("texts", "sign"), SIGNS)
def test_signs_in_words(texts, sign):
    found = read_sign_words(texts)
    assert [name for name in ("da_capo", "dal_segno", "to_coda", "fine", "coda", "segno") if getattr(found, name)] == (
        [sign] if sign else []
    )


TEMPO_WORDS = [
    ("rit.", MarkKind.SLOWER), ("poco rit.", MarkKind.SLOWER), ("rallentando", MarkKind.SLOWER), ("Accel.", MarkKind.FASTER),
    ("a tempo", MarkKind.A_TEMPO), ("Tempo I", MarkKind.A_TEMPO), ("Allegro con brio", MarkKind.TEMPO_WORDS),
    ("dolce", MarkKind.WORDS), ("ritmico", MarkKind.WORDS), ("Langsam.", MarkKind.TEMPO_WORDS),
]  # fmt: skip


@pytest.mark.parametrize(("text", "kind"), TEMPO_WORDS)
def test_tempo_in_words(text, kind):
    assert read_tempo_words(text) is kind
