"""Every route of the interface as nobody, as a teacher of another studio, as another student, as a student and a parent:
each is refused, or answers with what is their own.

As whoever would come in: it goes through what the application says that it has, with rows of
two studios and two students.
"""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import export_openapi
import pytest
from fastapi.testclient import TestClient

from helpers import demo_bytes
from laptick.api.app import AppSettings, create_app
from laptick.api.request.roles import MAY_CALL, NOTED
from laptick.db.engine.connect import connect, transaction
from laptick.db.people.links import is_students
from laptick.studio.use_case import AskerRole
from signing_in import link_cookies, teacher_cookies

#: What is answered without anything of anybody's: whether the database is there.
NOT_GATED = {"get_health", "get_trade"}

#: Names that only one studio or student has; none may be told to another.
MARKS = {"one": "Mossgate", "two": "Fernhollow", "own": "Ilmi Oak", "other": "Runa Birch", "far": "Sten Alder"}

#: What the description's bounds do not tell.
BODIES: dict[str, Any] = {
    "put_roadmap": {"order": ["1", "2"]},
    "add_change": {"version": None, "change": {"kind": "cue", "at": {"measure": "1", "offset": "0"}, "text": "breathe"}},
    "put_entry": {"version": 0, "title": "Short", "beats": 2, "beat_type": 4, "bpm": 60,
                                            "bars": [{"right": [], "left": []}]},
    "overrule": {"status": "steady", "reason": "I heard it."},
    "add_listening": {"activity": "lap", "bpm": 60, "slips": [4.0], "first_beat_s": 2.0},
    "make_link": {"role": "student", "origin": "http://127.0.0.1"},
    "complete_recording": {"sha256": hashlib.sha256(b"sound").hexdigest()},
    "add_take": {"activity": "lap", "bpm": 60, "taps": [{"t": 2.0, "hand": "right"}]},
    "begin_recording": {"activity": "lap", "bpm": 60},
    "add_simulated_take": {"activity": "lap", "bpm": 60},
    "stand_in": {"activity": "play", "bpm": 60},
    "edit_ladder": {"version": 0, "edit": {"kind": "drop", "rung": "hear:1-4:both"}},
    "judge_as_passage": {"measures": "1-2"},
    "answer_question": {"key": "a", "given": ["b"]},
    "update_student": {"version": 0, "facts": {"name": "Changed"}},
}  # fmt: skip

#: Words in an address and queries that are asked for.
WORDS = {"kind": "names", "key": "all", "role": "student", "number": 0}
QUERIES: dict[str, dict[str, Any]] = {
    "get_original": {}, "export_piece": {"format": "mid", "bpm": 60}, "get_notation": {"bpm": 60},
    "get_counts": {"bpm": 60}, "get_schedule": {"bpm": 60}, "get_sound": {"bpm": 60}, "list_strikes": {"measure": "1"},
    "remove_change": {"version": 0}, "get_phrase": {"say": "two"}, "get_word": {"say": "two"},
    "get_made": {"text": "two"}, "add_take_file": {"activity": "lap", "bpm": 60},
    "search_studio": {"find": "a"}, "get_ruler_picture": {"bpm": 60}, "get_sheet": {"bpm": 60}, "put_counts": {"bpm": 60},
}  # fmt: skip


@dataclass(frozen=True)
class Asked:
    """A route, as the description of the interface has it. ``rows``: what its address names; ``of_student``: it is
    asked of which student."""

    name: str
    method: str
    path: str
    rows: tuple[str, ...]
    of_student: bool
    body: dict[str, Any] | None


def described() -> tuple[dict[str, Asked], dict[str, Any]]:
    schemas = json.loads(export_openapi.TARGET.read_text(encoding="utf-8"))  # test_api.py holds it to be what it is
    found = [
        Asked(
            route["operationId"],
            method.upper(),
            path,
            tuple(one["name"] for one in route.get("parameters", ()) if one["in"] == "path"),
            any(one["name"] == "student" for one in route.get("parameters", ()) if one["in"] == "query"),
            route.get("requestBody", {}).get("content", {}).get("application/json", {}).get("schema"),
        )
        for path, methods in schemas["paths"].items()
        for method, route in methods.items()
    ]
    assert len({one.name for one in found}) == len(found)
    return {one.name: one for one in found}, schemas


