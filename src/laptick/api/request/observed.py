"""What is known of the application from outside while it runs: how many requests of which kind, how long they took,
what waits; as numbers in the text format that Prometheus reads (version 0.0.4), and as a line a request in the log.

Neither holds a name, an address or what was asked for: a request is known by its route, who asked by a role. Counts of
several processes are kept together where they share a folder (``PROMETHEUS_MULTIPROC_DIR``, which must be set before
this is loaded); else each tells its own.
"""

from __future__ import annotations

import logging
import os
import time
from collections.abc import Iterable
from ipaddress import ip_address

from fastapi.routing import APIRoute
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import REGISTRY, Collector
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from laptick.api.request.settings import COUNTS
from laptick.studio.jobs.waiting import Waiting

log = logging.getLogger("laptick.requests")

#: Upper ends of the classes in which durations are counted, in seconds; no request may take longer than the last but
#: one.
_SECONDS = (0.005, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 3.0, 10.0)

#: A request of no route: of the page and its parts, or of nothing.
_NO_ROUTE = "page"

_REQUESTS = Counter("laptick_requests", "Requests answered.", ["route", "status"])
_TOOK = Histogram("laptick_request_seconds", "How long requests took.", ["route"], buckets=_SECONDS)


def is_this_machine(host: str) -> bool:
    """Does whoever asks do so from here? One behind a proxy has the address that the proxy tells."""
    try:
        return ip_address(host).is_loopback
    except ValueError:
        return False


class Observed:
    """Counts every request, and writes it into the log where that is wanted."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun, status = time.perf_counter(), 500

        async def observed(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        try:
            await self.app(scope, receive, observed)
        finally:
            taken_s = time.perf_counter() - begun
            found = scope.get("route")
            route = found.name if isinstance(found, APIRoute) else _NO_ROUTE
            _REQUESTS.labels(route, str(status)).inc()
            _TOOK.labels(route).observe(taken_s)
            if log.isEnabledFor(logging.INFO):
                told = {"route": route, "method": scope["method"], "status": status, "ms": round(1000 * taken_s, 1)}
                log.info("request", extra={"told": told})


class _Now(Collector):
    """What stands at the moment it is asked for."""

    def __init__(self, waiting: Waiting, free_bytes: int | None) -> None:
        self._waiting, self._free_bytes = waiting, free_bytes

    def collect(self) -> Iterable[Metric]:
        jobs = GaugeMetricFamily("laptick_jobs", "Jobs by kind and state, of all studios.", labels=["kind", "state"])
        for (kind, state), number in sorted(self._waiting.jobs.items()):
            jobs.add_metric([kind, state], number)
        yield jobs
        yield GaugeMetricFamily(
            "laptick_job_waiting_seconds", "How long the job has waited that is due for longest.",
            value=self._waiting.longest_s,
        )  # fmt: skip
        if self._free_bytes is not None:
            yield GaugeMetricFamily("laptick_free_bytes", "Room for the database's files.", value=self._free_bytes)


def metrics(waiting: Waiting, free_bytes: int | None) -> bytes:
    """All of it, as text."""
    now = CollectorRegistry()
    now.register(_Now(waiting, free_bytes))
    if os.environ.get(COUNTS):
        counts = CollectorRegistry()
        MultiProcessCollector(counts)  # type: ignore[no-untyped-call]
    else:
        counts = REGISTRY
    return bytes(generate_latest(now) + generate_latest(counts))
