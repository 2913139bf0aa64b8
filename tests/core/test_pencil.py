"""The teacher's pencil on the score: every kind of change on small hand-worked bars (common practice, no source)."""

from __future__ import annotations

import pytest

from helpers import F, score_of
from laptick.core.base.errors import OptionError
from laptick.core.editing.changes import (
    MAX_CHANGES,
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
    chord_symbol,
)
from laptick.core.editing.pencil import apply_pencil
from laptick.core.score.noteheads import is_one_note, written_parts
from laptick.core.score.pitch import read_pitch
from laptick.core.score.score import Hand, MarkKind, Score


def voice(score: Score, hand: Hand = Hand.RIGHT) -> str:
    """A hand's bars as text: each note or rest with its place and length."""
    items = [*((n.onset_quarters, n.name, n.duration_quarters) for n in score.notes if n.hand is hand)]
    items += [(r.onset_quarters, "r", r.duration_quarters) for r in score.rests if r.hand is hand]
    return " ".join(f"{name}@{at}:{length}" for at, name, length in sorted(items))


def named(score: Score, name: str, times: int = 1) -> NoteRef:
    """A reference to the n-th note of a name."""
    note = [n for n in score.notes if n.name == name][times - 1]
    measure = score.measures[note.measure_index]
    return NoteRef(note.id, measure.number, note.onset_quarters - measure.start_quarters, note.name)


def made(score: Score, *changes, problem: str | None = None) -> Score:
    """The score with the changes; the last one's problem is as said."""
    result = apply_pencil(score, [PencilChange(str(i), change) for i, change in enumerate(changes, 1)])
    assert result.outcomes[-1].problem == problem
    assert all(outcome.words for outcome in result.outcomes)
    return result.score


PLAIN = "C5/q D5/e E5/e F5/q r/q | G5/h r/h"


def test_a_pitch() -> None:
    score = score_of(PLAIN)
    changed = made(score, ChangePitch(named(score, "D5"), "d#5"))
    assert voice(changed).startswith("C5@0:1 D♯5@1:1/2 E5@3/2:1/2")
    assert next(n.pitch for n in changed.notes if n.name == "D♯5") == 75
    assert voice(score).startswith("C5@0:1 D5@1:1/2")  # the original stays


def test_a_tied_note_is_one_note() -> None:
    score = score_of("C5/h D5/h~ | D5/h E5/h")
    changed = made(score, ChangePitch(named(score, "D5"), "Bb4"))
    assert [n.name for n in changed.notes] == ["C5", "B♭4", "B♭4", "E5"]


# Length of the note at "which", given to whom, and what becomes of the bar of PLAIN.
LENGTHS = [
    ("C5", F(1, 2), False, "C5@0:1/2 r@1/2:1/2 D5@1:1/2 E5@3/2:1/2 F5@2:1 r@3:1"),
    ("C5", F(1, 2), True, "C5@0:1/2 D5@1/2:1 E5@3/2:1/2 F5@2:1 r@3:1"),
    ("C5", F(3, 2), False, "C5@0:3/2 E5@3/2:1/2 F5@2:1 r@3:1"),
    ("D5", F(3, 4), True, "C5@0:1 D5@1:3/4 E5@7/4:1/4 F5@2:1 r@3:1"),
    ("D5", F(1, 3), True, "C5@0:1 D5@1:1/3 E5@4/3:2/3 F5@2:1 r@3:1"),
    ("F5", F(2), False, "C5@0:1 D5@1:1/2 E5@3/2:1/2 F5@2:2"),
    ("C5", F(4), False, "C5@0:4"),
    ("E5", F(1), False, "C5@0:1 D5@1:1/2 E5@3/2:1 F5@5/2:1/2 r@3:1"),
]


@pytest.mark.parametrize(("name", "length", "to_next", "bar"), LENGTHS)
def test_a_length(name: str, length: F, to_next: bool, bar: str) -> None:
    score = score_of(PLAIN)
    changed = made(score, ChangeLength(named(score, name), length, to_next))
    assert voice(changed) == f"{bar} G5@4:2 r@6:2"


def test_a_length_no_notehead_shows_is_tied_together() -> None:
    score = score_of("C5/q D5/h. | E5/w")
    changed = made(score, ChangeLength(named(score, "C5"), F(7, 4)))
    assert voice(changed) == "C5@0:7/4 D5@7/4:1/4 D5@2:2 E5@4:4"
    first, second = [n for n in changed.notes if n.name == "D5"]
    assert first.tied_onward
    assert second.tied_from_before
    assert not second.is_strike


def test_a_length_stays_in_its_bar() -> None:
    score = score_of(PLAIN)
    made(
        score,
        ChangeLength(named(score, "F5"), F(3)),
        problem="so long it would reach over the end of bar 1.",
    )


def test_a_chord_has_one_length() -> None:
    score = score_of("C5+E5/q D5/q r/h")
    changed = made(score, ChangeLength(named(score, "E5"), F(1, 2)))
    assert voice(changed) == "C5@0:1/2 E5@0:1/2 r@1/2:1/2 D5@1:1 r@2:2"