ROUTES, SCHEMAS = described()


@dataclass
class Rows:
    """Of one student, by what an address calls them."""

    ids: dict[str, int] = field(default_factory=dict)


@dataclass
class World:
    app: Any
    own: Rows
    other: Rows
    far: Rows
    cookies: dict[str, dict[str, str]]

    def ask(self, who: str, route: Asked, rows: Rows, *, student: int | None = None):
        ids = {name: rows.ids.get(name, WORDS.get(name)) for name in route.rows}
        assert None not in ids.values(), f"{route.name}: {ids}"
        query = dict(QUERIES.get(route.name, {}))
        if student is not None and route.of_student:
            query["student"] = student
        more: dict[str, Any] = {}
        if route.name in ("add_piece", "add_take_file", "add_own"):
            more["files"] = {"file": ("taps.json", b'{"taps": [{"t": 1.0}, {"t": 2.0}, {"t": 3.0}]}', "text/json")}
        elif route.name in ("put_chunk", "put_bundle_chunk"):
            more = {"content": b"sound", "headers": {"Content-Type": "application/octet-stream"}}
        elif route.body is not None:
            more["json"] = BODIES.get(route.name) or least(route.body)
        with TestClient(self.app, base_url="http://127.0.0.1", raise_server_exceptions=False) as client:
            client.cookies.update(self.cookies[who])
            return client.request(route.method, route.path.format(**ids), params=query, **more)


def least(schema: dict[str, Any]) -> Any:
    """The least that a schema takes."""
    if "$ref" in schema:
        return least(SCHEMAS["components"]["schemas"][schema["$ref"].rpartition("/")[2]])
    for told in ("const", "default"):
        if told in schema:
            return schema[told]
    if "enum" in schema:
        return schema["enum"][0]
    if "anyOf" in schema:
        return least(schema["anyOf"][0])
    match schema.get("type"):
        case "object":
            return {name: least(schema["properties"][name]) for name in schema.get("required", ())}
        case "array":
            return [least(schema["items"])] * schema.get("minItems", 0)
        case "integer" | "number":
            return schema.get("minimum", 1)
        case "boolean":
            return True
    return "2026-11-01" if schema.get("format") == "date" else "a" * max(1, schema.get("minLength", 1))


def _ok(answer, status: int = 201):
    assert answer.status_code == status, answer.text
    return answer.json()


def _student(client, name: str, score: bytes, title: str) -> Rows:
    """A student with a piece, a take that was tapped and one that was recorded, a listening and a consent."""
    ids = {"student_id": _ok(client.post("/api/students", json={"name": name}))["id"]}
    score = re.sub(rb"<work-title>[^<]*", b"<work-title>" + title.encode(), score)
    ids["piece_id"] = _ok(client.post("/api/pieces", files={"file": (f"{title}.musicxml", score)}))["id"]
    given = _ok(client.post("/api/studies", json={"student_ids": [ids["student_id"]], "piece_id": ids["piece_id"]}))
    [ids["study_id"]] = given["study_ids"]
    take = {"activity": "lap", "bpm": 60, "study_id": ids["study_id"], "seed": 3}
    ids["take_id"] = _ok(client.post(f"/api/pieces/{ids['piece_id']}/takes/simulated", json=take))["id"]
    agreed = {"student_id": ids["student_id"], "given_by": "a parent", "purpose": "lessons", "given_on": "2026-11-01"}
    ids["consent_id"] = _ok(client.post("/api/consents", json=agreed))["id"]
    recorded = {"activity": "lap", "bpm": 60, "study_id": ids["study_id"], "consent_id": ids["consent_id"]}
    ids["recording_id"] = _ok(client.post(f"/api/pieces/{ids['piece_id']}/recordings", json=recorded))["id"]
    heard = {"activity": "lap", "bpm": 60, "slips": [4.0], "first_beat_s": 2.0}
    ids["listening_id"] = _ok(client.post(f"/api/pieces/{ids['piece_id']}/listenings", json=heard))["id"]
    wanted = {"role": "parent", "held_by": "a parent", "origin": "http://127.0.0.1"}
    _ok(client.post(f"/api/students/{ids['student_id']}/links", json=wanted))
    [ids["link_id"]] = [one["id"] for one in client.get(f"/api/students/{ids['student_id']}/links").json()]
    return Rows(ids | {"session_id": 10**6, "word_id": 1})


