"""All that is stored as one file, and back: every row of every table, but for what is made anew by itself.

The file is gzip (RFC 1952) of lines of JSON: first what it is and which migrations had run, then a line a row, each
table's after a line that names it, last how many there were. It is read from one moment of the database, while others
go on; the same rows make the same bytes. It is brought into an empty database only: what was checked to its last byte
before anything of it is stored.
"""

from __future__ import annotations

import base64
import gzip
import json
import zlib
from collections.abc import Callable, Iterator
from datetime import date, datetime
from typing import IO, Any

import pymysql.cursors

from laptick.core.base.errors import BundleError, ConflictError
from laptick.db.engine.connect import Connection, transaction
from laptick.db.engine.migrate import migrate, migration_files

FORMAT, VERSION = "lap-tick-backup", 1

#: Made anew by itself, or of a day only.
LEFT_OUT = frozenset({"made", "bundle", "bundle_chunk", "schema_migration"})

#: So many rows, or bytes of them, are stored at once.
_BATCH_ROWS, _BATCH_BYTES = 500, 8 * 2**20

#: No row is written longer than this: its longest parts are 16 MB, four thirds of that as letters.
_MOST_LINE = 64 * 2**20

_KEPT = "Nothing was restored."


def write_backup(connection: Connection, out: IO[bytes]) -> int:
    """Writes all that is stored; gives how many rows.

    Raises:
        StorageError: the database failed.
    """
    rows = 0
    with (
        gzip.GzipFile(filename="", mode="wb", fileobj=out, mtime=0, compresslevel=6) as packed,
        transaction(connection) as cursor,
    ):
        cursor.execute("START TRANSACTION WITH CONSISTENT SNAPSHOT")
        cursor.execute("SELECT name, statement FROM schema_migration ORDER BY name, statement")
        ran = [[row["name"], row["statement"]] for row in cursor.fetchall()]
        _line(packed, {"format": FORMAT, "version": VERSION, "migrations": ran})
        for table in _tables(cursor):
            columns, key = _columns(cursor, table)
            _line(packed, {"table": table, "columns": columns})
            for row in _rows(connection, table, columns, key):
                _line(packed, [_told(value) for value in row])
                rows += 1
        _line(packed, {"rows": rows})
    return rows


def restore_backup(connection: Connection, file: IO[bytes]) -> int:
    """Puts everything of a backup into an empty database, and brings it up to what this version needs; gives how many
    rows.

    Raises:
        BundleError: the file is damaged, or of a later version. Nothing was stored.
        ConflictError: the database holds something.
        StorageError: the database failed; it is empty again.
    """
    head, whole = _checked(file)
    _check_empty(connection)
    ran = {(str(name), int(number)) for name, number in head["migrations"]}
    migrate(connection, only=ran)
    file.seek(0)
    try:
        _store(connection, file)
    except BaseException:
        _clear(connection)
        raise
    migrate(connection)
    return whole


# -- writing ---------------------------------------------------------------------------------------------


def _line(out: gzip.GzipFile, document: Any) -> None:
    out.write(json.dumps(document, ensure_ascii=False, separators=(",", ":")).encode() + b"\n")


def _tables(cursor: pymysql.cursors.DictCursor) -> list[str]:
    cursor.execute("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'")
    return sorted({next(iter(row.values())) for row in cursor.fetchall()} - LEFT_OUT)


def _columns(cursor: pymysql.cursors.DictCursor, table: str) -> tuple[list[str], list[str]]:
    """The columns that are stored (not worked out), and those of the primary key."""
    cursor.execute(f"SHOW COLUMNS FROM `{table}`")
    found = list(cursor.fetchall())
    return (
        [row["Field"] for row in found if "GENERATED" not in row["Extra"].upper()],
        [row["Field"] for row in found if row["Key"] == "PRI"],
    )


def _rows(connection: Connection, table: str, columns: list[str], key: list[str]) -> Iterator[tuple[Any, ...]]:
    """Row by row, without ever holding a table."""
    with connection.cursor(pymysql.cursors.SSCursor) as cursor:
        named, order = (", ".join(f"`{name}`" for name in names) for names in (columns, key))
        cursor.execute(f"SELECT {named} FROM `{table}` ORDER BY {order}")
        while (row := cursor.fetchone()) is not None:
            yield row


def _told(value: Any) -> Any:
    if isinstance(value, bytes):
        return {"bytes": base64.b64encode(value).decode()}
    if isinstance(value, datetime):
        return {"at": value.isoformat(timespec="microseconds")}
    if isinstance(value, date):
        return {"on": value.isoformat()}
    if value is None or isinstance(value, int | float | str):
        return value
    raise TypeError(f"a column of {type(value).__name__} has no way into a backup")


# -- reading ---------------------------------------------------------------------------------------------


