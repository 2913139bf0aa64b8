"""Migrations: numbered SQL files, each run once, one statement at a time (DDL commits implicitly)."""

from __future__ import annotations

import re
from collections.abc import Collection
from importlib import resources

from laptick.core.base.errors import StorageError
from laptick.db.engine.connect import Connection, transaction

_TABLE = """
CREATE TABLE IF NOT EXISTS schema_migration (
  name VARCHAR(100) NOT NULL,
  statement INT UNSIGNED NOT NULL,
  run_at DATETIME(6) NOT NULL DEFAULT UTC_TIMESTAMP(6),
  PRIMARY KEY (name, statement)
) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4
"""


def migration_files() -> list[tuple[str, list[str]]]:
    """(name, statements) of every migration, in order."""
    folder = resources.files("laptick.db") / "migrations"
    names = sorted(entry.name for entry in folder.iterdir() if re.fullmatch(r"\d{4}_\w+\.sql", entry.name))
    return [(name, split_statements((folder / name).read_text(encoding="utf-8"))) for name in names]


def split_statements(sql: str) -> list[str]:
    """Statements end with a semicolon at the end of a line; ``--`` lines are comments."""
    lines = [line for line in sql.splitlines() if not line.lstrip().startswith("--")]
    return [part.strip() for part in re.split(r";\s*(?:\n|$)", "\n".join(lines)) if part.strip()]


def migrate(connection: Connection, *, only: Collection[tuple[str, int]] | None = None) -> list[str]:
    """Runs what has not been run, and returns the names of files of which something was run. ``only``: statements (file
    and number) beyond which nothing is, for a database as an earlier version left it.

    A lock in the database keeps two processes from migrating at once. A statement is recorded right
    after it has run, so a migration cut off between two statements goes on where it stopped.
    """
    with transaction(connection) as cursor:
        cursor.execute("SELECT GET_LOCK('laptick_migrate', 30) AS got")
        if (cursor.fetchone() or {}).get("got") != 1:
            raise StorageError("another process is preparing the database and has not finished.")
    done: list[str] = []
    try:
        with transaction(connection) as cursor:
            cursor.execute(_TABLE)
            cursor.execute("SELECT name, statement FROM schema_migration")
            known = {(row["name"], row["statement"]) for row in cursor.fetchall()}
        for name, statements in migration_files():
            for number, statement in enumerate(statements, start=1):
                if (name, number) in known or (only is not None and (name, number) not in only):
                    continue
                with transaction(connection) as cursor:
                    cursor.execute(statement)
                    cursor.execute("INSERT INTO schema_migration (name, statement) VALUES (%s, %s)", (name, number))
                if name not in done:
                    done.append(name)
    finally:
        with transaction(connection) as cursor:
            cursor.execute("SELECT RELEASE_LOCK('laptick_migrate')")
    return done
