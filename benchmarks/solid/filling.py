"""A studio filled with pieces and takes, straight into its database: what would take a year of lessons."""

from __future__ import annotations

import random
from pathlib import Path

from helpers import demo_bytes
from laptick.db.engine.connect import connect, transaction
from laptick.db.engine.server import MariaDb
from laptick.studio.pieces.shelf import add_piece, list_pieces
from laptick.studio.studies.studies import get_study
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Simulation, add_simulated_take
from laptick.studio.use_case import Studio

DEMO = ("harbour-steps", "kite-over-the-orchard", "lantern-boat", "copper-kettle-parade", "five-stones")


def fill(database: Path, pieces: int, takes: int, students: int = 0) -> tuple[list[int], list[int]]:
    """So many pieces, and takes shared out among them: one of each demo piece played and judged, then copied with all
    that hangs on it. Gives the ids of the pieces, and of some takes. ``students``: whose they are in turn, over two
    months, some with a note; 0: all are the built-in one's."""
    connection = connect(MariaDb(database).settings(), answer_s=900)
    studio, rng = Studio(connection, 1), random.Random(1)
    made = []
    for name in DEMO:
        piece = add_piece(studio, demo_bytes(name), f"{name}.musicxml").piece.id
        lap = TakeSettings(activity="lap", bpm=60)
        made.append((piece, add_simulated_take(studio, piece, lap, Simulation(seed=1)).id, get_study(studio, piece).id))
    list_pieces(studio)
    shares = [takes // pieces] * pieces
    pupils = _pupils(connection, students)
    for number in range(len(DEMO), pieces):
        with transaction(connection) as cursor:
            piece, take, study = made[number % len(DEMO)]
            _copy(cursor, "piece", piece, {"title": f"Piece {number:04} {rng.randrange(10**6)}"})
            cursor.execute("SELECT LAST_INSERT_ID() AS id")
            new_piece = cursor.fetchone()["id"]
            whose = {"student_id": pupils[number % len(pupils)]} if pupils else {}
            _copy(cursor, "study", study, {"piece_id": new_piece, **whose})
            cursor.execute("SELECT LAST_INSERT_ID() AS id")
            new_study = cursor.fetchone()["id"]
            ids = [
                _copy(cursor, "take", take, {"piece_id": new_piece, "study_id": new_study, "client_key": None})
                for _ in range(shares[number])
            ]
            for new_take in ids:
                cursor.execute("SELECT id FROM judgement WHERE take_id = %s", (take,))
                _copy(cursor, "judgement", cursor.fetchone()["id"], {"take_id": new_take})
    with transaction(connection) as cursor:
        if pupils:
            cursor.execute("UPDATE study SET given_at = COALESCE(given_at, UTC_TIMESTAMP(6))")
            cursor.execute(
                "UPDATE take SET created_at = UTC_TIMESTAMP(6) - INTERVAL FLOOR(RAND(2) * 86400 * 60) SECOND,"
                " note = IF(RAND(3) < 0.05, 'calmer today; the left thumb rests', '')"
            )
        cursor.execute("UPDATE piece SET takes_changed = takes_changed + 1")
        cursor.execute("ANALYZE TABLE piece, take, judgement, study")
        cursor.fetchall()
        cursor.execute("SELECT id FROM piece WHERE deleted_at IS NULL")
        all_pieces = [row["id"] for row in cursor.fetchall()]
        cursor.execute("SELECT id FROM take ORDER BY RAND(1) LIMIT 500")
        some = [row["id"] for row in cursor.fetchall()]
    list_pieces(studio)
    connection.close()
    return all_pieces, some


def _pupils(connection, students: int) -> list[int]:
    names = ("Ilmi", "Runa", "Sten", "Asta", "Bo", "Celia", "Dag", "Edda", "Finn", "Gro")
    found = []
    for number in range(students):
        with transaction(connection) as cursor:
            cursor.execute(
                "INSERT INTO student (studio_id, name, days_a_week, minutes_a_day) VALUES (1, %s, 5, 15)",
                (f"{names[number % len(names)]} {number:03}",),
            )
            found.append(int(cursor.lastrowid))
    return found


_KNOWN: dict[str, list[str]] = {}


def _copy(cursor, table: str, row: int, changed: dict) -> int:
    """A row once more, with other values in some columns."""
    if table not in _KNOWN:
        cursor.execute(
            "SELECT column_name AS c FROM information_schema.columns WHERE table_schema = DATABASE()"
            " AND table_name = %s AND column_name <> 'id' AND extra NOT LIKE '%%GENERATED%%'",
            (table,),
        )
        _KNOWN[table] = [one["c"] for one in cursor.fetchall()]
    columns = _KNOWN[table]
    values = ", ".join("%s" if name in changed else f"`{name}`" for name in columns)
    names = ", ".join(f"`{name}`" for name in columns)
    cursor.execute(
        f"INSERT INTO {table} ({names}) SELECT {values} FROM {table} WHERE id = %s",
        (*(changed[name] for name in columns if name in changed), row),
    )
    return int(cursor.lastrowid)
