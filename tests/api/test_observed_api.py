"""What is seen of the application from outside: numbers, and a line a request; no name in either.

Source of the text format: Prometheus, "Text-based format" 0.0.4 (read back by its own library).
"""

from __future__ import annotations

import io
import json
import logging

import pytest
from fastapi.testclient import TestClient
from prometheus_client.parser import text_string_to_metric_families

from applications import app_at
from helpers import demo_bytes
from laptick.api.app import AppSettings
from laptick.api.request.observed import is_this_machine
from laptick.db.engine.connect import connect, transaction
from laptick.logs import JsonLines
from signing_in import teacher_cookies

NAMES = ("Ilmi Oak", "Harbour", "harbour", "secret words")


@pytest.fixture
def here(db):
    """An application that is asked from its own machine."""
    with TestClient(
        app_at(AppSettings(db)), base_url="http://127.0.0.1", cookies=teacher_cookies(db),
        client=("127.0.0.1", 50_000),
    ) as opened:  # fmt: skip
        yield opened


def numbers(client) -> dict[tuple[str, ...], float]:
    answer = client.get("/api/metrics")
    assert answer.status_code == 200
    assert answer.headers["content-type"].startswith("text/plain")
    found = {}
    for family in text_string_to_metric_families(answer.text):
        for sample in family.samples:
            found[(sample.name, *sample.labels.values())] = sample.value
    return found


def busy(client) -> None:
    client.post("/api/pieces", files={"file": ("harbour.musicxml", demo_bytes("harbour-steps"))})
    client.post("/api/students", json={"name": "Ilmi Oak"})
    client.get("/api/search", params={"find": "secret words"})
    client.get("/api/takes/999")


def test_requests_are_counted_by_route_and_status(here):
    before = numbers(here)
    busy(here)
    after = numbers(here)
    for route, status in (("add_student", "201"), ("search_studio", "200"), ("get_take", "404")):
        key = ("laptick_requests_total", route, status)
        assert after[key] == before.get(key, 0) + 1
    assert after[("laptick_request_seconds_count", "add_student")] >= 1
    assert not any(name in str(key) for key in after for name in NAMES)


def test_what_waits_for_a_worker_is_told(here, db):
    connection = connect(db)
    with transaction(connection) as cursor:
        for state, key, due in (("waiting", "a", 90), ("waiting", "b", 5), ("failed", "c", 500)):
            cursor.execute(
                "INSERT INTO job (studio_id, kind, job_key, asked, state, due_at)"
                " VALUES (1, 'judge', %s, '{}', %s, UTC_TIMESTAMP(6) - INTERVAL %s SECOND)",
                (key, state, due),
            )
    connection.close()
    found = numbers(here)
    assert found[("laptick_jobs", "judge", "waiting")] == 2
    assert found[("laptick_jobs", "judge", "failed")] == 1
    assert 90 <= found[("laptick_job_waiting_seconds",)] < 120


def test_to_others_there_is_nothing(here, db):
    app = here.app
    for host in ("192.168.1.7", "testclient", "::ffff:192.168.1.7"):
        with TestClient(app, base_url="http://127.0.0.1", cookies=teacher_cookies(db), client=(host, 1)) as away:
            answer = away.get("/api/metrics")
            assert answer.status_code == 404
            assert "laptick_requests" not in answer.text


@pytest.mark.parametrize(("host", "is_here"), [("127.0.0.1", True), ("127.8.0.1", True), ("::1", True),
                                               ("10.0.0.1", False), ("", False), ("localhost.evil.example", False)])  # fmt: skip
def test_who_is_here(host, is_here):
    assert is_this_machine(host) == is_here


class TestLines:
    @pytest.fixture
    def lines(self):
        out = io.StringIO()
        handler = logging.StreamHandler(out)
        handler.setFormatter(JsonLines())
        logger = logging.getLogger("laptick")
        before = logger.level
        logger.addHandler(handler)
        logger.setLevel(logging.INFO)
        yield lambda: [json.loads(line) for line in out.getvalue().splitlines()]
        logger.removeHandler(handler)
        logger.setLevel(before)

    def test_a_line_a_request_without_names(self, here, lines):
        busy(here)
        told = [one for one in lines() if one["from"] == "laptick.requests"]
        assert [(one["route"], one["status"]) for one in told] == [
            ("add_piece", 201), ("add_student", 201), ("search_studio", 200), ("get_take", 404),
        ]  # fmt: skip
        assert all(one["ms"] > 0 for one in told)
        assert not any(name in json.dumps(lines()) for name in NAMES)

    def test_of_a_fault_its_kind_and_places(self, lines):
        try:
            raise ValueError("Ilmi Oak is not a number")
        except ValueError:
            logging.getLogger("laptick").exception("take %s of %s broke", 7, "Ilmi Oak")
        [line] = lines()
        assert (line["fault"], line["numbers"], line["says"]) == ("ValueError", [7], "take %s of %s broke")
        assert "test_observed_api.py" in line["places"][-1]
        assert "Ilmi" not in json.dumps(line)
