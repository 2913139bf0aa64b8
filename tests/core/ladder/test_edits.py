"""The teacher's hand in a ladder: every kind of edit by hand, what is refused, and what stays after another school, other
notes. Common practice, no source."""

from __future__ import annotations

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import demo_score
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.building import Practised, build_ladder
from laptick.core.practice.ladder.edits import (
    AddRung,
    DropRung,
    MoveRung,
    SetBars,
    SetGate,
    SetHands,
    SetTempo,
    SetTouch,
    SplitRung,
    apply_edits,
    check_edit,
)
from laptick.core.practice.ladder.stages import GateKind, Stage
from laptick.formats.documents.ladder_edits import edit_document, edit_of

SCORE = demo_score("harbour-steps")
LADDER = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88))


def keys(*edits):
    return [rung.key for rung in apply_edits(SCORE, LADDER, edits).ladder.rungs]


BUILT = keys()


def test_left_out_moved_and_added():
    assert keys(DropRung("lap:1-4:both")) == [key for key in BUILT if key != "lap:1-4:both"]
    moved = keys(MoveRung("lap:1-4:both", "join:1-1:both"))
    assert moved[moved.index("join:1-1:both") + 1] == "lap:1-4:both"
    assert sorted(moved) == sorted(BUILT)
    assert keys(MoveRung("lap:1-4:both", None))[0] == "lap:1-4:both"
    added = keys(AddRung(Stage.JOIN, "2", "4", "both", "join:1-2:both"))
    assert added[added.index("join:1-2:both") + 1] == "join:2-4:both"


def test_split_puts_two_halves_below():
    split = keys(SplitRung("join:1-4:both", "3"))
    at = split.index("join:1-4:both")
    # 1–2 and 3–4 are chunks of their own already: nothing is doubled.
    assert split == BUILT
    at = BUILT.index("right:1-4:right")
    assert keys(SplitRung("right:1-4:right", "3"))[at : at + 3] == [
        "right:1-2:right", "right:3-4:right", "right:1-4:right",
    ]  # fmt: skip


def test_other_bars_and_other_hands_are_another_rung_in_its_place():
    at = BUILT.index("join:2-3:both")
    assert keys(SetBars("join:2-3:both", "2", "4"))[at] == "join:2-4:both"
    assert keys(SetHands("join:2-3:both", "left"))[at] == "left:2-3:left"
    assert keys(SetHands("lap:1-4:both", "right"))[BUILT.index("lap:1-4:both")] == "lap:1-4:right"


def test_tempo_gate_and_touch_keep_the_rung():
    edited = apply_edits(
        SCORE,
        LADDER,
        [
            SetTempo("tempo:1-8:both", 76),
            SetGate("join:1-4:both", GateKind.ONE_CLEAN),
            SetTouch("join:1-4:both", " drop from the wrist "),
            SetTouch("lap:1-4:both", " "),
        ],
    ).ladder
    assert [rung.key for rung in edited.rungs] == BUILT
    assert edited.rung("tempo:1-8:both").tempos == (76, 80, 88)
    joined = edited.rung("join:1-4:both")
    assert (joined.gate, joined.touch, joined.is_own) == (GateKind.ONE_CLEAN, "drop from the wrist", True)
    assert edited.rung("lap:1-4:both").touch is None


@pytest.mark.parametrize(
    "edit",
    [
        DropRung("join:9-9:both"),
        SetBars("lap:1-4:both", "1", "99"),
        SetBars("lap:1-4:both", "4", "1"),
        SplitRung("join:1-2:both", "1"),
        SplitRung("join:1-2:both", "5"),
        AddRung(Stage.JOIN, "1", "2", "both", None),
        AddRung(Stage.RIGHT, "2", "3", "both", None),
        SetGate("hear:1-4:both", GateKind.ONE_CLEAN),
        MoveRung("lap:1-4:both", "nowhere"),
    ],
)
def test_what_cannot_be_made_is_refused_and_passed_over(edit):
    with pytest.raises(OptionError):
        check_edit(SCORE, LADDER, edit)
    edited = apply_edits(SCORE, LADDER, [edit, DropRung("lap:5-8:both")])
    assert list(edited.over) == [0]
    assert [rung.key for rung in edited.ladder.rungs] == [key for key in BUILT if key != "lap:5-8:both"]


def test_edits_outlast_another_school():
    edits = [SetTouch("join:1-4:both", "firm fingertips"), DropRung("join:1-2:both"), SetTempo("lap:1-4:both", 69)]
    doubling = build_ladder(SCORE, Level.FIRST_YEAR, Practised(88), {"chunks": "line"})
    edited = apply_edits(SCORE, doubling, edits)
    assert edited.ladder.rung("join:1-4:both").touch == "firm fingertips"
    assert edited.ladder.rung("lap:1-4:both").tempos == (69,)
    assert list(edited.over) == [1]  # that chunk is none of this school's


bars = st.sampled_from([str(number) for number in range(10)])
rung = st.sampled_from([*BUILT, "join:2-5:both", "none"])
edit = st.one_of(
    st.builds(DropRung, rung),
    st.builds(MoveRung, rung, st.none() | rung),
    st.builds(
        AddRung, st.sampled_from(list(Stage)), bars, bars, st.sampled_from(["right", "left", "both"]), st.none() | rung
    ),
    st.builds(SplitRung, rung, bars),
    st.builds(SetBars, rung, bars, bars),
    st.builds(SetHands, rung, st.sampled_from(["right", "left", "both"])),
    st.builds(SetTempo, rung, st.integers(40, 120)),
    st.builds(SetGate, rung, st.sampled_from(list(GateKind))),
    st.builds(SetTouch, rung, st.text(max_size=20)),
)


@settings(suppress_health_check=[HealthCheck.too_slow], deadline=None)
@given(st.lists(edit, max_size=12))
def test_whatever_is_edited_the_ladder_stays_one(edits):
    assert [edit_of(edit_document(one)) for one in edits] == edits
    edited = apply_edits(SCORE, LADDER, edits)
    found = edited.ladder.rungs
    assert len({one.key for one in found}) == len(found)
    for one in found:
        assert 0 <= one.first <= one.last < len(SCORE.measures)
        assert one.tempos
    assert apply_edits(SCORE, LADDER, edits) == edited


@pytest.mark.parametrize(
    "document",
    [{}, {"kind": "fly"}, {"kind": "drop"}, {"kind": "tempo", "rung": "a", "bpm": 4000}, {"kind": "tempo", "rung": "a",
     "bpm": True}, {"kind": "gate", "rung": "a", "gate": "gold"}, {"kind": "hands", "rung": "a", "hands": "third"},
     {"kind": "touch", "rung": "a", "text": "x" * 500}, {"kind": "drop", "rung": ["a"]}],
)  # fmt: skip
def test_no_document_of_an_edit(document):
    with pytest.raises(OptionError):
        edit_of(document)
