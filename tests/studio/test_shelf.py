"""What the shelf keeps beside each piece is what its score and its takes say, whatever was done to them."""

from __future__ import annotations

import re
from dataclasses import replace
from importlib import resources

import pytest

from helpers import score_xml
from laptick.core.judging.verdict import Status
from laptick.studio.pieces import entry, open_piece, pencil, shelf
from laptick.studio.pieces.face import face_of_score, progress_of_study
from laptick.studio.studies import studies
from laptick.studio.takes import judging, takes
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Simulation
from laptick.studio.use_case import Studio

HARBOUR = (resources.files("laptick") / "demo" / "harbour-steps.musicxml").read_bytes()
PASSAGE = {"title": "Short", "beats": 2, "beat_type": 4, "bpm": 60, "bars": [{"right": [], "left": []}]}


@pytest.fixture
def studio(connection) -> Studio:
    return Studio(connection, 1)


@pytest.fixture
def piece_id(studio) -> int:
    return shelf.add_piece(studio, HARBOUR, "harbour.musicxml").piece.id


def shown(studio: Studio, piece_id: int) -> shelf.OnShelf:
    return next(one for one in shelf.list_pieces(studio) if one.id == piece_id)


def run(studio: Studio, sql: str, *values) -> None:
    with studio.connection.cursor() as cursor:
        cursor.execute(sql, values)
    studio.connection.commit()


def holds(studio: Studio, piece_id: int) -> shelf.OnShelf:
    """The piece on the shelf, after it was compared with what is worked out without what is kept."""
    on_shelf = shown(studio, piece_id)
    whole = shelf.show_piece(studio, piece_id)
    assert on_shelf.face == face_of_score(whole.piece.score, whole.piece.target_bpm)
    study = studies.get_study(studio, piece_id)
    assert on_shelf.progress == progress_of_study(study, len(takes.list_takes(studio, piece_id)))
    return on_shelf


def test_a_piece_that_was_just_added_need_not_be_read_for_the_shelf(studio, piece_id, monkeypatch):
    monkeypatch.setattr(open_piece, "open_score", lambda *args, **how: pytest.fail("read"))
    assert shelf.pieces_to_read(studio) == 0
    on_shelf = shown(studio, piece_id)
    assert (on_shelf.face.signature, on_shelf.face.bars) == ("4/4", 8)
    assert on_shelf.face.hands == ("right", "left")


def test_how_hard_it_is_follows_what_is_pencilled_and_the_tempo_to_be_reached(studio, piece_id):
    before = holds(studio, piece_id).face.difficulty
    assert before is not None
    run(studio, "UPDATE piece SET target_bpm = 2 * target_bpm WHERE id = %s", piece_id)
    assert shelf.pieces_to_read(studio) == 1
    assert holds(studio, piece_id).face.difficulty > before
    run(studio, "UPDATE piece SET target_bpm = target_bpm / 2 WHERE id = %s", piece_id)
    assert holds(studio, piece_id).face.difficulty == before


def test_of_one_hand_nothing_is_hard_to_join(studio):
    one = shelf.add_piece(studio, score_xml("C5/q D5/q E5/q F5/q"), "one.musicxml").piece.id
    face = holds(studio, one).face
    assert (face.hands, face.difficulty) == (("right",), None)


def test_the_target_is_a_tempo_that_people_write(studio):
    """80 quarters a minute in 6/8 are 53.3 dotted quarters."""
    lantern = (resources.files("laptick") / "demo" / "lantern-boat.musicxml").read_text()
    marked = re.sub(r"<metronome>.*?</metronome>", "<metronome><beat-unit>quarter</beat-unit><per-minute>80</per-minute>"
                    "</metronome>", lantern, flags=re.DOTALL)  # fmt: skip
    marked = re.sub(r'tempo="[^"]*"', 'tempo="80"', marked)
    assert shelf.add_piece(studio, marked.encode(), "lantern.musicxml").piece.target_bpm == 53


def test_five_eight_says_what_its_unit_is(studio):
    five = (resources.files("laptick") / "demo" / "five-stones.musicxml").read_bytes()
    assert shown(studio, shelf.add_piece(studio, five, "five.musicxml").piece.id).face.is_asymmetric


