"""Students through the interface of the server: added, changed, given studies, taken off the list and put back; each with
ladders, takes and levels of their own."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from helpers import demo_bytes
from laptick.studio.people.students import DAYS_SHOWN

FACTS = {"name": "Tuuli", "level": "first-year", "span": 6, "days_a_week": 5, "minutes_a_day": 10}
LAP = {"activity": "lap", "bpm": 57, "measures": "1-4", "rung": "lap:1-4:both"}


@pytest.fixture
def piece(client) -> int:
    data = demo_bytes("harbour-steps")
    return int(client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"])


def added(client, **facts) -> dict:
    answer = client.post("/api/students", json=FACTS | facts)
    assert answer.status_code == 201, answer.text
    return answer.json()


def study_of(client, piece, student=None) -> dict:
    query = {} if student is None else {"student": student}
    answer = client.get(f"/api/pieces/{piece}/study", params=query)
    assert answer.status_code == 200, answer.text
    return answer.json()


def played(client, piece, study, faults=()) -> dict:
    asked = LAP | {"study_id": study["id"], "faults": list(faults), "seed": 4}
    answer = client.post(f"/api/pieces/{piece}/takes/simulated", json=asked)
    assert answer.status_code == 201, answer.text
    return answer.json()


def shown(client, student) -> dict:
    return client.get(f"/api/students/{student}").json()


class TestTheList:
    def test_a_studio_begins_with_one_student(self, client):
        [only] = client.get("/api/students").json()["items"]
        assert (only["is_built_in"], only["studies"], only["is_paused"]) == (True, 0, False)
        assert only["practised"] == [False] * DAYS_SHOWN

    def test_is_by_name_page_by_page_and_searched(self, client):
        for name in ("Wanja", "Aila", "100% Bo", "Bo_1", "Bo"):
            added(client, name=name)
        first = client.get("/api/students?limit=4").json()
        rest = client.get(f"/api/students?limit=4&after={first['next']}").json()
        names = [one["name"] for one in first["items"] + rest["items"]]
        assert names == sorted(names, key=str.lower)
        assert len(names) == 6
        assert rest["next"] is None
        assert [one["name"] for one in client.get("/api/students?find=bo").json()["items"]] == ["100% Bo", "Bo", "Bo_1"]
        assert [one["name"] for one in client.get("/api/students?find=%25").json()["items"]] == ["100% Bo"]
        assert [one["name"] for one in client.get("/api/students?find=o_").json()["items"]] == ["Bo_1"]

    def test_a_name_that_two_have_is_listed_twice(self, client):
        one, other = added(client), added(client)
        found = client.get("/api/students?find=Tuuli&limit=1").json()
        assert [found["items"][0]["id"], found["next"]] == [one["id"], one["id"]]
        assert client.get(f"/api/students?find=Tuuli&after={one['id']}").json()["items"][0]["id"] == other["id"]


class TestWhatIsKept:
    def test_comes_back_as_it_was_given(self, client):
        facts = FACTS | {"school": {"first": "count"}, "note": "left wrist high", "is_paused": True}
        student = added(client, **facts)
        assert {name: student[name] for name in facts} == facts
        assert shown(client, student["id"])["student"] == student

    @pytest.mark.parametrize(
        ("facts", "where"),
        [
            ({"name": ""}, "name"),
            ({"name": "   "}, "name"),
            ({"name": "x" * 201}, "name"),
            ({"level": "genius"}, "level"),
            ({"span": 4}, "span"),
            ({"span": 11}, "span"),
            ({"days_a_week": 8}, "days_a_week"),
            ({"minutes_a_day": 0}, "minutes_a_day"),
            ({"things_a_day": 0}, "things_a_day"),
            ({"things_a_day": 4}, "things_a_day"),
            ({"softer_percent": -1}, "softer_percent"),
            ({"softer_percent": 101}, "softer_percent"),
            ({"school": {"first": "dance"}}, None),
            ({"school": {"no such question": "x"}}, None),
            ({"note": "x" * 4001}, "note"),
            ({"unknown": 1}, "unknown"),
        ],
    )
    def test_what_there_is_none_of_is_refused_and_nobody_added(self, client, facts, where):
        answer = client.post("/api/students", json=FACTS | facts)
        assert answer.status_code == 422
        if where is not None:
            assert where in (answer.json()["error"]["where"] or "")
        assert len(client.get("/api/students").json()["items"]) == 1

    def test_two_windows_do_not_undo_each_other(self, client):
        student = added(client)
        change = {"version": student["version"], "facts": FACTS | {"name": "Tuuli M."}}
        assert client.put(f"/api/students/{student['id']}", json=change).status_code == 200
        late = client.put(f"/api/students/{student['id']}", json=change | {"facts": FACTS | {"name": "T"}})
        assert late.status_code == 409
        assert shown(client, student["id"])["student"]["name"] == "Tuuli M."

    def test_who_left_is_not_here_and_comes_back_whole(self, client, piece):
        student = added(client)
        client.post("/api/studies", json={"student_ids": [student["id"]], "piece_id": piece})
        assert client.delete(f"/api/students/{student['id']}").status_code == 204
        assert client.get(f"/api/students/{student['id']}").status_code == 404
        assert client.get(f"/api/pieces/{piece}/study?student={student['id']}").status_code == 404
        assert student["id"] not in [one["id"] for one in client.get("/api/students").json()["items"]]
        back = client.post(f"/api/students/{student['id']}/restore").json()
        assert [one["piece_id"] for one in back["studies"]] == [piece]

    def test_the_one_that_came_with_the_studio_stays(self, client):
        [only] = client.get("/api/students").json()["items"]
        refused = client.delete(f"/api/students/{only['id']}")
        assert refused.status_code == 422
        assert "came with the studio" in refused.json()["error"]["what"]

    @pytest.mark.parametrize("path", ["/api/students/999", "/api/students/999/restore"])
    def test_nobody_is_made_up(self, client, path):
        method = client.post if path.endswith("restore") else client.get
        assert method(path).status_code == 404


class TestTheirStudies:
    def test_each_climbs_a_ladder_of_their_own(self, client, piece):
        one, other = added(client, name="Aila"), added(client, name="Bo")
        mine, theirs = study_of(client, piece, one["id"]), study_of(client, piece, other["id"])
        assert mine["id"] != theirs["id"] != study_of(client, piece)["id"]
        assert (mine["student"], mine["student_id"]) == ("Aila", one["id"])
        assert played(client, piece, mine)["verdict"]["status"] == "steady"
        states = {
            name: {rung["key"]: rung["state"] for rung in study_of(client, piece, student)["rungs"]}["lap:1-4:both"]
            for name, student in (("Aila", one["id"]), ("Bo", other["id"]), ("nobody", None))
        }
        assert states == {"Aila": "passed", "Bo": "untouched", "nobody": "untouched"}
        takes = client.get(f"/api/pieces/{piece}/takes", params={"student": one["id"]}).json()["items"]
        assert len(takes) == 1
        assert client.get(f"/api/pieces/{piece}/takes", params={"student": other["id"]}).json()["items"] == []
        assert len(client.get(f"/api/pieces/{piece}/takes").json()["items"]) == 1
        [take] = client.get(f"/api/students/{one['id']}/takes").json()["items"]
        assert (take["piece_id"], take["title"], take["verdict"]["status"]) == (piece, "Harbour Steps", "steady")
        assert client.get(f"/api/students/{other['id']}/takes").json() == {"items": [], "next": None}
        assert client.get("/api/students/99/takes").status_code == 404

    def test_a_level_goes_before_the_pieces(self, client, piece):
        client.patch(f"/api/pieces/{piece}", json={"level": "advanced"})
        child, grown, as_it_is = (added(client, level=level)["id"] for level in ("first-year", "advanced", None))
        levels = {student: study_of(client, piece, student)["level"] for student in (child, grown, as_it_is)}
        assert levels == {child: "first-year", grown: "advanced", as_it_is: "advanced"}
        assert [rung["key"] for rung in study_of(client, piece, child)["rungs"]] != [
            rung["key"] for rung in study_of(client, piece, grown)["rungs"]
        ]
        assert study_of(client, piece, child)["break_minutes"] < study_of(client, piece, grown)["break_minutes"]
        for student, level in levels.items():
            assert played(client, piece, study_of(client, piece, student))["level"] == level

    def test_how_one_is_taught_lies_between_studio_and_study(self, client, piece):
        student = added(client, school={"first": "count", "chunks": "doubling"})
        study = study_of(client, piece, student["id"])
        chosen = {one["key"]: (one["value"], one["chosen"]) for one in study["school"]}
        assert (chosen["first"], chosen["chunks"]) == (("count", "student"), ("doubling", "student"))
        client.put("/api/school", json={"answers": {"first": "hear", "fray": "back"}})
        client.put(f"/api/studies/{study['id']}/school", json={"answers": {"chunks": "line"}})
        chosen = {one["key"]: (one["value"], one["chosen"]) for one in study_of(client, piece, student["id"])["school"]}
        assert chosen["first"] == ("count", "student")
        assert chosen["chunks"] == ("line", "study")
        assert chosen["fray"] == ("back", "studio")

    def test_a_study_is_given_to_several_and_ended(self, client, piece):
        ids = [added(client, name=name)["id"] for name in ("Aila", "Bo")]
        given = client.post("/api/studies", json={"student_ids": ids, "piece_id": piece, "measures": "1-2"})
        assert given.status_code == 201
        assert len(given.json()["study_ids"]) == 2
        [study] = shown(client, ids[0])["studies"]
        assert (study["measures"], study["is_ended"], study["takes"], study["passed"]) == ("1-2", False, 0, 0)
        assert study["rungs"] > 0
        assert study["next_words"]
        assert study["bar_states"]
        assert not study["unread"]
        [ended] = client.put(f"/api/studies/{study['id']}/ended", json={"ended": True}).json()["studies"]
        assert ended["is_ended"]
        listed = {one["id"]: one["studies"] for one in client.get("/api/students").json()["items"]}
        assert (listed[ids[0]], listed[ids[1]]) == (0, 1)
        client.post("/api/studies", json={"student_ids": ids, "piece_id": piece, "measures": "1-2"})
        assert [one["is_ended"] for one in shown(client, ids[0])["studies"]] == [False]

    @pytest.mark.parametrize(
        ("wanted", "status"),
        [
            ({"student_ids": []}, 422),
            ({"student_ids": [1] * 101}, 422),
            ({"student_ids": [99]}, 404),
            ({"student_ids": [1], "piece_id": 99}, 404),
            ({"student_ids": [1], "measures": "77"}, 422),
        ],
    )
    def test_what_there_is_none_of_is_given_to_nobody(self, client, piece, wanted, status):
        assert client.post("/api/studies", json={"piece_id": piece} | wanted).status_code == status
        assert all(one["studies"] == 0 for one in client.get("/api/students").json()["items"])

    def test_what_is_tried_is_on_the_go_and_looking_gives_nothing(self, client, piece):
        student = added(client)["id"]
        study = study_of(client, piece, student)
        assert shown(client, student)["studies"] == []
        played(client, piece, study)
        [given] = shown(client, student)["studies"]
        assert (given["id"], given["takes"], given["last_at"] is not None) == (study["id"], 1, True)

    def test_a_word_on_a_rung_gives_the_study_too(self, client, piece):
        student = added(client)["id"]
        study = study_of(client, piece, student)
        client.post(f"/api/studies/{study['id']}/words", json={"rung": study["now"]})
        assert [(one["id"], one["passed"]) for one in shown(client, student)["studies"]] == [(study["id"], 1)]

    def test_a_strip_follows_the_score_as_it_is_read(self, client, piece):
        student = added(client)["id"]
        client.post("/api/studies", json={"student_ids": [student], "piece_id": piece})
        before = shown(client, student)["studies"][0]
        answer = client.put(f"/api/pieces/{piece}/reading", json={"line_starts": ["1", "3", "5", "7"]})
        assert answer.status_code == 200, answer.text
        after = shown(client, student)["studies"][0]
        assert after["rungs"] != before["rungs"]
        assert after["rungs"] == len(study_of(client, piece, student)["rungs"])

    def test_a_strip_follows_what_happens(self, client, piece):
        student = added(client)["id"]
        client.post("/api/studies", json={"student_ids": [student], "piece_id": piece})
        study = study_of(client, piece, student)
        before = shown(client, student)["studies"][0]
        client.post(f"/api/studies/{study['id']}/words", json={"rung": study["now"]})
        after = shown(client, student)["studies"][0]
        assert after["passed"] == before["passed"] + 1
        version = shown(client, student)["student"]["version"]
        changed = {"version": version, "facts": FACTS | {"level": "advanced"}}
        other = client.put(f"/api/students/{student}", json=changed).json()["studies"][0]
        assert other["rungs"] != after["rungs"]


def test_days_of_practice_are_the_studios(client, connection, piece):
    student = added(client)["id"]
    take = played(client, piece, study_of(client, piece, student))
    now = datetime.now(UTC).replace(tzinfo=None)
    with connection.cursor() as cursor:
        cursor.execute("UPDATE take SET created_at = %s WHERE id = %s", (now - timedelta(days=3), take["id"]))
    connection.commit()
    practised = shown(client, student)["practised"]
    assert sum(practised) == 1
    assert practised[-4]
    listed = {one["id"]: one["practised"] for one in client.get("/api/students").json()["items"]}
    assert listed[student] == practised
    # Where it is 14 hours later or 10 earlier, another day; of both at least one.
    days = []
    for zone in ("Pacific/Kiritimati", "Pacific/Honolulu"):
        assert client.put("/api/studio", json={"name": "By the mill", "time_zone": zone}).status_code == 200
        days.append(shown(client, student)["practised"].index(True))
    assert set(days) <= {DAYS_SHOWN - 5, DAYS_SHOWN - 4, DAYS_SHOWN - 3}


def test_a_studio_has_a_name_and_a_place(client):
    assert client.get("/api/studio").json() == {"name": "My studio", "time_zone": "", "sound_days": None}
    for wrong in ({"name": " ", "time_zone": ""}, {"name": "x", "time_zone": "Middle-earth/Shire"}):
        assert client.put("/api/studio", json=wrong).status_code == 422
    assert client.get("/api/studio").json()["name"] == "My studio"


def test_a_damaged_student_is_shown_all_the_same(client, connection, piece):
    student = added(client)["id"]
    client.post("/api/studies", json={"student_ids": [student], "piece_id": piece})
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE student SET level = 'genius', span = 99, school = '[1]' WHERE id = %s",
            (student,),
        )
        cursor.execute("UPDATE study SET progress = '[]', progress_of = progress_of WHERE student_id = %s", (student,))
    connection.commit()
    found = shown(client, student)
    assert (found["student"]["level"], found["student"]["span"], found["student"]["school"]) == (None, None, {})
    assert found["studies"][0]["rungs"] > 0
    assert study_of(client, piece, student)["rungs"]


class TestSofterLimitsAndPace:
    def test_of_one_student_takes_are_judged_more_softly(self, client, piece):
        """Left 90 ms after right: over the 40 ms of the level, within twice as many."""
        firm, soft = (
            added(client, name="Firm", level="elementary"),
            added(client, name="Soft", level="elementary", softer_percent=100),
        )
        told = {}
        for student in (firm, soft):
            take = played(
                client, piece, study_of(client, piece, student["id"]), faults=[{"kind": "spread", "amount": "90"}]
            )
            told[student["name"]] = [
                finding["code"] for finding in client.get(f"/api/takes/{take['id']}").json()["document"]["findings"]
            ]
        assert "hands-apart" in told["Firm"]
        assert "hands-apart" not in told["Soft"]

    def test_they_hold_for_what_is_judged_from_then_on(self, client, piece):
        student = added(client, level="elementary")
        take = played(
            client, piece, study_of(client, piece, student["id"]), faults=[{"kind": "spread", "amount": "90"}]
        )
        before = client.get(f"/api/takes/{take['id']}").json()["verdict"]
        answer = client.put(
            f"/api/students/{student['id']}",
            json={"version": student["version"], "facts": FACTS | {"level": "elementary", "softer_percent": 100}},
        )
        assert answer.status_code == 200, answer.text
        assert client.get(f"/api/takes/{take['id']}").json()["verdict"] == before
        again = client.post(f"/api/takes/{take['id']}/judge").json()
        assert again["verdict"] != before

    def test_who_is_often_overruled_is_offered_them(self, client, piece):
        student = added(client, level="elementary")
        study = study_of(client, piece, student["id"])
        assert shown(client, student["id"])["overruled"] == 0
        for status in ("steady", "steady", "not-yet"):
            take = played(client, piece, study, faults=[{"kind": "spread", "amount": "90"}])
            client.put(f"/api/takes/{take['id']}/overrule", json={"status": status, "reason": "I heard it."})
        assert shown(client, student["id"])["overruled"] == 2

    @pytest.mark.parametrize(("things", "most"), [(None, 3), (2, 2), (1, 1)])
    def test_tonight_holds_as_many_things_as_the_pace(self, client, piece, things, most):
        student = added(client, minutes_a_day=90, things_a_day=things)
        client.post("/api/studies", json={"student_ids": [student["id"]], "piece_id": piece})
        assert len(client.get(f"/api/students/{student['id']}/tonight").json()["things"]) == most
