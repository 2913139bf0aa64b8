"""A studio as one file and back: the same bytes, nothing of another's, nothing hostile.

Opponents: a studio with something in every table; files cut, mixed up and lying. Common practice, no source.
"""

from __future__ import annotations

import io
import json
import random
import zipfile
from collections.abc import Callable
from datetime import UTC, datetime
from typing import ClassVar

import numpy as np
import pytest

from databases import beside, new_database
from laptick.core.base.errors import BundleError, LapTickError, LimitError, NotFoundError
from laptick.db import pieces as pieces_db
from laptick.db.engine.connect import connect, transaction
from laptick.db.moving import bundles as bundles_db
from laptick.db.moving import rows
from laptick.db.moving.facts import MOVED, STAYING
from laptick.db.people import studios as studios_db
from laptick.formats.sound.sound_pack import PACK_RATE, wav_bytes
from laptick.studio.demo_students import add_demo_students
from laptick.studio.moving import bundles, exporting, importing
from laptick.studio.moving.bundles import ask_for_bundle, begin_bundle, complete_bundle, get_bundle, put_part
from laptick.studio.people.audit import erase
from laptick.studio.people.students import leave, list_students
from laptick.studio.use_case import Studio
from sampling import FULL

#: Rows that the demo has none of: one of each, put beside what it has.
MORE = """
INSERT INTO count_choice (studio_id, document) VALUES (1, '{"simple": {"and": "und"}}');
INSERT INTO count_choice (studio_id, piece_id, document) SELECT 1, MIN(id), '{"density": "beats"}' FROM piece
  WHERE id NOT IN (SELECT piece_id FROM count_choice WHERE piece_id IS NOT NULL);
INSERT INTO school_choice (studio_id, level, answers) VALUES (1, 'elementary', '{"chunks": "pairs"}');
INSERT INTO answer (studio_id, piece_id, kind, question, given, is_right)
  SELECT 1, MIN(id), 'count', 'bar 1', '"1 + 2"', TRUE FROM piece;
INSERT INTO pencil_version (studio_id, piece_id, changes) SELECT 1, MIN(id), '[]' FROM piece;
INSERT INTO pencil_version (studio_id, piece_id, before_id, changes)
  SELECT 1, piece_id, MAX(id), '[{"kind": "slur"}]' FROM pencil_version GROUP BY piece_id;
INSERT INTO overrule (studio_id, take_id, status, reason) SELECT 1, MIN(id), 'steady', 'I heard it: “so”' FROM take;
INSERT INTO overrule (studio_id, take_id, status, reason, withdrawn_at)
  SELECT 1, MAX(id), 'not-yet', 'no', UTC_TIMESTAMP(6) FROM take;
UPDATE take SET overruled = 'steady' WHERE id = (SELECT MIN(id) FROM take);
INSERT INTO listening (studio_id, piece_id, study_id, settings, slips, first_beat_s, note)
  SELECT 1, piece_id, id, CONCAT('{"activity": "lap", "study_id": ', id, '}'), '[4.5]', 2.25, '' FROM study LIMIT 1;
INSERT INTO consent (studio_id, student_id, student, given_by, purpose, given_on)
  SELECT 1, MAX(id), 'So and so', 'her mother', 'lessons', '2026-11-01' FROM student;
INSERT INTO consent (studio_id, student, given_by, purpose, given_on, withdrawn_at)
  VALUES (1, 'nobody known', 'a father', 'lessons', '2026-10-01', UTC_TIMESTAMP(6));
INSERT INTO voice_word (studio_id, reading, spoken, audio, vowel_s) VALUES (1, 'one', 'one', '', 0.05);
"""


def run(connection, sql: str, *values) -> list[dict]:
    with transaction(connection) as cursor:
        for statement in filter(str.strip, sql.split(";\n")):
            cursor.execute(statement, values or None)
        return list(cursor.fetchall())


