"""Who is asking, and when it is their turn. The one place that answers it: sign-in will change this file and no other.

A request that waits for its turn holds neither a thread nor a connection: if it did, those whose turn it is could be
left without a thread to go on with.
"""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterator
from contextlib import asynccontextmanager, contextmanager
from dataclasses import dataclass
from typing import Annotated

import anyio
from fastapi import Depends, Request

from laptick.core.base.errors import StorageError
from laptick.core.base.units import Seconds
from laptick.db.engine.pool import Pool
from laptick.studio.use_case import Studio

#: Without sign-in everybody who can reach this machine's loopback is the one teacher of the one studio.
THE_STUDIO = 1

#: So many requests of one process are worked on at the same time, each with a connection of its own.
AT_ONCE = 16

#: Threads beside theirs, for what needs no turn: files of the interface, uploads that come in.
MORE_THREADS = 8

#: How long a request waits for its turn.
WAIT_S: Seconds = 15.0


@dataclass(frozen=True)
class Turn:
    """A request's turn: whose data it may see, and the connections to see it through."""

    pool: Pool
    studio_id: int = THE_STUDIO

    @contextmanager
    def studio(self) -> Iterator[Studio]:
        """The studio, with a connection for as long as it takes; in the thread that does the work.

        Raises:
            StorageError: the database cannot be reached.
        """
        with self.pool.lent() as connection:
            yield Studio(connection, self.studio_id)


@asynccontextmanager
async def turn_of(request: Request) -> AsyncIterator[Turn]:
    """The request's turn, when it comes.

    Raises:
        StorageError: it did not come for too long.
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
        yield Turn(request.app.state.pool)
    finally:
        turns.release()


async def wait_for_turn(request: Request) -> AsyncIterator[Turn]:
    """As ``turn_of``, for a route."""
    async with turn_of(request) as turn:
        yield turn


# The route (``ModelRoute``) makes the studio of the turn in its own thread, and gives the connection back before the
# answer is sent, so a failed commit can never answer 200.
StudioNow = Annotated[Studio, Depends(wait_for_turn, scope="function")]
