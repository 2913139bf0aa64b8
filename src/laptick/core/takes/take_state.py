"""Where a stored take stands: waiting to be judged, judged, or kept though judging it failed."""

from __future__ import annotations

from enum import StrEnum


class TakeState(StrEnum):
    WAITING = "waiting"
    JUDGED = "judged"
    FAILED = "failed"


#: Of a take of which nothing is said, or can be read.
STATE_WORDS: dict[TakeState, str] = {
    TakeState.WAITING: "not judged yet",
    TakeState.JUDGED: "judgement not readable",
    TakeState.FAILED: "could not be judged",
}
