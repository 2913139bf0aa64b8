"""Jobs: what takes longer than a request, as it is looked at."""

from __future__ import annotations

from pydantic import ConfigDict

from laptick.api.schemas.common import ErrorBody, Schema, Status, UtcTime
from laptick.studio.jobs.jobs import JobState


class ChangedVerdict(Schema):
    """A take that is said something else of now than before."""

    take_id: int
    piece_id: int
    title: str
    created_at: UtcTime
    before: Status
    after: Status


class JudgedAgain(Schema):
    """What came of judging every take anew, so far; of verdicts that changed the first are ``changed``, ``more`` are
    left out."""

    model_config = ConfigDict(extra="ignore")

    judged: int
    unread: int
    changed: list[ChangedVerdict]
    more: int


class JobPublic(Schema):
    """``progress`` of ``whole`` is done (``whole`` 0: nobody knows how much there is); ``judged``: of the job that
    judges all takes; ``error``: why it failed."""

    id: int
    kind: str
    state: JobState
    progress: int
    whole: int
    judged: JudgedAgain | None
    error: ErrorBody | None
