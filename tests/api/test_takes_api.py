"""Takes from keyboards and files, listening, overruling, judging anew: through the API, against a real MariaDB."""

from __future__ import annotations

import json
import time
from dataclasses import replace

import pytest

from helpers import demo_bytes, demo_score
from laptick.core.base.levels import Level
from laptick.core.score.roadmap import laid_round
from laptick.core.student.faults import parse_fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.db.engine.connect import connect, transaction
from laptick.formats.documents.check import read_check
from laptick.formats.documents.spots import spots_of_document
from laptick.formats.documents.take import stored_strikes
from laptick.formats.midi.take import write_midi_take

SCORE = demo_score("harbour-steps")
ERROR_PARTS = {"code", "what", "where", "kept", "todo"}


@pytest.fixture
def piece(client) -> int:
    return client.post("/api/pieces", files={"file": ("piece.musicxml", demo_bytes("harbour-steps"))}).json()["id"]


def played(*faults, hands=None, measures=None, seed=4):
    options = {} if hands is None else {"hands": hands}
    bars = SCORE.select_measures(measures) if measures else None
    task = lap_task(SCORE, assigned_bpm=66, with_pitches=True, measures=bars, **options)
    planted = [parse_fault(text) for text in faults]
    return task, simulate(task, level=Level.ELEMENTARY, seed=seed, faults=planted, source=Source.MIDI)


def body(*faults, **change):
    strikes = stored_strikes(played(*faults)[1])
    notes = [{k: v for k, v in note.items() if v is not None} for note in strikes["notes"]]
    return {"activity": "play", "bpm": 66, "notes": notes, "first_beat_s": 2.0} | change


def midi_file(*faults):
    task, performance = played(*faults)
    return write_midi_take(performance, task)


class TestRound:
    """One or two bars several times round are one take."""

    def body(self, times: int, **change):
        laid = laid_round(SCORE, SCORE.select_measures("3-4"), times)
        task = lap_task(laid, assigned_bpm=66, with_pitches=True)
        performance = simulate(task, level=Level.ELEMENTARY, seed=4, source=Source.MIDI)
        notes = [{k: v for k, v in one.items() if v is not None} for one in stored_strikes(performance)["notes"]]
        return {"activity": "play", "bpm": 66, "notes": notes, "measures": "3-4", "times_round": 4} | change

    def test_is_judged_and_shown_round_by_round(self, client, piece):
        take = client.post(f"/api/pieces/{piece}/takes", json=self.body(4)).json()
        assert (take["verdict"]["status"], take["settings"]["times_round"]) == ("steady", 4)
        bars = [(bar["measure"], bar["pass"]) for bar in take["document"]["tempo"]["per_measure"]]
        assert bars == [(number, times) for times in (1, 2, 3, 4) for number in ("3", "4")]
        assert [bar["number"] for bar in take["ruler"]["measures"]] == ["3", "4"] * 4
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"][0]["times_round"] == 4
        again = client.post(f"/api/takes/{take['id']}/judge").json()
        assert again["document"] == take["document"]

    @pytest.mark.parametrize("times", [1, 3, 5])
    def test_a_round_more_or_fewer_is_no_fault(self, client, piece, times):
        take = client.post(f"/api/pieces/{piece}/takes", json=self.body(times)).json()
        assert (take["verdict"]["status"], take["settings"]["times_round"]) == ("steady", times)
        assert (take["verdict"]["cure"] or {}).get("code") == ("round" if times == 1 else None)

    @pytest.mark.parametrize(
        "change", [{"times_round": 0}, {"times_round": 9}, {"measures": None}, {"measures": "1-8"}], ids=str
    )
    def test_out_of_bounds_is_refused_and_nothing_stored(self, client, piece, change):
        answer = client.post(f"/api/pieces/{piece}/takes", json=self.body(4, **change))
        assert 400 <= answer.status_code < 500
        assert answer.json()["error"].keys() == ERROR_PARTS
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []


