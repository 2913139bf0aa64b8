"""Migrations, transactions, and that no studio sees another's rows – on a real MariaDB."""

from __future__ import annotations

import json
import re
from dataclasses import replace

import pymysql
import pytest

from databases import new_database
from laptick.core.base.errors import NotFoundError, StorageError
from laptick.db import judgements, pencil, pieces, recordings, rungs, shelf, studies, takes
from laptick.db.engine import migrate as migrations
from laptick.db.engine.connect import DbSettings, connect, transaction
from laptick.db.engine.migrate import migrate, migration_files, split_statements


def add_piece(connection, studio_id=1, title="A piece", demo_key=None):
    new = pieces.NewPiece(
        title=title, composer="", filename="a.xml", original=b"<x/>\x00\xff", level="elementary", target_bpm=80.5,
        demo_key=demo_key,
    )  # fmt: skip
    return pieces.add_piece(connection, studio_id, new)


def judgement(version="1", status="steady", codes=(), median_bpm=61.25):
    document = {
        "findings": [{"code": c} for c in codes],
        "verdict": {"status": status},
        "tempo": {"median_bpm": median_bpm},
    }
    return judgements.NewJudgement(version, status, document, {"status": status}, list(codes), median_bpm)


def add_take(connection, piece_id, studio_id=1, status="steady", codes=(), client_key=None):
    new = takes.NewTake(
        piece_id=piece_id, study_id=study(connection, piece_id, studio_id), activity="lap", settings={"activity": "lap"}, assigned_bpm=60,
        level="elementary", strikes={"taps": [{"t": 1.5, "hand": "left"}]}, played_by="student", client_key=client_key,
    )  # fmt: skip
    take_id = takes.add_take(connection, studio_id, new)
    if status is not None:
        judgements.add_judgement(connection, studio_id, take_id, judgement(status=status, codes=codes))
    return take_id


def other_studio(connection) -> int:
    with transaction(connection) as cursor:
        cursor.execute("INSERT INTO studio (name) VALUES ('Another')")
        studio_id = cursor.lastrowid
        cursor.execute("INSERT INTO student (studio_id, name, is_built_in) VALUES (%s, 'A', TRUE)", (studio_id,))
        return studio_id


def study(connection, piece_id, studio_id=1) -> int:
    return studies.study_of_piece(connection, studio_id, piece_id)["id"]


def the_tables(settings):
    """(statement that makes it, how many rows) of every table."""
    opened = connect(settings)
    found = {}
    with transaction(opened) as cursor:
        cursor.execute("SHOW TABLES")
        for name in [next(iter(row.values())) for row in cursor.fetchall()]:
            cursor.execute(f"SHOW CREATE TABLE `{name}`")
            statement = re.sub(r" AUTO_INCREMENT=\d+", "", cursor.fetchone()["Create Table"])
            cursor.execute(f"SELECT COUNT(*) AS rows_of_it FROM `{name}`")
            found[name] = (statement, cursor.fetchone()["rows_of_it"])
    opened.close()
    return found


