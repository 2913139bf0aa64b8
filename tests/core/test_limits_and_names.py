"""Names of lengths in both languages of the trade (common practice, no source), and limits a studio sets itself."""

from __future__ import annotations

from fractions import Fraction as F

import pytest

from helpers import demo_score, score_of
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.base.units import LengthNaming, length_name, length_plural, parse_quarters
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.counting.traps import lengths_worth
from laptick.core.counting.word_tables import System, meaning_of
from laptick.core.editing.changes import ChangeLength, NoteRef, PencilChange
from laptick.core.editing.pencil import apply_pencil
from laptick.core.judging.findings import find_findings
from laptick.core.measuring.checking import check_take
from laptick.core.measuring.limits import LIMIT_FIELDS, LIMITS, Limits, limits_of, softened
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.score import HANDS, Hand
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.task import lap_task

BRITISH = LengthNaming.BRITISH


@pytest.mark.parametrize(
    ("length", "american", "british", "american_plural", "british_plural"),
    [
        (F(4), "whole", "semibreve", "wholes", "semibreves"),
        (F(2), "half", "minim", "halves", "minims"),
        (F(3), "dotted half", "dotted minim", "dotted halves", "dotted minims"),
        (F(3, 2), "dotted quarter", "dotted crotchet", "dotted quarters", "dotted crotchets"),
        (F(1), "quarter", "crotchet", "quarters", "crotchets"),
        (F(1, 2), "eighth", "quaver", "eighths", "quavers"),
        (F(1, 3), "triplet eighth", "triplet quaver", "triplet eighths", "triplet quavers"),
        (F(1, 4), "sixteenth", "semiquaver", "sixteenths", "semiquavers"),
        (F(1, 8), "thirty-second", "demisemiquaver", "thirty-seconds", "demisemiquavers"),
        (F(5, 4), "5/4 quarters", "5/4 crotchets", "notes of 5/4 quarters", "notes of 5/4 crotchets"),
    ],
)
def test_names_of_lengths(length, american, british, american_plural, british_plural):
    assert (length_name(length), length_name(length, BRITISH)) == (american, british)
    assert (length_plural(length), length_plural(length, BRITISH)) == (american_plural, british_plural)


SCORE = score_of("C5/q C5/q C5/e C5/e C5/s C5/s C5/s C5/s | C5/h C5/q C5/q | C5/h C5/q C5/e C5/e")


def test_everything_said_about_a_score_uses_the_studios_names():
    counted = count_line(SCORE, Hand.RIGHT, CountChoices(naming=BRITISH))
    assert {(c.before, c.after) for c in counted.changes} >= {("quavers", "semiquavers")}
    assert [w.name for w in lengths_worth(SCORE, counted)] == ["semiquaver", "quaver", "crotchet", "minim"]
    american = count_line(SCORE, Hand.RIGHT)  # of the same score, after the other
    assert {(c.before, c.after) for c in american.changes} >= {("eighths", "sixteenths")}
    short = score_of("C5/h D5/h | C5/h. D5/q")
    change = PencilChange("1", ChangeLength(NoteRef(short.notes[0].id), F(1)))
    assert apply_pencil(short, [change], BRITISH).outcomes[0].words == "C5: minim becomes crotchet"
    almost = score_of("C5/q D5/q E5/h | C5/q D5/q E5/q r/q")
    assert "crotchet, not minim" in bar_likeness(almost, BRITISH)[1].difference


def test_meanings_of_words():
    assert meaning_of(System.DURATION, "syncopa") == "eighth, quarter, eighth"
    assert meaning_of(System.DURATION, "syncopa", BRITISH) == "quaver, crotchet, quaver"
    assert meaning_of(System.DURATION, "rest", BRITISH) == "a rest"


def test_every_limit_a_studio_may_set_is_one_that_judges():
    assert set(LIMIT_FIELDS) == set(Limits.__dataclass_fields__)
    for name, field in LIMIT_FIELDS.items():
        assert all(field.low <= getattr(LIMITS[level], name) <= field.high for level in Level)


def test_a_studios_own_limits_hold_for_their_level():
    own = {"first-year": {"tempo_share": 0.2}}
    assert limits_of(Level.FIRST_YEAR, own).tempo_share == 0.2
    assert limits_of(Level.FIRST_YEAR, own).drift_share == LIMITS[Level.FIRST_YEAR].drift_share
    assert limits_of(Level.ADVANCED, own) == LIMITS[Level.ADVANCED]
    assert limits_of(Level.FIRST_YEAR) == LIMITS[Level.FIRST_YEAR]


@pytest.mark.parametrize(
    ("own", "where"),
    [
        ({"elementary": {"kindness": 1}}, "limits.elementary.kindness"),
        ({"elementary": {"tempo_share": 3}}, "limits.elementary.tempo_share"),
        ({"elementary": {"hands_apart_ms": float("nan")}}, "limits.elementary.hands_apart_ms"),
    ],
)
def test_a_limit_that_cannot_be(own, where):
    with pytest.raises(OptionError) as error:
        limits_of(Level.ELEMENTARY, own)
    assert error.value.where == where


def test_a_wider_limit_lets_a_fault_pass_and_a_narrower_one_names_it():
    task = lap_task(demo_score("harbour-steps"), assigned_bpm=60, hands=HANDS)
    slow = simulate(task, level=Level.ELEMENTARY, seed=1, faults=[parse_fault("drift=20")])
    checked = check_take(task, slow)

    def codes(own):
        return {f.code for f in find_findings(checked, limits_of(Level.ELEMENTARY, own))}

    narrow = {
        "elementary": {"hands_apart_ms": 5, "tempo_share": 0.005, "spread_floor_ms": 5, "spread_share_of_beat": 0.01}
    }
    wide = {"elementary": {name: field.high for name, field in LIMIT_FIELDS.items()}}
    assert codes(wide) < codes(narrow)


class TestQuarters:
    @pytest.mark.parametrize(
        ("text", "value"),
        [("0", F(0)), ("3", F(3)), ("1/2", F(1, 2)), ("000007/21", F(1, 3)), (2, F(2)), ("999999", F(999999))],
    )
    def test_as_documents_write_them(self, text, value):
        assert parse_quarters(text) == value

    @pytest.mark.parametrize(
        "text",
        ["1e99999999", "1e2000000", "1e5", "", " 1", "1 /2", "-1", "+1", "0.5", "1/0", "1/000", "1000000", "1/1234567", "1_0",
         "½", "١", "nan", None, 0.5, [], {}],
    )  # fmt: skip
    def test_nothing_else(self, text):
        with pytest.raises(OptionError, match="number of quarters"):
            parse_quarters(text)


class TestSoftened:
    def test_every_limit_a_teacher_may_set_is_wider(self):
        limits = LIMITS[Level.ELEMENTARY]
        softer = softened(limits, 50)
        for name, known in LIMIT_FIELDS.items():
            assert getattr(softer, name) == pytest.approx(min(known.high, 1.5 * getattr(limits, name))), name

    def test_none_beyond_its_range(self):
        assert softened(LIMITS[Level.ADVANCED], 100).cut_share_of_beat == 1.0

    def test_by_nothing_they_are_as_they_were(self):
        assert softened(LIMITS[Level.FIRST_YEAR], 0) is LIMITS[Level.FIRST_YEAR]
