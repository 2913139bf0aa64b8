"""What was made last, kept while all of it together weighs no more than was said.

One thing is made once, also when many ask for it at the same moment: the others wait for it. A thing that weighs more
than everything may is kept alone, until the next comes.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Weighed(Generic[Key, Value]):
    """``most``: what all may weigh; ``weigh``: what one thing does."""

    def __init__(self, most: int, weigh: Callable[[Value], int]) -> None:
        self._most, self._weigh = most, weigh
        self._lock = threading.Lock()
        self._known: OrderedDict[Key, tuple[Value, int]] = OrderedDict()
        self._making: dict[Key, threading.Lock] = {}
        self.weight = 0

    def of(self, key: Key, make: Callable[[], Value]) -> Value:
        """The thing of a key, made where it is not known. What ``make`` raises is raised, and nothing is kept."""
        with self._lock:
            if key in self._known:
                self._known.move_to_end(key)
                return self._known[key][0]
            making = self._making.setdefault(key, threading.Lock())
        with making:
            with self._lock:
                if key in self._known:
                    return self._known[key][0]
            try:
                value = make()
                self._keep(key, value)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return value

    def __len__(self) -> int:
        return len(self._known)

    def _keep(self, key: Key, value: Value) -> None:
        weight = self._weigh(value)
        with self._lock:
            if key in self._known:
                return
            self._known[key] = (value, weight)
            self.weight += weight
            while self.weight > self._most and len(self._known) > 1:
                _, (_, gone) = self._known.popitem(last=False)
                self.weight -= gone
