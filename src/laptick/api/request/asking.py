"""Who is asking, what is theirs, and when it is their turn. The one place that answers it.

The browser keeps a token of its session; who that is, is looked up with every request. A route that is not for them is
refused (``roles``). Whoever came by a personal link sees one student's own only: every row that the address names must
be that student's, and where a route asks of which student, that one must be named. What a request's body names is
held against it where it is opened (``Studio.check_whose``).

A request that waits for its turn holds neither a thread nor a connection: if it did, those whose turn it is could be
left without a thread to go on with.
"""

from __future__ import annotations

from collections.abc import AsyncIterator, Iterator, Mapping
from contextlib import asynccontextmanager, contextmanager
from dataclasses import dataclass, field
from typing import Annotated

import anyio
from fastapi import Depends, Request
from fastapi.routing import APIRoute

from laptick.api.request.cookies import session_token
from laptick.api.request.roles import MAY_CALL, NOTED
from laptick.core.base.errors import NotFoundError, RefusedError, SignedOutError, StorageError
from laptick.core.base.units import Seconds
from laptick.db.engine.pool import Pool
from laptick.db.people.links import is_students
from laptick.studio.people.audit import note
from laptick.studio.people.sign_in import NO_STUDIO, who_asks
from laptick.studio.use_case import MAX_ID, Asker, AskerRole, Studio

#: The studio that is made at the first start.
THE_STUDIO = 1

#: So many requests of one process are worked on at the same time, each with a connection of its own.
AT_ONCE = 16

#: Threads beside theirs, for what needs no turn: files of the interface, uploads that come in.
MORE_THREADS = 8

#: How long a request waits for its turn.
WAIT_S: Seconds = 15.0

#: What an address may name beside rows: it tells nothing of anybody.
_NO_ROWS = frozenset({"number", "word_id"})


@dataclass(frozen=True)
class Asked:
    """What a request asks: the route by name, the token it was sent with, the rows that its address names, and of
    which student, where the route asks that (``of_student``)."""

    route: str
    token: str
    rows: Mapping[str, str] = field(default_factory=dict)
    student: str | None = None
    of_student: bool = False


@dataclass(frozen=True)
class Turn:
    """A request's turn: for whom, and the connections to see it through. ``asker``: ``None`` is nobody, on a route that
    is everybody's."""

    pool: Pool
    asker: Asker | None
    asked: Asked

    @contextmanager
    def studio(self) -> Iterator[Studio]:
        """The studio of who asks, with a connection for as long as it takes; in the thread that does the work.

        Raises:
            StorageError: the database cannot be reached.
        """
        with self.pool.lent() as connection:
            studio = Studio(connection, self.asker.studio_id if self.asker else NO_STUDIO, self.asker)
            yield studio
            if self.asked.route in NOTED:  # what was refused or failed came to nothing, and does not come here
                what, kind = NOTED[self.asked.route]
                row = self.asked.rows.get(f"{kind}_id", "")
                note(studio, what, kind, int(row) if row.isdigit() else None)


def admitted(pool: Pool, asked: Asked) -> Turn:
    """The turn of who asks, if they may.

    Raises:
        SignedOutError: nobody is signed in, and the route is not for everybody.
        RefusedError: the route is not for who asks.
        NotFoundError: it names what is not theirs.
        StorageError: the database cannot be reached.
    """
    roles = MAY_CALL.get(asked.route, frozenset())
    if not asked.token:
        asker = None
    else:
        with pool.lent() as connection:
            nobody = Studio(connection, NO_STUDIO)
            asker = who_asks(nobody, asked.token)
            if asker is not None and asker.role in roles and AskerRole.NOBODY not in roles:
                _check_own(nobody, asker, asked)
    if (asker.role if asker else AskerRole.NOBODY) in roles:
        return Turn(pool, asker, asked)
    if asker is None:
        raise SignedOutError(
            "you are signed out.", kept="What was stored before is untouched.", todo="Sign in, and go on."
        )
    raise RefusedError("this is for the teacher.", kept="Nothing was changed.")


def _check_own(nobody: Studio, asker: Asker, asked: Asked) -> None:
    student_id = asker.student_id
    if student_id is None:
        return
    if asked.of_student and asked.student != str(student_id):
        raise NotFoundError("this student is not here.", kept="Nothing was changed.")
    for kind, text in asked.rows.items():
        if kind in _NO_ROWS:
            continue
        row_id = int(text) if text.isascii() and text.isdigit() and len(text) <= len(str(MAX_ID)) else -1
        if not is_students(nobody.connection, asker.studio_id, student_id, kind, row_id):
            raise NotFoundError("this is not here.", kept="Nothing was changed.", todo="Go back to tonight.")


def _asked(request: Request) -> Asked:
    route = request.scope.get("route")
    if not isinstance(route, APIRoute):
        raise StorageError("a request without a route asks for a turn.")
    of_student = any(one.alias == "student" for one in route.dependant.query_params)
    given = request.query_params.getlist("student")
    return Asked(
        route.name,
        session_token(request),
        dict(request.path_params),
        given[0] if len(given) == 1 else None,
        of_student,
    )


@asynccontextmanager
async def turn_of(request: Request) -> AsyncIterator[Turn]:
    """The request's turn, when it comes.

    Raises:
        StorageError: it did not come for too long.
        as ``admitted``.
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
        yield await anyio.to_thread.run_sync(admitted, request.app.state.pool, _asked(request))
    finally:
        turns.release()


async def wait_for_turn(request: Request) -> AsyncIterator[Turn]:
    """As ``turn_of``, for a route."""
    async with turn_of(request) as turn:
        yield turn


# The route (``ModelRoute``) makes the studio of the turn in its own thread, and gives the connection back before the
# answer is sent, so a failed commit can never answer 200.
StudioNow = Annotated[Studio, Depends(wait_for_turn, scope="function")]
