"""Passages that are typed here."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from laptick.api.schemas.common import Schema, Version
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.editing.entry import MAX_BARS, MAX_BEATS, MAX_EVENTS, MAX_KEYS

Fraction = Annotated[str, Field(max_length=12)]


class EventCreate(Schema):
    """A strike or rest; ``length`` in quarters as a fraction, ``pitches`` by name, none for a rhythm alone."""

    length: Fraction
    pitches: list[Annotated[str, Field(max_length=8)]] = Field(default=[], max_length=MAX_KEYS)
    is_rest: bool = False
    is_tied: bool = False


class BarCreate(Schema):
    right: list[EventCreate] = Field(default=[], max_length=MAX_EVENTS)
    left: list[EventCreate] = Field(default=[], max_length=MAX_EVENTS)


class EntryCreate(Schema):
    """A passage; ``pickup``: the length of an upbeat in quarters, ``0`` for none."""

    title: str = Field(min_length=1, max_length=200)
    beats: int = Field(ge=1, le=MAX_BEATS)
    beat_type: Literal[1, 2, 4, 8, 16]
    pickup: Fraction = "0"
    bpm: float | None = Field(default=None, ge=MIN_BPM, le=MAX_BPM)
    bars: list[BarCreate] = Field(min_length=1, max_length=MAX_BARS)


class EntryUpdate(EntryCreate):
    """``version``: the one that was typed on."""

    version: Version


class BarFaultPublic(Schema):
    bar_index: int
    hand: Literal["right", "left"]
    text: str
    is_unfinished: bool


class EntryPublic(EntryCreate):
    """The passage as it is stored, with what is wrong with its bars."""

    version: Version
    bar_quarters: Fraction
    faults: list[BarFaultPublic]
