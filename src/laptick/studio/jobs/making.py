"""What is made of a piece and takes a while: engraved pages, sheets, pictures, sound.

What is made is kept under a hash of everything it is made of, with the version of what makes it, so what is found there
is never out of date. Small things are made when they are asked for, others by a job.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from typing import Any

from laptick import __version__
from laptick.db import jobs as jobs_db
from laptick.db import made as db
from laptick.db.made import Made as Made  # what is asked for here comes from here
from laptick.studio.jobs.at_work import AtWork
from laptick.studio.jobs.jobs import Job, job_of
from laptick.studio.jobs.makers import MAKERS
from laptick.studio.jobs.prepared import Prepared
from laptick.studio.use_case import Studio, use_case

#: To be raised when any of the makers makes something else of the same.
MADE_VERSION = 3

#: How many bars are drawn or played at once while somebody waits: about a third of a second.
MOST_BARS_AT_ONCE = 20


KIND = "make"


@dataclass(frozen=True)
class MadeWanted:
    """``options`` hold plain values only."""

    kind: str
    piece_id: int
    options: dict[str, Any]

    def key(self, stamp: str) -> str:
        told = json.dumps([MADE_VERSION, __version__, self.kind, self.options, stamp], sort_keys=True)
        return hashlib.sha256(told.encode()).hexdigest()

    def prepared(self, studio: Studio) -> Prepared:
        return MAKERS[self.kind](studio, self.piece_id, self.options)


@use_case
def ask_for(studio: Studio, wanted: MadeWanted) -> Made | Job:
    """What is wanted, if it was made before or is soon made; else the job that makes it.

    Raises:
        LapTickError: it cannot be made of this piece.
    """
    prepared = wanted.prepared(studio)
    key = wanted.key(prepared.stamp)
    found = db.get_made(studio.connection, studio.id, key)
    if found is not None:
        return found
    if prepared.bars <= MOST_BARS_AT_ONCE:
        made = prepared.make()
        db.add_made(studio.connection, studio.id, key, made)
        return made
    asked = {"kind": wanted.kind, "piece_id": wanted.piece_id, "options": wanted.options}
    return job_of(jobs_db.ask_job(studio.connection, studio.id, jobs_db.NewJob(KIND, f"make:{key}", asked)))


@use_case
def prepare_made(studio: Studio, wanted: MadeWanted) -> tuple[str, Prepared]:
    """What is to be made as things stand now, and the key it will be kept under."""
    prepared = wanted.prepared(studio)
    return wanted.key(prepared.stamp), prepared


@use_case
def keep_made(studio: Studio, key: str, made: Made) -> None:
    """Keeps what was made."""
    db.add_made(studio.connection, studio.id, key, made)


def work(job: AtWork) -> bool:
    """Makes what was asked for: of the piece as it is now, which is what whoever asks next will ask for."""
    wanted = MadeWanted(str(job.asked["kind"]), int(job.asked["piece_id"]), dict(job.asked["options"]))
    key, prepared = prepare_made(job.studio, wanted)
    made = prepared.make()
    job.get_further(1, 1)  # not ours any more: another has made it
    keep_made(job.studio, key, made)
    return True
