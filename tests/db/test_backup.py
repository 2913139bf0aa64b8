"""All that is stored as one file, and back to the byte. Common practice, no source.

Opponent: a database of an earlier version; a file that is cut, changed, of another kind; a database with something in
it.
"""

from __future__ import annotations

import gzip
import io
import json
import random
import threading
from dataclasses import replace

import pytest

from databases import new_database
from laptick.cli import main
from laptick.core.base.errors import BundleError, ConflictError, StorageError
from laptick.db.engine import backup
from laptick.db.engine import migrate as migrations
from laptick.db.engine.backup import restore_backup, write_backup
from laptick.db.engine.connect import connect, transaction
from laptick.db.engine.migrate import migrate, migration_files


def run(connection, sql, *values):
    with transaction(connection) as cursor:
        cursor.execute(sql, values or None)
        return list(cursor.fetchall())


@pytest.fixture(scope="module")
def full(demo_db):
    connection = connect(demo_db)
    run(connection, "INSERT INTO teacher (studio_id, name, password_hash) VALUES (1, 'Åsa', 'x')")
    run(connection, "INSERT INTO consent (studio_id, student, given_by, purpose, given_on) VALUES (1, 'a', 'b', 'c', %s)",
        "2026-11-30")  # fmt: skip
    run(
        connection,
        "INSERT INTO made (studio_id, made_key, media_type, body, size) VALUES (1, %s, 'x', 'y', 1)",
        "0" * 64,
    )
    yield connection
    connection.close()


@pytest.fixture
def bare(mariadb):
    with new_database(mariadb) as settings:
        connection = connect(settings)
        yield connection
        connection.close()


def written(connection) -> bytes:
    out = io.BytesIO()
    write_backup(connection, out)
    return out.getvalue()


def lines(data: bytes) -> list:
    return [json.loads(line) for line in gzip.decompress(data).splitlines()]


def packed(documents: list) -> bytes:
    return gzip.compress(b"".join(json.dumps(one).encode() + b"\n" for one in documents))


def all_rows(connection) -> dict[str, list]:
    found = {}
    for table in backup._tables(connection.cursor()):
        found[table] = run(connection, f"SELECT * FROM `{table}`")
    connection.rollback()
    return found


class TestThereAndBack:
    def test_to_the_byte(self, full, bare):
        data = written(full)
        restored = restore_backup(bare, io.BytesIO(data))
        assert written(bare) == data
        assert restored == lines(data)[-1]["rows"] > 50
        assert all_rows(bare) == all_rows(full)
        assert run(bare, "SELECT COUNT(*) AS n FROM made")[0]["n"] == 0

    def test_what_is_restored_goes_on(self, full, bare):
        """The next row of a table has a number of its own, and keys hold."""
        restore_backup(bare, io.BytesIO(written(full)))
        most = run(bare, "SELECT MAX(id) AS id FROM piece")[0]["id"]
        run(bare, "INSERT INTO piece (studio_id, title, composer, filename, original, original_sha256, level, target_bpm)"
            " VALUES (1, 'a', '', 'a.mid', 'x', REPEAT('x', 32), 'elementary', 60)")  # fmt: skip
        assert run(bare, "SELECT MAX(id) AS id FROM piece")[0]["id"] == most + 1
        with pytest.raises(StorageError):
            run(bare, "INSERT INTO student (studio_id, name) VALUES (99, 'of no studio')")
        assert migrate(bare) == []

    def test_of_one_moment_while_others_store(self, full, demo_db):
        other, stop = connect(demo_db), threading.Event()

        def store():
            while not stop.is_set():
                run(other, "INSERT INTO audit (studio_id, role, what) VALUES (1, 'teacher', 'looked')")
                run(other, "INSERT INTO audit (studio_id, role, what) VALUES (1, 'teacher', 'looked again')")

        thread = threading.Thread(target=store)
        thread.start()
        try:
            for _ in range(5):
                found = lines(written(full))
                at = next(i for i, one in enumerate(found) if isinstance(one, dict) and one.get("table") == "audit")
                rows = []
                for one in found[at + 1 :]:
                    if isinstance(one, dict):
                        break
                    rows.append(one[0])
                assert rows == sorted(rows)
                assert found[-1]["rows"] == sum(isinstance(one, list) for one in found)
        finally:
            stop.set()
            thread.join()
            other.close()

    def test_an_earlier_versions_is_brought_up(self, mariadb, bare, monkeypatch):
        whole = migration_files()
        with new_database(mariadb) as settings, monkeypatch.context() as patched:
            old = connect(settings)
            patched.setattr(migrations, "migration_files", lambda: whole[:20])
            migrate(old)
            run(old, "INSERT INTO student (studio_id, name) VALUES (1, 'of before')")
            data = written(old)
            old.close()
        restore_backup(bare, io.BytesIO(data))
        assert run(bare, "SELECT name FROM student ORDER BY id DESC LIMIT 1")[0]["name"] == "of before"
        assert run(bare, "SELECT days_a_week FROM student LIMIT 1")
        assert migrate(bare) == []