@pytest.fixture(scope="module")
def full(demo_db):
    """The demo, and something in every table that travels; with a recording kept by a consent."""
    connection = connect(demo_db)
    add_demo_students(Studio(connection, 1))
    run(connection, MORE)
    wav = wav_bytes(np.tile([0.0, 0.1, -0.1, 0.0], 6000), PACK_RATE)
    run(connection, "UPDATE voice_word SET audio = %s", wav)
    [take] = run(
        connection,
        "SELECT take.id, study.student_id FROM take JOIN study ON study.id = take.study_id"
        " WHERE study.student_id = (SELECT student_id FROM consent WHERE student_id IS NOT NULL) LIMIT 1",
    )
    run(
        connection,
        "INSERT INTO recording (studio_id, take_id, filename, media_type, device, recorder, is_kept, consent_id, size,"
        " completed_at) SELECT 1, %s, 'evening.webm', 'audio/webm', 'a phone', '{}', TRUE, id, 1500000,"
        " UTC_TIMESTAMP(6) FROM consent WHERE student_id IS NOT NULL",
        take["id"],
    )
    sound = random.Random(7).randbytes(1_500_000)
    for number, part in enumerate((sound[: 2**20], sound[2**20 :])):
        run(
            connection,
            "INSERT INTO recording_chunk (studio_id, recording_id, number, bytes) SELECT 1, MAX(id), %s, %s"
            " FROM recording",
            number,
            part,
        )
    yield Studio(connection, 1)
    connection.close()


@pytest.fixture
def empty(mariadb, template):
    """Another machine's studio, with nothing in it."""
    with new_database(mariadb) as settings:
        template.copied_to(settings)
        connection = connect(settings)
        run(connection, "INSERT INTO studio (name) VALUES ('Another')")  # ids are not those of the first machine
        yield Studio(connection, 1)
        connection.close()


def exported(studio: Studio, student_id: int | None = None) -> bytes:
    bundle, _job = ask_for_bundle(studio, student_id)
    with beside(studio.connection) as writing:
        exporting.write_bundle(studio, bundle.id, writing)
    return packed(studio, bundle.id)


