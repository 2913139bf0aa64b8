"""Connections that are kept open and lent out, one to a request at a time.

A connection is asked whether it still answers before it is lent, so a database that was started again is noticed and
not a request's fault. What comes back broken is closed.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress

import pymysql

from laptick.core.base.errors import StorageError
from laptick.core.base.units import Seconds
from laptick.db.engine.connect import Connection, DbSettings, connect

#: How long a request waits for a connection when all are lent.
WAIT_S: Seconds = 8.0

#: Whatever takes so long to say that it is there is not.
DEAF_S: Seconds = 1.0


class Pool:
    """At most ``size`` connections to one database."""

    def __init__(self, settings: DbSettings, size: int = 16) -> None:
        self._settings = settings
        self._free = threading.BoundedSemaphore(size)
        self._idle: list[Connection] = []
        self._lock = threading.Lock()

    @contextmanager
    def lent(self) -> Iterator[Connection]:
        """A connection that answers; what was not committed on it is rolled back at the end.

        Raises:
            StorageError: the database cannot be reached, or every connection is in use for too long.
        """
        if not self._free.acquire(timeout=WAIT_S):
            raise StorageError("too much is asked at once.", kept="Nothing was changed.", todo="Try again in a moment.")
        try:
            connection = self._answering()
            try:
                yield connection
            finally:
                self._take_back(connection)
        finally:
            self._free.release()

    def close(self) -> None:
        """Closes what is not lent."""
        with self._lock:
            idle, self._idle = self._idle, []
        for connection in idle:
            _close(connection)

    def _answering(self) -> Connection:
        while True:
            with self._lock:
                connection = self._idle.pop() if self._idle else None
            if connection is None:
                return connect(self._settings)
            begun = time.monotonic()
            try:
                connection.ping(reconnect=False)
                return connection
            except (pymysql.MySQLError, OSError) as error:
                _close(connection)
                if time.monotonic() - begun > DEAF_S:
                    # It is there and says nothing: a new connection would only wait as long again.
                    raise StorageError(
                        "the database does not answer.",
                        kept="What was stored before is untouched.",
                        todo="Try again in a moment; if it stays so, start Lap Tick again.",
                    ) from error

    def _take_back(self, connection: Connection) -> None:
        try:
            if connection.open:
                connection.rollback()
                with self._lock:
                    self._idle.append(connection)
        except (pymysql.MySQLError, OSError):
            _close(connection)


def _close(connection: Connection) -> None:
    with suppress(pymysql.MySQLError, OSError):
        connection.close()