class TestWhatIsRefused:
    def test_a_database_with_something_in_it(self, full):
        before = all_rows(full)
        with pytest.raises(ConflictError) as refused:
            restore_backup(full, io.BytesIO(written(full)))
        assert refused.value.todo
        assert all_rows(full) == before

    @pytest.mark.parametrize(
        "what", ["nothing", "a letter", "nothing, packed", "no lines of ours", "another format", "a later version"]
    )
    def test_what_is_none(self, bare, what):
        later = {"format": "lap-tick-backup", "version": 2, "migrations": []}
        data = {
            "nothing": b"",
            "a letter": b"a letter",
            "nothing, packed": gzip.compress(b""),
            "no lines of ours": gzip.compress(b"[]\n"),
            "another format": packed([{"a": 1}]),
            "a later version": packed([later]),
        }[what]
        with pytest.raises(BundleError):
            restore_backup(bare, io.BytesIO(data))
        assert run(bare, "SHOW TABLES") == []

    def test_cut_or_changed_anywhere(self, full, bare):
        data, chance = written(full), random.Random(3)
        for at in [len(data) - 1, len(data) - 9, *(chance.randrange(20, len(data)) for _ in range(12))]:
            with pytest.raises(BundleError):
                restore_backup(bare, io.BytesIO(data[:at]))
            flipped = bytearray(data)
            flipped[at - 1] ^= 1 << chance.randrange(8)
            with pytest.raises(BundleError):
                restore_backup(bare, io.BytesIO(bytes(flipped)))
        assert run(bare, "SHOW TABLES") == []

    @pytest.mark.parametrize("change", ["a later migration", "a row too few", "a value too many", "a strange table",
                                        "no table", "after the end"])  # fmt: skip
    def test_one_that_lies(self, full, bare, change):
        found = lines(written(full))
        rows = [at for at, one in enumerate(found) if isinstance(one, list)]
        match change:
            case "a later migration":
                found[0]["migrations"].append(["9999_later.sql", 1])
            case "a row too few":
                del found[rows[3]]
            case "a value too many":
                found[rows[3]].append(None)
            case "a strange table":
                found[rows[0] - 1]["table"] = "student`; DROP TABLE piece; --"
            case "no table":
                del found[rows[0] - 1]
            case "after the end":
                found.append([])
        with pytest.raises(BundleError):
            restore_backup(bare, io.BytesIO(packed(found)))
        assert run(bare, "SHOW TABLES") == []

    def test_what_breaks_off_leaves_an_empty_database(self, full, bare):
        found = lines(written(full))
        at = next(i for i, one in enumerate(found) if isinstance(one, dict) and one.get("table") == "take")
        found[at]["columns"][0] = "no_such_column"
        with pytest.raises(StorageError):
            restore_backup(bare, io.BytesIO(packed(found)))
        assert run(bare, "SHOW TABLES") == []


def test_only_what_is_made_anew_is_left_out(full):
    told = {one["table"] for one in lines(written(full)) if isinstance(one, dict) and "table" in one}
    everything = {next(iter(row.values())) for row in run(full, "SHOW TABLES")}
    assert everything - told == backup.LEFT_OUT


class TestFromAShell:
    @staticmethod
    def url(settings) -> str:
        return f"mysql://{settings.user}:{settings.password}@{settings.host}:{settings.port}/{settings.database}"

    def test_night_after_night_and_back(self, full, demo_db, mariadb, tmp_path, capsys):
        for number in range(3):
            (tmp_path / f"laptick-2026110{number + 1}-030000.backup").write_bytes(b"an old one")
        (tmp_path / "letter.txt").write_text("not a backup")
        assert main(["backup", str(tmp_path), "--keep", "2", "--db", self.url(demo_db)]) == 0
        kept = sorted(one.name for one in tmp_path.iterdir())
        assert len(kept) == 3
        assert kept[0] == "laptick-20261103-030000.backup"
        assert kept[2] == "letter.txt"
        newest = tmp_path / kept[1]
        assert newest.stat().st_mode & 0o777 == 0o600
        with new_database(mariadb) as settings:
            assert main(["restore", str(newest), "--db", self.url(settings)]) == 0
            connection = connect(settings)
            assert all_rows(connection) == all_rows(full)
            connection.close()
        assert "rows are back" in capsys.readouterr().out

    @pytest.mark.parametrize("words", [["restore", "/no/such.backup"], ["restore", "{folder}/letter.txt"],
                                       ["backup", "/no/such/folder/a.backup"], ["backup", "{folder}/a", "--keep", "2"],
                                       ["backup", "{folder}/a", "--keep", "0"]])  # fmt: skip
    def test_what_cannot_be_is_one_line(self, bare, mariadb, tmp_path, capsys, words):
        (tmp_path / "letter.txt").write_text("not a backup")
        database = bare.db.decode() if isinstance(bare.db, bytes) else bare.db
        url = self.url(replace(mariadb.settings(), database=database))
        assert main([word.format(folder=tmp_path) for word in words] + ["--db", url]) in (1, 2)
        told = capsys.readouterr().err
        assert told.count("\n") == 1
        assert [one.name for one in tmp_path.iterdir()] == ["letter.txt"]
