"""What is done to a database before anybody is served from it. Loaded when it is needed: it knows all of the studio."""

from __future__ import annotations

from collections.abc import Callable

from laptick.core.base.units import Seconds
from laptick.db.engine.connect import DbSettings, connect
from laptick.db.engine.migrate import migrate
from laptick.studio.demo import add_demo, reset_demo
from laptick.studio.demo_shipped import add_shipped_demo
from laptick.studio.demo_students import add_demo_students
from laptick.studio.people.sign_in import FIRST_STUDIO, add_demo_teacher
from laptick.studio.pieces.shelf import list_pieces, pieces_to_read
from laptick.studio.use_case import Studio

#: A migration may take longer than a request.
PREPARE_S: Seconds = 600.0


def prepare(settings: DbSettings, say: Callable[[str], None], *, demo: bool, reset: bool) -> None:
    """Migrates the database, adds the demo where it is wanted, and reads pieces that were never read."""
    connection = connect(settings, answer_s=PREPARE_S)
    studio = Studio(connection, FIRST_STUDIO)
    try:
        done = migrate(connection)
        say(f"database: {len(done)} migration(s) run." if done else "database: up to date.")
        if demo:
            if reset:
                say("reset: the demo pieces and their takes are made anew; your own pieces and students stay.")
            shipped = None if reset else add_shipped_demo(studio)
            if shipped is not None:
                added, joined = shipped
            else:
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