class TestMigrations:
    def test_run_once_and_only_once(self, empty_db):
        connection = connect(empty_db)
        assert migrate(connection) == [name for name, _ in migration_files()]
        assert migrate(connection) == []

    def test_what_other_tests_begin_with_is_what_they_make(self, empty_db, mariadb, template):
        template.copied_to(empty_db)
        with new_database(mariadb) as by_migrations:
            opened = connect(by_migrations)
            migrate(opened)
            opened.close()
            assert the_tables(empty_db) == the_tables(by_migrations)

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

    def test_a_studio_of_before_is_brought_along(self, empty_db, monkeypatch):
        """Takes judged while documents stood as plain JSON keep verdict, codes and tempo; the newest its document."""
        connection, files = connect(empty_db), migration_files()
        monkeypatch.setattr(migrations, "migration_files", lambda: files[:10])
        migrate(connection)
        document = (
            '{"findings": [{"code": "drift"}, {"code": "missing"}], "verdict": {"status": "nearly"},'
            ' "tempo": {"median_bpm": %s}}'
        )
        with transaction(connection) as cursor:
            cursor.execute(
                "INSERT INTO piece (studio_id, title, composer, filename, original, original_sha256, level, target_bpm)"
                " VALUES (1, 'A', '', 'a.xml', 'x', UNHEX(REPEAT('00', 32)), 'elementary', 60)"
            )
            cursor.execute(
                "INSERT INTO take (studio_id, piece_id, rung, settings, assigned_bpm, level, strikes, played_by, note)"
                " VALUES (1, 1, 'lap', '{}', 60, 'elementary', '{}', 'student', '')"
            )
            for median in ("61.5", "null"):
                cursor.execute(
                    "INSERT INTO judgement (studio_id, take_id, checker_version, status, document)"
                    " VALUES (1, 1, '4', 'nearly', %s)",
                    (document % median,),
                )
        monkeypatch.setattr(migrations, "migration_files", lambda: files)
        migrate(connection)
        stored = takes.get_take(connection, 1, 1)
        assert (stored["state"], stored["verdict"], stored["median_bpm"]) == ("judged", {"status": "nearly"}, None)
        assert stored["document"] == json.loads(document % "null")
        assert judgements.earlier_judgements(connection, 1, 1)[0]["verdict"] == {"status": "nearly"}
        with connection.cursor() as cursor:
            cursor.execute("SELECT codes, median_bpm, document IS NULL AS bare FROM judgement ORDER BY id")
            older, newest = cursor.fetchall()
        assert (json.loads(older["codes"]), older["median_bpm"], older["bare"]) == (["drift", "missing"], 61.5, 1)
        assert not newest["bare"]

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
        assert shelf.list_shelf(connection, other) == []
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

    def test_a_take_sent_twice_is_known(self, connection):
        take = add_take(connection, add_piece(connection), client_key="abc")
        assert takes.take_sent_before(connection, 1, "abc") == take
        assert takes.take_sent_before(connection, 1, "abd") is None
        assert takes.take_sent_before(connection, 1, None) is None
        assert takes.take_sent_before(connection, other_studio(connection), "abc") is None

    def test_judging_again_keeps_the_earlier_judgement_without_its_document(self, connection):
        piece = add_piece(connection)
        take = add_take(connection, piece)
        judgements.add_judgement(connection, 1, take, judgement("2", "nearly", median_bpm=None))
        stored = takes.get_take(connection, 1, take)
        assert (stored["checker_version"], stored["document"]["verdict"]) == ("2", {"status": "nearly"})
        [listed] = takes.list_takes(connection, 1, piece)
        assert (listed["status"], listed["median_bpm"], listed["verdict"]) == ("nearly", None, {"status": "nearly"})
        [earlier] = judgements.earlier_judgements(connection, 1, take)
        assert (earlier["checker_version"], earlier["verdict"]) == ("1", {"status": "steady"})
        with connection.cursor() as cursor:
            cursor.execute("SELECT checker_version, document IS NULL AS bare FROM judgement ORDER BY id")
            assert [tuple(row.values()) for row in cursor.fetchall()] == [("1", 1), ("2", 0)]

    def test_a_document_is_kept_compressed(self, connection):
        take = add_take(connection, add_piece(connection))
        judgements.add_judgement(connection, 1, take, replace(judgement(), document={"notes": [{"t": 1.0}] * 2000}))
        with connection.cursor() as cursor:
            cursor.execute("SELECT LENGTH(document) AS n FROM judgement ORDER BY id DESC LIMIT 1")
            assert cursor.fetchone()["n"] < 500
        assert len(takes.get_take(connection, 1, take)["document"]["notes"]) == 2000

    def test_a_take_that_is_not_judged_is_one_all_the_same(self, connection):
        piece = add_piece(connection)
        take = add_take(connection, piece, status=None)
        assert takes.get_take(connection, 1, take)["state"] == "waiting"
        [listed] = takes.list_takes(connection, 1, piece)
        assert (listed["status"], listed["verdict"]) == (None, None)
        assert takes.count_takes(connection, 1, piece) == 1
        takes.set_state(connection, 1, take, "failed", "no strikes were heard")
        assert takes.get_take(connection, 1, take)["failure"] == "no strikes were heard"
        judgements.add_judgement(connection, 1, take, judgement())
        stored = takes.get_take(connection, 1, take)
        assert (stored["state"], stored["failure"]) == ("judged", None)

    def test_previous_codes_are_of_the_newest_followed_take_before(self, connection):
        piece = add_piece(connection)

        def previous(settings, before_id):
            of_study, bars = study(connection, piece), settings.get("measures")
            before = takes.Before(of_study, settings["activity"], bars, None, settings.get("hands"), before_id)
            return takes.previous_codes(connection, 1, before)

        assert previous({"activity": "lap"}, None) is None
        first = add_take(connection, piece, codes=("hesitation",))
        add_take(connection, piece, status="could-not-follow")
        assert previous({"activity": "lap"}, None) == {"hesitation"}
        assert previous({"activity": "lap"}, first) is None
        for other in (
            {"activity": "count"},
            {"activity": "lap", "measures": "3"},
            {"activity": "lap", "hands": "left"},
        ):
            assert previous(other, None) is None

    def test_deleting_and_bringing_back(self, connection):
        piece = add_piece(connection)
        take = add_take(connection, piece)
        takes.mark_take_deleted(connection, 1, take, deleted=True)
        assert takes.list_takes(connection, 1, piece) == []
        takes.mark_take_deleted(connection, 1, take, deleted=False)
        assert [row["id"] for row in takes.list_takes(connection, 1, piece)] == [take]


