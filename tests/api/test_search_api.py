"""Students, pieces and takes found by words. Common practice, no source."""

from __future__ import annotations

import pytest

from helpers import demo_bytes
from laptick.db.engine.connect import connect, transaction


@pytest.fixture
def studio(client) -> dict[str, int]:
    """Two students, two pieces, a take of each student with a note."""
    ids: dict[str, int] = {}
    for name, key in (("Åsa Björk", "harbour-steps"), ("Runa Oak_1", "five-stones")):
        piece = client.post("/api/pieces", files={"file": (f"{key}.musicxml", demo_bytes(key))}).json()["id"]
        student = client.post("/api/students", json={"name": name}).json()["id"]
        [study] = client.post("/api/studies", json={"student_ids": [student], "piece_id": piece}).json()["study_ids"]
        take = client.post(
            f"/api/pieces/{piece}/takes/simulated", json={"activity": "lap", "bpm": 60, "study_id": study, "seed": 3}
        ).json()["id"]
        ids |= {f"{key} piece": piece, f"{key} student": student, f"{key} take": take}
    noted = client.patch(f"/api/takes/{ids['five-stones take']}", json={"note": "100 % calmer; the left thumb rests"})
    assert noted.status_code == 200, noted.text
    return ids


def found(client, find: str) -> dict[str, list[int]]:
    answer = client.get("/api/search", params={"find": find})
    assert answer.status_code == 200, answer.text
    return {kind: [one["id"] for one in items] for kind, items in answer.json().items()}


class TestWhatIsFound:
    @pytest.mark.parametrize("find", ["Åsa", "asa", "BJORK", "bjo asa", "  björk  "])
    def test_a_student_in_any_case_without_accents_in_any_order(self, client, studio, find):
        assert found(client, find)["students"] == [studio["harbour-steps student"]]

    @pytest.mark.parametrize("find", ["harbour", "steps har", "arbou"])
    def test_a_piece(self, client, studio, find):
        assert found(client, find)["pieces"] == [studio["harbour-steps piece"]]

    @pytest.mark.parametrize("find", ["asa harbour", "harbour", "bjork"])
    def test_takes_by_student_and_piece(self, client, studio, find):
        assert found(client, find)["takes"] == [studio["harbour-steps take"]]

    @pytest.mark.parametrize("find", ["thumb", "runa thumb", "thumb stones left"])
    def test_takes_by_note_beside_names(self, client, studio, find):
        assert found(client, find)["takes"] == [studio["five-stones take"]]

    @pytest.mark.parametrize("find", ["", "   ", "nobody", "asa thumb", "asa five", "\\", "' OR 1=1 --"])
    def test_nothing(self, client, studio, find):
        assert found(client, find) == {"students": [], "pieces": [], "takes": []}

    @pytest.mark.parametrize(("find", "kind"), [("%", "takes"), ("_", "students")])
    def test_signs_are_themselves(self, client, studio, find, kind):
        assert len(found(client, find)[kind]) == 1

    def test_what_was_said_of_a_take(self, client, studio):
        [take] = client.get("/api/search", params={"find": "asa"}).json()["takes"]
        assert (take["student"], take["said"]) == ("Åsa Björk", "steady")
        client.put(f"/api/takes/{take['id']}/overrule", json={"status": "not-yet", "reason": "I heard it."})
        [take] = client.get("/api/search", params={"find": "asa"}).json()["takes"]
        assert take["said"] == "not-yet"


class TestWhatIsNot:
    def test_what_was_deleted(self, client, studio):
        client.delete(f"/api/pieces/{studio['harbour-steps piece']}")
        client.delete(f"/api/students/{studio['five-stones student']}")
        assert found(client, "harbour") == {"students": [], "pieces": [], "takes": []}
        assert found(client, "runa") == {"students": [], "pieces": [], "takes": []}
        assert found(client, "thumb")["takes"] == []

    def test_more_than_are_shown(self, client, studio):
        for number in range(12):
            client.post("/api/students", json={"name": f"Ilmi {number:02}"})
        assert len(found(client, "ilmi")["students"]) == 8

    def test_longer_than_a_line(self, client):
        assert client.get("/api/search", params={"find": "x" * 101}).status_code == 422

    def test_another_studios(self, client, studio, db):
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("INSERT INTO studio (id, name) VALUES (2, 'Another')")
            cursor.execute("INSERT INTO student (studio_id, name, is_built_in) VALUES (2, 'Åsa Elsewhere', TRUE)")
        connection.close()
        assert found(client, "asa")["students"] == [studio["harbour-steps student"]]
