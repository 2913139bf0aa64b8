"""Drills through the interface of the server: looked at, kept as pieces, counted, laddered and checked like any other."""

from __future__ import annotations

import json

import pytest

from helpers import demo_bytes, demo_score
from laptick.core.score.score import Hand
from laptick.db.engine.connect import connect
from laptick.formats.drills import make_drill

RATIO = {"kind": "ratio", "options": {"scale": "G-major", "ratio": "2:1", "fast": "right", "tempo": "72"}}


@pytest.fixture
def piece(client) -> int:
    data = demo_bytes("harbour-steps")
    return int(client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"])


def test_every_kind_says_what_it_trains_and_can_be_made_as_is_usual(client, piece):
    kinds = client.get("/api/drills").json()
    assert [one["key"] for one in kinds] == ["ratio", "cross", "layer", "form", "spot", "variants"]
    for kind in kinds:
        assert kind["trains"]
        options = {one["key"]: one["usual"] for one in kind["options"] if not one["is_needed"]}
        if kind["key"] == "variants":
            continue  # this piece has no beat of three even notes: see below
        if any(one["key"] == "of" for one in kind["options"]):
            options["of"] = str(piece)
        answer = client.post("/api/drills/look", json={"kind": kind["key"], "options": options})
        assert answer.status_code == 200, answer.text
        assert answer.json()["ruler"]["measures"]
        for option in kind["options"]:
            values = [choice["value"] for choice in option["choices"]]
            assert not values or option["usual"] in values


def test_every_choice_can_be_made(client, piece):
    """One changed at a time; what cannot be is refused in words."""
    for kind in client.get("/api/drills").json():
        given = {"of": str(piece)} if any(one["key"] == "of" for one in kind["options"]) else {}
        for option in kind["options"]:
            for choice in option["choices"][:8]:
                wanted = {"kind": kind["key"], "options": {**given, option["key"]: choice["value"]}}
                answer = client.post("/api/drills/look", json=wanted)
                assert answer.status_code in (200, 422), answer.text
                if answer.status_code == 422:
                    assert answer.json()["error"]["todo"]


def test_a_look_may_be_of_the_first_bars(client, piece):
    wanted = {"kind": "spot", "options": {"of": str(piece)}}
    whole = client.post("/api/drills/look", json=wanted).json()
    some = client.post("/api/drills/look?bars=5", json=wanted).json()
    assert (whole["bars"], some["bars"], len(whole["ruler"]["measures"])) == (24, 24, 24)
    assert some["ruler"]["measures"] == whole["ruler"]["measures"][:5]
    assert some["ruler"]["right"] == [one for one in whole["ruler"]["right"] if one["onset_quarters"] < 20]
    assert client.post("/api/drills/look?bars=0", json=wanted).status_code == 422


def test_where_the_hands_meet_is_told(client):
    [meeting] = client.post("/api/drills/look", json=RATIO).json()["meetings"]
    assert meeting == {
        "onset_quarters": 7.0, "place_text": "bar 2, beat 4", "right": "G4", "left": "G4", "same_key": True,
    }  # fmt: skip


def test_where_the_hands_meet_is_told_of_a_piece_too(client, piece):
    kept = client.post("/api/drills", json=RATIO).json()
    assert [one["right"] for one in kept["meetings"]] == ["G4"]
    assert client.get(f"/api/pieces/{piece}").json()["meetings"] == []


def test_one_that_is_kept_is_a_piece_like_any_other_and_the_same_again_is_the_same(client, db):
    kept = client.post("/api/drills", json=RATIO)
    assert kept.status_code == 201
    piece = kept.json()["id"]
    assert (kept.json()["title"], kept.json()["target_bpm"]) == ("G major, 2 : 1, right hand fast", 72)
    assert client.post("/api/drills", json=RATIO).json()["id"] == piece
    with connect(db) as connection, connection.cursor() as cursor:
        cursor.execute("SELECT drill FROM piece WHERE id = %s", (piece,))
        assert json.loads(cursor.fetchone()["drill"]) == {"kind": "ratio", **RATIO["options"]}
    assert client.get(f"/api/pieces/{piece}/study").json()["rungs"]
    assert client.get(f"/api/pieces/{piece}/map").json()["bars"]
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json={"activity": "play", "bpm": 60, "seed": 2}).json()
    assert take["status"] == "steady"
    client.delete(f"/api/pieces/{piece}")
    assert client.post("/api/drills", json=RATIO).json()["id"] != piece


@pytest.mark.parametrize(
    "wanted",
    [
        {"kind": "waltz"}, {"kind": "ratio", "options": {"ratio": "9:1"}}, {"kind": "layer"},
        {"kind": "layer", "options": {"of": "x"}}, {"kind": "ratio", "options": {"tempo": "1e99999"}},
        {"kind": "form", "options": {"bars": "I," * 900}}, {"kind": "ratio", "options": {"octaves": "-1"}},
        {"kind": "layer", "options": {"of": "1", "roots": "H"}}, {"kind": "ratio", "options": {"mood": "glad"}},
    ],
)  # fmt: skip
def test_what_cannot_be_made_is_refused_and_nothing_is_kept(client, wanted):
    before = client.get("/api/pieces").json()["items"]
    for path in ("/api/drills/look", "/api/drills"):
        assert client.post(path, json=wanted).status_code in (404, 422)
    assert client.get("/api/pieces").json()["items"] == before