@pytest.fixture(scope="module")
def world(mariadb, template) -> Iterator[World]:
    from databases import new_database

    with new_database(mariadb) as db:
        template.copied_to(db)
        connection = connect(db)
        with transaction(connection) as cursor:
            cursor.execute("UPDATE studio SET name = %s WHERE id = 1", (MARKS["one"],))
            cursor.execute("INSERT INTO studio (id, name) VALUES (2, %s)", (MARKS["two"],))
            cursor.execute("INSERT INTO student (studio_id, name, is_built_in) VALUES (2, 'The student', TRUE)")
        app = create_app(AppSettings(db))
        cookies: dict[str, dict[str, str]] = {
            "nobody": {},
            "made-up": {"laptick-session-0": "bafiku-deromi"},
            "teacher": teacher_cookies(db),
            "far-teacher": teacher_cookies(db, studio_id=2, name="Bo Reed"),
        }
        rows = {}
        for who, name, teacher in (("own", "Ilmi Oak", "teacher"), ("other", "Runa Birch", "teacher"),
                                   ("far", "Sten Alder", "far-teacher")):  # fmt: skip
            with TestClient(app, base_url="http://127.0.0.1", cookies=cookies[teacher]) as client:
                rows[who] = _student(client, name, demo_bytes("harbour-steps"), f"Piece of {name}")
                assert client.get(f"/api/pieces/{rows[who].ids['piece_id']}/study").status_code == 200
        # A studio has one file that comes in, whoever is asked about.
        with TestClient(app, base_url="http://127.0.0.1", cookies=cookies["teacher"]) as client:
            bundle = _ok(client.post("/api/bundles/coming", json={"filename": "a studio.zip"}))["id"]
        for who, row in rows.items():
            row.ids["bundle_id"] = bundle
            with connection.cursor() as cursor:
                cursor.execute("SELECT id FROM job WHERE JSON_VALUE(asked, '$.take_id') = %s", (row.ids["take_id"],))
                found = cursor.fetchone()
            connection.rollback()
            if found is None:
                with transaction(connection) as cursor:
                    cursor.execute(
                        "INSERT INTO job (studio_id, kind, job_key, asked) VALUES (%s, 'judge-one', %s, %s)",
                        (2 if who == "far" else 1, f"walk:{who}", json.dumps({"take_id": row.ids["take_id"]})),
                    )
                    found = {"id": cursor.lastrowid}
            row.ids["job_id"] = int(found["id"])
        cookies["student"] = link_cookies(db, rows["own"].ids["student_id"])
        cookies["parent"] = link_cookies(db, rows["own"].ids["student_id"], AskerRole.PARENT)
        cookies["other-student"] = link_cookies(db, rows["other"].ids["student_id"])
        yield World(app, rows["own"], rows["other"], rows["far"], cookies)
        connection.close()


WITH_ROWS = sorted(name for name, route in ROUTES.items() if any(one.endswith("_id") for one in route.rows))
STUDENTS = [name for name in WITH_ROWS if AskerRole.STUDENT in MAY_CALL.get(name, ())]


def test_what_is_noted_is_done_by_routes_there_are():
    assert set(NOTED) <= set(ROUTES)


