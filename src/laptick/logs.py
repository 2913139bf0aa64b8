"""What is written while it runs: plain lines for whoever looks on, or JSON, a line an event, for a machine that
collects them. JSON lines hold no name and nothing that somebody typed: of an exception its kind and places, not its
message.

A process learns from its environment which it is; ``serve --log json`` tells those it starts.
"""

from __future__ import annotations

import json
import logging
import os
import sys
import traceback
from datetime import UTC, datetime
from pathlib import Path

PLAIN, JSON = "plain", "json"
KINDS = (PLAIN, JSON)

_ENVIRONMENT = "LAPTICK_LOG"


def environment(kind: str) -> dict[str, str]:
    """For a child process."""
    return {_ENVIRONMENT: kind}


def set_up() -> None:
    """As this process was told."""
    logging.getLogger("weasyprint").setLevel(logging.ERROR)  # it tells of every style that paper has no use for
    if os.environ.get(_ENVIRONMENT) != JSON:
        logging.basicConfig(level=logging.WARNING, format="%(name)s: %(message)s")
        return
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(JsonLines())
    logging.basicConfig(level=logging.WARNING, handlers=[handler])
    logging.getLogger("laptick.requests").setLevel(logging.INFO)


class JsonLines(logging.Formatter):
    """``{"at", "level", "from", "says"}``, with what the event tells beside it."""

    def format(self, record: logging.LogRecord) -> str:
        line = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "from": record.name,
            "process": record.process,
            # Not what stands in for the signs in it: that may be a word of somebody's.
            "says": str(record.msg),
            **getattr(record, "told", {}),
        }
        numbers = [one for one in record.args if isinstance(one, int | float)] if isinstance(record.args, tuple) else []
        if numbers:
            line["numbers"] = numbers
        if record.exc_info and record.exc_info[0] is not None:
            line["fault"] = record.exc_info[0].__name__
            line["places"] = [
                f"{Path(frame.filename).name}:{frame.lineno} {frame.name}"
                for frame in traceback.extract_tb(record.exc_info[2])[-12:]
            ]
        return json.dumps(line, ensure_ascii=False)
