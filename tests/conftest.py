"""A real MariaDB for the tests: one private server on loopback, data in memory, a fresh database a test."""

from __future__ import annotations

import os
import shutil
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from hypothesis import settings

from applications import app_at
from databases import Template, new_database, new_template
from laptick.api.app import AppSettings
from laptick.api.request import waiting
from laptick.db.engine.connect import Connection, DbSettings, connect
from laptick.db.engine.server import MariaDb
from laptick.studio.demo import add_demo
from laptick.studio.use_case import Studio
from laptick.worker import work
from sampling import FULL
from signing_in import teacher_cookies

# The same examples every time, others where all samples are taken: a change is to blame for what fails.
settings.register_profile("same-examples", derandomize=not FULL, deadline=None)
settings.load_profile("same-examples")


@pytest.fixture(scope="session")
def mariadb() -> Iterator[MariaDb]:
    memory = "/dev/shm" if os.access("/dev/shm", os.W_OK) else None
    folder = Path(tempfile.mkdtemp(prefix="laptick-test-", dir=memory))
    server = MariaDb(folder, durable=False)
    server.start()
    yield server
    server.stop()
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def template(mariadb: MariaDb) -> Iterator[Template]:
    """What a migrated database is copied from."""
    with new_template(mariadb) as made:
        yield made


@pytest.fixture
def empty_db(mariadb: MariaDb) -> Iterator[DbSettings]:
    """A database without tables."""
    with new_database(mariadb) as settings:
        yield settings


@pytest.fixture(scope="module")
def demo_db(mariadb: MariaDb, template: Template) -> Iterator[DbSettings]:
    """A database with the demo data, for the tests of one module together."""
    with new_database(mariadb) as settings:
        template.copied_to(settings)
        connection = connect(settings)
        add_demo(Studio(connection, 1))
        connection.close()
        yield settings


@pytest.fixture
def db(empty_db: DbSettings, template: Template) -> DbSettings:
    template.copied_to(empty_db)
    return empty_db


@pytest.fixture
def connection(db: DbSettings) -> Iterator[Connection]:
    opened = connect(db)
    yield opened
    opened.close()


@contextmanager
def a_worker(db: DbSettings) -> Iterator[None]:
    """A worker beside the test, in a thread: what ``laptick worker`` runs in its child."""
    until = threading.Event()
    thread = threading.Thread(target=work, args=(db, "test", until), kwargs={"look_s": 0.02})
    thread.start()
    try:
        yield
    finally:
        until.set()
        thread.join()


@pytest.fixture
def worker(db: DbSettings) -> Iterator[None]:
    with a_worker(db):
        yield


@pytest.fixture
def client(db: DbSettings, worker: None, monkeypatch: pytest.MonkeyPatch) -> Iterator[TestClient]:
    """An application with a worker; what a job makes is waited for, however busy the machine is."""
    monkeypatch.setattr(waiting, "WAIT_S", 60.0)
    with TestClient(
        app_at(AppSettings(db)),
        base_url="http://127.0.0.1",
        cookies=teacher_cookies(db),
        raise_server_exceptions=False,
    ) as opened:
        yield opened
