"""Writes what the interface's component tests show, as the API gives it, into web/src/testing/: a piece,
a checked take of it and the tables of the trade. Run it again when what the API gives has changed."""

from __future__ import annotations

import json
import re
import shutil
import sys
import tempfile
from importlib import resources
from pathlib import Path
from typing import Any, cast

from fastapi.testclient import TestClient

ROOT = Path(__file__).resolve().parents[1]
sys.path.insert(0, str(ROOT / "tests"))

from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import connect
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from signing_in import teacher_cookies

TARGET = ROOT / "web" / "src" / "testing"

#: Played at the keys by the simulated student: hands apart, a stop, a note left out.
TAKE = {
    "activity": "play",
    "bpm": 66,
    "measures": "1-4",
    "seed": 5,
    "faults": [{"kind": "spread", "amount": 120}, {"kind": "hesitate", "amount": 1.5, "measure": "3"}],
}

#: What else the screens ask for, of the studio and of the piece.
STUDIO_ASKS = ("pieces", "choices", "count-systems", "faults", "limits", "outdated-takes", "school")
PIECE_ASKS = (
    "",
    "/choices",
    "/counts?bpm=66",
    "/listenings",
    "/map",
    "/play-options",
    "/questions",
    "/reading",
    "/roadmap",
    "/study",
    "/passages",
    "/takes",
)

MADE_AT = "2026-01-05T16:00:00Z"
_MOMENT = re.compile(r'(?<="(?:created|deleted)_at": )"[^"]+"')


def made(client: TestClient) -> dict[str, Any]:
    """File name → what stands in it."""
    data = (resources.files("laptick") / "demo" / "harbour-steps.musicxml").read_bytes()
    piece = client.post("/api/pieces", files={"file": ("harbour-steps.musicxml", data)}).json()["id"]
    take = client.post(f"/api/pieces/{piece}/takes/simulated", json=TAKE).json()
    return {
        "answers.json": _answers(client, piece),
        "take.json": {**take, "created_at": MADE_AT, "judged_at": "2026-01-05T16:00:01Z"},
        "trade.json": client.get("/api/trade").json(),
    }


def _answers(client: TestClient, piece: int) -> dict[str, Any]:
    """Request without its query → answer."""
    addresses = [f"/api/{of}" for of in STUDIO_ASKS] + [f"/api/pieces/{piece}{of}" for of in PIECE_ASKS]
    answers = {}
    for address in addresses:
        answer = client.get(address)
        answer.raise_for_status()
        answers[f"GET {address.partition('?')[0]}"] = answer.json()
    text = json.dumps(answers, ensure_ascii=False)
    return cast(dict[str, Any], json.loads(_MOMENT.sub(f'"{MADE_AT}"', text)))


def main() -> None:
    folder = Path(tempfile.mkdtemp(prefix="laptick-fixtures-"))
    server = MariaDb(folder, durable=False)
    server.start()
    try:
        connection = connect(server.settings())
        migrate(connection)
        connection.close()
        TARGET.mkdir(exist_ok=True)
        cookies = teacher_cookies(server.settings())
        app = create_app(AppSettings(server.settings()))
        with TestClient(app, base_url="http://127.0.0.1", cookies=cookies) as client:
            for name, content in made(client).items():
                text = json.dumps(content, ensure_ascii=False, separators=(",", ":")) + "\n"
                (TARGET / name).write_text(text, encoding="utf-8")
                print(TARGET / name, len(text))
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