class TestKeys:
    def test_a_take_from_a_keyboard_has_key_ups_touch_and_the_click(self, client, piece):
        take = client.post(f"/api/pieces/{piece}/takes", json=body()).json()
        document = take["document"]
        assert (take["verdict"]["status"], document["source"], document["matched"]) == ("steady", "midi", 58)
        assert document["touch"]["strengths"].keys() == {"right", "left"}
        assert all(note["sounded_quarters"] is not None for note in document["long_notes"])
        assert all(note["click_deviation_ms"] is not None for note in document["notes"])
        assert len(take["strikes"]) == 58
        assert take["next"]["rung"] == "join:1-8:both"

    def test_on_a_rung_that_is_tapped_keys_are_taps_of_their_hand(self, client, piece):
        strikes = [{"t": s.played_s, "pitch": s.pitch, "hand": s.hand.value} for s in played()[1].strikes]
        take = client.post(f"/api/pieces/{piece}/takes", json=body(activity="lap", notes=strikes)).json()
        assert take["document"]["followed"]

    @pytest.mark.parametrize(
        "change",
        [
            {"notes": []},
            {"taps": [{"t": 1.0}]},
            {"notes": [{"t": 1.0, "pitch": 200}]},
            {"notes": [{"t": -1, "pitch": 60}]},
        ],
    )
    def test_what_is_no_take_is_refused(self, client, piece, change):
        answer = client.post(f"/api/pieces/{piece}/takes", json=body(**change))
        assert answer.status_code == 422
        assert set(answer.json()["error"]) == ERROR_PARTS
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []

    def test_the_stand_in_plays_what_can_be_sent_back_and_stores_nothing(self, client, piece):
        wanted = {"activity": "play", "bpm": 66, "seed": 3, "faults": [{"kind": "cut-holds", "amount": 60}]}
        notes = client.post(f"/api/pieces/{piece}/stand-in", json=wanted).json()
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []
        take = client.post(f"/api/pieces/{piece}/takes", json=body(notes=notes, stand_in=True)).json()
        assert (take["played_by"], take["verdict"]["finding"]["code"]) == ("simulated", "long-cut")

    def test_faults_that_need_key_ups_are_marked_and_refused_for_taps(self, client, piece):
        only = {fault["kind"] for fault in client.get("/api/faults").json() if fault["keys_only"]}
        assert only == {"cut-holds", "hold-rests"}
        wanted = {"activity": "lap", "bpm": 66, "faults": [{"kind": "cut-holds", "amount": 60}]}
        assert client.post(f"/api/pieces/{piece}/takes/simulated", json=wanted).status_code == 422

    def test_joining_is_compared_with_each_hand_alone(self, client, piece):
        alone = {"activity": "play", "bpm": 66, "seed": 1, "hands": "right"}
        client.post(f"/api/pieces/{piece}/takes/simulated", json=alone)
        together = client.post(f"/api/pieces/{piece}/takes", json=body()).json()["document"]["joining"]
        assert {one["hand"] for one in together} == {"right"}
        assert {one["what"] for one in together} == {"evenness", "round the beat", "sounded", "strengths"}


class TestFiles:
    def send(self, client, piece, data, name="take.mid", **settings):
        query = {"activity": "play", "bpm": 66, **settings}
        return client.post(f"/api/pieces/{piece}/takes/file", params=query, files={"file": (name, data)})

    def test_a_midi_file_is_a_take_like_any_other(self, client, piece):
        take = self.send(client, piece, midi_file("hesitate=5:1.5")).json()
        assert (take["played_by"], take["verdict"]["finding"]["code"]) == ("file", "hesitation")
        assert take["document"]["hesitations"][0]["causes"][:2] == ["line-change", "bar-line"]
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"][0]["filename"] == "take.mid"
        again = client.post(f"/api/takes/{take['id']}/judge").json()
        assert again["document"] == take["document"]

    @pytest.mark.parametrize(
        ("data", "words"),
        [
            (b"MThd\0\0\0\6\0\1", "cannot be read"),
            (b"not a take at all", "neither MIDI nor"),
            (b"RIFF....WAVE", "is a sound recording"),
            (b'{"taps": []}', "no strikes"),
        ],
    )
    def test_other_files_are_refused_and_nothing_is_stored(self, client, piece, data, words):
        answer = self.send(client, piece, data)
        assert answer.status_code == 422
        assert words in answer.json()["error"]["what"]
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []


