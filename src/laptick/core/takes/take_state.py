"""Where a stored take stands: its recording is coming in, it waits to be judged, is judged, or kept though judging it
failed."""

from __future__ import annotations

from enum import StrEnum


class TakeState(StrEnum):
    COMING = "coming"
    WAITING = "waiting"
    JUDGED = "judged"
    FAILED = "failed"


#: Of a take of which nothing is said, or can be read.
STATE_WORDS: dict[TakeState, str] = {
    TakeState.COMING: "its recording is not all here",
    TakeState.WAITING: "not judged yet",
    TakeState.JUDGED: "judgement not readable",
    TakeState.FAILED: "could not be judged",
}
