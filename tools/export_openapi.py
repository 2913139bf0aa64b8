"""Writes the API's description for the web client: web/src/api/openapi.json. The client's types are made from it."""

from __future__ import annotations

import json
from pathlib import Path

from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import DbSettings

TARGET = Path(__file__).resolve().parent.parent / "web" / "src" / "api" / "openapi.json"


def describe() -> str:
    app = create_app(AppSettings(DbSettings()))
    return json.dumps(app.openapi(), indent=1, sort_keys=True, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    TARGET.write_text(describe(), encoding="utf-8")
    print(TARGET)