def test_a_note_taken_out_leaves_a_rest() -> None:
    score = score_of(PLAIN)
    assert voice(made(score, RemoveNote(named(score, "F5")))) == ("C5@0:1 D5@1:1/2 E5@3/2:1/2 r@2:1 r@3:1 G5@4:2 r@6:2")
    chord = score_of("C5+E5/h D5/h")
    assert voice(made(chord, RemoveNote(named(chord, "C5")))) == "E5@0:2 D5@2:2"


def test_a_note_put_in() -> None:
    score = score_of(PLAIN, "C3/w | C3/w")
    spot = Spot("2", F(2))
    changed = made(score, AddNote(spot, Hand.RIGHT, "A5", F(1)))
    assert voice(changed) == "C5@0:1 D5@1:1/2 E5@3/2:1/2 F5@2:1 r@3:1 G5@4:2 A5@6:1 r@7:1"
    assert next(n for n in changed.notes if n.name == "A5").id == "p1"
    on_chord = made(score, AddNote(Spot("2", F(0)), Hand.RIGHT, "B5", F(2)))
    assert voice(on_chord).endswith("B5@4:2 G5@4:2 r@6:2")
    second_voice = made(score, AddNote(Spot("2", F(0)), Hand.RIGHT, "E5", F(1)))
    voices = {n.name: n.voice for n in second_voice.notes if n.measure_index == 1}
    assert voices["E5"] != voices["G5"]


def test_a_note_put_in_is_changed_and_the_change_goes_with_it() -> None:
    score = score_of(PLAIN)
    changes = [
        PencilChange("7", AddNote(Spot("2", F(2)), Hand.RIGHT, "A5", F(1))),
        PencilChange("8", ChangePitch(NoteRef("p7"), "B5")),
    ]
    assert "B5@6:1" in voice(apply_pencil(score, changes).score)
    left = apply_pencil(score, changes[1:])
    assert left.outcomes[0].problem == "the note it belongs to is not there any more."
    assert voice(left.score) == voice(score)


def test_a_tie() -> None:
    score = score_of("C5/h D5/h | D5/h E5/h")
    tied = made(score, ChangeTie(named(score, "D5"), True))
    assert [n.is_strike for n in tied.notes] == [True, True, False, True]
    back = made(tied, ChangeTie(named(tied, "D5"), False))
    assert [n.is_strike for n in back.notes] == [True] * 4
    made(score, ChangeTie(named(score, "C5"), True), problem="no C5 of the same hand follows it directly.")


def test_a_tie_that_lost_an_end_is_none() -> None:
    score = score_of("C5/h D5/h~ | D5/h E5/h")
    changed = made(score, RemoveNote(named(score, "D5", 2)))
    assert not next(n for n in changed.notes if n.name == "D5").tied_onward
    other = made(score, RemoveNote(named(score, "D5")))
    assert next(n for n in other.notes if n.name == "D5").is_strike


def test_the_other_hand() -> None:
    score = score_of("C5/q D5/q E5/h", "r/w")
    changed = made(score, GiveHand(named(score, "D5"), Hand.LEFT))
    assert voice(changed) == "C5@0:1 r@1:1 E5@2:2"
    assert voice(changed, Hand.LEFT) == "r@0:1 D5@1:1 r@2:2"
    assert next(n.staff for n in changed.notes if n.name == "D5") == 2


def test_fingering_is_options_with_one_chosen() -> None:
    score = score_of(PLAIN)
    ref = named(score, "D5")
    changed = made(score, SetFingering(ref, ("2", "3", "3-1"), chosen=1))
    assert [m.text for m in changed.marks if m.kind is MarkKind.FINGERING and m.note_id == ref.id] == [
        "/2",
        "/3-1",
        "3",
    ]
    again = made(score, SetFingering(ref, ("2",)), SetFingering(ref, ()))
    assert not [m for m in again.marks if m.kind is MarkKind.FINGERING]
    made(score, SetFingering(ref, ("6",)), problem="“6” is no fingering: 1 to 5, or 3-1 for a change.")


def test_marks_on_notes_and_at_places() -> None:
    score = score_of(PLAIN, "C3/w | C3/w")
    first, last = named(score, "C5"), named(score, "F5")
    changed = made(
        score,
        AddPhrase(first, last),
        AddLift(last),
        AddPedal(Spot("1", F(0)), Spot("1", F(4))),
        AddDynamic(Spot("2", F(0)), "mp", Hand.LEFT),
        AddHairpin(Spot("1", F(0)), Spot("2", F(2)), "crescendo"),
        AddCue(Spot("1", F(3)), "  move  now "),
        SetChord(Spot("2", F(0)), "Bb7/D"),
    )
    shown = {(m.kind, m.onset_quarters, m.text, m.end_quarters, m.hand) for m in changed.marks}
    assert shown >= {
        (MarkKind.SLUR, F(0), "", F(3), Hand.RIGHT),
        (MarkKind.BREATH, F(2), "breath-mark", None, Hand.RIGHT),
        (MarkKind.PEDAL, F(0), "", F(4), None),
        (MarkKind.DYNAMIC, F(4), "mp", None, Hand.LEFT),
        (MarkKind.WEDGE, F(0), "crescendo", F(6), None),
        (MarkKind.CUE, F(3), "move now", None, None),
        (MarkKind.CHORD_SYMBOL, F(4), "B♭7/D", None, None),
    }


