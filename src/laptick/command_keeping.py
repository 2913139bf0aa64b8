"""``backup`` and ``restore``: all that is stored as one file, and back.

A backup is read from a running application's database while it goes on; it stands under its name only when all of it
is written. A restore goes into an empty database: into the data folder while nothing runs there, or into one by its
address.
"""

from __future__ import annotations

import argparse
import os
import re
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from datetime import UTC, datetime
from pathlib import Path
from typing import TYPE_CHECKING

from laptick.core.base.errors import OptionError, StorageError
from laptick.core.base.units import Seconds

if TYPE_CHECKING:
    from laptick.db.engine.connect import DbSettings

#: A statement over a whole table takes longer than a request may.
ANSWER_S: Seconds = 3600.0

_NAME = re.compile(r"laptick-\d{8}-\d{6}\.backup")


def run_backup(options: argparse.Namespace) -> int:
    """Writes a backup; into a folder under the name of its moment, where the oldest beyond ``--keep`` then go."""
    from laptick.command_running import database_of
    from laptick.db.engine.backup import write_backup
    from laptick.db.engine.connect import connect

    out = Path(options.out)
    if options.keep is not None and not out.is_dir():
        raise OptionError("--keep is for a folder of backups.", where=str(out), kept="Nothing was written.")
    target = out / f"laptick-{datetime.now(UTC):%Y%m%d-%H%M%S}.backup" if out.is_dir() else out
    connection = connect(database_of(options), answer_s=ANSWER_S)
    unfinished = target.with_name(f".{target.name}.unfinished")
    try:
        with open(unfinished, "wb", opener=_own) as file:
            rows = write_backup(connection, file)
            file.flush()
            os.fsync(file.fileno())
        unfinished.replace(target)
    except OSError as error:
        raise StorageError(
            f"the backup could not be written: {(error.strerror or 'the disk failed').lower()}.",
            where=str(target),
            kept="Backups of before are untouched.",
        ) from None
    finally:
        connection.close()
        with suppress(OSError):
            unfinished.unlink()
    print(f"{target}: {rows} rows, {target.stat().st_size / 1e6:.1f} MB.")
    if options.keep is not None:
        for old in sorted(one for one in out.iterdir() if _NAME.fullmatch(one.name))[: -options.keep]:
            old.unlink()
            print(f"{old}: removed, of the oldest.")
    return 0


def _own(path: str, flags: int) -> int:
    """Nobody else's to read."""
    return os.open(path, flags, 0o600)


def run_restore(options: argparse.Namespace) -> int:
    from laptick.db.engine.backup import restore_backup
    from laptick.db.engine.connect import connect

    try:
        file = Path(options.backup).open("rb")  # noqa: SIM115 - before rights to read it are given up
    except OSError as error:
        raise OptionError(
            f"the backup cannot be read: {(error.strerror or 'it cannot be opened').lower()}.",
            where=options.backup,
            kept="Nothing was restored.",
        ) from None
    with file, _empty_database(options) as settings:
        connection = connect(settings, answer_s=ANSWER_S)
        try:
            rows = restore_backup(connection, file)
        finally:
            connection.close()
    print(f"{rows} rows are back. Start the application as ever; who signed in before signs in as before.")
    return 0


@contextmanager
def _empty_database(options: argparse.Namespace) -> Iterator[DbSettings]:
    """The one at an address; else that of the data folder, which nothing else uses meanwhile."""
    from laptick.db.engine.connect import settings_of_url
    from laptick.db.engine.privileges import drop_privileges
    from laptick.db.engine.server import MariaDb
    from laptick.keeping import say
    from laptick.run import NEEDED, home, only_one

    if options.db is not None:
        yield settings_of_url(options.db)
        return
    with only_one(home()):
        user = drop_privileges(home(), NEEDED, say)
        server = MariaDb(home() / "database", user=user)
        server.start()
        try:
            yield server.settings()
        finally:
            server.stop()
