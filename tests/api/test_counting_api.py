"""Choices, playing order, reading and export through the API, against a real MariaDB."""

from __future__ import annotations

import csv
import io
from pathlib import Path

import mido
import pytest
from lxml import etree

from helpers import demo_bytes, demo_score
from laptick.formats.midi.score_reader import read_midi_score
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml.file import read_musicxml


def add(client, data: bytes, name: str) -> int:
    answer = client.post("/api/pieces", files={"file": (name, data)})
    assert answer.status_code == 201, answer.json()
    return int(answer.json()["id"])


@pytest.fixture
def boat(client) -> int:
    return add(client, demo_bytes("lantern-boat"), "lantern-boat.musicxml")


#: Two bars repeated, then a last one.
ROAD = (
    '<score-partwise><part-list><score-part id="P1"><part-name/></score-part></part-list><part id="P1">'
    + "".join(
        f'<measure number="{n}">'
        + ("<attributes><divisions>1</divisions><time><beats>4</beats><beat-type>4</beat-type></time></attributes>" if n == 1 else "")
        + "<note><pitch><step>C</step><octave>5</octave></pitch><duration>1</duration></note>" * 4
        + ('<barline location="right"><repeat direction="backward"/></barline>' if n == 2 else "")
        + "</measure>"
        for n in (1, 2, 3)
    )
    + "</part></score-partwise>"
).encode()  # fmt: skip


def said(client, piece, **query):
    counts = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "hand": "left", **query}).json()
    return " ".join(c["say"] for c in counts["counts"][:6])


def test_the_systems_and_their_words(client):
    systems = {s["key"]: s for s in client.get("/api/count-systems").json()}
    assert set(systems) == {"numbers", "beats", "duration", "function", "length", "hands", "names"}
    triplet = next(e for e in systems["numbers"]["entries"] if e["name"] == "triplet")
    assert (triplet["words"], triplet["variants"][0]) == (["{n}", "trip", "let"], ["{n}", "la", "li"])


def test_an_example_shows_a_choice_before_it_is_stored(client):
    bars = client.post("/api/count-example", json={"words": {"numbers:triplet": ["{n}", "la", "li"]}}).json()
    said = [" ".join(count["say"] for count in bar["counts"]) for bar in bars]
    assert said == ["1 2 & 3 la li 4 e & a", "1 & 2 & 3 4", "1 2 3 4 5 6"]
    assert client.post("/api/count-example", json={"system": "humming"}).status_code == 422
    stored = client.get("/api/choices").json()
    assert (set(stored["studio"].values()), stored["levels"]) == ({None}, {})


def test_a_choice_is_stored_and_counted_in_one_answer(client, boat):
    answer = client.put(
        f"/api/pieces/{boat}/counts", params={"bpm": 60, "hand": "left"}, json={"piece": {"system": "function"}}
    )
    assert answer.json()["choices"] == client.get(f"/api/pieces/{boat}/choices").json()
    assert (
        answer.json()["counts"] == client.get(f"/api/pieces/{boat}/counts", params={"bpm": 60, "hand": "left"}).json()
    )
    assert answer.json()["counts"]["counts"][0]["say"] == "ta"
    bad = {"bars": {"99": {"density": "bar"}}}
    refused = client.put(f"/api/pieces/{boat}/counts", params={"bpm": 60}, json=bad)
    assert (refused.status_code, refused.json()["error"]["kept"]) == (422, "Nothing was changed.")


def test_rests_with_what_is_said_in_them_and_the_entry_after(client):
    piece = add(client, demo_bytes("harbour-steps"), "h.musicxml")
    rests = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "hand": "right"}).json()["rests"]
    assert len(rests) == 1  # the quarter at the end of bar 4
    rest = rests[0]
    assert (rest["hand"], rest["length_name"], rest["say"]) == ("right", "quarter", "4")
    assert (rest["place_text"], rest["entry_text"]) == ("bar 4 · line 1, bar 4, beat 4", "bar 5, beat 1")
    assert rest["good_for"].startswith("Lift, breathe")


