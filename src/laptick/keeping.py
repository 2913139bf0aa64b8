"""The processes of a run, kept alive: the application, the workers, the database beneath them.

Those of the application are started at once, for loading them takes longest, and told where the database is when that
is known (``serving``). One that dies is started again, the database on the port that it had, not too often.
"""

from __future__ import annotations

import os
import shutil
import socket
import sys
import time
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from laptick import logs, serving
from laptick.api.request.settings import COUNTS, AppSettings
from laptick.core.base.errors import LapTickError, StorageError
from laptick.core.base.units import Seconds
from laptick.db.engine.connect import DbSettings
from laptick.db.engine.processes import Backoff, Child
from laptick.db.engine.server import MariaDb

if TYPE_CHECKING:
    from laptick.house.phones import Phones


def say(text: str) -> None:
    with suppress(OSError):  # a terminal that is gone must not end what others use
        print(text, flush=True)


def fresh_folder(folder: Path) -> Path:
    """Where the processes of this run count together; those of another are gone."""
    shutil.rmtree(folder, ignore_errors=True)
    with suppress(OSError):
        folder.mkdir(mode=0o700)
    return folder


#: What ran so long ran well, and is started again at once.
STEADY_S: Seconds = 4.0

#: What a child is given to end by itself.
END_S: Seconds = 12.0

#: How long the application may take until it answers.
ANSWER_S: Seconds = 30.0


@dataclass(frozen=True)
class Kept:
    """So many ``apps`` and ``workers`` are kept; ``web``: the built interface; ``names``: by which a proxy passes on;
    ``demo``: it is started for the demo; ``counts``: where the processes count together; ``log``: how what happens is
    written (``logs``)."""

    apps: int
    workers: int
    web: Path
    names: tuple[str, ...]
    demo: bool
    counts: Path
    log: str


@dataclass
class _Pipe:
    """To a process of the application; so many lines were ``said``."""

    writes: int
    said: int = 0


