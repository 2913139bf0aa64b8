"""A studio's files, going out and coming in."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from laptick.api.schemas.common import Id, Schema, UtcTime
from laptick.api.schemas.jobs import JobPublic


class BundleContents(Schema):
    """``counted``: how many of what: pieces, students, studies, takes, recordings, words, damaged (left out)."""

    of: Literal["studio", "student"]
    studio: str
    counted: dict[str, int]


class BundlePublic(Schema):
    """``here``: the parts of one that is coming; ``is_first``: the studio is empty, so it would become the one in the
    file; ``brought``: how many pieces, students and takes came of bringing it in."""

    id: int
    direction: Literal["out", "in"]
    filename: str
    size: int
    is_complete: bool
    created_at: UtcTime
    contents: BundleContents | None
    here: list[int]
    is_first: bool
    brought: dict[str, int] | None
    chunk_bytes: int


class BundleAsked(Schema):
    """``student_id``: whose share, ``None``: all of the studio."""

    student_id: Id | None = None


class BundleAtWork(Schema):
    """A file that a job fills."""

    bundle: BundlePublic
    job: JobPublic


class BundleCreate(Schema):
    filename: str = Field(min_length=1, max_length=200)
