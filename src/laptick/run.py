"""Everything together until Ctrl-C: private database, migrations, demo data, the web application and a worker.

This process does none of the work: it keeps the others alive. One that dies is started again, the database on the port
that it had, not too often; all of them die with this one, however it ends. State lives in one folder (``.laptick`` in
the repository, or ``$LAPTICK_HOME``); what was stored is there again at the next start.
"""

from __future__ import annotations

import fcntl
import os
import shutil
import signal
import socket
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any

from laptick import logs, serving
from laptick.api.app import AppSettings
from laptick.api.request.asking import THE_STUDIO
from laptick.api.request.observed import FOLDER
from laptick.core.base.errors import ConflictError, LapTickError, StorageError
from laptick.core.base.units import Seconds
from laptick.db.engine.connect import DbSettings, connect
from laptick.db.engine.migrate import migrate
from laptick.db.engine.privileges import drop_privileges
from laptick.db.engine.processes import Backoff, Child
from laptick.db.engine.server import MariaDb
from laptick.house.certificates import Leaf
from laptick.house.phones import PhoneOptions, Phones
from laptick.studio.demo import add_demo, reset_demo
from laptick.studio.demo_students import add_demo_students
from laptick.studio.people.sign_in import add_demo_teacher
from laptick.studio.pieces.shelf import list_pieces, pieces_to_read
from laptick.studio.use_case import Studio

#: What has to be read to run: the program, the interface, and the Python that both hang on.
NEEDED = (
    Path(__file__).resolve().parent,
    Path(sys.executable).resolve(),
    Path(os.__file__).resolve().parent,
    Path(sys.prefix) / "lib",
)

#: A migration may take longer than a request.
PREPARE_S: Seconds = 600.0

#: What ran so long ran well, and is started again at once.
STEADY_S: Seconds = 4.0

#: What a child is given to end by itself.
END_S: Seconds = 12.0


@dataclass(frozen=True)
class RunOptions:
    """``db``: a database that runs already, ``None``: our own; so many ``apps`` and ``workers`` are kept alive;
    ``phones``: how other devices reach it, ``None``: they do not; ``names``: by which a proxy passes on to it; ``log``:
    how what happens is written (``logs``)."""

    port: int
    demo: bool = False
    reset: bool = False
    db: DbSettings | None = None
    apps: int = 1
    workers: int = 1
    phones: PhoneOptions | None = None
    names: tuple[str, ...] = ()
    log: str = logs.PLAIN


def repository() -> Path:
    return Path(__file__).resolve().parents[2]


def home() -> Path:
    return Path(os.environ.get("LAPTICK_HOME") or repository() / ".laptick")


def say(text: str) -> None:
    with suppress(OSError):  # a terminal that is gone must not end what others use
        print(text, flush=True)


def run(options: RunOptions) -> int:
    """Runs until Ctrl-C or a termination signal; returns the exit code."""
    begun = time.monotonic()
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _as_interrupt)
    try:
        with only_one(home()), _listening(options.port) as listener, _phones(options.phones) as phones:
            server = None
            if options.db is None:
                database_user = drop_privileges(home(), NEEDED, say)
                server = MariaDb(home() / "database", user=database_user)
            with _database(server):
                settings = options.db or _of(server)
                _prepare(settings, demo=options.demo, reset=options.reset)
                web = repository() / "web" / "dist"
                if not (web / "index.html").is_file():
                    raise StorageError(
                        "the interface is not built.", where=str(web), todo="Run ./laptick demo, which builds it."
                    )
                keeper = _Keeper(options, listener, web, server, settings, phones=phones)
                try:
                    keeper.start()
                    keeper.wait_until_answering()
                    say(f"Lap Tick is ready after {time.monotonic() - begun:.1f} s:  http://127.0.0.1:{options.port}/")
                    for line in _told_of(phones):
                        say(line)
                    say("Ctrl-C stops it; everything stored stays.")
                    keeper.keep()
                finally:
                    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a second Ctrl-C must not leave anything behind
                    keeper.stop()
    except KeyboardInterrupt:
        pass
    say("Stopped. Everything stored is kept for the next start.")
    return 0


def _of(server: MariaDb | None) -> DbSettings:
    assert server is not None
    return server.settings()


def _as_interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


