"""What was found by words."""

from __future__ import annotations

from laptick.api.schemas.common import Schema, Status, UtcTime


class FoundStudentPublic(Schema):
    id: int
    name: str
    is_paused: bool


class FoundPiecePublic(Schema):
    id: int
    title: str
    composer: str


class FoundTakePublic(Schema):
    """``said``: what holds of it, ``None``: nothing yet."""

    id: int
    piece_id: int
    title: str
    student_id: int
    student: str
    created_at: UtcTime
    said: Status | None
    note: str


class FoundPublic(Schema):
    students: list[FoundStudentPublic]
    pieces: list[FoundPiecePublic]
    takes: list[FoundTakePublic]