def whole(client, piece) -> dict:
    """The rung of all bars with both hands."""
    rungs = client.get(f"/api/pieces/{piece}/study").json()["rungs"]
    return next(rung for rung in rungs if rung["key"] == "join:1-8:both")


class TestTheTeachersWord:
    def test_stands_beside_the_figures_and_counts_on_the_ladder(self, client, piece):
        take = client.post(f"/api/pieces/{piece}/takes", json=body("hesitate=5:1.5")).json()
        word = {"status": "steady", "reason": "I turned the page."}
        overruled = client.put(f"/api/takes/{take['id']}/overrule", json=word).json()
        assert (overruled["status"], overruled["verdict"]) == (take["status"], take["verdict"])
        assert (overruled["overrule"]["status"], overruled["overrule"]["reason"]) == ("steady", "I turned the page.")
        [listed] = client.get(f"/api/pieces/{piece}/takes").json()["items"]
        assert (listed["overruled"], listed["verdict"]["status"]) == ("steady", "not-yet")
        assert whole(client, piece)["clean"] == [True]
        back = client.delete(f"/api/takes/{take['id']}/overrule").json()
        assert back["overrule"] is None
        assert whole(client, piece)["clean"] == [False]

    @pytest.mark.parametrize(
        "word", [{"status": "steady", "reason": ""}, {"status": "could-not-follow", "reason": "no"}]
    )
    def test_needs_a_reason_and_a_verdict(self, client, piece, word):
        take = client.post(f"/api/pieces/{piece}/takes", json=body()).json()
        assert client.put(f"/api/takes/{take['id']}/overrule", json=word).status_code == 422

    def test_of_a_take_that_is_not_there(self, client):
        assert client.put("/api/takes/99/overrule", json={"status": "steady", "reason": "x"}).status_code == 404


def judged_all(client) -> dict:
    """The job that judges all takes, when it is over."""
    job = client.post("/api/judge-all").json()
    end = time.monotonic() + 90
    while job["state"] in ("waiting", "running"):
        assert time.monotonic() < end
        time.sleep(0.02)
        job = client.get("/api/judge-all").json()
    assert job["state"] == "done"
    return job["judged"]


