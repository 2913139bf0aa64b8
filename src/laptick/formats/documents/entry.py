"""Typed passages as documents, as they are stored and sent.

``{"title", "beats", "beat_type", "pickup": "0", "bpm": null, "bars": [{"right": [event …], "left": […]}]}``; an event
is ``{"length": "1/2", "pitches": ["F♯4"], "is_rest": false, "is_tied": false}``, lengths in quarters as fractions.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.base.units import parse_quarters
from laptick.core.editing.entry import Entry, EntryBar, TypedEvent
from laptick.core.score.meter import TimeSignature

Document = Mapping[str, Any]


def entry_of(document: Document) -> Entry:
    """A stored passage.

    Raises:
        OptionError: one that is not understood.
    """
    try:
        bars = tuple(
            EntryBar(*(tuple(_event(event) for event in bar.get(hand) or ()) for hand in ("right", "left")))
            for bar in document["bars"]
        )
        return Entry(
            str(document["title"]),
            TimeSignature(int(document["beats"]), int(document["beat_type"])),
            bars,
            parse_quarters(document.get("pickup") or "0", where="pickup"),
            document.get("bpm"),
        )
    except (KeyError, TypeError, ValueError, AttributeError, ZeroDivisionError):
        raise OptionError("the passage is not as it should be.", where="bars", kept="Nothing was changed.") from None


def _event(document: Document) -> TypedEvent:
    pitches = tuple(str(pitch) for pitch in document.get("pitches") or ())
    return TypedEvent(
        parse_quarters(document["length"], where="length"),
        pitches,
        bool(document.get("is_rest")),
        bool(document.get("is_tied")),
    )


def entry_document(entry: Entry) -> dict[str, Any]:
    """The passage as it is stored."""
    return {
        "title": entry.title,
        "beats": entry.signature.beats,
        "beat_type": entry.signature.beat_type,
        "pickup": str(entry.pickup_quarters),
        "bpm": entry.bpm,
        "bars": [
            {"right": [_event_document(e) for e in bar.right], "left": [_event_document(e) for e in bar.left]}
            for bar in entry.bars
        ],
    }


def _event_document(event: TypedEvent) -> dict[str, Any]:
    return {
        "length": str(event.length_quarters),
        "pitches": list(event.pitches),
        "is_rest": event.is_rest,
        "is_tied": event.is_tied,
    }
