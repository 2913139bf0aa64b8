"""One process of the web application, started by ``run`` on a socket that is open already.

So it can end and be started again, or be several, and whoever has the address notices nothing.
"""

from __future__ import annotations

import json
import os
import socket
import sys
from collections.abc import Mapping
from pathlib import Path

import uvicorn

from laptick.api.app import AppSettings, create_app
from laptick.core.base.errors import StorageError
from laptick.db.engine.connect import DbSettings

_ENVIRONMENT = "LAPTICK_SERVING"


def environment(settings: AppSettings) -> dict[str, str]:
    """What such a process is told."""
    told = {"web": str(settings.web or ""), "data": str(settings.data or "")}
    return {_ENVIRONMENT: json.dumps(told), **settings.db.environment()}


def told(given: Mapping[str, str]) -> AppSettings:
    """
    Raises:
        StorageError: it was told nothing that can be read.
    """
    try:
        values = json.loads(given[_ENVIRONMENT])
        web, data = (Path(values[name]) if values[name] else None for name in ("web", "data"))
    except (KeyError, TypeError, ValueError):
        raise StorageError("this process was not told what to serve.", where=_ENVIRONMENT) from None
    return AppSettings(DbSettings.of_environment(), web, data=data)


def main(descriptor: int) -> None:
    config = uvicorn.Config(
        create_app(told(os.environ)), log_level="warning", access_log=False, timeout_graceful_shutdown=3, backlog=256
    )
    uvicorn.Server(config).run(sockets=[socket.socket(fileno=descriptor)])


if __name__ == "__main__":
    main(int(sys.argv[1]))