def test_a_piece_that_is_not_there(client):
    answer = client.post("/api/drills", json={"kind": "layer", "options": {"of": "999999"}})
    assert answer.status_code == 404


#: C major, 2 : 1, the right hand fast, as it is written: eighths up and down over quarters up, one beat a second.
UP, DOWN = (60, 62, 64, 65, 67, 69, 71, 72), (71, 69, 67, 65, 64, 62, 60)
PLAYED = [(2.0 + i / 2, key) for i, key in enumerate((*UP, *DOWN))] + [
    (2.0 + i, key - 12) for i, key in enumerate(UP[:-1])
]


def played(client, *last: tuple[float, int]) -> dict:
    """A take of it by keys; ``last``: how the meeting note, one key for both hands, or others instead were struck."""
    drill = {"kind": "ratio", "options": {"scale": "C-major", "ratio": "2:1", "start": "two-octaves-apart"}}
    piece = client.post("/api/drills", json=drill).json()["id"]
    # Two octaves apart: the right hand an octave higher than written above.
    notes = [(t, key + 12 if key >= 60 else key) for t, key in PLAYED if (t, key) != (9.0, 60)]
    strikes = [{"t": t, "pitch": key, "velocity": 70, "released": t + 0.4} for t, key in sorted([*notes, *last])]
    body = {"activity": "play", "bpm": 60, "notes": strikes, "first_beat_s": 2.0}
    return client.post(f"/api/pieces/{piece}/takes", json=body).json()


@pytest.mark.parametrize(
    ("last", "text"),
    [
        (((9.0, 72), (9.0, 60)), "You met on C: right."),
        (((9.0, 72), (9.35, 60)), "the left hand came"),
        (((8.8, 72), (9.0, 60)), "early"),
        (((9.0, 72),), "the left hand was not on C4"),
    ],
)
def test_a_take_is_told_whether_the_hands_met(client, last, text):
    take = played(client, *last)
    [met] = take["met"]
    assert text in met["text"]
    assert met["is_met"] is (text == "You met on C: right.")
    assert met["place_text"] == "bar 2, beat 4"


@pytest.mark.parametrize(("struck", "is_met"), [(((9.0, 60),), True), ((), False)])
def test_one_key_goes_down_once_for_both_hands(client, struck, is_met):
    """An octave apart, the right hand fast: they end on middle C, of which a keyboard tells one strike."""
    drill = {"kind": "ratio", "options": {"scale": "C-major", "ratio": "2:1"}}
    piece = client.post("/api/drills", json=drill).json()["id"]
    notes = [(t, key) for t, key in PLAYED if (t, key) != (9.0, 60)]
    strikes = [{"t": t, "pitch": key, "velocity": 70, "released": t + 0.4} for t, key in sorted([*notes, *struck])]
    body = {"activity": "play", "bpm": 60, "notes": strikes, "first_beat_s": 2.0}
    [met] = client.post(f"/api/pieces/{piece}/takes", json=body).json()["met"]
    assert met["is_met"] is is_met
    assert ("on one key: right" in met["text"]) is is_met


def test_every_time_round_is_told_by_itself(client):
    """Twice round: met, then the left hand late."""
    drill = {"kind": "ratio", "options": {"scale": "C-major", "ratio": "2:1", "start": "two-octaves-apart"}}
    piece = client.post("/api/drills", json=drill).json()["id"]
    once = [(t, key + 12 if key >= 60 else key) for t, key in PLAYED if (t, key) != (9.0, 60)]
    notes = [*once, (9.0, 72), (9.0, 60), *((t + 8, key) for t, key in once), (17.0, 72), (17.35, 60)]
    strikes = [{"t": t, "pitch": key, "velocity": 70, "released": t + 0.4} for t, key in sorted(notes)]
    body = {"activity": "play", "bpm": 60, "notes": strikes, "first_beat_s": 2.0, "times_round": 2}
    first, second = client.post(f"/api/pieces/{piece}/takes", json=body).json()["met"]
    assert (first["is_met"], first["place_text"]) == (True, "bar 2, beat 4")
    assert (second["is_met"], second["place_text"]) == (False, "bar 2, beat 4, second time")


def test_turns_of_a_piece_that_has_even_threes(client):
    piece = client.post("/api/pieces", files={"file": ("a.musicxml", demo_bytes("lantern-boat"))}).json()["id"]
    wanted = {"kind": "variants", "options": {"of": str(piece)}}
    look = client.post("/api/drills/look", json=wanted)
    assert look.status_code == 200
    assert "quick-quick-long" in look.json()["title"]


