"""Pieces of schemas used by several nouns."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict

from laptick.core.base.levels import Level
from laptick.core.counting.counting import Compound, Density, Kind
from laptick.core.judging.verdict import Status

#: The database's times are UTC and come without saying so.
UtcTime = Annotated[datetime, AfterValidator(lambda at: at if at.tzinfo else at.replace(tzinfo=UTC))]


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
    "Kind",
    "Level",
    "Schema",
    "Status",
    "UtcTime",
]
