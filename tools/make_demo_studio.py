"""Makes the demo as it ships: every piece, student and take of ``studio/demo`` and ``studio/demo_students``, played by
the simulated student and judged as any take is, written as the file of a studio into src/laptick/demo/. Run it again
when the checker, the ladder or the demo has changed; ``tests/studio/test_demo_shipped.py`` says so."""

from __future__ import annotations

import os
import shutil
import tempfile
import time
from pathlib import Path

from laptick.db.engine.connect import Connection, connect
from laptick.db.engine.migrate import migrate
from laptick.db.engine.server import MariaDb
from laptick.studio.demo import add_demo
from laptick.studio.demo_shipped import FILE
from laptick.studio.demo_students import add_demo_students
from laptick.studio.moving import bundles, exporting
from laptick.studio.use_case import Studio

TARGET = Path(__file__).resolve().parents[1] / "src" / "laptick" / "demo" / FILE


def made(studio: Studio, writing: Connection) -> bytes:
    """The file of a studio that had nothing before."""
    add_demo(studio)
    add_demo_students(studio)
    bundle, _job = bundles.ask_for_bundle(studio, None)
    exporting.write_bundle(studio, bundle.id, writing)
    size = bundles.get_bundle(studio, bundle.id).size
    parts = range(-(-size // bundles.CHUNK_BYTES))
    return b"".join(bundles.get_part(studio, bundle.id, number) for number in parts)


def main() -> None:
    os.environ["TZ"] = "UTC"
    time.tzset()
    folder = Path(tempfile.mkdtemp())
    server = MariaDb(folder / "database")
    server.start()
    try:
        connection, writing = connect(server.settings()), connect(server.settings())
        migrate(connection)
        TARGET.write_bytes(made(Studio(connection, 1), writing))
        connection.close()
        writing.close()
    finally:
        server.stop()
        shutil.rmtree(folder, ignore_errors=True)
    print(TARGET)


if __name__ == "__main__":
    main()