class TestSecondLock:
    """Rows of one studio cannot hang on another's, whatever a query says; deleting takes along what hangs on it."""

    def test_nothing_hangs_on_another_studios_piece_or_take(self, connection):
        other, piece = other_studio(connection), add_piece(connection)
        take, of_study = add_take(connection, piece), study(connection, piece)
        strange = (
            ("INSERT INTO pencil_version (studio_id, piece_id, changes) VALUES (%s, %s, '[]')", piece),
            ("INSERT INTO answer (studio_id, piece_id, kind, question, given, is_right) VALUES (%s, %s, 'a', 'b', '[]', 1)",
             piece),
            ("INSERT INTO count_choice (studio_id, piece_id, document) VALUES (%s, %s, '{}')", piece),
            ("INSERT INTO listening (studio_id, piece_id, study_id, settings, slips, first_beat_s, note)"
             f" VALUES (%s, %s, {of_study}, '{{}}', '[]', 0, '')", piece),
            ("INSERT INTO take (studio_id, piece_id, study_id, activity, settings, assigned_bpm, level, played_by, note)"
             f" VALUES (%s, %s, {of_study}, 'lap', '{{}}', 60, 'elementary', 'student', '')", piece),
            ("INSERT INTO rung_event (studio_id, study_id, rung, kind, day, said_by) VALUES (%s, %s, 'a', 'word', 1, 'b')",
             of_study),
            ("INSERT INTO rung_state (studio_id, study_id, rung, gate, state) VALUES (%s, %s, 'a', 'word', '{}')",
             of_study),
            ("INSERT INTO study (studio_id, student_id, piece_id, measures) VALUES (%s, 1, %s, '1')", piece),
            ("INSERT INTO judgement (studio_id, take_id, checker_version, status) VALUES (%s, %s, '1', 'steady')", take),
            ("INSERT INTO overrule (studio_id, take_id, status, reason) VALUES (%s, %s, 'steady', 'so')", take),
        )  # fmt: skip
        for sql, owned in strange:
            for studio_id, allowed in ((other, False), (1, True)):
                with connection.cursor() as cursor:
                    if allowed:
                        cursor.execute(sql, (studio_id, owned))
                    else:
                        with pytest.raises(pymysql.err.IntegrityError):
                            cursor.execute(sql, (studio_id, owned))

    def test_a_piece_points_at_a_version_of_its_own(self, connection):
        mine, another = add_piece(connection), add_piece(connection)
        version = pencil.add_version(connection, 1, another, None, [])
        with connection.cursor() as cursor, pytest.raises(pymysql.err.IntegrityError):
            cursor.execute("UPDATE piece SET pencil_version_id = %s WHERE id = %s", (version, mine))

    def test_what_a_deletion_takes_along_is_decided_by_the_keys(self, connection):
        """Every table that names a piece or a take loses its rows with the piece, and no list in the code says so."""
        piece = add_piece(connection, demo_key="one")
        take = add_take(connection, piece)
        judgements.set_overrule(connection, 1, take, status="steady", reason="heard it")
        pencil.add_version(connection, 1, piece, None, [])
        with connection.cursor() as cursor:
            cursor.execute("INSERT INTO count_choice (studio_id, piece_id, document) VALUES (1, %s, '{}')", (piece,))
            cursor.execute(
                "INSERT INTO answer (studio_id, piece_id, kind, question, given, is_right) VALUES (1, %s, 'a', 'b', '[]', 1)",
                (piece,),
            )
            cursor.execute(
                "INSERT INTO listening (studio_id, piece_id, study_id, settings, slips, first_beat_s, note)"
                " VALUES (1, %s, %s, '{}', '[]', 0, '')", (piece, study(connection, piece)),
            )  # fmt: skip
            event = rungs.NewEvent("lap:1-1:both", "try", 1, "the checker", take)
            rungs.add_events(connection, 1, study(connection, piece), [event])
            state = rungs.NewState("lap:1-1:both", "word", None, "", {})
            rungs.put_states(connection, 1, study(connection, piece), [state])
            new = recordings.NewRecording(take, "take.wav", "audio/wav", "", {}, None)
            recording = recordings.add_recording(connection, 1, new)
            recordings.put_chunk(connection, 1, recording, 0, b"sound")
            recordings.set_playback(connection, 1, recording, b"copy", 10)
            cursor.execute(
                "SELECT DISTINCT table_name AS t FROM information_schema.columns WHERE table_schema = DATABASE()"
                " AND column_name IN ('recording_id', 'piece_id', 'take_id', 'study_id')"
            )
            tables = {row["t"] for row in cursor.fetchall()}
            assert tables == {
                "take", "judgement", "overrule", "pencil_version", "count_choice", "answer", "listening", "study",
                "rung_event", "rung_state", "recording", "recording_chunk", "playback_chunk",
            }  # fmt: skip

            def rows(table):
                cursor.execute(f"SELECT COUNT(*) AS n FROM {table}")
                return cursor.fetchone()["n"]

            assert {table: rows(table) for table in tables} == dict.fromkeys(tables, 1)
            pieces.delete_demo(connection, 1)
            assert {table: rows(table) for table in tables} == dict.fromkeys(tables, 0)


class TestTransactions:
    def test_one_inside_another_is_a_fault_of_ours(self, connection):
        with transaction(connection), pytest.raises(RuntimeError), transaction(connection):
            pass
        with transaction(connection) as cursor:
            cursor.execute("SELECT 1")

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


def test_a_second_start_takes_over_a_server_that_runs(mariadb):
    from laptick.db.engine.server import MariaDb

    again = MariaDb(mariadb.folder)
    assert again.running_pid() == mariadb.running_pid()
    assert again.start() is False
    assert again.settings() == mariadb.settings()


def test_a_server_has_a_temporary_folder_of_its_own(mariadb):
    """Servers that share one clear each other's temporary tables when they start."""
    with transaction(connect(mariadb.settings(), database=False)) as cursor:
        cursor.execute("SELECT @@tmpdir AS folder")
        assert cursor.fetchone()["folder"] == str(mariadb.folder / "tmp")
