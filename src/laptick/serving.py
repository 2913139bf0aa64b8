"""One process of the web application, started by ``run`` on a socket that is open already.

So it can end and be started again, or be several, and whoever has the address notices nothing.
"""

from __future__ import annotations

import ctypes
import gc
import json
import os
import socket
import ssl
import sys
import threading
import time
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING

from laptick import logs
from laptick.api.request.settings import AppSettings
from laptick.core.base.errors import StorageError
from laptick.db.engine.connect import DbSettings

if TYPE_CHECKING:
    import uvicorn

#: The last line that such a process is told: everything may be asked for.
SERVE = "serve"


def words(settings: AppSettings) -> str:
    """What such a process is told, as a line; a password in a command line or a variable is seen by others."""
    return json.dumps(
        {
            "db": asdict(settings.db),
            "web": str(settings.web or ""),
            "data": str(settings.data or ""),
            "demo": settings.demo,
            "hosts": sorted(settings.hosts),
            "any_address": settings.any_address,
            "reach": str(settings.reach or ""),
        }
    )


def told(line: str) -> AppSettings:
    """
    Raises:
        StorageError: it was told nothing that can be read.
    """
    try:
        values = json.loads(line)
        db = DbSettings(**values["db"])
        web, data, reach = (Path(values[name]) if values[name] else None for name in ("web", "data", "reach"))
        hosts = frozenset(map(str, values["hosts"]))
        demo, any_address = values["demo"] is True, values["any_address"] is True
    except (KeyError, TypeError, ValueError):
        raise StorageError("this process was not told what to serve.") from None
    return AppSettings(db, web, hosts, any_address, data, demo, reach)


#: How long a thread may work before others get their turn, and how rarely everything is searched for what is unused:
#: both so that a short request is not held up by long ones.
SWITCH_S, COLLECT = 0.001, (20_000, 20, 50)


#: How often what was freed is given back to the machine: the C library keeps it, and the process would only grow.
GIVE_BACK_S = 2.0


def _give_back_memory() -> None:
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    while trim is not None:
        time.sleep(GIVE_BACK_S)
        trim(0)


#: How often it is looked whether there is another certificate.
LOOK_S = 5.0


def _take_up(config: uvicorn.Config, chain: Path, key: Path) -> None:
    """A certificate that was made anew holds for whoever comes from then on."""
    known = chain.stat().st_mtime_ns
    while True:
        time.sleep(LOOK_S)
        try:
            if (found := chain.stat().st_mtime_ns) != known and config.ssl is not None:
                config.ssl.load_cert_chain(chain, key)
                known = found
        except (OSError, ssl.SSLError):  # looked at while it is written
            continue


def main(descriptor: int, words_from: int, *tls: str) -> None:
    """``words_from``: what it is told by whoever started it (``words``, then ``SERVE``), while it loads what it is
    made of; ``tls``: the files of a certificate's chain and key, where there is one."""
    sys.setswitchinterval(SWITCH_S)
    gc.set_threshold(*COLLECT)
    logs.set_up()
    gc.disable()  # nothing of what is loaded goes again
    import uvicorn

    from laptick.api.app import create_app

    with os.fdopen(words_from) as lines:
        app = create_app(told(lines.readline()))
        gc.collect()
        gc.freeze()  # what was imported stays: nobody needs to search it again
        gc.enable()
        if lines.readline().strip() != SERVE:
            return  # whoever started it ended first
    threading.Thread(target=_give_back_memory, daemon=True).start()
    chain, key = (*tls, None, None)[:2]
    config = uvicorn.Config(
        app,
        log_level="warning",
        log_config=None,  # ours holds for its lines, too
        access_log=False,
        timeout_graceful_shutdown=3,
        backlog=256,
        ssl_certfile=chain,
        ssl_keyfile=key,
    )
    if chain is not None and key is not None:
        config.load()
        threading.Thread(target=_take_up, args=(config, Path(chain), Path(key)), daemon=True).start()
    uvicorn.Server(config).run(sockets=[socket.socket(fileno=descriptor)])


if __name__ == "__main__":
    main(int(sys.argv[1]), int(sys.argv[2]), *sys.argv[3:])