class Keeper:
    """``server``: the database if it is ours, ``phones``: what lets other devices in."""

    def __init__(self, kept: Kept, listener: socket.socket, server: MariaDb | None, phones: Phones | None) -> None:
        self._kept, self._listener, self._server, self._phones = kept, listener, server, phones
        self._settings: DbSettings | None = None
        self._may_serve = False
        self._pipes: dict[str, _Pipe] = {}
        self._children: dict[str, Child] = {}
        self._backoffs: dict[str, Backoff] = {}
        self._not_before: dict[str, float] = {}
        self._begun: dict[str, float] = {}

    def start(self) -> None:
        """Has the application loaded; it waits to be told."""
        for number in range(self._kept.apps):
            self._start_child(f"app {number}")
            if self._phones is not None:
                self._start_child(f"phones {number}")
        if self._phones is not None and self._phones.plain is not None:
            self._start_child("certificate")

    def tell(self, settings: DbSettings) -> None:
        """Where the database is."""
        self._settings = settings
        for name in list(self._pipes):
            self._say_to(name)

    def serve(self) -> None:
        """Everything may be asked for; returns when the application takes its first request. Then the workers begin,
        which nobody waits for."""
        self._may_serve = True
        for name in list(self._pipes):
            self._say_to(name)
        self._wait_until_answering()
        for number in range(self._kept.workers):
            self._start_child(f"worker {number}")

    def _wait_until_answering(self) -> None:
        host, port = self._listener.getsockname()[:2]
        end = time.monotonic() + ANSWER_S
        while time.monotonic() < end:
            with suppress(OSError), socket.create_connection((host, port), timeout=5) as asked:
                asked.sendall(b"GET /api/health HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n\r\n")
                if asked.recv(12).startswith(b"HTTP/1.1 200"):
                    return
            self._look()
            time.sleep(0.05)
        raise StorageError("the web application did not start.", todo="What it printed above says why.")

    def keep(self) -> None:
        """Starts again what ended, until interrupted."""
        while True:
            self._look()
            time.sleep(0.1)

    def stop(self) -> None:
        """The application first, so that nothing new is asked; each is given time to end what it is at."""
        for child in self._children.values():
            child.ask_to_end()
        for child in self._children.values():
            child.stop(END_S)
        self._children.clear()
        for name in list(self._pipes):
            self._hang_up(name)

    # -- what ended --------------------------------------------------------------------------------------------

    def _look(self) -> None:
        if self._phones is not None:
            self._phones.look()
        if self._server is not None and not self._server.is_running() and self._may_start("database"):
            self._start_database(self._server)
        for name, child in list(self._children.items()):
            if child.returncode is not None and self._may_start(name):
                say(f"{name.split()[0]}: ended ({child.returncode}); starting it again …")
                self._start_child(name)

    def _may_start(self, name: str) -> bool:
        now = time.monotonic()
        if name not in self._not_before:
            backoff = self._backoffs.setdefault(name, Backoff())
            if now - self._begun.get(name, -STEADY_S) >= STEADY_S:
                backoff.reset()  # it ran well: what ended it is new
            self._not_before[name] = now + backoff.next_s()
        if now < self._not_before[name]:
            return False
        del self._not_before[name]
        return True

    def _start_database(self, server: MariaDb) -> None:
        say("database: ended; starting it again …")
        try:
            server.start()
        except LapTickError as error:
            say(f"database: {error.one_line()}")
            return
        self._begun["database"] = time.monotonic()
        if server.settings() != self._settings:
            # Another program took its port meanwhile: everything is told where it is now.
            self._settings = server.settings()
            names = list(self._children)
            self.stop()
            for name in names:
                self._start_child(name)

    # -- one child ---------------------------------------------------------------------------------------------

    def _start_child(self, name: str) -> None:
        self._begun[name] = time.monotonic()
        kind, phones = name.split()[0], self._phones
        if kind == "worker":
            assert self._settings is not None, "a worker is started when there is something to work on"
            shared = {**self._settings.environment(), **logs.environment(self._kept.log)}
            self._children[name] = Child([sys.executable, "-m", "laptick.worker"], shared, nice=5)
        elif kind == "certificate":
            assert phones is not None
            assert phones.plain is not None
            self._children[name] = Child(phones.handing_out(), {}, pass_fds=[phones.plain.fileno()])
        else:
            self._start_serving(name)

    def _start_serving(self, name: str) -> None:
        """A process of the application, and the pipe by which it is told what it has to know."""
        listener, tls = self._listener, list[str]()
        if name.startswith("phones"):
            assert self._phones is not None
            listener, leaf = self._phones.listener, self._phones.leaf
            tls = [str(leaf.chain), str(leaf.key)]
        reads, writes = os.pipe()
        command = [sys.executable, "-m", "laptick.serving", str(listener.fileno()), str(reads), *tls]
        shared = {**logs.environment(self._kept.log), COUNTS: str(self._kept.counts)}
        try:
            self._children[name] = Child(command, shared, pass_fds=[listener.fileno(), reads])
        finally:
            os.close(reads)
        self._hang_up(name)
        self._pipes[name] = _Pipe(writes)
        self._say_to(name)

    def _say_to(self, name: str) -> None:
        """What is known by now and was not said yet; when that is all, nothing more is said."""
        pipe = self._pipes[name]
        known = []
        if self._settings is not None:
            known.append(serving.words(self._told(self._settings, any_address=name.startswith("phones"))))
            if self._may_serve:
                known.append(serving.SERVE)
        for line in known[pipe.said :]:
            with suppress(OSError):  # one that ended is started again, and told then
                os.write(pipe.writes, line.encode() + b"\n")
            pipe.said += 1
        if pipe.said == 2:
            self._hang_up(name)

    def _hang_up(self, name: str) -> None:
        pipe = self._pipes.pop(name, None)
        if pipe is not None:
            os.close(pipe.writes)

    def _told(self, settings: DbSettings, *, any_address: bool) -> AppSettings:
        hosts = {*self._kept.names, *(() if self._phones is None else self._phones.names)}
        return AppSettings(
            settings,
            self._kept.web,
            frozenset(hosts),
            any_address,
            None if self._server is None else self._server.folder,
            self._kept.demo,
            None if self._phones is None else self._phones.told,
        )