class TestJudgingAnew:
    def test_all_takes_of_an_earlier_version_and_the_old_verdict_is_kept(self, client, piece, db):
        first = client.post(f"/api/pieces/{piece}/takes", json=body("hesitate=5:1.5")).json()
        second = client.post(f"/api/pieces/{piece}/takes", json=body()).json()
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute(
                "UPDATE judgement JOIN take ON take.id = judgement.take_id SET judgement.checker_version = '1',"
                " judgement.status = 'steady', take.checker_version = '1', take.status = 'steady' WHERE take_id = %s",
                (first["id"],),
            )
        connection.close()
        assert client.get("/api/outdated-takes").json()["takes"] == 1
        answer = judged_all(client)
        [changed] = answer.pop("changed")
        assert answer == {"judged": 1, "unread": 0, "more": 0}
        assert (changed["take_id"], changed["before"], changed["after"]) == (first["id"], "steady", "not-yet")
        assert (changed["piece_id"], changed["title"]) == (piece, "Harbour Steps")
        assert judged_all(client) == {"judged": 0, "unread": 0, "changed": [], "more": 0}
        assert client.get("/api/outdated-takes").json()["takes"] == 0
        now = client.get(f"/api/takes/{first['id']}").json()
        assert (now["status"], now["document"]) == ("not-yet", first["document"])
        assert [(one["checker_version"], one["status"]) for one in now["earlier"]] == [("1", "steady")]
        assert client.get(f"/api/takes/{second['id']}").json()["earlier"] == []

    @pytest.mark.parametrize("damaged", ['{"taps": "?"}', '{"taps": [1]}', '{"notes": [{"t": "x"}]}', "{}"])
    def test_a_damaged_take_keeps_its_verdict_and_is_counted(self, client, piece, db, damaged):
        take = client.post(f"/api/pieces/{piece}/takes", json=body() | {"hands": "right"}).json()
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute(
                "UPDATE judgement JOIN take ON take.id = judgement.take_id"
                " SET judgement.checker_version = '1', take.checker_version = '1'"
            )
            cursor.execute("UPDATE take SET strikes = %s", (damaged,))
        connection.close()
        assert judged_all(client) == {"judged": 0, "unread": 1, "changed": [], "more": 0}
        assert client.get("/api/outdated-takes").json()["takes"] == 1
        again = client.post(f"/api/takes/{take['id']}/judge")
        assert again.status_code == 422
        assert again.json()["error"]["what"] == "what is stored of this take cannot be read."
        assert client.get(f"/api/takes/{take['id']}").json()["status"] == take["status"]
        assert client.post(f"/api/pieces/{piece}/takes", json=body()).status_code == 201

    def test_takes_of_pieces_and_studios_that_are_away_do_not_wait(self, client, piece, db):
        client.post(f"/api/pieces/{piece}/takes", json=body())
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute(
                "UPDATE judgement JOIN take ON take.id = judgement.take_id"
                " SET judgement.checker_version = '1', take.checker_version = '1'"
            )
        connection.close()
        client.delete(f"/api/pieces/{piece}")
        assert client.get("/api/outdated-takes").json()["takes"] == 0
        client.post(f"/api/pieces/{piece}/restore")
        assert client.get("/api/outdated-takes").json()["takes"] == 1

    def test_as_another_passage_when_it_seems_to_be_one(self, client, piece):
        strikes = stored_strikes(played(measures="5-8")[1])
        take = client.post(f"/api/pieces/{piece}/takes", json=body(notes=strikes["notes"], measures="1-4")).json()
        assert (take["status"], take["document"]["passage"]["measures"]) == ("could-not-follow", "5-8")
        judged = client.post(f"/api/takes/{take['id']}/passage", json={"measures": "5-8"}).json()
        assert (judged["status"], judged["settings"]["measures"]) == ("steady", "5-8")
        assert [one["status"] for one in judged["earlier"]] == ["could-not-follow"]
        assert client.post(f"/api/takes/{take['id']}/passage", json={"measures": "99"}).status_code == 422


class TestListening:
    def heard(self, client, piece, slips, **change):
        wanted = {"activity": "play", "bpm": 60, "slips": slips, "first_beat_s": 4.0} | change
        return client.post(f"/api/pieces/{piece}/listenings", json=wanted)

    def test_slips_are_kept_with_their_places_deleted_and_brought_back(self, client, piece):
        # At 60 a quarter is a second: bar 2 begins at 8 s, and the key comes a quarter of a second after the slip.
        kept = self.heard(client, piece, [8.3, 20.4], client_key="k1").json()
        assert [slip["place_text"] for slip in kept["slips"]] == [
            "bar 2 · line 1, bar 2 · beat 1", "bar 5 · line 2, bar 1 · beat 1",
        ]  # fmt: skip
        assert self.heard(client, piece, [1.0], client_key="k1").json()["id"] == kept["id"]
        assert client.get(f"/api/pieces/{piece}/listenings").json() == [kept]
        client.delete(f"/api/listenings/{kept['id']}")
        assert client.get(f"/api/pieces/{piece}/listenings").json() == []
        assert client.post(f"/api/listenings/{kept['id']}/restore").json() == kept

    def test_is_laid_beside_what_was_measured(self, client, piece):
        take = client.post(f"/api/pieces/{piece}/takes", json=body("hesitate=5:1.5")).json()
        kept = self.heard(client, piece, [20.4, 9.4]).json()
        rows = client.get(f"/api/takes/{take['id']}/beside/{kept['id']}").json()
        both = [row for row in rows if row["heard"] and row["measured"]]
        only = [row for row in rows if row["heard"] and not row["measured"]]
        assert [(row["measured"], row["onset_quarters"]) for row in both] == [("hesitation", 16.0)]
        assert [row["onset_quarters"] for row in only] == [5.0]

    def test_what_was_measured_in_a_bar_that_is_gone_is_left_out(self, client, piece):
        take = client.post(f"/api/pieces/{piece}/takes", json=body("hesitate=5:1.5")).json()
        document = read_check(client.get(f"/api/takes/{take['id']}").json()["document"])
        whole = demo_score("harbour-steps")
        short = replace(whole, measures=whole.measures[:3], notes=tuple(n for n in whole.notes if n.measure_index < 3))
        assert "hesitation" in {spot.code for spot in spots_of_document(document, whole)}
        assert "hesitation" not in {spot.code for spot in spots_of_document(document, short)}

    def test_of_another_piece_or_without_time_is_refused(self, client, piece):
        other = client.post("/api/pieces", files={"file": ("b.musicxml", demo_bytes("lantern-boat"))}).json()["id"]
        kept = self.heard(client, other, []).json()
        take = client.post(f"/api/pieces/{piece}/takes", json=body()).json()
        assert client.get(f"/api/takes/{take['id']}/beside/{kept['id']}").status_code == 422
        assert self.heard(client, piece, [-3.0]).status_code == 422


