"""Who is asking. The one place that answers it: sign-in will change this file and no other."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from laptick.db.engine.connect import Connection, connect


@dataclass(frozen=True)
class Asking:
    """Whose data a request may see."""

    studio_id: int


def who_is_asking() -> Asking:
    """Without sign-in everybody who can reach this machine's loopback is the one teacher."""
    return Asking(studio_id=1)


def open_connection(request: Request) -> Iterator[Connection]:
    connection = connect(request.app.state.db)
    try:
        yield connection
    finally:
        connection.close()


AskingNow = Annotated[Asking, Depends(who_is_asking)]
# Closed before the answer is sent, so a failed commit can never answer 200.
DbNow = Annotated[Connection, Depends(open_connection, scope="function")]
