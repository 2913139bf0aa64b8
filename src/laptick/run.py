"""Everything together until Ctrl-C: private database, migrations, demo data, the web application and a worker.

This process does none of the work once it runs: it keeps the others alive (``keeping``); all of them die with this one,
however it ends. State lives in one folder (``.laptick`` in the repository, or ``$LAPTICK_HOME``); what was stored is
there again at the next start.
"""

from __future__ import annotations

import fcntl
import gc
import os
import signal
import socket
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import TYPE_CHECKING

from laptick import logs
from laptick.core.base.errors import ConflictError, StorageError
from laptick.db.engine.connect import DbSettings
from laptick.db.engine.privileges import drop_privileges
from laptick.db.engine.server import MariaDb
from laptick.keeping import Keeper, Kept, fresh_folder, say

if TYPE_CHECKING:
    from laptick.house.phones import PhoneOptions, Phones

#: What has to be read to run: the program, the interface, and the Python that both hang on.
NEEDED = (
    Path(__file__).resolve().parent,
    Path(sys.executable).resolve(),
    Path(os.__file__).resolve().parent,
    Path(sys.prefix) / "lib",
)


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


def run(options: RunOptions) -> int:
    """Runs until Ctrl-C or a termination signal; returns the exit code."""
    begun = time.monotonic()
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _as_interrupt)
    try:
        with only_one(home()), _listening(options.port) as listener, _phones(options.phones) as phones:
            web = repository() / "web" / "dist"
            if not (web / "index.html").is_file():
                raise StorageError(
                    "the interface is not built.", where=str(web), todo="Run ./laptick demo, which builds it."
                )
            server = None
            if options.db is None:
                database_user = drop_privileges(home(), NEEDED, say)
                server = MariaDb(home() / "database", user=database_user)
            counts = fresh_folder(home() / "counts")
            kept = Kept(options.apps, options.workers, web, options.names, options.demo, counts, options.log)
            keeper = Keeper(kept, listener, server, phones)
            with _ended(keeper):
                keeper.start()
                with _database(server), _ended(keeper):
                    settings = options.db or _of(server)
                    keeper.tell(settings)
                    _prepare(settings, demo=options.demo, reset=options.reset)
                    keeper.serve()
                    say(f"Lap Tick is ready after {time.monotonic() - begun:.1f} s:  http://127.0.0.1:{options.port}/")
                    for line in _told_of(phones):
                        say(line)
                    say("Ctrl-C stops it; everything stored stays.")
                    keeper.keep()
    except KeyboardInterrupt:
        pass
    say("Stopped. Everything stored is kept for the next start.")
    return 0


@contextmanager
def _ended(keeper: Keeper) -> Iterator[None]:
    """What is kept ends before what it stands on, whatever happens."""
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)  # a second Ctrl-C must not leave anything behind
        keeper.stop()


def _prepare(settings: DbSettings, *, demo: bool, reset: bool) -> None:
    gc.disable()  # nothing of what is loaded goes again
    from laptick.preparing import prepare  # it takes long to load: what else is loaded has begun by now

    gc.enable()
    prepare(settings, say, demo=demo, reset=reset)


def _of(server: MariaDb | None) -> DbSettings:
    assert server is not None
    return server.settings()


def _as_interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


@contextmanager
def _phones(options: PhoneOptions | None) -> Iterator[Phones | None]:
    if options is None:
        yield None
        return
    from laptick.house.phones import Phones

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


if __name__ == "__main__":
    sys.exit(run(RunOptions(port=8000, demo=True)))
