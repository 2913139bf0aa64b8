"""Databases for tests: each fresh, on the tests' own server, and gone afterwards.

A studio's empty database is migrated once and copied from then on, keys and rows with it: the migrations take eight
times as long. ``tests/db/test_db.py`` holds the copy against what they make.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace

from laptick.db.engine.connect import Connection, DbSettings, connect, transaction
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb

_numbers = itertools.count(1)


@contextmanager
def new_database(mariadb: MariaDb) -> Iterator[DbSettings]:
    settings = replace(mariadb.settings(), database=f"laptick_test{next(_numbers)}")
    connection = connect(settings, database=False)
    with transaction(connection) as cursor:
        cursor.execute(f"CREATE DATABASE {settings.database} CHARACTER SET utf8mb4")
    yield settings
    with transaction(connection) as cursor:
        cursor.execute(f"DROP DATABASE {settings.database}")
    connection.close()


@contextmanager
def beside(connection: Connection) -> Iterator[Connection]:
    """Another connection to the database of one."""
    told = (connection.user, connection.password, connection.db)
    user, password, database = (word.decode() if isinstance(word, bytes) else str(word) for word in told)
    another = connect(
        DbSettings(connection.host, connection.port, user, password, database, connection.unix_socket or None)
    )
    try:
        yield another
    finally:
        another.close()


@dataclass(frozen=True)
class Template:
    """A migrated database, and the statements that make its tables again in another one."""

    database: str
    tables: tuple[tuple[str, str], ...]

    def copied_to(self, settings: DbSettings) -> None:
        connection = connect(settings)
        with transaction(connection) as cursor:
            cursor.execute("SET foreign_key_checks = 0")  # the order of tables is the alphabet's
            for name, statement in self.tables:
                cursor.execute(statement)
                cursor.execute(f"INSERT INTO `{name}` SELECT * FROM `{self.database}`.`{name}`")
        connection.close()


@contextmanager
def new_template(mariadb: MariaDb) -> Iterator[Template]:
    with new_database(mariadb) as settings:
        connection = connect(settings)
        migrate(connection)
        with transaction(connection) as cursor:
            cursor.execute("SHOW FULL TABLES WHERE Table_type = 'BASE TABLE'")
            names = sorted(next(iter(row.values())) for row in cursor.fetchall())
            tables = []
            for name in names:
                cursor.execute(f"SHOW CREATE TABLE `{name}`")
                tables.append((name, (cursor.fetchone() or {})["Create Table"]))
        connection.close()
        yield Template(settings.database, tuple(tables))
