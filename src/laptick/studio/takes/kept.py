"""Stored takes, read as if they were damaged: a list shows what is whole of one and says the rest; a page of its own
says that it cannot be read."""

from __future__ import annotations

import logging
from collections.abc import Collection, Mapping
from typing import Any, get_args

from laptick.core.base.activity import Activity
from laptick.core.base.errors import StorageError
from laptick.core.base.levels import Level
from laptick.core.judging.verdict import Status
from laptick.core.takes.take_state import TakeState
from laptick.db.engine.connect import Row
from laptick.studio.takes.settings import PlayedBy, kept_settings

log = logging.getLogger("laptick")

UNREADABLE = "what is stored of this take cannot be read."

#: Columns that hold a word of a table; the first stands for one that is none of them.
_WORDS: Mapping[str, Collection[str]] = {
    "activity": tuple(Activity),
    "played_by": get_args(PlayedBy),
    "state": (TakeState.FAILED, *TakeState),
    "level": tuple(Level),
}

#: What is listed of a damaged one in place of what was said of it.
NOTHING_SAID = {
    "state": TakeState.FAILED, "failure": UNREADABLE, "verdict": None, "overruled": None, "median_bpm": None
}  # fmt: skip


def whole_take(row: Row) -> Row:
    """A stored take, without a status that is none.

    Raises:
        StorageError: it is damaged.
    """
    if _damaged(row):
        raise StorageError(
            UNREADABLE,
            kept="It is kept as it is.",
            todo="Remove it in the list of takes if it is of no use; the others are not touched by it.",
        )
    return row | {"status": status_or_none(row["status"])}


def listed_take(row: Row) -> Row:
    """The same for a list: a damaged one is there and says so (``failure``)."""
    damaged = _damaged(row)
    instead: dict[str, Any] = {name: next(iter(_WORDS[name])) for name in damaged}
    try:
        settings = kept_settings(row["settings"])
    except StorageError:
        damaged, instead["settings"] = (*damaged, "settings"), {}
    else:
        instead["activity"] = settings.activity.value  # what was asked for stands there too
    if not damaged:
        return row | {"overruled": status_or_none(row["overruled"])}
    log.warning("take %s is damaged: %s", row["id"], ", ".join(damaged))
    return row | instead | NOTHING_SAID


def status_or_none(word: Any) -> str | None:
    """A stored status that is one."""
    return word if word in tuple(Status) else None


def _damaged(row: Row) -> tuple[str, ...]:
    return tuple(name for name, words in _WORDS.items() if row[name] not in words)
