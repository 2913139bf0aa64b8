"""What is worked out of a thing once and kept with it: typed, and gone when the thing is.

A cache is made where its value is worked out (``LINES: Kept[Score, Hand | None, HandLine] = Kept()``), so that nobody
reads or writes another's. The owner must not change; a copy of it begins anew.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar, cast

Owner = TypeVar("Owner", bound=object)
Key = TypeVar("Key")
Value = TypeVar("Value")

_WHERE = "_kept"


class Kept(Generic[Owner, Key, Value]):
    def of(self, owner: Owner, key: Key, make: Callable[[], Value]) -> Value:
        """The value known for a key, made where it is not."""
        caches = vars(owner).setdefault(_WHERE, {})
        known = cast("dict[Key, Value]", caches.setdefault(self, {}))
        if key not in known:
            known[key] = make()
        return known[key]
