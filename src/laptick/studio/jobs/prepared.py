"""A thing that takes a while to make, read from the database and ready to be made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from laptick.db.made import Made

#: What lays out a printed page takes a second to begin with: such a thing is never made while somebody waits.
SLOW_TO_BEGIN = 1000


@dataclass(frozen=True)
class Prepared:
    """What is to be made, with all that the database knows of it. ``stamp``: everything that it is made of beside what
    was asked; ``bars``: how much it is; ``make``: makes it, without the database."""

    stamp: str
    bars: int
    make: Callable[[], Made]