def _lines(file: IO[bytes]) -> Iterator[Any]:
    number = 0
    try:
        with gzip.GzipFile(fileobj=file) as opened:
            while line := opened.readline(_MOST_LINE + 1):
                number += 1
                if len(line) > _MOST_LINE:
                    raise BundleError("a row is longer than any may be.", where=f"line {number}", kept=_KEPT)
                yield json.loads(line)
    except (OSError, EOFError, zlib.error, ValueError, RecursionError) as broken:
        raise BundleError(
            "this is no backup, or not all of one.", where=f"line {number + 1}", kept=_KEPT, todo="Take another one."
        ) from broken


def _checked(file: IO[bytes]) -> tuple[dict[str, Any], int]:
    """What the file says it is, and how many rows it holds: read to the end, with the sum that gzip keeps of it."""
    head, rows, last, width = None, 0, None, 0
    for document in _lines(file):
        if head is None:
            head = _head(document)
            continue
        if last is not None:
            raise BundleError("there is something after its end.", kept=_KEPT)
        if isinstance(document, list):
            rows += 1
            if len(document) != width:
                raise BundleError("a row has not as many values as its table.", where=f"row {rows}", kept=_KEPT)
        elif isinstance(document, dict) and "rows" in document:
            last = document["rows"]
        else:
            width = len(_table(document)[1])
    if head is None or last != rows:
        raise BundleError("this is not all of a backup.", kept=_KEPT, todo="Take another one.")
    return head, rows


def _head(document: Any) -> dict[str, Any]:
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise BundleError("this is no backup.", kept=_KEPT, todo="Take a file that “laptick backup” wrote.")
    known = {(name, number) for name, found in migration_files() for number in range(1, len(found) + 1)}
    try:
        ran = {(str(name), int(number)) for name, number in document["migrations"]}
    except (KeyError, TypeError, ValueError):
        raise BundleError("this does not say what it is of.", kept=_KEPT) from None
    if document.get("version") != VERSION or not ran <= known:
        raise BundleError("this is of a later version.", kept=_KEPT, todo="Update this one, then restore it.")
    return document


def _table(document: Any) -> tuple[str, list[str]]:
    table = document.get("table") if isinstance(document, dict) else None
    columns = document.get("columns") if isinstance(document, dict) else None
    if not isinstance(table, str) or not isinstance(columns, list) or not all(isinstance(one, str) for one in columns):
        raise BundleError("a table is not named.", kept=_KEPT)
    for name in (table, *columns):
        if not name.isascii() or not name.replace("_", "").isalnum():
            raise BundleError("a table or column has a name that none has.", where=name[:80], kept=_KEPT)
    return table, columns


_READERS: dict[str, Callable[[str], Any]] = {
    "bytes": base64.b64decode,
    "at": datetime.fromisoformat,
    "on": date.fromisoformat,
}


def _read(value: Any) -> Any:
    if not isinstance(value, dict):
        return value
    try:
        [(kind, written)] = value.items()
        return _READERS[kind](written)
    except (ValueError, KeyError, TypeError):
        raise BundleError("a value cannot be read.", kept=_KEPT) from None


# -- storing ---------------------------------------------------------------------------------------------


def _check_empty(connection: Connection) -> None:
    """Nothing was ever stored here: at most what the migrations put there."""
    with transaction(connection) as cursor:
        cursor.execute("SHOW TABLES")
        tables = {next(iter(row.values())) for row in cursor.fetchall()}
        for table in sorted(tables & {"teacher", "piece", "take"}):
            cursor.execute(f"SELECT 1 FROM `{table}` LIMIT 1")
            if cursor.fetchone() is not None:
                raise ConflictError(
                    "this database holds something already.",
                    kept="It is untouched.",
                    todo="Restore into an empty one: name another folder in LAPTICK_HOME, or another --db.",
                )
    _clear(connection)


def _clear(connection: Connection) -> None:
    with transaction(connection) as cursor:
        cursor.execute("SET foreign_key_checks = 0")
        cursor.execute("SHOW TABLES")
        for row in list(cursor.fetchall()):
            cursor.execute(f"DROP TABLE `{next(iter(row.values()))}`")
        cursor.execute("SET foreign_key_checks = 1")


def _store(connection: Connection, file: IO[bytes]) -> None:
    with transaction(connection) as cursor:
        cursor.execute("SET foreign_key_checks = 0")
        for table in _tables(cursor):
            cursor.execute(f"DELETE FROM `{table}`")  # what the migrations put there
    statement, waiting, size = "", list[list[Any]](), 0

    def flush() -> None:
        nonlocal size
        if waiting:
            with transaction(connection) as cursor:
                cursor.executemany(statement, waiting)
            waiting.clear()
        size = 0

    for document in _lines(file):
        if isinstance(document, list):
            waiting.append([_read(value) for value in document])
            size += sum(len(one) for one in waiting[-1] if isinstance(one, str | bytes))
            if len(waiting) >= _BATCH_ROWS or size >= _BATCH_BYTES:
                flush()
        elif "table" in document:
            flush()
            table, columns = _table(document)
            named = ", ".join(f"`{name}`" for name in columns)
            statement = f"INSERT INTO `{table}` ({named}) VALUES ({', '.join(['%s'] * len(columns))})"
    flush()
    with transaction(connection) as cursor:
        cursor.execute("SET foreign_key_checks = 1")
