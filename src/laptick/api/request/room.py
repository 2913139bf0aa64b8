"""Room on the disk: what would change something is refused before the disk is full, in words, and warned of before.

A database that runs out of room while it writes may need help to come back; one that is spared goes on by itself as
soon as there is room again.
"""

from __future__ import annotations

import shutil
import time
from pathlib import Path

from starlette.types import ASGIApp, Receive, Scope, Send

from laptick.api.request.errors import error_answer
from laptick.api.request.guard import READING

#: Below this nothing is stored any more; below that it is said that it will soon be so.
LEAST_BYTES, WARN_BYTES = 64 * 2**20, 512 * 2**20

#: How long what was found holds.
HOLDS_S = 1.0


class Room:
    """How much room there is where the database's files lie; ``None``: they lie elsewhere, and nobody can tell."""

    def __init__(self, data: Path | None) -> None:
        self._data = data
        self._looked, self._free = -HOLDS_S, 0

    def free_bytes(self) -> int | None:
        if self._data is None:
            return None
        now = time.monotonic()
        if now - self._looked >= HOLDS_S:
            try:
                self._free = shutil.disk_usage(self._data).free
            except OSError:
                return None
            self._looked = now
        return self._free

    @property
    def is_full(self) -> bool:
        free = self.free_bytes()
        return free is not None and free < LEAST_BYTES

    def warning(self) -> str | None:
        """What a teacher should know, if anything."""
        free = self.free_bytes()
        if free is None or free >= WARN_BYTES:
            return None
        if free < LEAST_BYTES:
            return "The disk is full: nothing can be stored until there is room again."
        return f"The disk is nearly full: {free // 2**20} MB are left. Make room, or nothing can be stored soon."


class RoomGuard:
    def __init__(self, app: ASGIApp, *, room: Room) -> None:
        self.app, self.room = app, room

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http" and scope["method"] not in READING and self.room.is_full:
            answer = error_answer(
                507,
                "no-room",
                "there is no room left on the disk to store this.",
                kept="Everything stored before is untouched.",
                todo="Make room on the disk; Lap Tick goes on by itself.",
            )
            await answer(scope, receive, send)
            return
        await self.app(scope, receive, send)