def test_a_mark_rubbed_out() -> None:
    score = made(score_of(PLAIN), AddDynamic(Spot("2", F(0)), "f"))
    wiped = made(score, EraseMark(MarkKind.DYNAMIC, Spot("2", F(0)), "f"))
    assert not [m for m in wiped.marks if m.kind is MarkKind.DYNAMIC]
    made(wiped, EraseMark(MarkKind.DYNAMIC, Spot("2", F(0)), "f"), problem="the dynamic is not there any more.")


def test_marks_go_with_their_note_and_phrases_end_with_the_one_before() -> None:
    score = score_of(PLAIN)
    first, last = named(score, "C5"), named(score, "F5")
    base = (AddPhrase(first, last), AddLift(last))
    moved = made(score, *base, ChangeLength(named(score, "E5"), F(1)))
    lift = next(m for m in moved.marks if m.kind is MarkKind.BREATH)
    assert lift.onset_quarters == F(5, 2)  # F now begins an eighth later
    gone = made(score, *base, RemoveNote(last))
    assert [m.end_quarters for m in gone.marks if m.kind is MarkKind.SLUR] == [F(2)]
    assert not [m for m in gone.marks if m.kind is MarkKind.BREATH]


def test_a_change_finds_its_note_by_what_it_was() -> None:
    """Read another way, the file numbers its notes otherwise."""
    score = score_of(PLAIN)
    ref = named(score, "F5")
    renamed = NoteRef("n999", ref.measure, ref.offset_quarters, ref.name)
    assert "F♯5@2:1" in voice(made(score, ChangePitch(renamed, "F#5")))
    wrong = NoteRef(named(score, "C5").id, ref.measure, ref.offset_quarters, ref.name)
    assert "F♯5@2:1" in voice(made(score, ChangePitch(wrong, "F#5")))


def test_one_change_that_fails_leaves_the_others() -> None:
    score = score_of(PLAIN)
    result = apply_pencil(
        score,
        [
            PencilChange("1", ChangePitch(named(score, "C5"), "B4")),
            PencilChange("2", ChangePitch(NoteRef("n999", "1", F(0), "X5"), "B4")),
            PencilChange("3", AddCue(Spot("9", F(0)), "move")),
            PencilChange("4", ChangePitch(named(score, "D5"), "E♭5")),
        ],
    )
    assert [o.problem is None for o in result.outcomes] == [True, False, False, True]
    assert result.outcomes[2].problem == "there is no bar “9” in this piece."
    assert voice(result.score).startswith("B4@0:1 E♭5@1:1/2")


def test_more_changes_than_the_limit() -> None:
    score = score_of(PLAIN)
    with pytest.raises(OptionError, match="up to 500"):
        apply_pencil(score, [PencilChange(str(i), AddCue(Spot("1", F(0)), "x")) for i in range(MAX_CHANGES + 1)])


@pytest.mark.parametrize(
    ("typed", "name", "key"),
    [("c4", "C4", 60), ("F#3", "F♯3", 54), ("Bb-1", "B♭-1", 10), ("gx5", "G𝄪5", 81), ("a♭4", "A♭4", 68)],
)
def test_names_of_pitches(typed: str, name: str, key: int) -> None:
    assert read_pitch(typed) == (name, key)


@pytest.mark.parametrize("typed", ["", "h4", "c", "c44", "4c", "cb-1"])
def test_what_is_no_pitch(typed: str) -> None:
    with pytest.raises(OptionError):
        read_pitch(typed)


def test_chord_symbols() -> None:
    assert [chord_symbol(t) for t in ("Am", "F#7", "Bbmaj7/D", "C6/9", "", "Ebm7b5")] == [
        "Am", "F♯7", "B♭maj7/D", "C6/9", "", "E♭m7b5",
    ]  # fmt: skip
    for text in ("H", "am", "C/x"):
        with pytest.raises(OptionError):
            chord_symbol(text)


def test_lengths_one_notehead_shows() -> None:
    assert all(is_one_note(length) for length in (F(4), F(3), F(7, 2), F(1, 3), F(2, 3), F(1, 5), F(3, 8)))
    assert not any(is_one_note(length) for length in (F(5, 4), F(5), F(9, 8), F(5, 6)))
    assert written_parts(F(5, 4)) == [F(1), F(1, 4)]
    assert written_parts(F(9, 2)) == [F(4), F(1, 2)]
    assert written_parts(F(5, 2), F(1, 2)) == [F(1, 2), F(2)]
