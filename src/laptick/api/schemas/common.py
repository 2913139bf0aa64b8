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


class PlacePublic(Schema):
    """A place in played order; ``offset`` in quarters as a fraction."""

    measure: str
    offset: str
    pass_: int

    model_config = ConfigDict(
        extra="forbid",
        serialize_by_alias=True,
        validate_by_name=True,
        validate_by_alias=True,
        alias_generator=lambda name: name.rstrip("_"),
    )


class SaidPublic(Schema):
    code: str
    text: str


class CurePublic(Schema):
    code: str
    text: str
    rung: str | None


class VerdictPublic(Schema):
    status: Status
    good: list[str]
    finding: SaidPublic | None
    also: SaidPublic | None
    place: PlacePublic | None
    place_text: str | None
    cure: CurePublic | None


__all__ = [
    "Compound",
    "CurePublic",
    "Density",
    "ErrorAnswer",
    "ErrorBody",
    "Kind",
    "Level",
    "PlacePublic",
    "SaidPublic",
    "Schema",
    "Status",
    "UtcTime",
    "VerdictPublic",
]
