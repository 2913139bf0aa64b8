"""A place in a document: `{"measure", "offset", "pass"}`, the offset an exact fraction of a quarter."""

from __future__ import annotations

from typing import Any

from laptick.core.base.units import quarters_to_text
from laptick.core.score.score import Place

Document = dict[str, Any]


def place_document(place: Place) -> Document:
    return {"measure": place.measure, "offset": quarters_to_text(place.offset_quarters), "pass": place.pass_number}