def test_it_is_counted_as_the_studio_counts(client):
    client.put("/api/choices", json={"studio": {"system": "duration"}})
    assert client.post("/api/drills/look", json=RATIO).json()["counts"]["counts"][0]["say"] != "1"


def test_of_anything_else_nothing_is_met(client, piece):
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json={"activity": "play", "bpm": 60, "seed": 1}).json()
    assert take["met"] == []


LAYERS = {"pattern": "pulse,low-high", "held": "yes", "turns": "2", "roots": "C F G C"}


def test_a_series_has_a_ladder_from_cue_to_cue(client, piece):
    kept = client.post("/api/drills", json={"kind": "layer", "options": {"of": str(piece), **LAYERS}}).json()
    study = client.get(f"/api/pieces/{kept['id']}/study").json()
    groups = list(dict.fromkeys(rung["group"] for rung in study["rungs"]))
    assert groups == [
        "the pulse, a chord on top", "the pulse", "low and high, a chord on top", "low and high", "one into the other",
        "in turn",
    ]  # fmt: skip
    sung = next(rung for rung in study["rungs"] if rung["key"].endswith(":tune-sung"))
    assert (sung["hands"], sung["stage_words"]) == ("left", "Together, the tune sung over the left hand")
    measures = kept["ruler"]["measures"]
    assert [(one["number"], one["cue"]) for one in measures if one["cue"]][:2] == [
        ("1", "the pulse, a chord on top"), ("9", "the pulse"),
    ]  # fmt: skip
    assert [one["chords"] for one in measures[:4]] == [["C"], ["F"], ["G"], ["C"]]
    assert kept["drill"] == {
        "kind": "layer", "title": "A left hand in layers", "options": {"of": str(piece), **LAYERS},
    }  # fmt: skip
    on_shelf = {one["id"]: one["is_drill"] for one in client.get("/api/pieces").json()["items"]}
    assert on_shelf == {piece: False, kept["id"]: True}


def test_a_pattern_of_ones_own_is_a_piece_of_the_shelf(client, piece):
    wanted = {"kind": "layer", "options": {"of": str(piece), "pattern": "own"}}
    refused = client.post("/api/drills/look", json=wanted)
    assert (refused.status_code, refused.json()["error"]["where"]) == (422, "own")
    wanted["options"]["own"] = str(piece)
    look = client.post("/api/drills/look", json=wanted).json()
    assert look["roots"]
    assert [one["start_quarters"] for one in look["ruler"]["measures"]][:2] == [0, 4]


def touch_take(client, piece, options, held_s):
    """The left hand of Harbour Steps over a broken chord on C, one beat a second, each key held so long."""
    words = {"pattern": "broken-chord", "roots": "C", **options}
    drill = client.post("/api/drills", json={"kind": "layer", "options": {"of": str(piece), **words}}).json()["id"]
    score = make_drill("layer", {"of": "x", **words}, lambda _: demo_score("harbour-steps")).score
    notes = [
        {"t": t, "pitch": note.pitch, "velocity": 70, "released": t + held_s}
        for note in score.notes
        if note.hand is Hand.LEFT and (t := 2 + float(note.onset_quarters))
    ]
    body = {"activity": "play", "bpm": 60, "hands": "left", "notes": notes, "first_beat_s": 2.0}
    answer = client.post(f"/api/pieces/{drill}/takes", json=body)
    assert answer.status_code == 201, answer.text
    return answer.json()


@pytest.mark.parametrize(
    ("touch", "held_s", "is_kept"),
    [("staccato", 0.2, True), ("staccato", 0.48, False), ("legato", 0.49, True), ("legato", 0.3, False)],
)
def test_a_take_is_told_whether_a_hand_kept_its_touch(client, piece, touch, held_s, is_kept):
    """Eighths at 60: half a second each."""
    take = touch_take(client, piece, {"left": touch}, held_s)
    [told] = take["touched"]
    assert told["is_kept"] is is_kept
    assert told["text"].startswith(f"The left hand {touch}: ")
    assert touch_take(client, piece, {}, held_s)["touched"] == []


@pytest.mark.parametrize("damaged", ["[1]", '"ratio"', '{"kind": "waltz"}', '{"kind": "ratio", "ratio": [2]}', "null"])
def test_what_is_stored_of_a_drill_may_be_damaged(client, db, damaged):
    kept = client.post("/api/drills", json=RATIO).json()["id"]
    take = client.post(f"/api/pieces/{kept}/takes/simulated", json={"activity": "play", "bpm": 60, "seed": 2}).json()
    assert take["met"]
    with connect(db) as connection, connection.cursor() as cursor:
        cursor.execute("UPDATE piece SET drill = %s WHERE id = %s", (damaged, kept))
        connection.commit()
    assert client.get(f"/api/pieces/{kept}").status_code == 200
    assert client.get("/api/pieces").status_code == 200
    assert client.get(f"/api/takes/{take['id']}").json()["met"] == []
    assert client.post("/api/drills", json=RATIO).status_code == 201
