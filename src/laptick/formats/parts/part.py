"""A part of a score file, and the bounds that every score file must keep."""

from __future__ import annotations

from dataclasses import dataclass

#: Stated limits: the file as it comes, a compressed file unpacked, and bars.
MAX_FILE_BYTES = 8 * 1024 * 1024
MAX_BARS = 4000


@dataclass(frozen=True)
class PartInfo:
    """A part of the file: its id and name, its staves, and whether it is read."""

    id: str
    name: str
    staves: int
    is_read: bool


#: Stated limit on notes and rests of one score.
MAX_NOTES = 100_000
