"""How long the server takes for a full shelf: ``python benchmarks/shelf.py [pieces] [takes]``.

Puts that many pieces (500) with that many takes (5,000, spread evenly) into a private database in memory and asks for
the shelf as the browser does, the application in the same process. Reported beside the same on a shelf of one piece and
beside a bare answer of the server, all of one run; and the look at which one score has changed.
"""

from __future__ import annotations

import json
import os
import shutil
import statistics
import sys
import tempfile
import time
from importlib import resources
from pathlib import Path

from fastapi.testclient import TestClient

sys.path[:0] = [str(Path(__file__).resolve().parents[1] / "tests")]

from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import connect, transaction
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from laptick.studio.demo import add_demo
from laptick.studio.pieces import shelf
from laptick.studio.use_case import Studio
from signing_in import teacher_cookies

ROUNDS = 20


def filled(server: MariaDb, pieces: int, takes: int) -> list[int]:
    """Demo pieces with their takes, copied under new ids and with other bytes until there are enough."""
    connection = connect(server.settings())
    migrate(connection)
    studio = Studio(connection, 1)
    add_demo(studio)
    original = (resources.files("laptick") / "demo" / "harbour-steps.musicxml").read_bytes()
    known = len(shelf.list_pieces(studio))
    ids = []
    for number in range(pieces - known):
        named = original.replace(b"Harbour Steps", f"Harbour Steps {number}".encode())
        ids.append(shelf.add_piece(studio, named, f"{number}.musicxml").piece.id)
    with transaction(connection) as cursor:
        cursor.execute("SELECT MIN(take_id) AS id FROM judgement")
        take = cursor.fetchone()["id"]
        for number in range(takes if ids else 0):
            cursor.execute(
                "INSERT INTO take (studio_id, piece_id, study_id, activity, settings, assigned_bpm, level, strikes,"
                " played_by, note, state) SELECT take.studio_id, %s,"
                " (SELECT study.id FROM study WHERE study.piece_id = %s), activity, settings, assigned_bpm, level,"
                " strikes, played_by, note, state FROM take WHERE id = %s",
                (ids[number % len(ids)], ids[number % len(ids)], take),
            )
            cursor.execute(
                "INSERT INTO judgement (studio_id, take_id, checker_version, status, document, verdict, codes)"
                " SELECT studio_id, %s, checker_version, status, document, verdict, codes FROM judgement"
                " WHERE take_id = %s",
                (cursor.lastrowid, take),
            )
        cursor.execute("UPDATE piece SET takes_changed = takes_changed + 1")
    connection.close()
    return ids


def median_ms(ask) -> float:
    times = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        ask()
        times.append((time.perf_counter() - begun) * 1000)
    return statistics.median(times)


def main(pieces: int, takes: int) -> None:
    memory = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    folder = Path(tempfile.mkdtemp(prefix="laptick-shelf-", dir=memory))
    server = MariaDb(folder, durable=False)
    server.start()
    try:
        ids = filled(server, pieces, takes)
        cookies = teacher_cookies(server.settings())
        app = create_app(AppSettings(server.settings()))
        with TestClient(app, base_url="http://127.0.0.1", cookies=cookies) as client:
            begun = time.perf_counter()
            shown = client.get("/api/pieces").json()["items"]
            first = (time.perf_counter() - begun) * 1000
            print(f"{len(shown)} pieces, {sum(piece['takes'] for piece in shown)} takes")
            print(f"first look, every state worked out anew: {first:.0f} ms")
            whole = median_ms(lambda: client.get("/api/pieces"))
            bare = median_ms(lambda: client.get("/api/health"))
            print(f"the shelf: {whole:.1f} ms, median of {ROUNDS}; a bare answer: {bare:.1f} ms")
            print(f"a byte of answer: {len(json.dumps(shown)):,} in all")
            if ids:

                def changed() -> None:
                    client.put(f"/api/pieces/{ids[0]}/reading", json={"line_starts": ["3"]})
                    client.get("/api/pieces")

                print(f"a reading changed and the shelf looked at: {median_ms(changed):.1f} ms")
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    given = [int(value) for value in sys.argv[1:]]
    main(*(given + [500, 5000][len(given) :]))