def packed(studio: Studio, bundle_id: int) -> bytes:
    made = get_bundle(studio, bundle_id)
    parts = range(-(-made.size // bundles_db.CHUNK_BYTES))
    data = b"".join(bundles_db.get_chunk(studio.connection, studio.id, bundle_id, number) for number in parts)
    assert bundles_db.chunk_sizes(studio.connection, studio.id, bundle_id).keys() == set(parts)
    studio.connection.rollback()
    assert len(data) == made.size
    return data


def in_the_middle(monkeypatch, connection, do: Callable[[Studio], object]) -> list[str]:
    """Does something once, from another connection, when some of a studio was read; and is held up by nothing. Gives
    whether it was done."""
    read, done = rows.read_rows, list[str]()

    def reading(reader, studio_id, moved, **belongs):
        found = read(reader, studio_id, moved, **belongs)
        if moved.table == "judgement" and not done:
            done.append("done")
            with beside(connection) as other:
                other.cursor().execute("SET SESSION innodb_lock_wait_timeout = 1")
                do(Studio(other, 1))
        return found

    monkeypatch.setattr(rows, "read_rows", reading)
    return done


def differing(one: bytes, other: bytes) -> list[str]:
    """Names of what is not the same in two files; bytes are too long to be shown."""
    with zipfile.ZipFile(io.BytesIO(one)) as mine, zipfile.ZipFile(io.BytesIO(other)) as theirs:
        names = sorted({*mine.namelist(), *theirs.namelist()})
        both = {*mine.namelist()} & {*theirs.namelist()}
        return [name for name in names if name not in both or mine.read(name) != theirs.read(name)]


def _drop(studio: Studio) -> None:
    with transaction(studio.connection):
        bundles_db.drop_bundles(studio.connection, studio.id)


def _ask_for_another(studio: Studio) -> None:
    ask_for_bundle(studio, rows.alive_ids(studio.connection, studio.id, "student")[0])


@pytest.mark.parametrize("take_away", [_drop, _ask_for_another], ids=["as erasing does", "another is asked for"])
def test_who_takes_the_file_away_ends_its_packing(full, monkeypatch, take_away):
    bundle, _job = ask_for_bundle(full, None)
    done = in_the_middle(monkeypatch, full.connection, take_away)
    with beside(full.connection) as writing, pytest.raises(NotFoundError):
        exporting.write_bundle(full, bundle.id, writing)
    assert done


def test_a_file_is_of_one_moment_and_has_nothing_of_a_try_before(full, monkeypatch):
    whole = exported(full)
    bundle, _job = ask_for_bundle(full, None)
    [piece] = run(full.connection, "SELECT MAX(id) AS id FROM piece WHERE deleted_at IS NULL")
    [old] = run(full.connection, "SELECT title FROM piece WHERE id = %s", piece["id"])

    def change(studio: Studio) -> None:
        run(studio.connection, "UPDATE piece SET title = 'Other words' WHERE id = %s", piece["id"])
        run(studio.connection, "UPDATE take SET note = 'of later'")

    [notes] = [run(full.connection, "SELECT id, note FROM take")]
    done = in_the_middle(monkeypatch, full.connection, change)
    told = list[tuple[int, int]]()
    with beside(full.connection) as writing:
        bundles_db.put_chunk(writing, 1, bundle.id, 4000, b"of a longer try")
        writing.commit()
        exporting.write_bundle(full, bundle.id, writing, lambda *progress: told.append(progress))
    run(full.connection, "UPDATE piece SET title = %s WHERE id = %s", old["title"], piece["id"])
    for take in notes:
        run(full.connection, "UPDATE take SET note = %s WHERE id = %s", take["note"], take["id"])
    assert done
    assert differing(packed(full, bundle.id), whole) == []
    assert told == sorted(told)
    assert told[-1][0] == told[-1][1] > 0


def sent(studio: Studio, data: bytes) -> int:
    bundle = begin_bundle(studio, "a studio.zip")
    for number, first in enumerate(range(0, len(data), bundles_db.CHUNK_BYTES)):
        put_part(studio, bundle.id, number, data[first : first + bundles_db.CHUNK_BYTES])
    complete_bundle(studio, bundle.id)
    return bundle.id


def entries(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as opened:
        return {name: opened.read(name) for name in opened.namelist()}


def zipped(parts: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as opened:
        for name, data in parts.items():
            opened.writestr(name, data)
    return out.getvalue()


@pytest.fixture(scope="module")
def out(full):
    return exported(full)


@pytest.fixture(scope="module")
def parts(out):
    return entries(out)


class TestFacts:
    def test_every_table_travels_or_stays(self, connection):
        found = {next(iter(row.values())) for row in run(connection, "SHOW TABLES")}
        moved = {one.table for one in MOVED}
        assert found == moved | STAYING
        assert not moved & STAYING

    @pytest.mark.parametrize("moved", MOVED, ids=lambda one: one.table)
    def test_every_column_travels_or_is_left_for_a_reason(self, connection, moved):
        columns = {row["Field"]: row for row in run(connection, f"SHOW COLUMNS FROM {moved.table}")}
        told = [column.name for column in moved.columns]
        parts = [set(told), set(moved.apart), set(moved.left), {"id", "studio_id"} & set(columns)]
        assert set(columns) == set.union(*parts)
        assert sum(map(len, parts)) == len(columns)
        for column in moved.columns:
            assert column.may_be_none == (columns[column.name]["Null"] == "YES"), column.name

    def test_no_text_is_longer_than_its_column(self, connection):
        for moved in MOVED:
            for column in moved.columns:
                [row] = run(connection, f"SHOW COLUMNS FROM {moved.table} LIKE '{column.name}'")
                kind = row["Type"]
                if kind.startswith(("varchar", "char")) and not column.among:
                    assert column.most <= int(kind[kind.index("(") + 1 : -1]), (moved.table, column.name)


class TestThereAndBack:
    def test_the_same_studio_makes_the_same_bytes(self, full):
        assert exported(full) == exported(full)

    def test_what_was_brought_in_goes_out_byte_for_byte(self, full, empty):
        out = exported(full)
        brought = importing.bring_in(empty, sent(empty, out))
        again = exported(empty)
        assert entries(again) == entries(out)
        assert again == out
        counted = json.loads(entries(out)["contents.json"])["counted"]
        assert counted["takes"] == brought.takes > 40
        assert counted["students"] == len(brought.students) == 6
        assert counted["recordings"] == counted["words"] == 1
        assert "damaged" not in counted

    def test_parts_of_the_file_may_end_anywhere(self, out, empty, monkeypatch):
        for module in (bundles_db, bundles):
            monkeypatch.setattr(module, "CHUNK_BYTES", 701)
            monkeypatch.setattr(module, "MOST_CHUNKS", 10**5)
        monkeypatch.setattr(bundles_db, "MOST_HELD", 2)
        importing.bring_in(empty, sent(empty, out))
        assert exported(empty) == out

    def test_something_of_every_table_went(self, full, out, empty):
        importing.bring_in(empty, sent(empty, out))
        for moved in MOVED:
            both = [
                run(studio.connection, f"SELECT COUNT(*) AS n FROM {moved.table}")[0]["n"] for studio in (full, empty)
            ]
            assert both[0] > 0, moved.table
            if moved.table not in ("studio", "study", "consent"):  # studies only looked at, consents of nobody known
                assert both[1] == both[0], moved.table

    def test_lists_show_of_takes_what_they_showed(self, full, out, empty):
        importing.bring_in(empty, sent(empty, out))
        told = (
            "SELECT status, overruled, checker_version, judged_at, JSON_COMPACT(verdict) AS verdict,"
            " JSON_COMPACT(codes) AS codes, median_bpm, state, note, created_at FROM take ORDER BY id"
        )
        before, after = ([self.read(row) for row in run(studio.connection, told)] for studio in (full, empty))
        assert after == before

    @staticmethod
    def read(row):
        return {**row, **{name: json.loads(row[name] or "null") for name in ("verdict", "codes")}}

    def test_takes_name_their_own_study(self, out, empty):
        importing.bring_in(empty, sent(empty, out))
        rows = run(
            empty.connection,
            "SELECT study_id, JSON_VALUE(settings, '$.study_id') AS named FROM take UNION ALL"
            " SELECT study_id, JSON_VALUE(settings, '$.study_id') FROM listening",
        )
        named = [row for row in rows if row["named"] is not None]
        assert named
        assert all(int(row["named"]) == row["study_id"] for row in named)

    def test_into_a_studio_with_something_in_it_everything_is_added(self, full, empty):
        data = exported(full)
        importing.bring_in(empty, sent(empty, data))
        run(empty.connection, "UPDATE studio SET name = 'My own' WHERE id = 1")
        before = len(list_students(empty))
        second = importing.bring_in(empty, sent(empty, data))
        assert studios_db.get_studio(empty.connection, 1)["name"] == "My own"
        assert len(list_students(empty)) == before + len(second.students)
        importing.take_back(empty, bundles_db.newest_bundle(empty.connection, 1, "in")["id"])
        assert len(list_students(empty)) == before
        assert exported(empty).count(b"x") >= 0  # it can go out again
        assert set(entries(exported(empty))) == set(entries(data))

    def test_bringing_in_twice_is_once(self, out, empty):
        bundle_id = sent(empty, out)
        assert importing.bring_in(empty, bundle_id) == importing.bring_in(empty, bundle_id)
        assert run(empty.connection, "SELECT COUNT(*) AS n FROM bundle_chunk")[0]["n"] == 0

    def test_nobody_elses_studio_is_touched(self, out, empty):
        importing.bring_in(empty, sent(empty, out))
        for moved in MOVED:
            if moved.table != "studio":
                found = run(empty.connection, f"SELECT COUNT(*) AS n FROM {moved.table} WHERE studio_id <> 1")
                assert found[0]["n"] == 0


class TestAStudentsShare:
    def test_holds_that_student_and_nobody_else(self, full, empty):
        students = [one.student for one in list_students(full) if not one.student.is_built_in]
        student = max(students, key=lambda one: one.id)
        parts = entries(exported(full, student.id))
        whole = b"\n".join(parts.values()) + "\n".join(parts).encode()
        for other in students:
            assert (other.name.encode() in whole) == (other.id == student.id), other.name
        assert not any(name.startswith("voice/") for name in parts)
        brought = importing.bring_in(empty, sent(empty, exported(full, student.id)))
        assert len(brought.students) == 1
        assert brought.pieces

    def test_comes_out_again_as_it_went_in(self, full, empty):
        student = max(one.student.id for one in list_students(full))
        out = exported(full, student)
        [new] = importing.bring_in(empty, sent(empty, out)).students
        run(empty.connection, "UPDATE studio SET name = (SELECT %s) WHERE id = 1",
            studios_db.get_studio(full.connection, 1)["name"])  # fmt: skip
        assert entries(exported(empty, new)) == entries(out)

    def test_of_a_student_who_is_not_here(self, full):
        with pytest.raises(NotFoundError):
            ask_for_bundle(full, 10**6)


class TestWhatIsNotInIt:
    def test_what_was_deleted(self, full):
        [row] = run(full.connection, "SELECT MIN(id) AS id FROM piece WHERE deleted_at IS NULL")
        piece = row["id"]
        title = run(full.connection, "SELECT title FROM piece WHERE id = %s", piece)[0]["title"].encode()
        assert title in exported(full)
        with transaction(full.connection):
            pieces_db.mark_piece_deleted(full.connection, 1, piece, deleted=True)
        assert all(title not in data for data in entries(exported(full)).values())
        with transaction(full.connection):
            pieces_db.mark_piece_deleted(full.connection, 1, piece, deleted=False)

    def test_whose_consent_was_withdrawn_is_not_heard(self, full):
        run(full.connection, "UPDATE consent SET withdrawn_at = UTC_TIMESTAMP(6) WHERE student_id IS NOT NULL")
        assert not any("/sound/" in name for name in entries(exported(full)))
        run(full.connection, "UPDATE consent SET withdrawn_at = NULL WHERE student_id IS NOT NULL")
        assert any("/sound/" in name for name in entries(exported(full)))

    def test_a_damaged_row_is_left_out_and_counted(self, full, empty):
        run(full.connection, "UPDATE take SET level = 'nonsense' WHERE id = (SELECT MAX(id) FROM take)")
        out = exported(full)
        run(full.connection, "UPDATE take SET level = 'elementary' WHERE level = 'nonsense'")
        counted = json.loads(entries(out)["contents.json"])["counted"]
        assert counted["damaged"] == 1
        assert importing.bring_in(empty, sent(empty, out)).takes == counted["takes"]

    def test_files_of_before_go_when_somebody_is_erased(self, out, empty):
        importing.bring_in(empty, sent(empty, out))
        exported(empty)
        student = next(one.student for one in list_students(empty) if not one.student.is_built_in)
        leave(empty, student.id)
        erase(empty, student.id)
        assert run(empty.connection, "SELECT id FROM bundle") == []
        assert student.name.encode() not in b"".join(entries(exported(empty)).values())


class TestHostileFiles:
    def refused(self, studio: Studio, data: bytes) -> LapTickError:
        """Refused in words, with nothing of it stored."""
        before = {moved.table: run(studio.connection, f"SELECT COUNT(*) AS n FROM {moved.table}") for moved in MOVED}
        with pytest.raises((BundleError, LimitError)) as refused:
            importing.bring_in(studio, sent(studio, data))
        after = {moved.table: run(studio.connection, f"SELECT COUNT(*) AS n FROM {moved.table}") for moved in MOVED}
        assert before == after
        assert refused.value.kept
        return refused.value

    @pytest.mark.parametrize("what", ["nothing", "a beginning", "a letter", "no contents", "no format", "too deep"])
    def test_what_is_no_such_file(self, empty, what):
        data = {
            "nothing": b"",
            "a beginning": b"PK\x03\x04",
            "a letter": b"not a zip at all" * 100,
            "no contents": zipped({"a.txt": b"x"}),
            "no format": zipped({"contents.json": b"{}"}),
            "too deep": zipped({"contents.json": b"[" * 5000}),
        }[what]
        with pytest.raises(LapTickError):
            importing.bring_in(empty, sent(empty, data))
        assert run(empty.connection, "SELECT COUNT(*) AS n FROM piece")[0]["n"] == 0

    @staticmethod
    def changed(parts: dict[str, bytes], end: str, change) -> dict[str, bytes]:
        """The first document of that ending, changed."""
        name = next(name for name in sorted(parts) if name.endswith(end))
        if end.endswith("jsonl"):
            name = max((name for name in parts if name.endswith(end)), key=lambda one: len(parts[one]))
            lines = parts[name].splitlines()
            document = json.loads(lines[0])
            change(document)
            return {**parts, name: b"\n".join([json.dumps(document).encode(), *lines[1:]])}
        document = json.loads(parts[name])
        change(document)
        return {**parts, name: json.dumps(document).encode()}

    CASES: ClassVar = {
        "a level that is none": ("piece.json", lambda d: d.update(level="virtuoso"), "level"),
        "a title too long": ("piece.json", lambda d: d.update(title="x" * 201), "title"),
        "a title that is a number": ("piece.json", lambda d: d.update(title=7), "title"),
        "half a letter": ("piece.json", lambda d: d.update(title="\ud800"), "title"),
        "no tempo": ("piece.json", lambda d: d.pop("target_bpm"), "target_bpm"),
        "a tempo without end": ("piece.json", lambda d: d.update(target_bpm=float("inf")), None),
        "a date that is none": ("piece.json", lambda d: d.update(created_at="yesterday"), "created_at"),
        "a file elsewhere": ("piece.json", lambda d: d.update(file="../../etc/passwd"), "passwd"),
        "a pencil of the future": ("piece.json", lambda d: d.update(pencil_holds=99), "pencil_holds"),
        "two pieces of a number": ("piece.json", lambda d: d.update(number=2), None),
        "a number that is a word": ("piece.json", lambda d: d.update(number="one"), "number"),
        "deep": ("piece.json", lambda d: d.update(reading=json.loads("[" * 40 + "]" * 40)), "reading"),
        "a student of no name": ("student.json", lambda d: d.update(name=None), "name"),
        "a reach below nothing": ("student.json", lambda d: d.update(span=-1), "span"),
        "studies that are no list": ("student.json", lambda d: d.update(studies={}), "studies"),
        "a take of no study": ("takes.jsonl", lambda d: d.update(study=999), None),
        "a take of no number": ("takes.jsonl", lambda d: d.update(number=True), "number"),
        "a take of nothing": ("takes.jsonl", lambda d: d.update(strikes=None), None),
        "a judgement of nothing": ("takes.jsonl", lambda d: d.update(judgements=[None]), "judgements"),
        "entries that are no names": ("contents.json", lambda d: d.update(pieces=[1]), "contents"),
        "a later version": ("contents.json", lambda d: d.update(version=2), None),
        "the wrong format": ("contents.json", lambda d: d.update(format="other"), None),
    }  # fmt: skip

    @pytest.mark.parametrize("case", CASES)
    def test_what_cannot_be_is_refused_with_its_place(self, empty, parts, case):
        end, change, where = self.CASES[case]
        error = self.refused(empty, zipped(self.changed(parts, end, change)))
        assert where is None or where in (error.where or ""), error.where

    def test_a_spoken_word_that_is_none(self, empty, parts):
        name = next(name for name in parts if name.startswith("voice/") and name.endswith(".wav"))
        assert "voice" in (self.refused(empty, zipped({**parts, name: b"MZ\x90"})).where or "")

    def test_a_bomb_is_not_unpacked(self, empty, parts):
        name = next(name for name in parts if name.endswith("score.musicxml"))
        assert self.refused(empty, zipped({**parts, name: bytes(200 * 2**20)})).code == "too-large"

    def test_cut_or_flipped_anywhere_nothing_breaks(self, full, empty):
        """Refused in words, or brought in whole where the place does not matter: never anything between."""
        data, chance = exported(full), random.Random(11)
        for number in range(60 if FULL else 9):
            broken = bytearray(data)
            if number % 3 == 0:
                broken = broken[: chance.randrange(len(data))]
            else:
                for _ in range(3):
                    broken[chance.randrange(len(data))] ^= 1 << chance.randrange(8)
            try:
                importing.bring_in(empty, sent(empty, bytes(broken)))
            except LapTickError:
                assert run(empty.connection, "SELECT COUNT(*) AS n FROM piece")[0]["n"] == 0
            else:
                assert entries(exported(empty)) == entries(data)
                break  # it is not empty any more

    def test_documents_mutated_at_random_are_refused_or_kept(self, full, empty, parts):
        chance = random.Random(5)
        values = [None, -1, 2**70, 1e400, "x", [], {}, True, "9" * 5000, [[]], {"a": {}}]
        for _ in range(300 if FULL else 12):
            end = chance.choice(["piece.json", "student.json", "takes.jsonl", "studio.json"])

            def change(document):
                inside = document
                while True:
                    keys = list(inside) if isinstance(inside, dict) else range(len(inside))
                    key = chance.choice(list(keys)) if keys else None
                    if key is None:
                        return
                    if isinstance(inside[key], dict | list) and inside[key] and chance.random() < 0.7:
                        inside = inside[key]
                        continue
                    inside[key] = chance.choice(values)
                    return

            try:
                importing.bring_in(empty, sent(empty, zipped(self.changed(parts, end, change))))
            except LapTickError:
                continue
            exported(empty)  # what was let in can be read


def test_a_file_is_kept_a_day(full):
    exported(full)
    run(full.connection, "UPDATE bundle SET created_at = UTC_TIMESTAMP(6) - INTERVAL 25 HOUR")
    with transaction(full.connection):
        bundles_db.forget_bundles(full.connection)
    assert run(full.connection, "SELECT id FROM bundle") == []
    assert run(full.connection, "SELECT bundle_id FROM bundle_chunk LIMIT 1") == []


def test_times_are_written_to_the_microsecond(full):
    piece = next(
        json.loads(data) for name, data in sorted(entries(exported(full)).items()) if name.endswith("piece.json")
    )
    assert datetime.fromisoformat(piece["created_at"]).tzinfo == UTC
    assert len(piece["created_at"]) == len("2026-11-30T15:49:02.123456Z")
