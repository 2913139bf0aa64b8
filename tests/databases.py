"""Databases for tests: each fresh, on the tests' own server, and gone afterwards."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace

from laptick.db.engine.connect import DbSettings, connect, transaction
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
