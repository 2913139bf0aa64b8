"""Takes: what is sent in, and what is shown of them."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from laptick.api.schemas.common import Compound, Density, Level, Schema, Status, UtcTime, VerdictPublic
from laptick.api.schemas.pieces import CountsPublic, RulerPublic
from laptick.core.performance import MAX_STRIKES
from laptick.core.units import MAX_BPM, MIN_BPM

HandChoice = Literal["right", "left", "both"]


class TapCreate(Schema):
    """One tap: seconds on the take's clock, and the zone that was tapped."""

    t: float = Field(ge=0)
    hand: Literal["right", "left"] | None = None


class TakeSettings(Schema):
    """What was asked for. ``hands``: the hands to tap, or the line whose count is said."""

    rung: Literal["count", "lap"]
    bpm: float = Field(ge=MIN_BPM, le=MAX_BPM)
    hands: HandChoice = "both"
    measures: str | None = Field(default=None, max_length=40)
    density: Density | None = None
    compound: Compound | None = None


class KeptSettings(TakeSettings):
    """What is kept with a take: also the counting choices, the playing order (``None``: as written), the
    pencilled changes and the typed passage that held then, so that it can be judged again after they have changed."""

    choices: dict[str, Any] | None = None
    order: list[str] | None = None
    pencil: list[dict[str, Any]] | None = None
    entry: dict[str, Any] | None = None


class TakeCreate(TakeSettings):
    taps: list[TapCreate] = Field(min_length=1, max_length=MAX_STRIKES)
    first_beat_s: float | None = Field(default=None, ge=0, le=36000)
    client_key: str | None = Field(default=None, max_length=64, pattern=r"^[A-Za-z0-9-]+$")


class FaultCreate(Schema):
    kind: str = Field(max_length=30)
    amount: float = 1.0
    measure: str | None = Field(default=None, max_length=12)


class SimulatedTakeCreate(TakeSettings):
    seed: int | None = Field(default=None, ge=0, le=2**31)
    faults: list[FaultCreate] = Field(default=[], max_length=8)


class FaultChoice(Schema):
    """A fault the simulated student can play, in words."""

    kind: str
    words: str
    unit: str
    needs_measure: bool
    amounts: list[float]
    amount_words: list[str]


class TakeShort(Schema):
    id: int
    rung: Literal["count", "lap"]
    created_at: UtcTime
    assigned_bpm: float
    median_bpm: float | None
    played_by: Literal["student", "simulated"]
    note: str
    checker_version: str
    verdict: VerdictPublic


class TakePublic(Schema):
    """``document`` is the one of the command line's ``check``; ``ruler`` and ``counts`` are those of the
    piece in the order in which it was to be played."""

    id: int
    piece_id: int
    rung: Literal["count", "lap"]
    settings: dict[str, Any]
    created_at: UtcTime
    assigned_bpm: float
    level: Level
    played_by: Literal["student", "simulated"]
    note: str
    checker_version: str
    checker_is_current: bool
    judged_at: UtcTime
    status: Status
    verdict: VerdictPublic
    document: dict[str, Any]
    strikes: list[TapCreate]
    ruler: RulerPublic
    counts: CountsPublic


class TakeUpdate(Schema):
    note: str = Field(max_length=4000)
