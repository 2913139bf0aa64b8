"""Everything together: private database, migrations, demo data, web server, until Ctrl-C.

State lives in one folder (``.laptick`` in the repository, or ``$LAPTICK_HOME``). What was stored is
there again at the next start, however this one ended.
"""

from __future__ import annotations

import fcntl
import os
import signal
import socket
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import FrameType

import uvicorn

from laptick.api.app import AppSettings, create_app
from laptick.api.request.asking import THE_STUDIO
from laptick.core.base.errors import ConflictError, StorageError
from laptick.db.engine.connect import connect
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from laptick.studio.demo import add_demo, reset_demo
from laptick.studio.pieces.shelf import list_pieces, pieces_to_read
from laptick.studio.use_case import Studio


def repository() -> Path:
    return Path(__file__).resolve().parents[2]


def home() -> Path:
    return Path(os.environ.get("LAPTICK_HOME") or repository() / ".laptick")


def say(text: str) -> None:
    print(text, flush=True)


def run(*, port: int, demo: bool, reset: bool) -> int:
    """Runs until Ctrl-C or a termination signal; returns the exit code."""
    begun = time.monotonic()
    signal.signal(signal.SIGTERM, _as_interrupt)
    try:
        with _only_one(home()), _listening(port) as listener, _database(home()) as server:
            _prepare(server, demo=demo, reset=reset)
            web = repository() / "web" / "dist"
            if not (web / "index.html").is_file():
                raise StorageError(
                    "the interface is not built.", where=str(web), todo="Run ./laptick demo, which builds it."
                )
            app = create_app(AppSettings(server.settings(), web))
            say(f"Lap Tick is ready after {time.monotonic() - begun:.1f} s:  http://127.0.0.1:{port}/")
            say("Ctrl-C stops it; everything stored stays.")
            config = uvicorn.Config(app, log_level="warning", access_log=False, timeout_graceful_shutdown=3)
            uvicorn.Server(config).run(sockets=[listener])
    except KeyboardInterrupt:
        pass
    say("Stopped. Everything stored is kept for the next start.")
    return 0


def _as_interrupt(number: int, frame: FrameType | None) -> None:
    raise KeyboardInterrupt


@contextmanager
def _only_one(folder: Path) -> Iterator[None]:
    """Two runs on one folder would stop each other's database."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "lock").open("w") as lock:
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
    listener.listen(128)
    try:
        yield listener
    finally:
        listener.close()


@contextmanager
def _database(folder: Path) -> Iterator[MariaDb]:
    server = MariaDb(folder / "database")
    fresh = not server.data.is_dir()
    say("database: creating its files …" if fresh else "database: starting …")
    if not server.start():
        say("database: one left running by an earlier start is taken over.")
    try:
        yield server
    finally:
        # A second Ctrl-C must not leave the database behind.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        server.stop()


def _prepare(server: MariaDb, *, demo: bool, reset: bool) -> None:
    connection = connect(server.settings())
    studio = Studio(connection, THE_STUDIO)
    try:
        done = migrate(connection)
        say(f"database: {len(done)} migration(s) run." if done else "database: up to date.")
        if demo:
            if reset:
                say("reset: the demo pieces and their takes are made anew; your own pieces are not touched.")
            added = reset_demo(studio) if reset else add_demo(studio)
            say(f"demo data: {added} piece(s) added." if added else "demo data: there already.")
        if (unread := pieces_to_read(studio)) > 0:
            say(f"shelf: reading {unread} piece(s) …")
            list_pieces(studio)
    finally:
        connection.close()


if __name__ == "__main__":
    sys.exit(run(port=8000, demo=True, reset=False))