class _Keeper:
    """The processes that are kept alive, and the database beneath them."""

    def __init__(
        self,
        options: RunOptions,
        listener: socket.socket,
        web: Path,
        server: MariaDb | None,
        settings: DbSettings,
        *,
        phones: Phones | None,
    ) -> None:
        self._listener, self._web, self._server, self._phones = listener, web, server, phones
        self._settings, self._options = settings, options
        self._names = [f"app {n}" for n in range(options.apps)] + [f"worker {n}" for n in range(options.workers)]
        if phones is not None:
            self._names += [f"phones {n}" for n in range(options.apps)] + ["certificate"] * (phones.plain is not None)
        self._counts = _fresh_folder(home() / "counts")
        self._children: dict[str, Child] = {}
        self._backoffs = {name: Backoff() for name in (*self._names, "database")}
        self._not_before: dict[str, float] = {}
        self._begun: dict[str, float] = {}

    def start(self) -> None:
        for name in self._names:
            self._start_child(name)

    def wait_until_answering(self) -> None:
        """Until the application takes its first request."""
        host, port = self._listener.getsockname()[:2]
        end = time.monotonic() + 30
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
            if now - self._begun.get(name, -STEADY_S) >= STEADY_S:
                self._backoffs[name].reset()  # it ran well: what ended it is new
            self._not_before[name] = now + self._backoffs[name].next_s()
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
            self.stop()
            self.start()

    def _start_child(self, name: str) -> None:
        self._begun[name] = time.monotonic()
        phones = self._phones
        if name.startswith("app"):
            self._children[name] = self._serving(self._listener, AppSettings(**self._told()))
        elif name.startswith("phones") and phones is not None:
            told = AppSettings(**self._told() | {"any_address": True})
            self._children[name] = self._serving(phones.listener, told, phones.leaf)
        elif name == "certificate" and phones is not None and phones.plain is not None:
            self._children[name] = Child(phones.handing_out(), {}, pass_fds=[phones.plain.fileno()])
        else:
            command = [sys.executable, "-m", "laptick.worker"]
            shared = {**self._settings.environment(), **logs.environment(self._options.log)}
            self._children[name] = Child(command, shared, nice=5)

    def _told(self) -> dict[str, Any]:
        hosts = {*self._options.names, *(() if self._phones is None else self._phones.names)}
        return {
            "db": self._settings,
            "web": self._web,
            "hosts": frozenset(hosts),
            "data": None if self._server is None else self._server.folder,
            "demo": self._options.demo,
            "reach": None if self._phones is None else self._phones.told,
        }

    def _serving(self, listener: socket.socket, told: AppSettings, tls: Leaf | None = None) -> Child:
        command = [sys.executable, "-m", "laptick.serving", str(listener.fileno())]
        if tls is not None:
            command += [str(tls.chain), str(tls.key)]
        shared = {**serving.environment(told), **logs.environment(self._options.log), FOLDER: str(self._counts)}
        return Child(command, shared, pass_fds=[listener.fileno()])


def _fresh_folder(folder: Path) -> Path:
    """Where the processes of this run count together; those of another are gone."""
    shutil.rmtree(folder, ignore_errors=True)
    with suppress(OSError):
        folder.mkdir(mode=0o700)
    return folder


@contextmanager
def _phones(options: PhoneOptions | None) -> Iterator[Phones | None]:
    if options is None:
        yield None
        return
    phones = Phones(options, home() / "certificates")
    try:
        yield phones
    finally:
        phones.close()


def _told_of(phones: Phones | None) -> list[str]:
    """How other devices come in."""
    if phones is None:
        return []
    lines = [f"From a phone:  {url}/" for url in phones.urls()[:2]]
    if phones.plain is not None:
        lines.append(f"First, once on each phone:  {phones.urls('http', phones.options.port + 1)[0]}/")
    return lines


@contextmanager
def only_one(folder: Path) -> Iterator[None]:
    """Two runs on one folder would stop each other's database."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        folder.chmod(0o700)
        lock = (folder / "lock").open("w")
    except OSError as error:
        raise StorageError(
            f"the data folder cannot be written to: {(error.strerror or 'it cannot be used').lower()}.",
            where=str(folder),
            kept="Nothing was changed.",
            todo="Make it writable, or name another one in LAPTICK_HOME.",
        ) from None
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise ConflictError(
                "Lap Tick is already running from this folder.",
                where=str(folder),
                kept="Nothing was changed.",
                todo="Use that one, or stop it first.",
            ) from None
        yield


@contextmanager
def _listening(port: int) -> Iterator[socket.socket]:
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except (OSError, OverflowError):
        listener.close()
        raise ConflictError(
            f"port {port} is taken by another program, or may not be used.",
            kept="Nothing was changed.",
            todo=f"Choose another one: ./laptick demo --port {port + 1 if port < 65000 else 8001}",
        ) from None
    listener.listen(256)
    try:
        yield listener
    finally:
        listener.close()


@contextmanager
def _database(server: MariaDb | None) -> Iterator[None]:
    if server is None:
        yield
        return
    say("database: creating its files …" if not server.data.is_dir() else "database: starting …")
    if not server.start():
        say("database: one left running by an earlier start is taken over.")
    try:
        yield
    finally:
        # A second Ctrl-C must not leave the database behind.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        server.stop()


def _prepare(settings: DbSettings, *, demo: bool, reset: bool) -> None:
    connection = connect(settings, answer_s=PREPARE_S)
    studio = Studio(connection, THE_STUDIO)
    try:
        done = migrate(connection)
        say(f"database: {len(done)} migration(s) run." if done else "database: up to date.")
        if demo:
            if reset:
                say("reset: the demo pieces and their takes are made anew; your own pieces and students stay.")
            added = reset_demo(studio) if reset else add_demo(studio)
            joined = add_demo_students(studio, anew=reset)
            add_demo_teacher(studio)
            say(
                f"demo data: {added} piece(s), {joined} student(s) added."
                if added or joined
                else "demo data: there already."
            )
        if (unread := pieces_to_read(studio)) > 0:
            say(f"shelf: reading {unread} piece(s) …")
            list_pieces(studio)
    finally:
        connection.close()


if __name__ == "__main__":
    sys.exit(run(RunOptions(port=8000, demo=True)))
