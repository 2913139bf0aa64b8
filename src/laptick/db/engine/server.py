"""A private MariaDB: own data directory, port and socket, on loopback only.

Used by the application started with one command and by the tests. It dies with the process that started it, however
that ends; one left behind all the same is found by its pid file and taken over, so nothing runs twice. Started again,
it has the port that it had.
"""

from __future__ import annotations

import getpass
import hashlib
import os
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path

import pymysql

from laptick.core.base.errors import StorageError
from laptick.db.engine.connect import DbSettings
from laptick.db.engine.privileges import USER, Ids
from laptick.db.engine.processes import with_parent

START_TIMEOUT_S = 60.0
STOP_TIMEOUT_S = 30.0


class MariaDb:
    """One server on one data directory."""

    def __init__(
        self, folder: Path, *, durable: bool = True, user: Ids | None = None, more: tuple[str, ...] = ()
    ) -> None:
        """``user``: as whom the server runs, where that is not whoever starts it; ``more``: of its command line."""
        self.folder = folder.resolve()
        self.user = user
        self.data = self.folder / "data"
        # A socket's path may hold about 100 characters; the data directory's may be longer.
        key = hashlib.sha256(str(self.folder).encode()).hexdigest()[:16]
        self.socket = Path(tempfile.gettempdir()) / f"laptick-{os.getuid()}-{key}.sock"
        self.pid_file = self.folder / "mariadb.pid"
        self.port_file = self.folder / "mariadb.port"
        self.password_file = self.folder / "mariadb.password"
        self.log = self.folder / "mariadb.log"
        #: Its own, for a server that starts clears the temporary tables of all that share one.
        self.tmp = self.folder / "tmp"
        self.durable, self._more = durable, more
        self._process: subprocess.Popen[bytes] | None = None

    def settings(self) -> DbSettings:
        return DbSettings(port=int(self.port_file.read_text()), password=self.password_file.read_text().strip())

    def is_running(self) -> bool:
        """Is the server that was started, or taken over, still there?"""
        if self._process is not None:
            return self._process.poll() is None
        return self.running_pid() is not None

    def start(self) -> bool:
        """Starts the server, or takes over one that runs on this directory. True when it was started.

        Raises:
            StorageError: MariaDB is not installed or does not come up; the message says where its log is.
        """
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            self.folder.chmod(0o700)
            self.tmp.mkdir(exist_ok=True)
        except OSError as error:
            raise StorageError(
                f"the database's folder cannot be written to: {(error.strerror or 'it cannot be used').lower()}.",
                where=str(self.folder),
                kept="Its files are untouched.",
            ) from None
        if self.running_pid() is not None and self.port_file.exists():
            self._wait()
            return False
        if not (self.data / "mysql").is_dir():
            self._initialise()
        elif os.getuid() == 0 and self.user is not None and self.data.stat().st_uid == 0:
            self._give_login()
        self._give(self.folder, self.tmp)
        port = self._port()
        self.port_file.write_text(str(port))
        command = [
            _tool("mariadbd"),
            "--no-defaults",
            f"--datadir={self.data}",
            f"--port={port}",
            "--bind-address=127.0.0.1",
            f"--socket={self.socket}",
            f"--tmpdir={self.tmp}",
            f"--pid-file={self.pid_file}",
            *self._as_root(),
            "--skip-name-resolve",
            "--character-set-server=utf8mb4",
            "--innodb-buffer-pool-size=64M",
            "--max-allowed-packet=64M",
            "--skip-log-bin",
            "--performance-schema=OFF",
            "--lc-messages-dir=" + _messages(),
        ]
        command += self._more
        if not self.durable:
            command += ["--innodb-flush-log-at-trx-commit=0", "--innodb-doublewrite=0"]
        with self.log.open("ab") as log:
            # Its own session: Ctrl-C in the terminal must reach the application first.
            self._process = subprocess.Popen(
                command, stdout=log, stderr=log, start_new_session=True, preexec_fn=with_parent(user=self.user)
            )
        self._wait()
        self._prepare()
        return True

    def stop(self) -> None:
        pid = self.running_pid()
        if pid is None:
            return
        os.kill(pid, signal.SIGTERM)
        end = time.monotonic() + STOP_TIMEOUT_S
        while time.monotonic() < end:
            # Our own child is gone when it has ended, not already when it has taken its pid file away.
            ended = self._process is None or self._process.poll() is not None
            if ended and self.running_pid() is None:
                return
            time.sleep(0.05)
        raise StorageError(f"the database did not stop within {STOP_TIMEOUT_S:.0f} s.", where=str(self.log))

    def running_pid(self) -> int | None:
        """The process that serves this very directory, or ``None``."""
        try:
            pid = int(self.pid_file.read_text())
            command = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace")
        except (OSError, ValueError):
            return None
        return pid if f"--datadir={self.data}" in command.split("\0") else None

    def _initialise(self) -> None:
        # Into a folder beside it, renamed when complete: a run killed here leaves nothing half made.
        fresh = self.folder / "data.new"
        shutil.rmtree(fresh, ignore_errors=True)
        result = subprocess.run(
            [
                _tool("mariadb-install-db"),
                "--no-defaults",
                f"--datadir={fresh}",
                "--skip-test-db",
                "--auth-root-authentication-method=socket",
                f"--auth-root-socket-user={getpass.getuser()}",
                *self._as_root(),
            ],
            capture_output=True,
            check=False,
            env={**os.environ, "TMPDIR": str(self.tmp)},
        )
        if result.returncode != 0:
            text = (result.stderr or result.stdout).decode(errors="replace").strip().splitlines()
            raise StorageError(
                "the database's files could not be created.", where=str(self.folder), todo=" ".join(text[-2:])[:300]
            )
        shutil.rmtree(self.data, ignore_errors=True)
        fresh.rename(self.data)
        if self.user is not None:
            for root, folders, files in os.walk(self.data):
                self._give(*(Path(root) / name for name in (*folders, *files)))
            self._give(self.data)

    def _give(self, *paths: Path) -> None:
        if self.user is None:
            return
        for path in paths:
            os.chown(path, *self.user, follow_symlinks=False)

    def _as_root(self) -> list[str]:
        """The server refuses to run as root unless it is told to."""
        return ["--user=root"] if os.getuid() == 0 and self.user is None else []

    def _give_login(self) -> None:
        """Data that root made: before another user has it, that user gets a login, for which it is run once more."""
        once = MariaDb(self.folder, durable=self.durable)
        once.start()
        once.stop()

    def _port(self) -> int:
        """The one it had, so that whoever knows it finds it again; another where that is taken."""
        try:
            had = int(self.port_file.read_text())
            with socket.socket() as probe:
                probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                probe.bind(("127.0.0.1", had))
            return had
        except (OSError, ValueError, OverflowError):
            return _free_port()

    def _prepare(self) -> None:
        """The application's own user and database, made again at every start; and logins for whoever may start it."""
        if not self.password_file.exists():
            self.password_file.touch(mode=0o600)
            self.password_file.write_text(secrets.token_urlsafe(24))
        password = self.password_file.read_text().strip()
        root = pymysql.connect(unix_socket=str(self.socket), user=getpass.getuser() if os.getuid() else "root")
        with root, root.cursor() as cursor:
            for name in {"root", USER, getpass.getuser()}:
                cursor.execute("CREATE USER IF NOT EXISTS %s@'localhost' IDENTIFIED VIA unix_socket", (name,))
                cursor.execute("GRANT ALL ON *.* TO %s@'localhost' WITH GRANT OPTION", (name,))
            cursor.execute("CREATE DATABASE IF NOT EXISTS laptick CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
            cursor.execute("CREATE OR REPLACE USER laptick@'127.0.0.1' IDENTIFIED BY %s", (password,))
            cursor.execute("GRANT ALL ON laptick.* TO laptick@'127.0.0.1'")
            cursor.execute("GRANT ALL ON `laptick\\_%`.* TO laptick@'127.0.0.1'")

    def _wait(self) -> None:
        end = time.monotonic() + START_TIMEOUT_S
        while time.monotonic() < end:
            if self._process is not None and self._process.poll() is not None:
                break
            try:
                pymysql.connect(
                    host="127.0.0.1",
                    port=int(self.port_file.read_text()),
                    user="nobody",
                    password="",
                    ssl_disabled=True,
                ).close()
                return
            except pymysql.OperationalError as error:
                if error.args and error.args[0] in (1045, 1130, 1698):  # it answers, and refuses nobody
                    return
            except (pymysql.MySQLError, OSError, ValueError):
                pass
            time.sleep(0.05)
        raise StorageError(
            "the private database did not start.",
            where=str(self.log),
            kept="Its files are untouched.",
            todo="The end of that log says why.",
        )


def _tool(name: str) -> str:
    found = shutil.which(name) or shutil.which(name, path="/usr/sbin:/usr/local/sbin:/usr/bin")
    if found is None:
        raise StorageError(
            f"{name} is not installed.", todo="Install Debian's packages mariadb-server-core and mariadb-client-core."
        )
    return found


def _messages() -> str:
    return "/usr/share/mysql"


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])
