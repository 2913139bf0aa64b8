"""A request that waits a moment for a job, without a thread or a connection while it waits.

What is soon made is answered as if it had been there; for the rest the answer is 202 with the job, to be looked at.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from functools import partial
from typing import TypeVar

import anyio
from fastapi import Request

from laptick.api.request.asking import Turn, turn_of
from laptick.core.base.errors import NotFoundError, StorageError
from laptick.core.base.units import Seconds
from laptick.studio.jobs.jobs import Job, JobState, get_job
from laptick.studio.jobs.making import Made, MadeWanted, ask_for
from laptick.studio.use_case import Studio

#: How long a request waits for a job, and how often it looks.
WAIT_S: Seconds = 2.5
LOOK_S: Seconds = 0.08

R = TypeVar("R")


async def run(request: Request, use_case: Callable[[Studio], R]) -> R:
    """A use case in a thread, with a connection for as long as it takes."""
    async with turn_of(request) as turn:
        return await anyio.to_thread.run_sync(_work, turn, use_case)


def _work(turn: Turn, use_case: Callable[[Studio], R]) -> R:
    with turn.studio() as studio:
        return use_case(studio)


async def made_or_job(request: Request, wanted: MadeWanted) -> Made | Job:
    """What is wanted, or the job that is making it.

    Raises:
        LapTickError: it cannot be made; the job's own error where it failed.
    """
    until = time.monotonic() + WAIT_S
    found = await run(request, lambda studio: ask_for(studio, wanted))
    while isinstance(found, Job):
        if found.state is JobState.DONE:
            found = await run(request, lambda studio: ask_for(studio, wanted))
            continue
        if found.state.is_over:
            raise found.error or StorageError("this was stopped before it was done.", todo="Ask for it again.")
        if time.monotonic() > until:
            break
        await anyio.sleep(LOOK_S)
        try:
            found = await run(request, partial(get_job, job_id=found.id))
        except NotFoundError:  # over and forgotten since
            found = await run(request, lambda studio: ask_for(studio, wanted))
    return found
