"""Who is asking. The one place that answers it: sign-in will change this file and no other."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Annotated, TypeVar

from fastapi import Depends, Request

from laptick.studio.use_case import Studio

R = TypeVar("R")

#: Without sign-in everybody who can reach this machine's loopback is the one teacher of the one studio.
THE_STUDIO = 1


def in_studio(request: Request, use_case: Callable[[Studio], R]) -> R:
    """A use case for whoever asks, with a connection for as long as it takes."""
    with request.app.state.pool.lent() as connection:
        return use_case(Studio(connection, THE_STUDIO))


def open_studio(request: Request) -> Iterator[Studio]:
    """The studio whose data a request may see, with a connection of its own."""
    with request.app.state.pool.lent() as connection:
        yield Studio(connection, THE_STUDIO)


# Given back before the answer is sent, so a failed commit can never answer 200.
StudioNow = Annotated[Studio, Depends(open_studio, scope="function")]
