"""Migrations, transactions, and that no studio sees another's rows – on a real MariaDB."""

from __future__ import annotations

import pymysql
import pytest

from laptick.core.base.errors import NotFoundError, StorageError
from laptick.db import pieces, takes
from laptick.db.engine import migrate as migrations
from laptick.db.engine.connect import DbSettings, connect, transaction
from laptick.db.engine.migrate import migrate, migration_files, split_statements
from laptick.demo_data import add_demo


def add_piece(connection, studio_id=1, title="A piece"):
    return pieces.add_piece(
        connection, studio_id, title=title, composer="", filename="a.xml", original=b"<x/>\x00\xff", level="elementary",
        target_bpm=80.5,
    )  # fmt: skip


def add_take(connection, piece_id, studio_id=1, status="steady", codes=(), client_key=None):
    return takes.add_take(
        connection, studio_id, piece_id=piece_id, rung="lap", settings={"rung": "lap"}, assigned_bpm=60,
        level="elementary", strikes={"taps": [{"t": 1.5, "hand": "left"}]}, played_by="student", client_key=client_key,
        checker_version="1", status=status,
        document={"findings": [{"code": c} for c in codes], "verdict": {"status": status}, "tempo": {"median_bpm": 61.25}},
    )  # fmt: skip


def other_studio(connection) -> int:
    with transaction(connection) as cursor:
        cursor.execute("INSERT INTO studio (name) VALUES ('Another')")
        return cursor.lastrowid


class TestMigrations:
    def test_run_once_and_only_once(self, empty_db):
        connection = connect(empty_db)
        assert migrate(connection) == [name for name, _ in migration_files()]
        assert migrate(connection) == []

    def test_one_cut_off_between_statements_goes_on(self, empty_db, monkeypatch):
        connection = connect(empty_db)
        good = migration_files()
        broken = [*good[:2], (good[2][0], [good[2][1][0], "CREATE NONSENSE"])]
        monkeypatch.setattr(migrations, "migration_files", lambda: broken)
        with pytest.raises(StorageError):
            migrate(connection)
        monkeypatch.setattr(migrations, "migration_files", lambda: good)
        assert migrate(connection) == [name for name, _ in good[2:]]
        assert add_piece(connection)

    def test_every_table_carries_its_studio(self, db):
        with transaction(connect(db)) as cursor:
            cursor.execute(
                "SELECT table_name AS t, SUM(column_name = 'studio_id') AS has FROM information_schema.columns"
                " WHERE table_schema = %s GROUP BY table_name",
                (db.database,),
            )
            without = {row["t"] for row in cursor.fetchall() if not row["has"]}
        assert without == {"studio", "schema_migration"}

    def test_statements_are_split_at_line_ends(self):
        assert split_statements("-- a; comment\nA 'x;y';\n\nB;\n") == ["A 'x;y'", "B"]


class TestStudios:
    def test_no_studio_sees_anothers(self, connection):
        other = other_studio(connection)
        mine = add_piece(connection)
        take = add_take(connection, mine)
        assert pieces.list_pieces(connection, other) == []
        for refused in (
            lambda: pieces.get_piece(connection, other, mine),
            lambda: takes.get_take(connection, other, take),
            lambda: takes.mark_take_deleted(connection, other, take, deleted=True),
            lambda: pieces.mark_piece_deleted(connection, other, mine, deleted=True),
        ):
            with pytest.raises(NotFoundError):
                refused()
        takes.set_note(connection, other, take, "not mine")
        assert takes.get_take(connection, 1, take)["note"] == ""
        assert takes.list_takes(connection, other, mine) == []


