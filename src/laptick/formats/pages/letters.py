"""How wide a word is in the shipped font (``tools/measure_letters.py``), in parts of the type size."""

from __future__ import annotations

import json
from functools import lru_cache
from importlib import resources

#: A letter the table does not hold is taken as wide as the widest common ones.
_UNKNOWN = 0.75

PLAIN, BOLD = 400, 800


@lru_cache(maxsize=1)
def _widths() -> dict[str, dict[str, float]]:
    text = (resources.files("laptick") / "fonts" / "letter_widths.json").read_text(encoding="utf-8")
    known: dict[str, dict[str, float]] = json.loads(text)
    return known


@lru_cache(maxsize=4096)
def word_width(text: str, weight: int) -> float:
    """``word_width("1", BOLD) * size`` is how much room ``1`` takes at that type size."""
    known = _widths()[str(weight)]
    return sum(known.get(letter, _UNKNOWN) for letter in text)