def test_every_route_says_who_may_call_it():
    assert sorted(MAY_CALL) == sorted({*ROUTES} - {"get_health"})


@pytest.mark.parametrize("who", ["nobody", "made-up"])
@pytest.mark.parametrize("name", sorted(set(ROUTES) - NOT_GATED))
def test_nobody_is_told_anything(world, name, who):
    if AskerRole.NOBODY in MAY_CALL[name]:
        return
    answer = world.ask(who, ROUTES[name], world.own)
    assert answer.status_code == 401, (name, answer.status_code, answer.text[:200])
    assert answer.json()["error"]["code"] == "signed-out"


@pytest.mark.parametrize("who", ["student", "parent", "other-student"])
@pytest.mark.parametrize("name", sorted(set(ROUTES) - NOT_GATED))
def test_what_is_the_teachers_is_refused_to_others(world, name, who):
    if AskerRole.STUDENT in MAY_CALL[name]:
        return
    answer = world.ask(who, ROUTES[name], world.own)
    assert answer.status_code == 403, (name, answer.status_code, answer.text[:200])


@pytest.mark.parametrize("name", WITH_ROWS)
def test_another_studios_rows_are_not_there(world, name):
    if name in (
        "end_session",
        "change_own",
        "get_own_audio",
    ):  # held against the asker; studios have no such words here
        return
    answer = world.ask("far-teacher", ROUTES[name], world.own, student=None)
    assert answer.status_code == 404, (name, answer.status_code, answer.text[:300])


@pytest.mark.parametrize("who", ["student", "parent"])
@pytest.mark.parametrize("rows", ["other", "far"])
@pytest.mark.parametrize("name", STUDENTS)
def test_another_students_rows_are_not_there(world, name, rows, who):
    if name == "get_own_audio":
        return
    own = world.own.ids["student_id"]
    answer = world.ask(who, ROUTES[name], getattr(world, rows), student=own)
    assert answer.status_code == 404, (name, answer.status_code, answer.text[:300])
    # And no mixture of the two: every row of an address is looked at, not only the first.
    for kind in ROUTES[name].rows:
        if kind.endswith("_id") and len(ROUTES[name].rows) > 1:
            mixed = Rows(world.own.ids | {kind: getattr(world, rows).ids[kind]})
            assert world.ask(who, ROUTES[name], mixed, student=own).status_code == 404, (name, kind)


@pytest.mark.parametrize("who", ["student", "parent"])
@pytest.mark.parametrize("name", STUDENTS)
def test_ones_own_is_there(world, name, who):
    if name in ("drop_sound", "complete_recording", "get_playback", "get_own_audio"):  # in a state of their own, below
        return
    answer = world.ask(who, ROUTES[name], world.own, student=world.own.ids["student_id"])
    assert answer.status_code not in (401, 403, 404), (name, answer.status_code, answer.text[:300])
    for whose in ("two", "other", "far"):
        assert MARKS[whose] not in answer.text, (name, whose)


@pytest.mark.parametrize("name", ["get_study", "list_takes", "list_passages", "get_counts", "get_session"])
@pytest.mark.parametrize("student", ["other", "far", None, "1 OR 1=1", "-1"])
def test_of_which_student_must_be_said_and_be_oneself(world, name, student):
    asked = getattr(world, student).ids["student_id"] if student in ("other", "far") else student
    answer = world.ask("student", ROUTES[name], world.own, student=asked)
    assert answer.status_code in (404, 422), (name, answer.text[:200])


def test_two_students_named_at_once_are_nobody(world):
    own, other = world.own.ids["student_id"], world.other.ids["student_id"]
    path = f"/api/pieces/{world.own.ids['piece_id']}/study"
    with TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["student"]) as client:
        for query in (f"student={own}&student={other}", f"student={other}&student={own}"):
            assert client.get(f"{path}?{query}").status_code == 404


