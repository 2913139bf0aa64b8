"""Recordings as they come in, and consent to keep them."""

from __future__ import annotations

from datetime import date
from typing import Annotated

from pydantic import Field

from laptick.api.schemas.common import Id, Schema
from laptick.api.schemas.takes import CLIENT_KEY
from laptick.core.hearing.sound import LONGEST_S
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.use_case import MAX_ID

#: Text of one line: no control characters.
Line = Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f\x7f]+$")]
#: A click every quarter of a second for the longest take.
MOST_CLICKS = 4800
RecorderValue = Annotated[str, Field(max_length=100)] | bool | Annotated[float, Field(ge=-1e9, le=1e9)]


class RecordingCreate(TakeSettings):
    """A take whose sound is about to come. ``media_type``, ``device`` and ``recorder``: what the browser says of it;
    ``consent_id``: the consent by which its sound is kept, ``None``: it goes when it was heard; ``first_beat_s``,
    ``clicks_s``: on the recording's clock, when the passage began after a count-in, and when the device clicked."""

    filename: str = Field(default="recording", min_length=1, max_length=200)
    media_type: str = Field(default="", max_length=100)
    device: str = Field(default="", max_length=300)
    recorder: dict[Annotated[str, Field(max_length=60)], RecorderValue] = Field(default_factory=dict, max_length=20)
    consent_id: int | None = Field(default=None, ge=1, le=MAX_ID)
    first_beat_s: float | None = Field(default=None, ge=0, le=LONGEST_S)
    clicks_s: list[Annotated[float, Field(ge=-LONGEST_S, le=LONGEST_S)]] = Field(
        default_factory=list, max_length=MOST_CLICKS
    )
    client_key: str | None = Field(default=None, max_length=64, pattern=CLIENT_KEY)


class RecordingPublic(Schema):
    """``here``: the numbers of the chunks that came; each has at most ``chunk_bytes``."""

    id: int
    take_id: int
    here: list[int]
    is_complete: bool
    chunk_bytes: int
    most_chunks: int


class RecordingComplete(Schema):
    """``sha256``: of the whole, in hexadecimal digits."""

    sha256: str = Field(min_length=64, max_length=64, pattern=r"^[0-9a-f]{64}$")


class ConsentCreate(Schema):
    """``student_id``: whose playing; ``given_by``: who agreed."""

    student_id: Id
    given_by: Line
    purpose: str = Field(min_length=1, max_length=500)
    given_on: Annotated[date, Field(json_schema_extra={"maxLength": 10})]


class ConsentPublic(Schema):
    """``student_id``: ``None`` where it was noted of a name only; nothing more is kept by it."""

    id: int
    student_id: int | None
    student: str
    given_by: str
    purpose: str
    given_on: date


class ConsentsPublic(Schema):
    """Those that hold; how much sound the studio keeps, and may."""

    items: list[ConsentPublic]
    stored_bytes: int
    most_stored_bytes: int


class ConsentWithdrawn(Schema):
    """Of how many takes the sound went with it."""

    dropped: int