def test_notation_and_sheet(client, boat):
    page = client.get(f"/api/pieces/{boat}/notation", params={"bpm": 60}).json()
    assert len(page["rows"]) == len(page["shares"]) > 1
    assert all(row["svg"].startswith("<svg") and "script" not in row["svg"] for row in page["rows"])
    some = client.get(f"/api/pieces/{boat}/notation", params={"bpm": 60, "first": 1, "rows": 1}).json()
    assert (some["first"], some["rows"], some["shares"]) == (1, page["rows"][1:2], page["shares"])
    plain = client.get(f"/api/pieces/{boat}/notation", params={"bpm": 60, "counts": False}).json()
    assert 'data-item="' in plain["rows"][0]["svg"]
    pdf = client.get(f"/api/pieces/{boat}/sheet", params={"bpm": 60, "paper": "letter", "big": True})
    assert (pdf.headers["content-type"], pdf.content[:5]) == ("application/pdf", b"%PDF-")
    page = client.get(f"/api/pieces/{boat}/sheet", params={"bpm": 60, "format": "html", "hand": "left"})
    assert "default-src 'none'" in page.headers["content-security-policy"]
    assert "left hand" in page.text
    assert client.get(f"/api/pieces/{boat}/sheet", params={"bpm": 60, "paper": "napkin"}).status_code == 422
    joined = client.get(f"/api/pieces/{boat}/sheet", params={"bpm": 60, "format": "html", "map": 6}).text
    assert "Hardest first" in joined
    assert "Hardest first" not in page.text
    assert client.get(f"/api/pieces/{boat}/sheet", params={"bpm": 60, "map": 4}).status_code == 422


def test_ruler_pictures(client, boat):
    svg = client.get(f"/api/pieces/{boat}/ruler-picture", params={"bpm": 60, "hand": "left"})
    assert svg.headers["content-type"].startswith("image/svg+xml")
    assert "ruler.svg" in svg.headers["content-disposition"]
    assert "default-src 'none'" in svg.headers["content-security-policy"]
    png = client.get(f"/api/pieces/{boat}/ruler-picture", params={"bpm": 60, "format": "png"})
    assert png.content.startswith(b"\x89PNG")
    assert client.get(f"/api/pieces/{boat}/ruler-picture", params={"bpm": 60, "format": "gif"}).status_code == 422


def test_what_each_signature_can_be_counted_in(client, boat):
    """common practice, no source: 6/8 in two, in units, in one; grouped it is not."""
    counts = client.get(f"/api/pieces/{boat}/counts", params={"bpm": 60}).json()
    assert counts["signatures"] == [{"signature": "6/8", "has_units": True, "beats": counts["beats"], "groupings": []}]
    assert {"eighth", "dotted-quarter", "bar"} <= set(counts["beats"])


def test_lines_are_moved(client, boat):
    assert client.put(f"/api/pieces/{boat}/reading", json={"line_starts": ["3"]}).status_code == 200
    measures = client.get(f"/api/pieces/{boat}").json()["ruler"]["measures"]
    assert [(m["line"], m["bar_in_line"]) for m in measures[:4]] == [(1, 1), (1, 2), (2, 1), (2, 2)]
    bars = client.get(f"/api/pieces/{boat}/roadmap").json()["bars"]
    assert [b["number"] for b in bars if b["begins_line"]] == ["3"]


def test_choices_by_studio_level_piece_and_bar(client, boat):
    assert said(client, boat) == "1 2 3 4 5 6"
    assert client.put("/api/choices", json={"studio": {"compound": "groups"}}).status_code == 200
    assert said(client, boat) == "1 2 3 2 2 3"
    levels = {"studio": {"compound": "groups"}, "levels": {"elementary": {"compound": "groups-restart"}}}
    client.put("/api/choices", json=levels)
    assert said(client, boat) == "1 2 3 1 2 3"
    own = {
        "piece": {"compound": "beats", "words": {"compound": ["{n}", "&", "a"]}},
        "bars": {"2": {"system": "function"}},
    }
    kept = client.put(f"/api/pieces/{boat}/choices", json=own).json()
    assert kept["piece"]["compound"] == "beats"
    assert said(client, boat) == "1 & a 2 & a"
    bar2 = client.get(f"/api/pieces/{boat}/counts", params={"bpm": 60, "hand": "left"}).json()["counts"][6:9]
    assert [c["say"] for c in bar2] == ["ta", "ta", "ki"]
    assert client.get("/api/choices").json() ["levels"]["elementary"]["compound"] == "groups-restart"  # fmt: skip
    client.put(f"/api/pieces/{boat}/choices", json={})
    assert said(client, boat) == "1 2 3 1 2 3"


