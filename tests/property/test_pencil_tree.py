"""A pencilled score read back from its file's own changed tree is the pencilled score; the file's tree is untouched;
what no change touches is the same element for element."""

from __future__ import annotations

from fractions import Fraction as F

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from lxml import etree
from test_round_trips import scores

from helpers import assert_same_music
from laptick.core.editing.changes import (
    DYNAMICS,
    AddCue,
    AddDynamic,
    AddHairpin,
    AddLift,
    AddNote,
    AddPedal,
    AddPhrase,
    ChangeLength,
    ChangePitch,
    ChangeTie,
    EraseMark,
    GiveHand,
    NoteRef,
    PencilChange,
    RemoveNote,
    SetChord,
    SetFingering,
    Spot,
)
from laptick.core.editing.pencil import apply_pencil
from laptick.core.score.score import HANDS, MarkKind, Score
from laptick.formats.musicxml.file import open_musicxml
from laptick.formats.musicxml_writing.pencil import write_changes
from laptick.formats.musicxml_writing.writer import write_musicxml
from sampling import sampled

LENGTHS = [F(1, 4), F(1, 3), F(1, 2), F(2, 3), F(3, 4), F(1), F(3, 2), F(2), F(3)]
NAMES = ["C4", "D4", "F♯4", "B♭3", "G5", "E2"]


@st.composite
def changes(draw, score: Score) -> list[PencilChange]:
    def note() -> NoteRef:
        one = draw(st.sampled_from(score.notes))
        measure = score.measures[one.measure_index]
        return NoteRef(one.id, measure.number, one.onset_quarters - measure.start_quarters, one.name)

    def item() -> NoteRef:
        rest = draw(st.sampled_from([*score.rests, None]))
        return note() if rest is None else NoteRef(rest.id)

    def spot() -> Spot:
        measure = draw(st.sampled_from(score.measures))
        return Spot(measure.number, measure.length_quarters * F(draw(st.integers(0, 5)), 6))

    made = []
    for number in range(draw(st.integers(1, 5))):
        kind = draw(st.integers(0, 15))
        if kind == 0:
            change = ChangePitch(note(), draw(st.sampled_from(NAMES)))
        elif kind in (1, 2, 3):
            change = ChangeLength(item(), draw(st.sampled_from(LENGTHS)), draw(st.booleans()))
        elif kind == 4:
            change = RemoveNote(note())
        elif kind == 5:
            change = AddNote(
                spot(), draw(st.sampled_from(HANDS)), draw(st.sampled_from(NAMES)), draw(st.sampled_from(LENGTHS))
            )
        elif kind == 6:
            change = ChangeTie(note(), draw(st.booleans()))
        elif kind == 7:
            change = GiveHand(note(), draw(st.sampled_from(HANDS)))
        elif kind == 8:
            change = SetFingering(note(), tuple(draw(st.lists(st.sampled_from("12345"), unique=True, max_size=3))))
        elif kind == 9:
            change = AddPhrase(note(), note())
        elif kind == 10:
            change = AddLift(note())
        elif kind == 11:
            change = AddPedal(spot(), spot())
        elif kind == 12:
            change = AddDynamic(spot(), draw(st.sampled_from(DYNAMICS)), draw(st.sampled_from([None, *HANDS])))
        elif kind == 13:
            change = draw(
                st.sampled_from(
                    [AddHairpin(spot(), spot(), "crescendo"), AddCue(spot(), "move"), SetChord(spot(), "Am7")]
                )
            )
        else:
            erasable = [m for m in score.marks if m.kind in (MarkKind.DYNAMIC, MarkKind.SLUR, MarkKind.FINGERING)]
            if not erasable:
                continue
            mark = draw(st.sampled_from(erasable))
            measure = score.measure_at(mark.onset_quarters)
            at = Spot(measure.number, mark.onset_quarters - measure.start_quarters)
            change = EraseMark(mark.kind, at, mark.text, mark.note_id)
        made.append(PencilChange(str(number), change))
    return made


@settings(deadline=None, max_examples=sampled(40, 120), suppress_health_check=list(HealthCheck))
@given(st.data())
def test_the_tree_says_what_the_score_says(data) -> None:
    file = open_musicxml(write_musicxml(data.draw(scores())))
    before = etree.tostring(file.tree)
    pencilled = apply_pencil(file.score, data.draw(changes(file.score)))
    written = write_changes(file, pencilled.score)
    assert etree.tostring(file.tree) == before
    again = open_musicxml(etree.tostring(written.tree), allow_silent=True)
    assert_same_music(again.score, pencilled.score)
    assert {note.id for note in pencilled.score.notes} <= set(written.elements)
    # The changed tree is a file like any other: changed again to what it was, it says what it said.
    back = write_changes(written, file.score)
    assert_same_music(open_musicxml(etree.tostring(back.tree)).score, file.score)


@settings(deadline=None, max_examples=30, suppress_health_check=list(HealthCheck))
@given(st.data())
def test_nothing_else_is_touched(data) -> None:
    """One note's pitch changed: one note differs, and nothing in it but its pitch."""
    file = open_musicxml(write_musicxml(data.draw(scores())))
    free = [n for n in file.score.notes if not n.tied_onward and not n.tied_from_before]
    if not free:
        return
    note = data.draw(st.sampled_from(free))
    name = data.draw(st.sampled_from([name for name in NAMES if name != note.name]))
    result = apply_pencil(file.score, [PencilChange("1", ChangePitch(NoteRef(note.id), name))])
    if result.outcomes[0].problem:
        return
    written = write_changes(file, result.score)
    differing = [
        (old, new)
        for old, new in zip(file.tree.getroot().iter("note"), written.tree.getroot().iter("note"), strict=True)
        if etree.tostring(old) != etree.tostring(new)
    ]
    assert len(differing) == 1
    old, new = differing[0]
    for element in (old, new):
        twin = etree.fromstring(etree.tostring(element))
        twin.remove(twin.find("pitch"))
        element.set("rest-of-it", etree.tostring(twin).decode().strip())
    assert old.get("rest-of-it") == new.get("rest-of-it")
