"""Takes: what is sent in, and what is shown of them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from laptick.api.schemas.common import Level, Schema, Status, TakeTime, UtcTime
from laptick.api.schemas.counts import CountsPublic
from laptick.api.schemas.ruler import RulerPublic
from laptick.api.schemas.studies import NextPublic
from laptick.core.base.activity import Activity
from laptick.core.hearing.quality import MOST_LEVELS
from laptick.core.takes.performance import MAX_STRIKES
from laptick.core.takes.take_state import TakeState
from laptick.formats.documents.check import CheckDocument, VerdictTold
from laptick.studio.takes.settings import HandChoice, PlayedBy, TakeSettings

#: A key that the sender makes up, so that what is sent twice is kept once.
CLIENT_KEY = r"^[A-Za-z0-9-]+$"


class TapCreate(Schema):
    """One tap: seconds on the take's clock, and the zone that was tapped."""

    t: TakeTime
    hand: Literal["right", "left"] | None = None


class NoteCreate(Schema):
    """One key struck, and when it was let go (``None``: not known)."""

    t: TakeTime
    pitch: int = Field(ge=0, le=127)
    velocity: int = Field(default=64, ge=1, le=127)
    released: TakeTime | None = None
    hand: Literal["right", "left"] | None = None


class PedalChange(Schema):
    t: TakeTime
    down: bool


class TakeCreate(TakeSettings):
    """``taps``, or ``notes`` from a keyboard; both empty is no take. ``stand_in``: the simulated student played."""

    taps: list[TapCreate] = Field(default=[], max_length=MAX_STRIKES)
    notes: list[NoteCreate] = Field(default=[], max_length=MAX_STRIKES)
    pedal: list[PedalChange] = Field(default=[], max_length=MAX_STRIKES)
    stand_in: bool = False
    first_beat_s: TakeTime | None = None
    client_key: str | None = Field(default=None, max_length=64, pattern=CLIENT_KEY)

    @model_validator(mode="after")
    def _is_something(self) -> TakeCreate:
        if not self.taps and not self.notes:
            raise ValueError("a take has taps, or notes of a keyboard")
        if self.taps and self.notes:
            raise ValueError("a take has taps or notes of a keyboard, not both")
        return self


class FaultCreate(Schema):
    kind: str = Field(max_length=30)
    amount: float = Field(default=1.0, ge=-1000, le=100_000)
    measure: str | None = Field(default=None, max_length=12)


class SimulatedTakeCreate(TakeSettings):
    """``skill``: how well the student plays; left out, as the piece is judged."""

    skill: Level | None = None
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
    keys_only: bool


class OverrulePublic(Schema):
    """The teacher's word beside the checker's."""

    status: Status
    reason: str
    created_at: UtcTime


class OverruleCreate(Schema):
    status: Literal["steady", "nearly", "not-yet"]
    reason: str = Field(min_length=1, max_length=1000)


class EarlierJudgement(Schema):
    """What an earlier version of the checker said, or what was said of another passage."""

    checker_version: str
    status: Status
    judged_at: UtcTime
    verdict: VerdictTold | None


class PassageUpdate(Schema):
    measures: str | None = Field(max_length=40)


class Outdated(Schema):
    """How many takes another version of the checker judged than the present one."""

    takes: int
    checker_version: str


class TakeShort(Schema):
    """``filename``: of the file it came in, or of the recording it was heard in."""

    id: int
    activity: Activity
    created_at: UtcTime
    assigned_bpm: float
    median_bpm: float | None
    played_by: PlayedBy
    hands: HandChoice
    measures: str | None
    times_round: int
    within: str | None
    note: str
    state: TakeState
    failure: str | None
    checker_version: str | None
    overruled: Status | None
    filename: str | None
    verdict: VerdictTold | None


class StudentTake(TakeShort):
    """A take in its student's list. ``title``: of the piece."""

    piece_id: int
    title: str


class StudentTakePage(Schema):
    """``next``: to be asked for as ``before`` for earlier ones; ``None``: that is all."""

    items: list[StudentTake]
    next: int | None


class TakePage(Schema):
    """``next``: to be asked for as ``before`` for earlier ones; ``None``: that is all."""

    items: list[TakeShort]
    next: int | None


class MetPublic(Schema):
    """Where the hands of a ratio scale meet: whether they did, in words."""

    place_text: str
    is_met: bool
    text: str


class TouchedPublic(Schema):
    """Whether a hand kept the touch that a drill gave it, in words."""

    is_kept: bool
    text: str


class RecordedPublic(Schema):
    """The sound of a take: of so many bytes, kept or not; ``may_hear``: it is for the asker's ears; ``can_play``: there
    is a copy that is played, and it is."""

    id: int
    filename: str
    size: int
    is_complete: bool
    is_kept: bool
    may_hear: bool
    can_play: bool


class EnvelopePublic(Schema):
    """How loud a recording was, ``step_s`` by ``step_s``: 0 to 100."""

    step_s: float = Field(gt=0, le=10)
    levels: list[Annotated[int, Field(ge=0, le=100)]] = Field(max_length=MOST_LEVELS)


class TakePublic(Schema):
    """What was said of it is ``None`` while it waits to be judged, and where judging failed (``failure`` says of what).
    ``document`` is the one of the command line's ``check``; ``ruler`` and ``counts`` are those of the
    piece in the order in which it was to be played."""

    id: int
    piece_id: int
    student_id: int
    student: str
    activity: Activity
    settings: dict[str, Any]
    created_at: UtcTime
    assigned_bpm: float
    level: Level
    played_by: PlayedBy
    note: str
    state: TakeState
    failure: str | None
    checker_version: str | None
    checker_is_current: bool
    judged_at: UtcTime | None
    status: Status | None
    verdict: VerdictTold | None
    document: CheckDocument | None
    met: list[MetPublic]
    touched: list[TouchedPublic]
    overrule: OverrulePublic | None
    earlier: list[EarlierJudgement]
    strikes: list[TapCreate]
    recording: RecordedPublic | None
    envelope: EnvelopePublic | None
    heard_words: list[str]
    ruler: RulerPublic
    counts: CountsPublic


class TakeAdded(TakePublic):
    """``next``: what it leads to at its rung; ``None`` where it is a try of none."""

    next: NextPublic | None


class TakeUpdate(Schema):
    note: str = Field(max_length=4000)


class ListeningCreate(TakeSettings):
    """Slips as the teacher heard them: seconds on the clock whose first beat is at ``first_beat_s``."""

    slips: list[TakeTime] = Field(max_length=2000)
    first_beat_s: float = Field(ge=0, le=36000)
    client_key: str | None = Field(default=None, max_length=64, pattern=CLIENT_KEY)


class HeardSlip(Schema):
    """``onset_quarters`` from the start of the piece."""

    onset_quarters: float
    place_text: str


class ListeningPublic(Schema):
    id: int
    created_at: UtcTime
    bpm: float
    measures: str | None
    hands: HandChoice
    slips: list[HeardSlip]


class BesidePublic(HeardSlip):
    """One place: whether the teacher heard a slip there, and what was measured."""

    heard: bool
    measured: str | None
