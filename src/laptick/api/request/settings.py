"""What the application is told when it is started; light, for whoever starts it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from laptick.db.engine.connect import DbSettings

#: Where processes of one run count together: the library that counts reads it from this variable.
COUNTS = "PROMETHEUS_MULTIPROC_DIR"


@dataclass(frozen=True)
class AppSettings:
    """``web`` is the built interface, or ``None`` to serve the API alone; ``hosts`` and ``any_address`` as the guard
    has them; ``data``: where the database's files lie, if on this machine; ``demo``: it was started for the demo, which
    is looked at without a password from its own machine; ``reach``: a file that tells by what addresses other devices
    reach it."""

    db: DbSettings
    web: Path | None = None
    hosts: frozenset[str] = frozenset()
    any_address: bool = False
    data: Path | None = None
    demo: bool = False
    reach: Path | None = None
