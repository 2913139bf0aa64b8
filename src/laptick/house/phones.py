"""What lets the phones of a house in: a listener with TLS, a plain one that hands out the studio's certificate, and the
file that tells both processes and pages by what addresses they are reached.

The application itself stays on this machine's own address as well, where a browser trusts it without more.
"""

from __future__ import annotations

import json
import socket
import sys
import time
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from laptick.core.base.errors import ConflictError, StorageError
from laptick.core.base.units import Seconds
from laptick.house.certificates import NETWORKS, Leaf, Reach, authority, fingerprint, leaf, reach_of

#: How often it is looked whether this machine has other addresses.
LOOK_S: Seconds = 10.0


@dataclass(frozen=True)
class PhoneOptions:
    """``host``: the address to listen at, ``0.0.0.0``: every one; ``port``: with TLS, the next one hands out the
    certificate; ``given``: a certificate of somebody else's, in place of the studio's own."""

    host: str
    port: int
    given: Leaf | None = None


class Phones:
    """The listeners, and what is told of them.

    Raises:
        StorageError: the address is not this machine's, or none that the studio's own certificate can vouch for.
        ConflictError: a port is taken.
    """

    def __init__(self, options: PhoneOptions, folder: Path) -> None:
        self.options, self.folder = options, folder
        self.told = folder / "reach.json"
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._reach = reach_of(options.host)
        own = [one for one in self._reach.addresses if any(one in network for network in NETWORKS)]
        if options.given is None and len(own) < len(self._reach.addresses):
            raise StorageError(
                "the studio’s own certificate is for a house’s network only.",
                where="--host",
                kept="Nothing was started.",
                todo="Give a certificate with --cert and --key, or put a proxy before it (docs/operating.md).",
            )
        self.leaf = self._leaf_of(self._reach)
        self._looked = time.monotonic()
        self.listener = _listening(options.host, options.port)
        self.plain = None if options.given else _listening(options.host, options.port + 1)
        self._tell()

    @property
    def names(self) -> tuple[str, ...]:
        return self._reach.names

    def close(self) -> None:
        for listener in (self.listener, self.plain):
            if listener is not None:
                listener.close()
        self.told.unlink(missing_ok=True)

    def look(self) -> None:
        """From time to time: other addresses have another leaf, which the processes take up by themselves."""
        if time.monotonic() - self._looked < LOOK_S:
            return
        self._looked = time.monotonic()
        found = reach_of(self.options.host)
        self.leaf = self._leaf_of(found)  # the same where nothing changed and it still holds
        if found != self._reach:
            self._reach = found
            self._tell()

    def urls(self, scheme: str = "https", port: int | None = None) -> list[str]:
        """The addresses for others, the likeliest first."""
        at = self.options.port if port is None else port
        far = [one for one in self._reach.addresses if not one.is_loopback] or list(self._reach.addresses)
        named = [name for name in self._reach.names if name.endswith(".local")]
        hosts = [f"[{one}]" if one.version == 6 else str(one) for one in far] + named
        return [f"{scheme}://{host}:{at}" for host in hosts]

    def handing_out(self) -> Sequence[str]:
        """The command of the process that hands out the certificate."""
        assert self.plain is not None
        return [sys.executable, "-m", "laptick.house.handing_out", str(self.plain.fileno()), str(self.folder)]

    def _leaf_of(self, reach: Reach) -> Leaf:
        return self.options.given or leaf(self.folder, reach)

    def _tell(self) -> None:
        install = None if self.plain is None else self.urls("http", self.options.port + 1)[0]
        print_ = None if self.plain is None else fingerprint(authority(self.folder))
        told = {"urls": self.urls(), "install": install, "fingerprint": print_}
        beside = self.told.with_suffix(".new")
        beside.write_text(json.dumps(told), encoding="utf-8")
        beside.replace(self.told)


def _listening(host: str, port: int) -> socket.socket:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.socket(family)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except (OSError, OverflowError):
        listener.close()
        raise ConflictError(
            f"port {port} at {host} is taken by another program, or may not be used.",
            kept="Nothing was started.",
            todo="Choose another one with --phone-port.",
        ) from None
    listener.listen(256)
    return listener
