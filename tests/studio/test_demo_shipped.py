"""The demo that ships is what is made now: the same pieces, students, takes and verdicts, and the same days before today.

Opponent: the demo computed anew by the checker and the ladder as they are.
"""

from __future__ import annotations

import json
import re
import time
import zipfile
from contextlib import contextmanager
from dataclasses import replace
from io import BytesIO
from typing import Any

import pytest
from test_moving import exported, run

from databases import new_database
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.core.practice.ladder.gates import RungState
from laptick.db.engine.connect import connect
from laptick.studio import demo_shipped
from laptick.studio.days import today
from laptick.studio.demo import DEMO, PASSAGE_KEY, add_demo
from laptick.studio.demo_shipped import add_shipped_demo
from laptick.studio.demo_students import STUDENTS, add_demo_students
from laptick.studio.people.sign_in import Credentials, set_up
from laptick.studio.use_case import Studio
from signing_in import PASSWORD, TEACHER

#: The time of day at which something was stored; its day is compared.
CLOCK = re.compile(r"(?<=\d{4}-\d\d-\d\d)T[\d:.]+Z")


@pytest.fixture(scope="module", autouse=True)
def utc():
    """Where the file is made; a day begins elsewhere at another time."""
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv("TZ", "UTC")
        time.tzset()
        yield
    time.tzset()


@contextmanager
def shipped_to(mariadb, template):
    with new_database(mariadb) as settings:
        template.copied_to(settings)
        connection = connect(settings)
        studio = Studio(connection, 1)
        assert add_shipped_demo(studio) == (6, 5)
        yield studio
        connection.close()


@pytest.fixture(scope="module")
def shipped(utc, mariadb, template):
    with shipped_to(mariadb, template) as studio:
        yield studio


def _text(document: Any) -> Any:
    """Numbers as far as another machine computes them alike."""
    if isinstance(document, float):
        return round(document, 6)
    if isinstance(document, dict):
        return {key: _text(value) for key, value in document.items()}
    if isinstance(document, list):
        return [_text(value) for value in document]
    return CLOCK.sub("", document) if isinstance(document, str) else document


def documents(data: bytes) -> dict[str, Any]:
    """All that is in a file of a studio, by its place."""
    found: dict[str, Any] = {}
    with zipfile.ZipFile(BytesIO(data)) as opened:
        for name in opened.namelist():
            text = opened.read(name)
            if name.endswith(".json"):
                found[name] = _text(json.loads(text))
            elif name.endswith(".jsonl"):
                found[name] = [_text(json.loads(line)) for line in text.splitlines()]
            elif not name.endswith((".csv", ".mid")):
                found[name] = text
    return found


def first_difference(one: Any, other: Any, where: str = "") -> str:
    if isinstance(one, dict) and isinstance(other, dict) and one.keys() == other.keys():
        return next((found for key in one if (found := first_difference(one[key], other[key], f"{where}.{key}"))), "")
    if isinstance(one, list) and isinstance(other, list) and len(one) == len(other):
        pairs = enumerate(zip(one, other, strict=True))
        return next((found for at, pair in pairs if (found := first_difference(*pair, f"{where}[{at}]"))), "")
    return "" if one == other else f"{where}: {str(one)[:80]} is not {str(other)[:80]}"


def test_it_is_what_is_made_now(shipped, demo_db):
    connection = connect(demo_db)
    add_demo_students(Studio(connection, 1))
    now, then = documents(exported(Studio(connection, 1))), documents(exported(shipped))
    connection.close()
    different = first_difference(then, now)
    assert not different, f"run tools/make_demo_studio.py: {different}"


def test_it_is_of_this_checker_and_has_its_keys(shipped):
    found = run(shipped.connection, "SELECT DISTINCT checker_version FROM take")
    assert [row["checker_version"] for row in found] == [CHECKER_VERSION]
    pieces = run(shipped.connection, "SELECT demo_key, filename FROM piece ORDER BY id")
    assert [one["demo_key"] for one in pieces] == [PASSAGE_KEY, *(demo.key for demo in DEMO)]
    assert all(one["filename"] == f"{one['demo_key']}.musicxml" for one in pieces[1:])
    students = run(shipped.connection, "SELECT demo_key, name FROM student WHERE NOT is_built_in ORDER BY id")
    assert [(one["demo_key"], one["name"]) for one in students] == [(one.key, one.facts.name) for one in STUDENTS]


def test_nothing_of_it_is_of_tomorrow(shipped):
    [found] = run(shipped.connection, "SELECT MAX(created_at) <= UTC_TIMESTAMP(6) AS is_past FROM take")
    assert found["is_past"]


def test_its_days_are_counted_from_the_day_on_which_it_is_added(shipped, mariadb, template, monkeypatch):
    """Added three days earlier, everything happened three days earlier, in tables and in documents."""

    def days(studio: Studio) -> list[list[int]]:
        connection = studio.connection
        events = run(connection, "SELECT day, TO_DAYS(created_at) AS at FROM rung_event ORDER BY id")
        states = run(connection, "SELECT passed_day, state FROM rung_state ORDER BY study_id, rung")
        told = [json.loads(row["state"]) for row in states]
        dates = [run(connection, f"SELECT TO_DAYS({column}) AS at FROM {table} ORDER BY id")
                 for table, column in (("take", "created_at"), ("judgement", "judged_at"), ("study", "given_at"))]  # fmt: skip
        return [
            [one["day"] for one in events],
            [one["passed_day"] for one in states if one["passed_day"]],
            [one["passed"][0] for one in told if one["passed"]],
            [day for one in told for day in one["clean_days"]],
            [one["today"][0] for one in told if one["today"][0]],
            *([row["at"] for row in rows if row["at"] is not None] for rows in dates),
        ]

    monkeypatch.setattr(demo_shipped, "today", lambda studio: today(studio) - 3)
    with shipped_to(mariadb, template) as earlier:
        moved = days(earlier)
    assert all(moved[kind] for kind in (0, 1, 2, 4, 5, 6, 7))
    assert moved == [[day - 3 for day in kind] for kind in days(shipped)]


def test_all_the_days_of_a_state_are_moved():
    state = RungState(10, "the teacher", "why", 3, (True,), frozenset({8, 9}), (9, 2))
    assert demo_shipped._later(state, 5) == replace(state, passed_day=15, clean_days=frozenset({13, 14}), today=(14, 2))
    assert demo_shipped._later(RungState(), 5) == RungState()


def test_a_studio_that_is_somebodys_keeps_what_it_is_called(mariadb, template):
    """It was set up, and has no piece yet: the demo is added as it is made, and nothing of the studio's own changes."""
    with new_database(mariadb) as settings:
        template.copied_to(settings)
        connection = connect(settings)
        studio = Studio(connection, 1)
        set_up(studio, "Brook House", "Europe/Oslo", Credentials(TEACHER, PASSWORD))
        assert add_shipped_demo(studio) is None
        assert run(connection, "SELECT name, time_zone FROM studio") == [
            {"name": "Brook House", "time_zone": "Europe/Oslo"}
        ]
        connection.close()


def test_a_studio_that_has_something_is_left_alone(shipped):
    before = run(shipped.connection, "SELECT COUNT(*) AS n FROM take")
    assert add_shipped_demo(shipped) is None
    assert add_demo(shipped) == 0
    assert add_demo_students(shipped) == 0
    assert run(shipped.connection, "SELECT COUNT(*) AS n FROM take") == before
