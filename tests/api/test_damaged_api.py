"""Every stored row is read as if it were damaged: one that is breaks its own card, never a list, and never with a fault.

The columns are taken from the database itself, so a new one is tried without being named here.
"""

from __future__ import annotations

import re

import pytest
from fastapi.testclient import TestClient
from pymysql.cursors import Cursor

from laptick.api.app import AppSettings, create_app
from laptick.core.judging.verdict import Status
from laptick.db.engine.connect import connect, transaction
from laptick.studio.takes.judging import overrule
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.takes import Simulation, add_simulated_take
from laptick.studio.use_case import Studio
from signing_in import teacher_cookies

#: What a document may turn into that is still JSON, and what a text may.
DOCUMENTS = ("[]", "{}", "null", '"x"', '[{"a": 1}]', '{"taps": 3, "place": [], "studio": {}, "pencil": 1, "order": 2}')
TEXTS = ("", "é")

#: Columns that tell rows apart or tie them together, and those that hold bytes which only their reader understands.
NOT_TRIED = {"schema_migration", "job", "made"}
#: By which it is known who asks: whoever's session is damaged is signed out, which is no fault.
NOT_DAMAGED = {("session", "token_hash")}
TYPES = {"mediumtext", "longtext", "varchar", "text", "char"}


def columns(demo_db) -> list[tuple[str, str, bool]]:
    connection = connect(demo_db)
    with transaction(connection) as cursor:
        cursor.execute(
            "SELECT table_name AS t, column_name AS c, data_type AS d FROM information_schema.columns"
            " WHERE table_schema = DATABASE() ORDER BY table_name, ordinal_position"
        )
        found = [
            (r["t"], r["c"], r["d"])
            for r in cursor.fetchall()
            if r["d"] in TYPES and r["t"] not in NOT_TRIED and (r["t"], r["c"]) not in NOT_DAMAGED
        ]
        cursor.execute("SELECT table_name AS t, constraint_name AS n, check_clause AS k"
                       " FROM information_schema.check_constraints WHERE constraint_schema = DATABASE()")  # fmt: skip
        json = {(r["t"], r["n"]) for r in cursor.fetchall() if "json_valid" in r["k"].lower()}
    connection.close()
    return [(table, column, (table, column) in json) for table, column, _ in found]


@pytest.fixture(scope="module")
def played(demo_db) -> int:
    """A take of the first piece, judged, with the teacher's word on it."""
    connection = connect(demo_db)
    studio = Studio(connection, 1)
    with transaction(connection) as cursor:
        cursor.execute("SELECT MIN(id) AS id FROM piece WHERE deleted_at IS NULL")
        piece = cursor.fetchone()["id"]
    take = add_simulated_take(studio, piece, TakeSettings(activity="lap", bpm=60), Simulation(seed=1)).id
    overrule(studio, take, Status.STEADY, "it was the pedal")
    connection.close()
    return take


@pytest.fixture(scope="module")
def desk(demo_db, played):
    with TestClient(
        create_app(AppSettings(demo_db)),
        base_url="http://127.0.0.1",
        cookies=teacher_cookies(demo_db),
        raise_server_exceptions=False,
    ) as opened:
        yield opened


def asked(desk) -> list[str]:
    """Everything that is read of a studio."""
    piece = min(piece["id"] for piece in desk.get("/api/pieces").json()["items"])
    urls = ["/api/choices", "/api/voice", "/api/school", "/api/outdated-takes", "/api/judge-all", "/api/drills"]
    urls += ["/api/me", "/api/account", "/api/audit", "/api/who-left", "/api/students", "/api/studio", "/api/consents"]
    takes = sorted(take["id"] for take in desk.get(f"/api/pieces/{piece}/takes").json()["items"])
    paths = (
        "", "/takes", "/study", "/counts?bpm=60", "/schedule?bpm=60", "/reading", "/choices", "/pencil", "/entry",
        "/listenings", "/passages", "/questions", "/original",
    )  # fmt: skip
    return [*urls, *(f"/api/takes/{take}" for take in takes[:1]), *(f"/api/pieces/{piece}{path}" for path in paths)]


