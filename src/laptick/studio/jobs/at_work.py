"""A job in a worker's hands: what it was asked, how far it is, and whether it is still to be done."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from laptick.core.base.units import Seconds
from laptick.db import jobs as db
from laptick.db.engine.connect import Connection, transaction
from laptick.studio.use_case import Studio

#: How long a job that has many steps works before it lets others go first.
TURN_S: Seconds = 4.0


class ClaimLostError(Exception):
    """Another worker has the job now, or it was stopped: whatever is being done for it is for nothing."""


@dataclass
class AtWork:
    """``connect``: opens another connection to the same database; ``asked_to_end``: the worker is to stop after this
    step."""

    studio: Studio
    claim: db.Claim
    connect: Callable[[], Connection]
    asked_to_end: Callable[[], bool] = lambda: False
    _begun: float = field(default_factory=time.monotonic)

    @property
    def asked(self) -> dict[str, Any]:
        return self.claim.asked

    def get_further(self, progress: int, whole: int, result: Any = None) -> None:
        """Keeps how far it is.

        Raises:
            ClaimLostError: it is not ours any more.
        """
        with transaction(self.studio.connection):
            is_ours = db.get_further(self.studio.connection, self.claim, progress, whole, result)
        if not is_ours:
            raise ClaimLostError

    @property
    def has_had_its_turn(self) -> bool:
        """Is it time to let others go first?"""
        return self.asked_to_end() or time.monotonic() - self._begun > TURN_S


#: Works on a job; ``True``: it is done, ``False``: it is to be gone on with later.
Work = Callable[[AtWork], bool]
