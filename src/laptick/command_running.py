"""The commands that keep something running: ``demo``, ``serve``, ``worker``. What they need is loaded when they run: no
other command needs a database driver and a server."""

from __future__ import annotations

import argparse

from laptick.core.base.errors import OptionError


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
        )
    )


def run_a_worker(options: argparse.Namespace) -> int:
    from laptick.db.engine.connect import settings_of_url
    from laptick.db.engine.server import MariaDb
    from laptick.run import home
    from laptick.worker import run_worker

    if options.db is not None:
        return run_worker(settings_of_url(options.db))
    server = MariaDb(home() / "database")
    if not server.port_file.is_file() or not server.password_file.is_file():
        raise OptionError(
            "there is no database in the data folder.", where=str(home()), todo="Start the application, or name --db."
        )
    return run_worker(server.settings())