BAD_CHOICES = [
    {"piece": {"system": "humming"}}, {"piece": {"grouping": "nine"}}, {"piece": {"words": {"nonsense": ["x"]}}},
    {"bars": {"99": {"density": "bar"}}}, {"syllables": [{"measure": "1", "offset": "1/0", "say": "x"}]},
    {"syllables": [{"measure": "77", "offset": "0", "say": "x"}]}, {"piece": {"beat": "fortnight"}}, {"feet": {}},
]  # fmt: skip


@pytest.mark.parametrize("bad", BAD_CHOICES)
def test_bad_choices_change_nothing(client, boat, bad):
    client.put(f"/api/pieces/{boat}/choices", json={"piece": {"density": "bar"}})
    answer = client.put(f"/api/pieces/{boat}/choices", json=bad)
    assert answer.status_code == 422
    assert answer.json()["error"]["what"]
    assert client.get(f"/api/pieces/{boat}/choices").json()["piece"]["density"] == "bar"


def test_the_playing_order_and_the_teachers_own(client):
    piece = add(client, ROAD, "road.musicxml")
    road = client.get(f"/api/pieces/{piece}/roadmap").json()
    assert (road["order"], road["is_own"], road["is_plain"]) == (["1", "2", "1", "2", "3"], False, False)
    assert client.get(f"/api/pieces/{piece}").json()["is_played_as_written"] is False
    own = client.put(f"/api/pieces/{piece}/roadmap", json={"order": ["1", "3"]}).json()
    assert (own["order"], own["is_own"], own["by_signs"]) == (["1", "3"], True, ["1", "2", "1", "2", "3"])
    assert client.put(f"/api/pieces/{piece}/roadmap", json={"order": ["8"]}).status_code == 422
    assert client.get(f"/api/pieces/{piece}/roadmap").json()["order"] == ["1", "3"]
    assert client.put(f"/api/pieces/{piece}/roadmap", json={"order": None}).json()["is_own"] is False


def test_schedule_and_takes_follow_the_playing_order(client):
    piece = add(client, ROAD, "road.musicxml")
    schedule = client.get(f"/api/pieces/{piece}/schedule", params={"bpm": 60}).json()
    struck = {s["at_s"] for s in schedule["sounds"] if s["track"] == "right"}
    assert len(struck) == 20
    assert schedule["end_s"] - schedule["first_beat_s"] == pytest.approx(20)
    # The cursor goes twice over the first two written bars, then over the third.
    way = [(c["at_s"] - schedule["first_beat_s"], c["onset_quarters"]) for c in schedule["cursor"]]
    assert [way[0], way[-1]] == [(0, 0), (20, 12)]
    assert {(8, 8), (8, 0), (16, 8)} <= set(way)
    wanted = {"activity": "lap", "bpm": 60, "hands": "right", "seed": 3}
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json=wanted).json()
    assert take["document"]["matched"] == 20
    assert [(m["number"], m["pass_number"]) for m in take["ruler"]["measures"]] == [
        ("1", 1),
        ("2", 1),
        ("1", 2),
        ("2", 2),
        ("3", 1),
    ]
    assert {note["pass"] for note in take["document"]["notes"]} == {1, 2}
    # The take keeps the order it was played in.
    client.put(f"/api/pieces/{piece}/roadmap", json={"order": ["1"]})
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert again["document"]["matched"] == 20
    assert again["ruler"] == take["ruler"]


def test_a_take_keeps_the_counting_that_held_when_it_was_made(client, boat):
    client.put(f"/api/pieces/{boat}/choices", json={"piece": {"compound": "units", "density": "steady"}})
    wanted = {"activity": "count", "bpm": 50, "hands": "left", "seed": 5}
    take = client.post(f"/api/pieces/{boat}/takes/simulated", json=wanted).json()
    before = take["document"]["matched"]
    client.put(f"/api/pieces/{boat}/choices", json={"piece": {"compound": "beats"}})
    again = client.post(f"/api/takes/{take['id']}/judge").json()
    assert again["document"]["matched"] == before
    assert [c["say"] for c in again["counts"]["counts"]] == [c["say"] for c in take["counts"]["counts"]]


def test_a_midi_file_is_a_piece_like_any_other(client):
    piece = add(client, write_midi(demo_score("harbour-steps")), "harbour.mid")
    reading = client.get(f"/api/pieces/{piece}/reading").json()
    assert (reading["is_midi"], [p["name"] for p in reading["parts"]]) == (True, ["right hand", "left hand"])
    changed = client.put(f"/api/pieces/{piece}/reading", json={"parts": ["2"], "grid": "eighths"})
    assert changed.status_code == 200
    assert any("moved" in n["text"] or "eighths" in n["text"] or "1/2" in n["text"] for n in changed.json()["notices"])
    assert client.put(f"/api/pieces/{piece}/reading", json={"parts": ["9"]}).status_code == 422
    assert client.put(f"/api/pieces/{piece}/reading", json={"grid": "hairs"}).status_code == 422
    assert client.get(f"/api/pieces/{piece}/reading").json()["grid"] == "eighths"


