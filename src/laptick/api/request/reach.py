"""By what addresses other devices reach this server: whoever started it tells it in a file, which may change while it
runs. What cannot be read says that they do not."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Reached:
    """``install``: where a phone learns to trust it; ``fingerprint``: of what it trusts then."""

    urls: tuple[str, ...] = ()
    install: str | None = None
    fingerprint: str | None = None


def read_reach(path: Path | None) -> Reached:
    if path is None:
        return Reached()
    try:
        told = json.loads(path.read_text(encoding="utf-8"))
        urls = tuple(str(one) for one in told["urls"])
        install, fingerprint = (None if told[name] is None else str(told[name]) for name in ("install", "fingerprint"))
    except (OSError, ValueError, KeyError, TypeError):
        return Reached()
    return Reached(urls, install, fingerprint)