@pytest.mark.parametrize("kind", ["takes", "recordings"])
def test_what_a_body_names_is_held_against_who_asks(world, kind):
    """Another student's study, or consent, named in a request of one's own piece."""
    with TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["teacher"]) as teacher:
        both = {"student_ids": [world.other.ids["student_id"]], "piece_id": world.own.ids["piece_id"]}
        [theirs] = _ok(teacher.post("/api/studies", json=both))["study_ids"]
    body = BODIES["add_take" if kind == "takes" else "begin_recording"]
    with TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["student"]) as client:
        path = f"/api/pieces/{world.own.ids['piece_id']}/{kind}"
        assert client.post(path, json=body | {"study_id": theirs}).status_code == 404
        assert client.post(path, json=body | {"study_id": world.far.ids["study_id"]}).status_code == 404
        if kind == "recordings":
            for rows in (world.other, world.far):
                agreed = {"study_id": world.own.ids["study_id"], "consent_id": rows.ids["consent_id"]}
                assert client.post(path, json=body | agreed).status_code == 404
        # Nor is another's given out by the key that it was sent with.
        sent = body | {"study_id": world.other.ids["study_id"], "client_key": f"theirs-{kind}"}
        with TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["teacher"]) as teacher:
            theirs_path = f"/api/pieces/{world.other.ids['piece_id']}/{kind}"
            assert teacher.post(theirs_path, json=sent).status_code == 201
        assert client.post(path, json=body | {"client_key": f"theirs-{kind}"}).status_code == 404
        # One that is named by nobody is one's own.
        answer = client.post(path, json=body)
        assert answer.status_code == 201, answer.text
        if kind == "takes":
            assert answer.json()["student_id"] == world.own.ids["student_id"]
        simulated = client.post(f"/api/pieces/{world.own.ids['piece_id']}/takes/file?activity=lap&bpm=60"
                                f"&study_id={theirs}", files={"file": ("a.mid", b"MThd")})  # fmt: skip
        assert simulated.status_code in (404, 422)


def test_lists_hold_ones_own(world):
    """Nothing of another studio in what has no row in its address."""
    for name, route in ROUTES.items():
        if route.rows or route.method != "GET" or name in NOT_GATED:
            continue
        for who, foreign in (("far-teacher", ("one", "own", "other")), ("student", ("two", "other", "far"))):
            answer = world.ask(who, route, world.own)
            assert answer.status_code < 500, name
            for whose in foreign:
                assert MARKS[whose] not in answer.text, (name, who, whose)


def test_a_piece_that_was_taken_up_no_longer_is_not_there(world):
    path = f"/api/pieces/{world.other.ids['piece_id']}"
    with (
        TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["teacher"]) as teacher,
        TestClient(world.app, base_url="http://127.0.0.1", cookies=world.cookies["other-student"]) as student,
    ):
        assert student.get(path).status_code == 200
        ended = f"/api/studies/{world.other.ids['study_id']}/ended"
        assert teacher.put(ended, json={"ended": True}).status_code == 200
        assert student.get(path).status_code == 404
        assert teacher.put(ended, json={"ended": False}).status_code == 200
        assert student.get(path).status_code == 200


def test_the_keys_themselves_keep_studios_apart(world):
    """Whatever the program asks: a row of one studio cannot be laid under another's."""
    import pymysql

    connection = connect(world.app.state.pool._settings)
    try:
        for table, column, row in (
            ("study", "piece_id", world.far.ids["piece_id"]),
            ("study", "student_id", world.far.ids["student_id"]),
            ("take", "piece_id", world.far.ids["piece_id"]),
            ("recording", "take_id", world.far.ids["take_id"]),
            ("personal_link", "student_id", world.far.ids["student_id"]),
        ):
            with pytest.raises(pymysql.err.IntegrityError), connection.cursor() as cursor:
                cursor.execute(f"UPDATE {table} SET {column} = %s WHERE studio_id = 1 LIMIT 1", (row,))
            connection.rollback()
        assert not is_students(connection, 1, world.own.ids["student_id"], "unheard_of_id", 1)
    finally:
        connection.close()
