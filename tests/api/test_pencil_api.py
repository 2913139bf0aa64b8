"""The pencil through the API, against a real MariaDB: changes made, refused, taken away, undone, redone; used by
counting, sheets, exports and takes; the original untouched."""

from __future__ import annotations

import pytest

from helpers import demo_bytes
from laptick.db.pencil import MAX_VERSIONS
from laptick.formats.midi.score_reader import read_midi_score
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml.file import read_musicxml


@pytest.fixture
def piece(client) -> int:
    data = demo_bytes("harbour-steps")
    return int(client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"])


class Desk:
    """A teacher at one piece, who always looks at the newest version."""

    def __init__(self, client, piece: int) -> None:
        self.client, self.url = client, f"/api/pieces/{piece}/pencil"

    def now(self) -> dict:
        return self.client.get(self.url).json()

    def write(self, **change):
        return self.client.post(self.url, json={"version": self.now()["version"], "change": change})

    def note(self, name: str, measure: str = "1") -> dict:
        return next(i for i in self.now()["items"] if (i["name"], i["measure"]) == (name, measure))

    def step(self, way: str):
        return self.client.post(f"{self.url}/{way}", json={"version": self.now()["version"]})

    def remove(self, key: str):
        return self.client.delete(f"{self.url}/{key}", params={"version": self.now()["version"]})

    def words(self) -> list[str]:
        return [change["words"] for change in self.now()["changes"]]


@pytest.fixture
def desk(client, piece) -> Desk:
    return Desk(client, piece)


def test_a_score_as_it_came(desk):
    now = desk.now()
    assert (now["version"], now["can_undo"], now["can_redo"], now["changes"]) == (None, False, False, [])
    first = now["items"][0]
    assert (first["name"], first["hand"], first["measure"], first["offset"], first["length_name"]) == (
        "C5", "right", "1", "0", "quarter",
    )  # fmt: skip
    assert [i["onset_quarters"] for i in now["items"]] == sorted(i["onset_quarters"] for i in now["items"])
    assert sum(i["is_rest"] for i in now["items"]) == 1


def test_a_change_is_used_by_everything_and_the_original_is_kept(client, piece, desk):
    answer = desk.write(kind="length", note=desk.note("E5")["id"], length_quarters="1/4", to_next=False)
    assert answer.status_code == 200, answer.json()
    assert desk.words() == ["E5: eighth becomes sixteenth"]
    counts = client.get(f"/api/pieces/{piece}/counts", params={"bpm": 60, "hand": "right"}).json()["counts"]
    assert [c["say"] for c in counts if c["measure"] == "1"][:5] == ["1", "2", "e", "&", "a"]
    assert desk.write(kind="pitch", note=desk.note("C5")["id"], pitch="f#5").status_code == 200
    exported = client.get(f"/api/pieces/{piece}/export", params={"format": "musicxml"}).content
    assert next(n.name for n in read_musicxml(exported).notes if n.measure_index == 0 and n.hand == "right") == "F♯5"
    midi = client.get(f"/api/pieces/{piece}/export", params={"format": "mid"}).content
    assert 78 in {n.pitch for n in read_midi_score(midi).notes if n.measure_index == 0}
    original = client.get(f"/api/pieces/{piece}/original").content
    assert original == demo_bytes("harbour-steps")
    again = client.post("/api/pieces", files={"file": ("again.musicxml", exported)}).json()
    counts_again = client.get(f"/api/pieces/{again['id']}/counts", params={"bpm": 60, "hand": "right"}).json()["counts"]
    assert [(c["measure"], c["offset"], c["say"]) for c in counts_again] == [
        (c["measure"], c["offset"], c["say"]) for c in counts
    ]


def test_undo_redo_and_a_new_change_after_an_undo(desk):
    desk.write(kind="cue", at={"measure": "2", "offset": "0"}, text="move")
    desk.write(kind="cue", at={"measure": "3", "offset": "0"}, text="lift")
    assert desk.step("undo").json()["can_redo"]
    assert desk.words() == ["cue word “move”"]
    assert desk.step("redo").json()["can_redo"] is False
    assert len(desk.words()) == 2
    desk.step("undo")
    desk.step("undo")
    assert (desk.words(), desk.now()["version"]) == ([], None)
    assert desk.step("undo").status_code == 200  # nothing to undo: nothing changes
    desk.write(kind="cue", at={"measure": "4", "offset": "0"}, text="line 3")
    assert (desk.words(), desk.now()["can_redo"]) == (["cue word “line 3”"], False)
    desk.step("undo")
    desk.step("redo")
    assert desk.words() == ["cue word “line 3”"]


def test_a_refused_change_changes_nothing(desk):
    before = desk.now()
    for change, words in [
        ({"kind": "pitch", "note": desk.note("C5")["id"], "pitch": "H9"}, "no name of a note"),
        ({"kind": "pitch", "note": "nothing", "pitch": "C4"}, "not there any more"),
        ({"kind": "length", "note": desk.note("C5")["id"], "length_quarters": "9"}, "9 quarters"),
        ({"kind": "length", "note": desk.note("C5")["id"], "length_quarters": "x"}, "no number of quarters"),
        ({"kind": "length", "note": desk.note("C5")["id"]}, "is missing"),
        ({"kind": "cue", "at": {"measure": "99", "offset": "0"}, "text": "go"}, "no bar “99”"),
        ({"kind": "chord", "at": {"measure": "1", "offset": "0"}, "text": "hum"}, "no chord symbol"),
        ({"kind": "fingering", "note": desk.note("C5")["id"], "options": ["9"]}, "no fingering"),
    ]:
        answer = desk.write(**change)
        assert answer.status_code == 422, change
        assert words in answer.json()["error"]["what"]
    assert desk.write(kind="scribble").status_code == 422
    assert desk.now() == before


def test_two_windows_do_not_overwrite_each_other(client, desk):
    desk.write(kind="lift", note=desk.note("C5")["id"])
    stale = client.post(desk.url, json={"version": None, "change": {"kind": "lift", "note": desk.note("G5")["id"]}})
    assert (stale.status_code, stale.json()["error"]["code"]) == (409, "conflict")
    assert client.post(f"{desk.url}/undo", json={"version": None}).status_code == 409
    assert client.delete(f"{desk.url}/1").status_code == 409
    assert len(desk.words()) == 1


def test_a_change_removed_leaves_those_that_build_on_it_and_says_so(desk):
    desk.write(kind="add", at={"measure": "1", "offset": "0"}, hand="right", pitch="A4", length_quarters="1")
    desk.write(kind="pitch", note="p1", pitch="G4")
    assert desk.words() == ["A4 put in, quarter, right hand", "A4 becomes G4"]
    assert {i["name"] for i in desk.now()["items"] if i["is_pencilled"]} == {"G4"}
    after = desk.remove("1").json()
    assert [(c["words"], c["problem"] is not None) for c in after["changes"]] == [("another note", True)]
    assert "G4" not in {i["name"] for i in after["items"] if i["measure"] == "1" and i["hand"] == "right"}
    # What cannot be applied does not stand in the way of the next change.
    assert desk.write(kind="lift", note=desk.note("C5")["id"]).status_code == 200
    assert desk.remove("all").json()["changes"] == []
    assert desk.remove("7").status_code == 404
    assert len(desk.step("undo").json()["changes"]) == 2


def test_a_second_fingering_stands_in_for_the_first(desk):
    note = desk.note("C5")["id"]
    desk.write(kind="fingering", note=note, options=["3", "2"], chosen=0)
    desk.write(kind="fingering", note=note, options=["3", "2"], chosen=1)
    assert desk.words() == ["C5 with 2 (or 3)"]
    assert desk.note("C5")["fingerings"] == ["2", "/3"]
    desk.write(kind="pitch", note=note, pitch="D5")
    desk.write(kind="pitch", note=note, pitch="E5")
    assert desk.words() == ["C5 with 2 (or 3)", "C5 becomes E5"]


def test_a_mark_of_the_file_is_rubbed_out(client, piece, desk):
    chord = {"kind": "chord", "at": {"measure": "2", "offset": "0"}}
    desk.write(**chord, text="Dm")
    exported = client.get(f"/api/pieces/{piece}/export", params={"format": "musicxml"}).content
    other = Desk(client, client.post("/api/pieces", files={"file": ("x.musicxml", exported)}).json()["id"])
    mark = next(m for m in other.now()["marks"] if m["mark"] == "chord-symbol")
    assert (mark["words"], mark["text"]) == ("chord symbol Dm", "Dm")
    wanted = {"kind": "erase", "mark": "chord-symbol", "at": {"measure": "2", "offset": "0"}, "text": "Dm"}
    assert other.write(**wanted).status_code == 200
    assert not [m for m in other.now()["marks"] if m["mark"] == "chord-symbol"]
    assert other.write(**wanted).status_code == 422


def test_a_take_is_judged_by_the_score_it_was_made_on(client, piece, desk):
    settings = {"activity": "lap", "bpm": 88, "hands": "right", "seed": 3}
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json=settings).json()
    notes = [n for n in desk.now()["items"] if n["measure"] in ("1", "2", "3") and n["hand"] == "right"]
    for note in notes:
        assert desk.write(kind="remove", note=note["id"]).status_code == 200
    after = client.post(f"/api/takes/{take['id']}/judge").json()
    assert after["document"] == take["document"]
    assert after["ruler"] == take["ruler"]
    assert "pencil" not in after["settings"]
    new = client.post(f"/api/pieces/{piece}/takes/simulated", json=settings).json()
    assert new["ruler"] != take["ruler"]
    assert len(new["ruler"]["right"]) == len(take["ruler"]["right"]) - len([n for n in notes if not n["is_rest"]])