def test_the_face_follows_the_reading_the_pencil_and_what_is_typed(studio, piece_id):
    before = holds(studio, piece_id).face
    swapped = {"staff_hands": {"P1:1": "left", "P1:2": "right"}}
    shelf.set_reading(studio, piece_id, swapped)
    assert holds(studio, piece_id).face.opening == before.opening[::-1]
    shelf.set_reading(studio, piece_id, {})
    assert holds(studio, piece_id).face == before
    second = next(note for note in shelf.get_piece(studio, piece_id).score.notes if 0 < note.onset_quarters < 4)
    pencil.add_change(studio, piece_id, None, {"kind": "remove", "note": {"id": second.id}})
    assert holds(studio, piece_id).face.opening != before.opening
    pencil.undo_change(studio, piece_id, shelf.get_piece(studio, piece_id).pencil_version_id)
    assert holds(studio, piece_id).face == before
    typed = entry.add_entry(studio, PASSAGE).piece
    assert holds(studio, typed.id).face.bars == 1
    entry.put_entry(studio, typed.id, typed.entry_version, PASSAGE | {"bars": PASSAGE["bars"] * 3})
    assert holds(studio, typed.id).face.bars == 3


def test_the_states_follow_every_take_and_every_word(studio, piece_id):
    wanted = TakeSettings(activity="lap", bpm=60)
    assert holds(studio, piece_id).progress.takes == 0
    made = [takes.add_simulated_take(studio, piece_id, wanted, Simulation(seed=seed)) for seed in (1, 2, 3)]
    lapped = 6  # both lines heard, said and tapped
    assert holds(studio, piece_id).progress.takes == 3
    for one in made:
        judging.overrule(studio, one.id, Status.NOT_YET, "She looked at her hands.")
    assert holds(studio, piece_id).progress.passed == 0
    judging.withdraw(studio, made[1].id)
    whole = holds(studio, piece_id).progress.passed
    assert whole >= lapped
    judging.judge_as_passage(studio, made[1].id, "1-4")
    assert holds(studio, piece_id).progress.passed < whole
    judging.judge_as_passage(studio, made[1].id, None)
    assert holds(studio, piece_id).progress.passed == whole
    takes.delete_take(studio, made[1].id)
    assert (holds(studio, piece_id).progress.takes, holds(studio, piece_id).progress.passed) == (2, 0)
    takes.restore_take(studio, made[1].id)
    assert (holds(studio, piece_id).progress.takes, holds(studio, piece_id).progress.passed) == (3, whole)


@pytest.mark.parametrize(
    "damage",
    [
        "opening = '[[1],[2]]'",
        "opening = '{}'",
        "opening = '[[\"a\"],[]]'",
        "opening = NULL",
        "bars = NULL",
        "beat_quarters = '1e99999999'",
        "beat_quarters = NULL",
        "hands = 'right,third'",
        "difficulty = NULL",
        "difficulty = 400",
        "progress = '[]'",
        "progress = '{\"takes\": 1}'",
        'progress = \'{"takes": 0, "passed": 9, "rungs": 2, "next_words": null, "bars": []}\'',
        'progress = \'{"takes": 0, "passed": 0, "rungs": 2, "next_words": "gold", "bars": []}\'',
        'progress = \'{"takes": 0, "passed": 0, "rungs": 2, "next_words": null, "bars": ["x"]}\'',
        "progress = NULL",
    ],
)
def test_what_is_damaged_is_worked_out_anew_and_kept(studio, piece_id, damage, caplog):
    before = shown(studio, piece_id)
    run(studio, f"UPDATE piece SET {damage} WHERE id = %s", piece_id)
    assert shown(studio, piece_id) == before
    caplog.clear()
    assert shown(studio, piece_id) == before
    assert not caplog.records


def test_a_score_that_cannot_be_read_any_more_stays_on_the_shelf_and_says_so(studio, piece_id):
    other = shelf.add_piece(studio, HARBOUR, "second.musicxml").piece.id
    run(studio, "UPDATE piece SET original = 'gone', original_sha256 = REPEAT('0', 32) WHERE id = %s", piece_id)
    lost = shown(studio, piece_id)
    assert lost.title == "Harbour Steps"
    assert lost.face.unread
    assert shown(studio, other).face.unread is None
    # It is looked at once, not at every look.
    assert shelf.pieces_to_read(studio) == 0
    shelf.delete_piece(studio, piece_id)
    assert piece_id not in [one.id for one in shelf.list_pieces(studio)]


def test_another_studio_sees_none_of_it(studio, piece_id):
    run(studio, "INSERT INTO studio (name) VALUES ('other')")
    with studio.connection.cursor() as cursor:
        cursor.execute("SELECT MAX(id) AS id FROM studio")
        other = replace(studio, id=cursor.fetchone()["id"])
    assert shelf.list_pieces(other) == []
