"""Many requests at once: each gets its turn, and none that waits keeps the others from going on."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import anyio
import pytest
from fastapi.testclient import TestClient

from helpers import demo_bytes
from laptick.api.app import AppSettings, create_app
from laptick.api.request import asking
from laptick.studio.pieces import shelf
from signing_in import teacher_cookies

CROWD = 3 * asking.AT_ONCE


@pytest.fixture
def web(tmp_path):
    (tmp_path / "index.html").write_text("<!doctype html><title>Lap Tick</title>")
    return tmp_path


@pytest.fixture
def app(db, web):
    return create_app(AppSettings(db, web))


@pytest.fixture
def alone(app, db):
    with TestClient(
        app, base_url="http://127.0.0.1", cookies=teacher_cookies(db), raise_server_exceptions=False
    ) as opened:
        yield opened


def at_once(count: int, ask) -> list:
    begin = threading.Barrier(count)

    def one(number: int):
        begin.wait()
        return ask(number)

    with ThreadPoolExecutor(count) as crowd:
        return list(crowd.map(one, range(count)))


def test_a_crowd_is_answered_to_the_last(alone, monkeypatch):
    listed = shelf.list_pieces

    def slowly(*args):
        time.sleep(0.02)
        return listed(*args)

    monkeypatch.setattr(shelf, "list_pieces", slowly)
    assert {answer.status_code for answer in at_once(CROWD, lambda _: alone.get("/api/pieces"))} == {200}


def test_a_crowd_that_stores_and_looks_is_answered_to_the_last(alone):
    piece = alone.post("/api/pieces", files={"file": ("h.musicxml", demo_bytes("harbour-steps"))}).json()["id"]
    taps = {"activity": "lap", "bpm": 60, "taps": [{"t": 1.0 + n, "hand": "right"} for n in range(8)]}

    def ask(number: int):
        if number % 3:
            return alone.get(f"/api/pieces/{piece}/study")
        return alone.post(f"/api/pieces/{piece}/takes", json=taps | {"client_key": f"k{number}"})

    assert {answer.status_code for answer in at_once(CROWD, ask)} == {200, 201}
    assert len(alone.get(f"/api/pieces/{piece}/takes").json()["items"]) == CROWD // 3


def test_whose_turn_does_not_come_is_told_so_and_the_page_itself_needs_none(app, alone, monkeypatch):
    app.state.turns = anyio.Semaphore(0)
    with monkeypatch.context() as soon:
        soon.setattr(asking, "WAIT_S", 0.05)
        answer = alone.get("/api/pieces")
    assert (answer.status_code, answer.json()["error"]["what"]) == (503, "too much is asked at once.")
    assert alone.get("/pieces").status_code == 200
    assert alone.get("/api/health").status_code == 200
    app.state.turns = anyio.Semaphore(1)
    assert alone.get("/api/pieces").status_code == 200


def test_a_turn_is_given_back_also_by_what_fails(app, alone):
    app.state.turns = anyio.Semaphore(1)
    for _ in range(3):
        assert alone.get("/api/pieces/99").status_code == 404
        assert alone.get("/api/pieces/99/notation?bpm=60").status_code == 404
    assert alone.get("/api/pieces").status_code == 200
