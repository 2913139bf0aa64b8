"""What a take was asked to be: activity, tempo, hands, bars, how it is counted; and what held in the piece then.

Documents, checked where they come in (a request, a stored row): unknown names and numbers that are none are refused.
"""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from laptick.core.base.activity import Activity
from laptick.core.base.errors import StorageError
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.counting.choices import Compound, Density
from laptick.core.score.roadmap import MOST_TIMES_ROUND
from laptick.core.score.within import MOST_LETTERS
from laptick.studio.use_case import MAX_ID

HandChoice = Literal["right", "left", "both"]
#: Who or what a take comes from.
PlayedBy = Literal["student", "simulated", "file"]


class TakeSettings(BaseModel):
    """What was asked for. ``hands``: the hands to tap or play, or the line whose count is said; ``times_round``: how
    often the passage is played without a stop, all of it one take; ``within``: only that spot of it, every time round
    (``score/within``); ``rung``: the key of the rung it is for, of the
    study ``study_id`` (``None``: that of the whole piece)."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    activity: Activity
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    hands: HandChoice = "both"
    measures: str | None = Field(default=None, max_length=40)
    times_round: int = Field(default=1, ge=1, le=MOST_TIMES_ROUND)
    within: str | None = Field(default=None, max_length=MOST_LETTERS)
    density: Density | None = None
    compound: Compound | None = None
    rung: str | None = Field(default=None, max_length=120)
    study_id: int | None = Field(default=None, ge=1, le=MAX_ID)


class KeptSettings(TakeSettings):
    """What is kept with a take: also the counting choices, the playing order (``None``: as written), the
    pencilled changes and the typed passage that held then, so that it can be judged again after they have changed."""

    choices: dict[str, Any] | None = None
    order: list[str] | None = None
    pencil: list[dict[str, Any]] | None = None
    entry: dict[str, Any] | None = None

    def document(self) -> dict[str, Any]:
        return self.model_dump(mode="json")

    def asked(self) -> dict[str, Any]:
        """What was asked for, without what held in the piece."""
        return self.model_dump(mode="json", exclude=set(KeptSettings.model_fields) - set(TakeSettings.model_fields))


def kept_settings(document: dict[str, Any]) -> KeptSettings:
    """Stored settings, read as if they were damaged.

    Raises:
        StorageError: they are.
    """
    try:
        return KeptSettings.model_validate(document)
    except ValidationError as error:
        raise StorageError(
            "what was asked for in this take cannot be read.",
            where="settings",
            kept="It is kept as it is, with what was said of it.",
            todo="Remove it in the list of takes if it is of no use; the others are not touched by it.",
        ) from error