class TestTakes:
    def test_the_original_file_is_kept_to_the_byte(self, connection):
        assert pieces.get_piece(connection, 1, add_piece(connection))["original"] == b"<x/>\x00\xff"

    def test_a_take_sent_twice_is_stored_once(self, connection):
        piece = add_piece(connection)
        first = add_take(connection, piece, client_key="abc")
        assert add_take(connection, piece, client_key="abc") == first
        assert len(takes.list_takes(connection, 1, piece)) == 1

    def test_judging_again_keeps_the_earlier_judgement(self, connection):
        piece = add_piece(connection)
        take = add_take(connection, piece)
        takes.add_judgement(
            connection, 1, take, checker_version="2", status="nearly",
            document={"findings": [], "verdict": {"status": "nearly"}, "tempo": {"median_bpm": None}},
        )  # fmt: skip
        assert takes.get_take(connection, 1, take)["checker_version"] == "2"
        [listed] = takes.list_takes(connection, 1, piece)
        assert (listed["status"], listed["median_bpm"]) == ("nearly", None)
        with transaction(connection) as cursor:
            cursor.execute("SELECT checker_version FROM judgement WHERE take_id = %s ORDER BY id", (take,))
            assert [row["checker_version"] for row in cursor.fetchall()] == ["1", "2"]

    def test_previous_codes_are_of_the_newest_followed_take_before(self, connection):
        piece = add_piece(connection)
        assert takes.previous_codes(connection, 1, piece, {"rung": "lap"}, None) is None
        first = add_take(connection, piece, codes=("hesitation",))
        add_take(connection, piece, status="could-not-follow")
        assert takes.previous_codes(connection, 1, piece, {"rung": "lap"}, None) == {"hesitation"}
        assert takes.previous_codes(connection, 1, piece, {"rung": "lap"}, first) is None
        for other in ({"rung": "count"}, {"rung": "lap", "measures": "3"}, {"rung": "lap", "hands": "left"}):
            assert takes.previous_codes(connection, 1, piece, other, None) is None

    def test_deleting_and_bringing_back(self, connection):
        piece = add_piece(connection)
        take = add_take(connection, piece)
        takes.mark_take_deleted(connection, 1, take, deleted=True)
        assert takes.list_takes(connection, 1, piece) == []
        takes.mark_take_deleted(connection, 1, take, deleted=False)
        assert [row["id"] for row in takes.list_takes(connection, 1, piece)] == [take]


class TestTransactions:
    def test_a_failing_statement_leaves_nothing(self, connection):
        with pytest.raises(StorageError) as caught, transaction(connection) as cursor:
            cursor.execute("INSERT INTO studio (name) VALUES ('half')")
            cursor.execute("INSERT INTO nowhere VALUES (1)")
        assert "Nothing of it was stored" in caught.value.kept
        with transaction(connection) as cursor:
            cursor.execute("SELECT COUNT(*) AS n FROM studio")
            assert cursor.fetchone()["n"] == 1

    def test_a_failing_commit_is_told(self, connection, monkeypatch):
        def fail():
            raise pymysql.err.OperationalError(2013, "gone")

        monkeypatch.setattr(connection, "commit", fail)
        with pytest.raises(StorageError), transaction(connection) as cursor:
            cursor.execute("INSERT INTO studio (name) VALUES ('lost')")

    def test_an_error_of_ours_rolls_back_too(self, connection):
        with pytest.raises(NotFoundError), transaction(connection) as cursor:
            cursor.execute("INSERT INTO studio (name) VALUES ('half')")
            raise NotFoundError("no")
        with transaction(connection) as cursor:
            cursor.execute("SELECT COUNT(*) AS n FROM studio")
            assert cursor.fetchone()["n"] == 1

    def test_a_database_that_is_away_is_a_clear_error(self):
        with pytest.raises(StorageError, match="cannot be reached"):
            connect(DbSettings(port=1))


class TestDemo:
    def test_is_added_once_taken_off_for_good_and_reset_on_request(self, connection):
        assert add_demo(connection, 1) == 6
        assert add_demo(connection, 1) == 0
        mine = add_piece(connection, title="Zigzag")
        first = pieces.list_pieces(connection, 1)[0]
        pieces.mark_piece_deleted(connection, 1, first["id"], deleted=True)
        assert add_demo(connection, 1) == 0
        pieces.delete_demo(connection, 1)
        assert [piece["id"] for piece in pieces.list_pieces(connection, 1)] == [mine]
        assert add_demo(connection, 1) == 6


def test_a_second_start_takes_over_a_server_that_runs(mariadb):
    from laptick.db.engine.server import MariaDb

    again = MariaDb(mariadb.folder)
    assert again.running_pid() == mariadb.running_pid()
    assert again.start() is False
    assert again.settings() == mariadb.settings()
