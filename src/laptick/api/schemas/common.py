"""Pieces of schemas used by several nouns."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from laptick.core.base.levels import Level
from laptick.core.counting.counting import Compound, Density, Kind
from laptick.core.judging.verdict import Status
from laptick.core.takes.performance import MAX_TAKE_S
from laptick.studio.use_case import MAX_ID

#: The database's times are UTC and come without saying so.
UtcTime = Annotated[datetime, AfterValidator(lambda at: at if at.tzinfo else at.replace(tzinfo=UTC))]

#: The number of a stored row, and of a version of it that a change is made on.
Id = Annotated[int, Field(ge=0, le=MAX_ID)]
Version = Annotated[int, Field(ge=0, le=MAX_ID)]

#: An instant of a take, in seconds on its own clock.
TakeTime = Annotated[float, Field(ge=0, le=MAX_TAKE_S)]


class Schema(BaseModel):
    """Strict about names; NaN and infinity are never numbers here."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class ErrorBody(Schema):
    code: str
    what: str
    where: str | None
    kept: str | None
    todo: str | None


class ErrorAnswer(Schema):
    error: ErrorBody


__all__ = [
    "Compound",
    "Density",
    "ErrorAnswer",
    "ErrorBody",
    "Id",
    "Kind",
    "Level",
    "Schema",
    "Status",
    "TakeTime",
    "UtcTime",
    "Version",
]