def test_a_stored_take_of_keys_is_the_performance_it_was(client, piece, db):
    client.post(f"/api/pieces/{piece}/takes", json=body(pedal=[{"t": 3.0, "down": True}, {"t": 4.0, "down": False}]))
    connection = connect(db)
    with transaction(connection) as cursor:
        cursor.execute("SELECT strikes FROM take")
        stored = json.loads(cursor.fetchone()["strikes"])
    connection.close()
    assert len(stored["notes"]) == 58
    assert stored["pedal"] == [{"t": 3.0, "down": True}, {"t": 4.0, "down": False}]
    assert stored["notes"][0].keys() >= {"t", "pitch", "velocity", "released"}


class TestDamagedTakes:
    """A take of which something stored is damaged: whatever is asked of it is answered in words."""

    DAMAGED = (
        ("activity", "x"), ("played_by", ""), ("state", "x"), ("level", "x"), ("settings", "[]"), ("settings", "{}"),
        ("settings", '{"activity": "lap", "bpm": 66, "hands": "third"}'), ("status", "x"), ("overruled", "x"),
    )  # fmt: skip

    @pytest.fixture(params=DAMAGED, ids=lambda one: f"{one[0]} = {one[1]}")
    def damaged(self, client, db, piece, request) -> tuple[str, int]:
        column, value = request.param
        settings = {"activity": "lap", "bpm": 66, "faults": []}
        take = client.post(f"/api/pieces/{piece}/takes/simulated", json=settings).json()["id"]
        with transaction(connect(db)) as cursor:
            cursor.execute(f"UPDATE take SET {column} = %s WHERE id = %s", (value, take))
        return column, take

    def test_stay_in_their_lists_and_say_so(self, client, piece, damaged):
        column, take = damaged
        [listed] = client.get(f"/api/pieces/{piece}/takes").json()["items"]
        student = client.get("/api/students").json()["items"][0]["id"]
        assert [one["id"] for one in client.get(f"/api/students/{student}/takes").json()["items"]] == [take]
        shown = client.get(f"/api/takes/{take}")
        if column in ("status", "overruled"):  # what was said last is read where it was said
            assert listed["verdict"]
            assert shown.status_code == 200
            return
        assert (listed["failure"], listed["verdict"]) == ("what is stored of this take cannot be read.", None)
        assert listed["median_bpm"] is None
        if column != "settings":  # what was asked for is told as it was
            assert listed["activity"] == "lap"
        assert shown.status_code == 503
        assert "cannot be read" in shown.json()["error"]["what"]
        assert "Remove it" in shown.json()["error"]["todo"]

    def test_can_be_removed_and_brought_back_and_break_nothing(self, client, piece, damaged):
        _, take = damaged
        asked = [
            client.post(f"/api/takes/{take}/judge"),
            client.get(f"/api/takes/{take}/next"),
            client.patch(f"/api/takes/{take}", json={"note": "louder"}),
            client.put(f"/api/takes/{take}/overrule", json={"status": "steady", "reason": "the pedal"}),
        ]
        assert 500 not in [answer.status_code for answer in asked]
        assert client.delete(f"/api/takes/{take}").status_code == 204
        assert client.get(f"/api/pieces/{piece}/takes").json()["items"] == []
        assert client.post(f"/api/takes/{take}/restore").status_code == 204
        assert [one["id"] for one in client.get(f"/api/pieces/{piece}/takes").json()["items"]] == [take]
