"""The together map as it is sent: what meets, what is held, where the hands stand, where it is hardest."""

from __future__ import annotations

from typing import Literal

from laptick.api.schemas.common import Level, Schema

HandName = Literal["right", "left"]


class KeyPublic(Schema):
    """A key that is struck, held or let go. ``pitch``: its MIDI number; ``finger``: as the score has it; ``note_id``:
    the note that it is written as."""

    note_id: str
    hand: HandName
    name: str
    pitch: int | None
    finger: str | None


class EventPublic(Schema):
    """An instant at which a hand strikes: **T** both, **R** or **L** one; ``lifts``: what was let go since the strike
    before, and where that was."""

    onset_quarters: float
    place: str
    letter: Literal["T", "R", "L"]
    struck: list[KeyPublic]
    held: list[KeyPublic]


class LiftPublic(Schema):
    onset_quarters: float
    place: str
    keys: list[KeyPublic]


class MapBarPublic(Schema):
    """``ratio``: right to left, *free* where they are not evenly spaced; ``same``: what it is the same as, in words."""

    start_quarters: float
    number: str
    difficulty: float
    ratio: str
    mixture: list[str]
    same: str | None


class SeamPublic(Schema):
    from_quarters: float
    to_quarters: float
    difficulty: float
    is_repeat: bool


class ShiftPublic(Schema):
    """``go_quarters``: from when on the hand can go; ``words``: what a teacher says of it."""

    hand: HandName
    go_quarters: float
    to_quarters: float
    steps: int
    words: str


class PositionPublic(Schema):
    """``moved``: *down 3*, from where the hand stood before."""

    hand: HandName
    from_quarters: float
    to_quarters: float
    name: str
    moved: str | None


class ReachPublic(Schema):
    hand: HandName
    onset_quarters: float
    place: str
    steps: int
    choices: list[str]


class HardPlacePublic(Schema):
    """``from_bar`` and ``to_bar`` by their index: what is to be practised of it; ``within``: the spot of them."""

    kind: Literal["seam", "bar"]
    title: str
    words: str
    difficulty: float
    from_quarters: float
    to_quarters: float
    from_bar: int
    to_bar: int
    within: str | None
    again_quarters: list[float]


class AidPublic(Schema):
    """What to point at in the notes; ``onset_quarters``: where first."""

    kind: Literal["broken-chord", "accidental-holds", "key-clash", "hand-over-hand"]
    onset_quarters: float
    words: str


class MapPublic(Schema):
    """Positions are quarters from the start of the written piece. ``quarter_bpm``: the tempo it is reckoned at;
    ``beyond``: how the piece stands to the level that it is filed under, where it is harder; ``lines``: what is said of
    lines that come again; ``aids``: what to point at in the notes."""

    quarter_bpm: float
    span: int
    difficulty: float
    level: Level
    beyond: str | None
    bars: list[MapBarPublic]
    events: list[EventPublic]
    lifts: list[LiftPublic]
    seams: list[SeamPublic]
    shifts: list[ShiftPublic]
    positions: list[PositionPublic]
    reaches: list[ReachPublic]
    hardest: list[HardPlacePublic]
    lines: list[str]
    aids: list[AidPublic]
