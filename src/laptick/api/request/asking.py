"""Who is asking, and when it is their turn. The one place that answers it: sign-in will change this file and no other.

A request that waits for its turn holds neither a thread nor a connection: if it did, those whose turn it is could be
left without a thread to go on with.
"""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Annotated

import anyio
from fastapi import Depends, Request

from laptick.core.base.errors import StorageError
from laptick.core.base.units import Seconds
from laptick.studio.use_case import Studio

#: Without sign-in everybody who can reach this machine's loopback is the one teacher of the one studio.
THE_STUDIO = 1

#: So many requests of one process are worked on at the same time, each with a connection of its own.
AT_ONCE = 16

#: Threads beside theirs, for what needs no turn: files of the interface, uploads that come in.
MORE_THREADS = 8

#: How long a request waits for its turn.
WAIT_S: Seconds = 15.0


@asynccontextmanager
async def studio_of(request: Request) -> AsyncIterator[Studio]:
    """The studio whose data a request may see, with a connection of its own, when it is its turn.

    Raises:
        StorageError: it was not its turn for too long, or the database cannot be reached.
    """
    turns: anyio.Semaphore = request.app.state.turns
    try:
        with anyio.fail_after(WAIT_S):
            await turns.acquire()
    except TimeoutError:
        raise StorageError(
            "too much is asked at once.", kept="Nothing was changed.", todo="Try again in a moment."
        ) from None
    try:
        lent = request.app.state.pool.lent()
        connection = await anyio.to_thread.run_sync(lent.__enter__)
        try:
            yield Studio(connection, THE_STUDIO)
        finally:
            with anyio.CancelScope(shield=True):
                await anyio.to_thread.run_sync(lent.__exit__, None, None, None)
    finally:
        turns.release()


async def open_studio(request: Request) -> AsyncIterator[Studio]:
    """As ``studio_of``, for a route."""
    async with studio_of(request) as studio:
        yield studio


# Given back before the answer is sent, so a failed commit can never answer 200.
StudioNow = Annotated[Studio, Depends(open_studio, scope="function")]
