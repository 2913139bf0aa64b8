"""How much there is for workers to do, over all studios."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.units import Seconds
from laptick.db import jobs as db
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class Waiting:
    """``jobs``: how many by kind and state; ``longest_s``: how long one has waited that is due."""

    jobs: dict[tuple[str, str], int]
    longest_s: Seconds


@use_case
def waiting_jobs(studio: Studio) -> Waiting:
    return Waiting(db.count_jobs(studio.connection), db.longest_wait_s(studio.connection))
