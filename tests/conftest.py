"""A real MariaDB for the tests: one private server on loopback, data in memory, a fresh database a test."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from laptick.api.app import AppSettings, create_app
from laptick.db.engine.connect import Connection, DbSettings, connect, transaction
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from laptick.studio.demo import add_demo
from laptick.studio.use_case import Studio

_numbers = itertools.count(1)


@pytest.fixture(scope="session")
def mariadb() -> Iterator[MariaDb]:
    memory = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    folder = Path(tempfile.mkdtemp(prefix="laptick-test-", dir=memory))
    server = MariaDb(folder, durable=False)
    server.start()
    yield server
    server.stop()
    shutil.rmtree(folder, ignore_errors=True)


@contextmanager
def _database(mariadb: MariaDb) -> Iterator[DbSettings]:
    settings = replace(mariadb.settings(), database=f"laptick_test{next(_numbers)}")
    connection = connect(settings, database=False)
    with transaction(connection) as cursor:
        cursor.execute(f"CREATE DATABASE {settings.database} CHARACTER SET utf8mb4")
    yield settings
    with transaction(connection) as cursor:
        cursor.execute(f"DROP DATABASE {settings.database}")
    connection.close()


@pytest.fixture
def empty_db(mariadb: MariaDb) -> Iterator[DbSettings]:
    """A database without tables."""
    with _database(mariadb) as settings:
        yield settings


@pytest.fixture(scope="module")
def demo_db(mariadb: MariaDb) -> Iterator[DbSettings]:
    """A database with the demo data, for the tests of one module together."""
    with _database(mariadb) as settings:
        connection = connect(settings)
        migrate(connection)
        add_demo(Studio(connection, 1))
        connection.close()
        yield settings


@pytest.fixture
def db(empty_db: DbSettings) -> DbSettings:
    connection = connect(empty_db)
    migrate(connection)
    connection.close()
    return empty_db


@pytest.fixture
def connection(db: DbSettings) -> Iterator[Connection]:
    opened = connect(db)
    yield opened
    opened.close()


@pytest.fixture
def client(db: DbSettings) -> Iterator[TestClient]:
    with TestClient(create_app(AppSettings(db)), raise_server_exceptions=False) as opened:
        yield opened
