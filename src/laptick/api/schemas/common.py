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


class HealthPublic(Schema):
    """``warning``: what a teacher should know of this machine, if anything."""

    status: str
    version: str
    warning: str | None


#: How many rows of a list are sent at once, and how many at most.
PAGE, MOST_A_PAGE = 50, 200

#: The last row that is known of a list: what comes after it is sent.
Cursor = Annotated[int | None, Field(ge=0, le=MAX_ID)]
#: Of which student; the built-in one where none is named.
WhoseQuery = Annotated[int | None, Field(ge=0, le=MAX_ID)]
PageSize = Annotated[int, Field(ge=1, le=MOST_A_PAGE)]


class ErrorBody(Schema):
    code: str
    what: str
    where: str | None
    kept: str | None
    todo: str | None


class ErrorAnswer(Schema):
    error: ErrorBody


__all__ = [
    "MOST_A_PAGE",
    "PAGE",
    "Compound",
    "Cursor",
    "Density",
    "ErrorAnswer",
    "ErrorBody",
    "HealthPublic",
    "Id",
    "Kind",
    "Level",
    "PageSize",
    "Schema",
    "Status",
    "TakeTime",
    "UtcTime",
    "Version",
]
