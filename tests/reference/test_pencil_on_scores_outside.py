"""The pencil on keyboard scores from outside the project (music21's corpus, test-only): what is written into the file's
own tree reads back as the pencilled score, and the file with nothing pencilled is the file."""

from __future__ import annotations

import random
from fractions import Fraction as F

import pytest
from lxml import etree
from test_scores_outside import KEYBOARD, opened

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
    Change,
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
from sampling import sampled

LENGTHS = [F(1, 4), F(1, 3), F(1, 2), F(2, 3), F(3, 4), F(1), F(3, 2), F(2), F(3)]
NAMES = ["C4", "D4", "F♯4", "B♭3", "G5", "E2"]


def some_change(dice: random.Random, score: Score) -> Change:
    def note() -> NoteRef:
        return NoteRef(dice.choice(score.notes).id)

    def near(ref: NoteRef) -> NoteRef:
        index = next(i for i, n in enumerate(score.notes) if n.id == ref.id)
        return NoteRef(score.notes[min(len(score.notes) - 1, index + dice.randint(1, 20))].id)

    def spot(measure_index: int | None = None) -> Spot:
        measure = score.measures[dice.randrange(len(score.measures)) if measure_index is None else measure_index]
        return Spot(measure.number, measure.length_quarters * F(dice.randrange(6), 6))

    def span() -> tuple[Spot, Spot]:
        index = dice.randrange(len(score.measures) - 1)
        return spot(index), spot(index + 1)

    erasable = [m for m in score.marks if m.kind in (MarkKind.DYNAMIC, MarkKind.SLUR, MarkKind.ARTICULATION)]
    first = note()
    kinds = [
        lambda: ChangePitch(first, dice.choice(NAMES)),
        lambda: ChangeLength(first, dice.choice(LENGTHS), dice.random() < 0.5),
        lambda: (
            ChangeLength(NoteRef(dice.choice(score.rests).id), dice.choice(LENGTHS)) if score.rests else AddLift(first)
        ),
        lambda: RemoveNote(first),
        lambda: AddNote(spot(), dice.choice(HANDS), dice.choice(NAMES), dice.choice(LENGTHS)),
        lambda: ChangeTie(first, dice.random() < 0.5),
        lambda: GiveHand(first, dice.choice(HANDS)),
        lambda: SetFingering(first, ("3", "2")),
        lambda: AddPhrase(first, near(first)),
        lambda: AddLift(first),
        lambda: AddPedal(*span()),
        lambda: AddDynamic(spot(), dice.choice(DYNAMICS), dice.choice([None, *HANDS])),
        lambda: AddHairpin(*span(), "diminuendo"),
        lambda: AddCue(spot(), "move"),
        lambda: SetChord(spot(), "B♭7/D"),
        lambda: _erase(score, dice.choice(erasable)) if erasable else AddCue(spot(), "lift"),
    ]
    return dice.choice(kinds)()


def _erase(score: Score, mark) -> EraseMark:
    measure = score.measure_at(mark.onset_quarters)
    at = Spot(measure.number, mark.onset_quarters - measure.start_quarters)
    return EraseMark(mark.kind, at, mark.text, mark.note_id)


#: The largest score, six times as long as the next, only where all samples are taken.
PENCILLED = [name for name in KEYBOARD if not name.startswith("weber/") or sampled(0, 1)]


@pytest.mark.parametrize("seed", range(sampled(1, 3)))
@pytest.mark.parametrize("name", PENCILLED)
def test_the_tree_says_what_the_pencilled_score_says(name, seed):
    file = opened(name)
    dice = random.Random(f"{name} {seed}")
    changes = [PencilChange(str(key), some_change(dice, file.score)) for key in range(1, 25)]
    pencilled = apply_pencil(file.score, changes)
    assert sum(outcome.problem is None for outcome in pencilled.outcomes) >= 8
    written = write_changes(file, pencilled.score)
    again = open_musicxml(etree.tostring(written.tree), filename=name)
    assert_same_music(again.score, pencilled.score)


@pytest.mark.parametrize("name", KEYBOARD)
def test_nothing_pencilled_changes_nothing(name):
    file = opened(name)
    assert etree.tostring(write_changes(file, file.score).tree) == etree.tostring(file.tree)
