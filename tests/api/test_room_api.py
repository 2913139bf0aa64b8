"""Before the disk is full it is said; when it is, nothing is stored and everything can be read; then it goes on."""

from __future__ import annotations

from collections import namedtuple

import pytest
from fastapi.testclient import TestClient

from helpers import demo_bytes
from laptick.api.app import AppSettings, create_app
from laptick.api.request import room
from signing_in import teacher_cookies

Usage = namedtuple("Usage", "total used free")


@pytest.fixture
def free(monkeypatch):
    found = [10 * 2**30]
    monkeypatch.setattr(room.shutil, "disk_usage", lambda _: Usage(2**40, 0, found[0]))
    monkeypatch.setattr(room, "HOLDS_S", 0.0)
    return found


@pytest.fixture
def desk(db, tmp_path, free):
    with TestClient(
        create_app(AppSettings(db, data=tmp_path)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)
    ) as opened:
        yield opened


def test_warned_refused_and_gone_on_with(desk, free):
    files = {"file": ("a.musicxml", demo_bytes("harbour-steps"))}
    assert desk.get("/api/health").json()["warning"] is None
    free[0] = 300 * 2**20
    assert "300 MB are left" in desk.get("/api/health").json()["warning"]
    assert desk.post("/api/pieces", files=files).status_code == 201
    free[0] = 10 * 2**20
    refused = desk.post("/api/pieces", files=files)
    assert (refused.status_code, refused.json()["error"]["code"]) == (507, "no-room")
    assert len(desk.get("/api/pieces").json()["items"]) == 1
    assert "full" in desk.get("/api/health").json()["warning"]
    free[0] = 10 * 2**30
    assert desk.post("/api/pieces", files=files).status_code == 201


def test_of_a_database_elsewhere_nobody_can_tell(db, free):
    free[0] = 0
    with TestClient(create_app(AppSettings(db)), base_url="http://127.0.0.1", cookies=teacher_cookies(db)) as opened:
        assert opened.get("/api/health").json()["warning"] is None
        assert opened.put("/api/choices", json={}).status_code == 200