def test_a_midi_file_is_pencilled_too_and_changes_follow_another_reading(client, desk):
    midi = write_midi(read_musicxml(demo_bytes("harbour-steps")))
    piece = client.post("/api/pieces", files={"file": ("harbour.mid", midi)}).json()["id"]
    other = Desk(client, piece)
    note = other.note("C5")
    assert other.write(kind="pitch", note=note["id"], pitch="B4").status_code == 200
    assert other.write(kind="fingering", note=note["id"], options=["1"]).status_code == 200
    reading = client.get(f"/api/pieces/{piece}/reading").json()
    update = {name: reading[name] for name in ("staff_hands", "note_hands", "split_pitch", "line_starts")}
    update["parts"] = [part["id"] for part in reading["parts"] if part["is_read"]]
    assert client.put(f"/api/pieces/{piece}/reading", json={**update, "grid": "thirty-seconds"}).status_code == 200
    assert [c["problem"] for c in other.now()["changes"]] == [None, None]
    exported = read_musicxml(client.get(f"/api/pieces/{piece}/export", params={"format": "musicxml"}).content)
    assert exported.notes[0].hand == "left" or exported.notes[0].name == "B4"
    assert "B4" in {n.name for n in exported.notes if n.onset_quarters == 0}


def test_only_so_many_versions_are_kept(client, connection, desk, piece):
    spot = {"measure": "1", "offset": "0"}
    desk.write(kind="cue", at=spot, text="go")
    for _ in range(3):
        desk.remove("all")
        desk.step("undo")
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO pencil_version (studio_id, piece_id, before_id, changes)"
            " SELECT 1, %s, (SELECT pencil_version_id FROM piece WHERE id = %s), '[]' FROM seq_1_to_400",
            (piece, piece),
        )
    connection.commit()
    desk.write(kind="cue", at=spot, text="on")
    with connection.cursor() as cursor:
        cursor.execute("SELECT COUNT(*) AS n FROM pencil_version")
        assert cursor.fetchone()["n"] == MAX_VERSIONS
    assert desk.words() == ["cue word “go”", "cue word “on”"]
    # The version before is kept no more: there is nothing to undo, and what stands stays.
    assert desk.now()["can_undo"] is False
    assert desk.step("undo").json()["changes"] == desk.now()["changes"]
    assert desk.words() == ["cue word “go”", "cue word “on”"]
