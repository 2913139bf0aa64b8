"""What the interface's component tests show is what the API gives today. Made by tools/make_web_fixtures.py."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def tool(monkeypatch):
    monkeypatch.setattr(sys, "path", [str(ROOT / "tools"), *sys.path])
    import make_web_fixtures

    return make_web_fixtures


def test_the_answers_are_those_of_the_api(tool, client):
    kept = {path.name: json.loads(path.read_text(encoding="utf-8")) for path in tool.TARGET.glob("*.json")}
    assert kept == tool.made(client)
