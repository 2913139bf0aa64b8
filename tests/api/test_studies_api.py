"""Studies through the interface of the server: the ladder, the teacher's hand in it, what takes, words and deletions come
to; that what is stored is the fold of what happened; takes made before there were studies."""

from __future__ import annotations

import io
import json

import pypdfium2
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import demo_bytes
from laptick.core.practice.ladder.events import standing_of
from laptick.core.practice.ladder.stages import GateKind
from laptick.db import rungs as rungs_db
from laptick.db.engine.connect import connect
from laptick.formats.documents.ladder_edits import standing_document
from laptick.studio.studies.open_study import events_of

LAP = {"activity": "lap", "bpm": 57, "measures": "1-4", "rung": "lap:1-4:both"}
STOPS = [{"kind": "hesitate", "amount": 1.5, "measure": "3"}]


@pytest.fixture
def piece(client) -> int:
    data = demo_bytes("harbour-steps")
    return int(client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"])


@pytest.fixture
def first_year(client, piece):
    client.patch(f"/api/pieces/{piece}", json={"level": "first-year"})
    return piece


def study(client, piece) -> dict:
    return client.get(f"/api/pieces/{piece}/study").json()


def rung(client, piece, key) -> dict:
    return next(one for one in study(client, piece)["rungs"] if one["key"] == key)


def simulated(client, piece, **change) -> dict:
    answer = client.post(f"/api/pieces/{piece}/takes/simulated", json={"seed": 3, **LAP, **change})
    assert answer.status_code == 201, answer.text
    return answer.json()


def test_a_new_piece_has_a_ladder_and_begins_at_its_floor(client, first_year):
    found = study(client, first_year)
    assert found["now"] == found["today"][0] == "hear:1-4:both"
    assert len(found["today"]) == 3
    assert (found["tries_a_day"], found["break_minutes"], found["is_done"]) == (6, 10, False)
    assert [clip["say"] for clip in found["rungs"][0]["intro"]] == ["Listen.", "Bars", "1", "to", "4"]
    lap = next(one for one in found["rungs"] if one["key"] == "lap:1-4:both")
    assert lap["intro"] == []
    assert (lap["measures"], lap["activity"], lap["rounds"], lap["bpm"], lap["state"]) == (
        "1-4",
        "lap",
        1,
        56,
        "untouched",
    )
    assert next(one for one in found["rungs"] if one["stage"] == "tempo")["measures"] is None


def test_a_take_is_a_try_and_ticks_what_lies_below(client, first_year):
    failed = simulated(client, first_year, faults=STOPS)
    assert failed["next"]["text"] == "Beat kept." or failed["next"]["text"].startswith(("Not yet.", "Beat kept."))
    assert "It waited at bar 3. From beat 4." in failed["next"]["text"]
    assert failed["next"]["move"] == "again"
    clean = simulated(client, first_year, seed=4)
    assert clean["next"]["text"].startswith("Steady. That rung is done.")
    assert (clean["next"]["newly"], clean["next"]["is_passed"]) == (True, True)
    assert clean["next"]["to"] == study(client, first_year)["now"]
    states = {one["key"]: one["state"] for one in study(client, first_year)["rungs"]}
    assert states["lap:1-4:both"] == states["count:1-4:both"] == states["hear:1-4:both"] == "passed"
    assert states["join:1-1:both"] == "untouched"
    lap = rung(client, first_year, "lap:1-4:both")
    assert (lap["clean"], lap["tries_today"], lap["passed_by"]) == ([False, True], 2, "the checker")


def test_two_failures_are_slower_and_six_tries_are_enough(client, first_year):
    worse = [*STOPS, {"kind": "hesitate", "amount": 2, "measure": "2"}]
    takes = [simulated(client, first_year, seed=seed, faults=worse) for seed in range(6)]
    assert {take["status"] for take in takes} == {"not-yet"}
    told = [take["next"] for take in takes]
    assert [one["move"] for one in told[:2]] == ["again", "slower"]
    assert told[1]["bpm"] == 52
    assert told[-1]["is_enough"] or told[-1]["to"] is not None
    lap = rung(client, first_year, "lap:1-4:both")
    assert (lap["is_enough"], lap["tries_today"]) == (True, 6)
    assert study(client, first_year)["now"] == "hear:1-4:both"


def test_hard_stops_a_step_and_what_hurts_ends_the_day(client, first_year):
    take = simulated(client, first_year)
    assert rung(client, first_year, "lap:1-4:both")["bpm"] > 57
    client.post(f"/api/takes/{take['id']}/feel", json={"feel": "hard"})
    assert rung(client, first_year, "lap:1-4:both")["bpm"] == 56
    assert client.post(f"/api/takes/{take['id']}/feel", json={"feel": "so-so"}).status_code == 422


def test_even_but_slower_passes_below_the_tempo_stage(client, first_year):
    """A faultless player at 46 asked for 57; freely, and at the tempo stage, that is another tempo."""
    slower = {"activity": "play", "bpm": 57, "measures": "1-4", "hands": "right"}
    notes = client.post(f"/api/pieces/{first_year}/stand-in", json={**slower, "bpm": 46, "seed": 7}).json()
    played = {**slower, "notes": notes, "first_beat_s": 2.0}
    take = client.post(f"/api/pieces/{first_year}/takes", json={**played, "rung": "right:1-4:right"}).json()
    assert take["verdict"]["status"] == "steady", take["verdict"]
    assert take["verdict"]["good"][0].startswith("Even, at 4")
    assert rung(client, first_year, "right:1-4:right")["state"] == "passed"
    freely = client.post(f"/api/pieces/{first_year}/takes", json=played).json()
    assert freely["verdict"]["finding"]["code"] == "off-tempo"


def test_words(client, first_year):
    number = study(client, first_year)["id"]
    say = lambda **word: client.post(f"/api/studies/{number}/words", json=word)  # noqa: E731
    assert say(rung="hear:1-4:both", by="the student").status_code == 200
    refused = say(rung="lap:1-4:both", by="the student")
    assert refused.status_code == 422
    assert refused.json()["error"]["what"] == "this rung is passed by playing it."
    assert say(rung="lap:1-4:both", why="I heard it in the lesson.").status_code == 200
    assert rung(client, first_year, "lap:1-4:both")["passed_by"] == "the teacher"
    assert say(rung="lap:1-4:both", back=True).status_code == 200
    assert rung(client, first_year, "lap:1-4:both")["state"] == "untouched"
    assert say(rung="nowhere").status_code == 422


def test_a_word_is_kept_with_who_said_it_and_why(client, first_year, db):
    number = study(client, first_year)["id"]
    word = {"rung": "join:1-1:both", "why": "Heard in the lesson."}
    client.post(f"/api/studies/{number}/words", json=word)
    found = rung(client, first_year, "join:1-1:both")
    assert (found["state"], found["passed_by"], found["passed_why"]) == (
        "passed", "the teacher", "Heard in the lesson.",
    )  # fmt: skip
    with connect(db) as connection, connection.cursor() as cursor:  # as it was stored before there were reasons
        cursor.execute("UPDATE rung_state SET state = JSON_REMOVE(state, '$.passed[2]') WHERE rung = 'join:1-1:both'")
        connection.commit()
    found = rung(client, first_year, "join:1-1:both")
    assert (found["state"], found["passed_by"], found["passed_why"]) == ("passed", "the teacher", "")


def test_edits_outlast_a_rebuild_and_are_taken_back(client, first_year):
    found = study(client, first_year)
    number = found["id"]
    edit = lambda version, **one: client.post(  # noqa: E731
        f"/api/studies/{number}/edits", json={"version": version, "edit": one}
    )
    touched = edit(0, kind="touch", rung="join:1-4:both", text="firm fingertips").json()
    assert touched["edits_version"] == 1
    dropped = edit(1, kind="drop", rung="join:2-3:both").json()
    assert len(dropped["rungs"]) == len(found["rungs"]) - 1
    late = edit(1, kind="drop", rung="join:1-2:both")
    assert late.status_code == 409
    assert "another window" in late.json()["error"]["what"]
    rebuilt = client.put(f"/api/studies/{number}/school", json={"answers": {"first": "count", "chunks": "line"}}).json()
    assert [one["stage"] for one in rebuilt["rungs"][:2]] == ["count", "hear"]
    assert next(one for one in rebuilt["rungs"] if one["key"] == "join:1-4:both")["touch"] == "firm fingertips"
    assert [one["number"] for one in rebuilt["over"]] == [1]  # that chunk is none of this school's
    chosen = {one["key"]: one["chosen"] for one in rebuilt["school"] if one["chosen"]}
    assert chosen == {"first": "study", "chunks": "study"}
    client.put(f"/api/studies/{number}/school", json={"answers": {}})
    back = client.post(f"/api/studies/{number}/edits/undo", json={"version": 2, "every": True}).json()
    assert [one["key"] for one in back["rungs"]] == [one["key"] for one in found["rungs"]]


def test_what_school_says_of_phrase_ends_stands_in_the_task(client, first_year):
    number = study(client, first_year)["id"]
    assert "Phrase ends" not in rung(client, first_year, "right:1-4:right")["task"]
    client.put(f"/api/studies/{number}/school", json={"answers": {"phrase-ends": "lifted"}})
    assert rung(client, first_year, "right:1-4:right")["task"].endswith("Phrase ends are lifted.")


def test_a_rung_whose_bars_are_others_keeps_its_takes_out_of_date(client, first_year):
    simulated(client, first_year)
    number = study(client, first_year)["id"]
    edit = {"kind": "bars", "rung": "lap:1-4:both", "first": "1", "last": "3"}
    changed = client.post(f"/api/studies/{number}/edits", json={"version": 0, "edit": edit}).json()
    [old] = changed["out_of_date"]
    assert (old["key"], old["tries"], old["is_passed"]) == ("lap:1-4:both", 1, True)
    assert next(one for one in changed["rungs"] if one["key"] == "lap:1-3:both")["state"] == "untouched"


def test_another_gate_refolds(client, first_year):
    take = {"activity": "play", "measures": "1-4", "bpm": 57, "rung": "join:1-4:both"}
    simulated(client, first_year, **take)
    assert rung(client, first_year, "join:1-4:both")["state"] == "begun"
    number = study(client, first_year)["id"]
    edit = {"kind": "gate", "rung": "join:1-4:both", "gate": "one-clean"}
    client.post(f"/api/studies/{number}/edits", json={"version": 0, "edit": edit})
    assert rung(client, first_year, "join:1-4:both")["state"] == "passed"


def test_the_studios_own_school(client, first_year):
    assert client.put("/api/school", json={"answers": {"first": "count"}}).status_code == 204
    assert client.put("/api/school?level=first-year", json={"answers": {"chunks": "doubling"}}).status_code == 204
    found = study(client, first_year)
    chosen = {one["key"]: (one["value"], one["chosen"]) for one in found["school"] if one["chosen"]}
    assert chosen == {"first": ("count", "studio"), "chunks": ("doubling", "level")}
    stored = client.get("/api/school").json()
    assert stored["answers"] == {"": {"first": "count"}, "first-year": {"chunks": "doubling"}}
    assert client.put("/api/school", json={"answers": {"first": "sing"}}).status_code == 422
    assert client.put("/api/school", json={"answers": {"weather": "fine"}}).status_code == 422


def test_a_passage_has_a_study_of_its_own(client, first_year):
    own = client.get(f"/api/pieces/{first_year}/study?measures=5-8").json()
    assert own["id"] != study(client, first_year)["id"]
    assert {(one["first"], one["last"]) for one in own["rungs"]} <= {(i, j) for i in range(4, 8) for j in range(i, 8)}
    assert client.get(f"/api/pieces/{first_year}/passages").json() == ["5-8"]
    take = simulated(client, first_year, measures="5-8", rung="lap:5-8:both", study_id=own["id"])
    assert take["next"]["rung"] == "lap:5-8:both"
    assert rung(client, first_year, "lap:5-8:both")["state"] == "untouched"  # that is the other study's
    assert client.get(f"/api/pieces/{first_year}/study?measures=5-99").status_code == 422
    assert client.post(f"/api/pieces/{first_year}/takes/simulated", json={**LAP, "study_id": 999}).status_code == 404


def test_what_is_said_is_there_to_be_heard(client, first_year):
    take = simulated(client, first_year, faults=STOPS)
    for clip in take["next"]["clips"]:
        sound = client.get(clip["file"])
        assert (sound.status_code, sound.headers["content-type"]) == (200, "audio/wav")
    assert client.get("/api/voice/phrase?say=Anything").status_code == 422


def test_damage_is_folded_anew(client, first_year, db):
    simulated(client, first_year)
    before = study(client, first_year)
    connection = connect(db)
    with connection.cursor() as cursor:
        for damage in ("state = '{}'", "state = '{\"passed\": 7}'"):
            cursor.execute(f"UPDATE rung_state SET {damage}")
            connection.commit()
            assert study(client, first_year) == before
        cursor.execute("UPDATE study SET edits = '[3]', school = '[]'")
        connection.commit()
        assert study(client, first_year)["rungs"] == before["rungs"]
        cursor.execute('UPDATE study SET edits = \'[{"kind": "fly"}]\', school = \'{"first": "sing"}\'')
        connection.commit()
        assert study(client, first_year)["rungs"] == before["rungs"]
    connection.close()


def test_takes_from_before_there_were_studies_are_told_once(client, first_year, db):
    take = simulated(client, first_year)
    other = simulated(client, first_year, measures="5-8", rung="lap:5-8:both")["id"]
    client.put(f"/api/takes/{other}/overrule", json={"status": "not-yet", "reason": "She looked at her hands."})
    before = study(client, first_year)
    connection = connect(db)
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM rung_event")
        cursor.execute("DELETE FROM rung_state")
        cursor.execute("UPDATE study SET takes_told = FALSE")
        connection.commit()
        assert study(client, first_year)["rungs"] == before["rungs"]
        study(client, first_year)
        cursor.execute("SELECT COUNT(*) AS n FROM rung_event WHERE take_id = %s AND kind = 'try'", (take["id"],))
        assert cursor.fetchone()["n"] == 1
    connection.close()
    client.delete(f"/api/takes/{other}/overrule")
    assert rung(client, first_year, "lap:5-8:both")["state"] == "passed"  # the checker's word holds again


ACTIONS = st.lists(
    st.sampled_from(
        ["clean", "stops", "whole", "overrule", "withdraw", "delete", "restore", "judge", "word", "back", "feel"]
    ),
    min_size=1,
    max_size=9,
)


CHANGES = {
    "overrule": ("PUT", "/overrule", {"status": "not-yet", "reason": "so"}),
    "withdraw": ("DELETE", "/overrule", None),
    "delete": ("DELETE", "", None),
    "restore": ("POST", "/restore", None),
    "judge": ("POST", "/judge", None),
    "feel": ("POST", "/feel", {"feel": "hard"}),
}


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(actions=ACTIONS)
def test_what_is_stored_is_always_the_fold_of_what_happened(client, db, actions):
    piece = int(client.post("/api/pieces", files={"file": ("a.musicxml", demo_bytes("harbour-steps"))}).json()["id"])
    number, made = study(client, piece)["id"], []
    for turn, action in enumerate(actions):
        if action in ("clean", "stops", "whole"):
            where = {"measures": None, "rung": None} if action == "whole" else {}
            faults = STOPS if action == "stops" else []
            made.append(simulated(client, piece, seed=turn, faults=faults, **where)["id"])
        elif action in ("word", "back"):
            word = {"rung": "lap:1-4:both", "back": action == "back"}
            assert client.post(f"/api/studies/{number}/words", json=word).status_code == 200
        elif made:
            method, path, body = CHANGES[action]
            client.request(method, f"/api/takes/{made[-1]}{path}", json=body)
    target = client.get(f"/api/pieces/{piece}").json()["target_bpm"]
    connection = connect(db)
    events = rungs_db.list_events(connection, 1, number)
    states = rungs_db.list_states(connection, 1, number)
    connection.close()
    assert events.keys() == states.keys()
    for key, rows in events.items():
        folded = standing_document(standing_of(GateKind(states[key]["gate"]), target, events_of(rows)))
        assert json.loads(states[key]["state"]) == json.loads(json.dumps(folded)), key


@pytest.mark.parametrize("shows", ["week", "colouring"])
@pytest.mark.parametrize("paper", ["a4", "letter"])
def test_a_sheet_is_one_page(client, first_year, shows, paper):
    sheet = client.get(f"/api/pieces/{first_year}/practice-sheet?shows={shows}&paper={paper}")
    assert sheet.headers["content-type"] == "application/pdf"
    document = pypdfium2.PdfDocument(sheet.content)
    assert len(document) == 1
    text = document[0].get_textpage().get_text_range()
    page = client.get(f"/api/pieces/{first_year}/practice-sheet?shows={shows}&paper={paper}&format=html")
    assert "default-src 'none'" in page.headers["content-security-policy"]
    if shows == "week":
        assert "Lap it: bars 1–4" in text
        assert "Close the lid before you tap on it" in text
        assert page.text.count("<td class=box>") == 7 * 12
    else:
        assert "Fold under here." in text
        assert "Same bars: 1 = 3" in " ".join(text.split())


def test_a_session_to_take_along_lasts_as_long_as_its_steps(client, first_year):
    found = client.get(f"/api/pieces/{first_year}/session")
    assert found.headers["content-type"] == "audio/wav"
    info = soundfile.info(io.BytesIO(found.content))
    # Heard at 56 and then slower, said twice, the busier hand twice: six times four bars of four at 56 or slower.
    assert info.duration > 6 * 16 * 60 / 88
    number = study(client, first_year)["id"]
    for one in study(client, first_year)["rungs"]:
        client.post(f"/api/studies/{number}/words", json={"rung": one["key"]})
    done = client.get(f"/api/pieces/{first_year}/session")
    assert done.status_code == 422
    assert "there is nothing for today" in done.json()["error"]["what"]


def test_another_way_of_joining_is_a_rung_of_its_own(client, first_year):
    number = study(client, first_year)["id"]
    way = {"kind": "add", "stage": "join", "first": "1", "last": "4", "hands": "both", "above": "join:3-4:both"}
    mimed = client.post(f"/api/studies/{number}/edits", json={"version": 0, "edit": way | {"way": "left-mimed"}}).json()
    keys = [one["key"] for one in mimed["rungs"]]
    assert keys[keys.index("join:3-4:both") + 1] == "join:1-4:both:left-mimed"
    one = rung(client, first_year, "join:1-4:both:left-mimed")
    assert (one["hands"], one["stage_words"]) == ("right", "Together, the left hand mimed")
    take = {"activity": "play", "hands": "right", "measures": "1-4", "bpm": 57, "rung": "join:1-4:both:left-mimed"}
    simulated(client, first_year, **take)
    assert rung(client, first_year, "join:1-4:both:left-mimed")["state"] == "passed"
    assert rung(client, first_year, "right:1-4:right")["state"] == "passed"  # it shows that too
    refused = client.post(f"/api/studies/{number}/edits", json={"version": 1, "edit": way | {"way": "upside-down"}})
    assert refused.status_code == 422
