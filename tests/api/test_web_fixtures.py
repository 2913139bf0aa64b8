"""What the interface's component tests show is what the API gives today. Made by tools/make_web_fixtures.py."""

from __future__ import annotations

import json

from make_web_fixtures import TARGET, made


def test_the_answers_are_those_of_the_api(client):
    kept = {path.name: json.loads(path.read_text(encoding="utf-8")) for path in TARGET.glob("*.json")}
    assert kept == made(client)
