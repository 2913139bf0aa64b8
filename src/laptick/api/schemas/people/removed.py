"""What was removed and can be put back."""

from __future__ import annotations

from typing import Literal

from laptick.api.schemas.common import Schema, UtcTime


class RemovedItem(Schema):
    """``words``: the title or name; ``whose``: of a take; ``created_at``: when it was played."""

    kind: Literal["piece", "student", "take", "listening"]
    id: int
    words: str
    whose: str | None
    deleted_at: UtcTime
    created_at: UtcTime | None


class RemovedPublic(Schema):
    """``kept_days``: for so long it can be put back."""

    items: list[RemovedItem]
    kept_days: int
