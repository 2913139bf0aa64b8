"""A part of a score file, and the bounds that every score file must keep."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass

from laptick.core.base.errors import LimitError

#: Stated limits: the file as it comes, a compressed file unpacked, and bars.
MAX_FILE_BYTES = 8 * 1024 * 1024
MAX_BARS = 800


@dataclass(frozen=True)
class PartInfo:
    """A part of the file: its id and name, its staves, and whether it is read."""

    id: str
    name: str
    staves: int
    is_read: bool


#: Stated limits on notes and rests of one score, and of one bar of it.
MAX_NOTES, MAX_NOTES_IN_BAR = 15_000, 600


def check_bars(bars_of_notes: Iterable[str], filename: str) -> None:
    """``bars_of_notes``: of every note the name of its bar.

    Raises:
        LimitError: a bar holds more than a bar can.
    """
    for bar, notes in Counter(bars_of_notes).items():
        check_bar(bar, notes, filename)


def check_bar(bar: str, notes: int, filename: str) -> None:
    if notes > MAX_NOTES_IN_BAR:
        raise LimitError(
            f"a bar has more than {MAX_NOTES_IN_BAR} notes and rests.",
            where=f"{filename}, bar {bar}",
            kept="Nothing was changed.",
            todo="Look at that bar in the program it was written with.",
        )