LISTS = ("/api/pieces", "/takes", "/passages")


def readers(desk, urls: list[str], tables: set[str], monkeypatch) -> dict[str, list[str]]:
    """Of every table the addresses that read it: no damage in it reaches the others."""
    said: list[str] = []
    execute = Cursor.execute

    def noted(cursor, query, args=None):
        said.append(query)
        return execute(cursor, query, args)

    found: dict[str, list[str]] = {table: [] for table in tables}
    with monkeypatch.context() as watched:
        watched.setattr(Cursor, "execute", noted)
        for url in urls:
            said.clear()
            desk.get(url)
            words = set(re.findall(r"\w+", " ".join(said)))
            for table in tables & words:
                found[table].append(url)
    return found


def test_no_damaged_column_is_a_fault_or_takes_a_list_down(demo_db, desk, played, monkeypatch):
    faults = []
    read_by = readers(desk, asked(desk), {table for table, _, _ in columns(demo_db)}, monkeypatch)
    assert sum(map(len, read_by.values())) > 100
    whole = len(desk.get("/api/pieces").json()["items"])
    assert [table for table in ("take", "judgement", "overrule") if not read_by[table]] == []
    connection = connect(demo_db)
    for table, column, is_document in columns(demo_db):
        with transaction(connection) as cursor:
            where = _row_that_is_read(cursor, table, played)
            cursor.execute(f"SELECT {column} AS was FROM {table} WHERE {where} LIMIT 1")
            found = cursor.fetchone()
        if found is None:
            continue
        for damaged in DOCUMENTS if is_document else TEXTS:
            try:
                with transaction(connection) as cursor:
                    cursor.execute(f"UPDATE {table} SET {column} = %s WHERE {where} LIMIT 1", (damaged,))
            except Exception:
                continue
            for url in ["/api/pieces", *read_by[table]]:
                answer = desk.get(url)
                is_list = url.endswith(LISTS)
                if answer.status_code == 500 or (is_list and answer.status_code != 200):
                    faults.append(f"{table}.{column} = {damaged}: {url} → {answer.status_code}")
            if len(desk.get("/api/pieces").json()["items"]) != whole:
                faults.append(f"{table}.{column} = {damaged}: the shelf has lost a piece")
            with transaction(connection) as cursor:
                cursor.execute(f"UPDATE {table} SET {column} = %s WHERE {where} LIMIT 1", (found["was"],))
    connection.close()
    assert faults == [], "\n".join(faults[:40]) + f"\n… {len(faults)} in all"


def _row_that_is_read(cursor, table: str, take: int) -> str:
    """Of what hangs on a take the one that is asked for, else the first."""
    cursor.execute(f"SHOW COLUMNS FROM {table}")
    names = {row["Field"] for row in cursor.fetchall()}
    if table == "take":
        return f"id = {take}"
    if "take_id" in names:
        return f"take_id = {take}"
    return f"id = (SELECT * FROM (SELECT MIN(id) FROM {table}) AS first)" if "id" in names else "TRUE"


def test_what_is_damaged_leaves_the_original_file(desk, demo_db):
    connection = connect(demo_db)
    piece = desk.get("/api/pieces").json()["items"][0]["id"]
    with transaction(connection) as cursor:
        cursor.execute("SELECT original FROM piece WHERE id = %s", (piece,))
        original = cursor.fetchone()["original"]
        cursor.execute("UPDATE piece SET reading = '[]', pencil_version_id = NULL, entry = '1', level = 'none'"
                       " WHERE id = %s", (piece,))  # fmt: skip
    assert desk.get(f"/api/pieces/{piece}/original").content == original
    [card] = [one for one in desk.get("/api/pieces").json()["items"] if one["id"] == piece]
    assert card["unread"]
    shown = desk.get(f"/api/pieces/{piece}")
    assert shown.status_code == 503
    assert shown.json()["error"]["what"]
    connection.close()
