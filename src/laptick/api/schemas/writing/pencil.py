"""The pencil: what can be changed on a score, and what was."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from laptick.api.schemas.common import Schema, Version
from laptick.core.editing.changes import MAX_CHORD, MAX_CUE, MAX_FINGERINGS
from laptick.core.score.score import Hand, MarkKind

ChangeKind = Literal[
    "pitch", "length", "remove", "add", "tie", "hand", "fingering", "phrase", "lift", "pedal", "dynamic", "hairpin",
    "cue", "chord", "erase",
]  # fmt: skip


class SpotCreate(Schema):
    """A place: a bar's name and quarters from its start as a fraction."""

    measure: str = Field(max_length=40)
    offset: str = Field(max_length=20)


class ChangeCreate(Schema):
    """One change. ``note``, ``first``, ``last``, ``note_id``: ids of notes (``note`` also of a rest). Which fields a
    kind needs: ``core.pencil_changes``."""

    kind: ChangeKind
    note: str | None = Field(default=None, max_length=60)
    first: str | None = Field(default=None, max_length=60)
    last: str | None = Field(default=None, max_length=60)
    at: SpotCreate | None = None
    end: SpotCreate | None = None
    pitch: str | None = Field(default=None, max_length=12)
    length_quarters: str | None = Field(default=None, max_length=20)
    to_next: bool | None = None
    is_tied: bool | None = None
    hand: Hand | None = None
    options: list[Annotated[str, Field(max_length=40)]] | None = Field(default=None, max_length=MAX_FINGERINGS + 1)
    chosen: int | None = Field(default=None, ge=0, le=MAX_FINGERINGS)
    text: str | None = Field(default=None, max_length=4 * max(MAX_CUE, MAX_CHORD))
    mark: MarkKind | None = None
    note_id: str | None = Field(default=None, max_length=60)


class PencilCreate(Schema):
    """A change to the version that the teacher looks at."""

    version: Version | None
    change: ChangeCreate


class PencilStep(Schema):
    version: Version | None


class PencilledChange(Schema):
    """A change that was made, in words; ``problem``: why it is not applied at present."""

    key: str
    kind: ChangeKind
    words: str
    place_text: str
    onset_quarters: float
    problem: str | None


class WrittenItem(Schema):
    """A note or a rest as it is written now. ``fingerings``: the chosen one first; ``can_tie``: the same note of the
    same hand follows directly; ``is_pencilled``: a change names it or put it in."""

    id: str
    is_rest: bool
    is_grace: bool
    is_pencilled: bool
    hand: Hand
    name: str
    measure: str
    offset: str
    end_offset: str
    onset_quarters: float
    length_quarters: str
    length_name: str
    is_tied: bool
    can_tie: bool
    fingerings: list[str]
    place_text: str


class WrittenMark(Schema):
    """A mark that can be rubbed out."""

    mark: MarkKind
    text: str
    words: str
    measure: str
    offset: str
    note_id: str | None
    place_text: str
    onset_quarters: float


class LengthPublic(Schema):
    quarters: str
    name: str


class PencilPublic(Schema):
    """The score as it is written now, under the pencil."""

    version: Version | None
    can_undo: bool
    can_redo: bool
    changes: list[PencilledChange]
    items: list[WrittenItem]
    marks: list[WrittenMark]
    lengths: list[LengthPublic]
    dynamics: list[str]
    hairpins: list[str]