def test_hands_are_changed_for_a_staff_and_for_a_note(client):
    piece = add(client, demo_bytes("harbour-steps"), "h.musicxml")
    score = demo_score("harbour-steps")
    right = sum(note.hand == "right" for note in score.notes if note.is_strike)
    ruler = client.get(f"/api/pieces/{piece}").json()["ruler"]
    assert len(ruler["right"]) == right
    swapped = client.put(f"/api/pieces/{piece}/reading", json={"staff_hands": {"P1:1": "left", "P1:2": "right"}}).json()
    assert len(swapped["ruler"]["left"]) == right
    first = next(n.id for n in score.notes if n.hand == "left")
    one = client.put(f"/api/pieces/{piece}/reading", json={"note_hands": {first: "right"}}).json()
    assert len(one["ruler"]["left"]) == len(ruler["left"]) - 1


def test_export_in_every_form(client):
    piece = add(client, demo_bytes("harbour-steps"), "Harbour steps.musicxml")

    def export(**query):
        answer = client.get(f"/api/pieces/{piece}/export", params=query)
        assert answer.status_code == 200, answer.text
        return answer

    plain = export(format="musicxml")
    assert etree.tostring(etree.fromstring(plain.content), method="c14n") == etree.tostring(
        etree.fromstring(demo_bytes("harbour-steps")), method="c14n"
    )
    counted = export(format="mxl", counts=True)
    assert "Harbour%20steps-counts.mxl" in counted.headers["content-disposition"]
    lyrics = [m.text for m in read_musicxml(counted.content).marks if m.kind == "lyric"]
    assert "1:2" in lyrics
    assert len(read_midi_score(export(format="mid").content).notes) >= 58
    with_words = mido.MidiFile(file=io.BytesIO(export(format="mid", counts=True).content))
    assert sum(m.type == "lyrics" for track in with_words.tracks for m in track) > 30
    rows = list(csv.DictReader(io.StringIO(export(format="csv").content.decode())))
    assert rows[2]["say"] == "&"
    assert {row["hand"] for row in rows} == {"right", "left", "both"}
    assert client.get(f"/api/pieces/{piece}/export", params={"format": "pdf"}).status_code == 422


def test_a_word_that_looks_like_a_formula_is_only_shown(client):
    piece = add(client, demo_bytes("harbour-steps"), "h.musicxml")
    client.put(f"/api/pieces/{piece}/choices", json={"syllables": [{"measure": "1", "offset": "0", "say": "=1+1"}]})
    table = client.get(f"/api/pieces/{piece}/export", params={"format": "csv", "hand": "both"}).content.decode()
    assert "'=1+1" in table


def test_a_demo_piece_off_the_shelf_has_no_choices_left_to_give(client, boat):
    client.delete(f"/api/pieces/{boat}")
    for path in ("choices", "roadmap", "reading", "export?format=csv"):
        assert client.get(f"/api/pieces/{boat}/{path}").status_code == 404


def test_the_demo_folder_holds_what_the_shelf_offers():
    folder = Path(__file__).resolve().parents[2] / "src" / "laptick" / "demo"
    assert {p.stem for p in folder.glob("*.musicxml")} >= {"harbour-steps", "lantern-boat"}


def test_a_play_along_as_a_sound_file(client):
    piece = add(client, demo_bytes("harbour-steps"), "harbour steps.musicxml")
    wav = client.get(f"/api/pieces/{piece}/sound", params={"bpm": 88, "measures": "1-2", "levels": "left:80"})
    assert (wav.headers["content-type"], wav.content[:4]) == ("audio/wav", b"RIFF")
    assert "harbour%20steps-play-along.wav" in wav.headers["content-disposition"]
    midi = client.get(f"/api/pieces/{piece}/sound", params={"bpm": 88, "format": "mid", "mode": "echo"})
    assert midi.content[:4] == b"MThd"
    assert client.get(f"/api/pieces/{piece}/sound", params={"bpm": 88, "measures": "99"}).status_code == 422
    assert client.get(f"/api/pieces/{piece}/sound", params={"bpm": 88, "levels": "feet:80"}).status_code == 422
