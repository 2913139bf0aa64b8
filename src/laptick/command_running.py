"""The commands that keep something running: ``demo``, ``serve``, ``worker``. What they need is loaded when they run: no
other command needs a database driver and a server."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from laptick.core.base.errors import OptionError

if TYPE_CHECKING:
    from laptick.db.engine.connect import DbSettings
    from laptick.house.phones import PhoneOptions


def run_web(options: argparse.Namespace) -> int:
    from laptick.db.engine.connect import settings_of_url
    from laptick.run import RunOptions, run

    return run(
        RunOptions(
            port=options.port,
            demo=options.command == "demo",
            reset=getattr(options, "reset", False),
            db=None if options.db is None else settings_of_url(options.db),
            apps=options.apps,
            workers=options.workers,
            phones=_phones_of(options),
            names=tuple(name.lower() for name in options.name),
            log=options.log,
        )
    )


def _phones_of(options: argparse.Namespace) -> PhoneOptions | None:
    if (options.cert is None) != (options.key is None):
        raise OptionError("a certificate comes with its key.", where="--cert", todo="Name both --cert and --key.")
    if options.host is None:
        if options.cert is not None:
            raise OptionError("a certificate is for phones.", where="--cert", todo="Name --host, too.")
        return None
    from laptick.house.certificates import Leaf
    from laptick.house.phones import PhoneOptions

    given = None if options.cert is None else Leaf(Path(options.cert), Path(options.key))
    if given is not None and not (given.chain.is_file() and given.key.is_file()):
        raise OptionError("the certificate or its key is not there.", where="--cert", kept="Nothing was started.")
    return PhoneOptions(options.host, options.phone_port, given)


def run_a_worker(options: argparse.Namespace) -> int:
    from laptick.worker import run_worker

    return run_worker(database_of(options))


def run_teacher(options: argparse.Namespace) -> int:
    """A recovery code for a teacher, or another studio with one; on the database of a running application."""
    from laptick.db.engine.connect import connect
    from laptick.db.engine.migrate import migrate
    from laptick.studio.people.account import add_studio, recovery_code_for
    from laptick.studio.people.sign_in import NO_STUDIO
    from laptick.studio.use_case import Studio

    connection = connect(database_of(options))
    try:
        migrate(connection)
        studio = Studio(connection, NO_STUDIO)
        if options.new_studio is not None:
            code = add_studio(studio, options.new_studio, options.name)
        else:
            code = recovery_code_for(studio, options.name)
    finally:
        connection.close()
    print(f"Recovery code of {options.name}, good once:  {code}")
    print("It chooses a new password: Sign in, I have lost my password.")
    return 0


def database_of(options: argparse.Namespace) -> DbSettings:
    from laptick.db.engine.connect import settings_of_url
    from laptick.db.engine.server import MariaDb
    from laptick.run import home

    if options.db is not None:
        return settings_of_url(options.db)
    server = MariaDb(home() / "database")
    if not server.port_file.is_file() or not server.password_file.is_file():
        raise OptionError(
            "there is no database in the data folder.", where=str(home()), todo="Start the application, or name --db."
        )
    return server.settings()
