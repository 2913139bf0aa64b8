"""What a reader did not use, changed or guessed: said once each, with the bars it concerns."""

from __future__ import annotations

from dataclasses import replace

from laptick.core.score.score import Notice


class NoticeBook:
    """Collects notices: each text once, with its first place and how often."""

    def __init__(self) -> None:
        self._by_text: dict[tuple[str, str, int | None], Notice] = {}

    def add(self, kind: str, text: str, measure: str | None = None, staff: int | None = None) -> None:
        key = (kind, text, staff)
        known = self._by_text.get(key)
        if known:
            self._by_text[key] = replace(known, times=known.times + 1)
        else:
            self._by_text[key] = Notice(kind, text, measure, staff)

    def all(self) -> tuple[Notice, ...]:
        return tuple(self._by_text.values())
