"""Typed passages as documents, as they are stored and sent.

``{"title", "beats", "beat_type", "pickup": "0", "bpm": null, "bars": [{"right": [event …], "left": […]}]}``; an event
is ``{"length": "1/2", "pitches": ["F♯4"], "is_rest": false, "is_tied": false}``, lengths in quarters as fractions.
"""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from laptick.core.base.errors import OptionError
from laptick.core.editing.entry import Entry, EntryBar, Event
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
            _fraction(document.get("pickup") or "0"),
            document.get("bpm"),
        )
    except (KeyError, TypeError, ValueError, AttributeError, ZeroDivisionError):
        raise OptionError("the passage is not as it should be.", where="bars", kept="Nothing was changed.") from None


def _event(document: Document) -> Event:
    pitches = tuple(str(pitch) for pitch in document.get("pitches") or ())
    return Event(_fraction(document["length"]), pitches, bool(document.get("is_rest")), bool(document.get("is_tied")))


def _fraction(value: Any) -> Fraction:
    text = str(value)
    if len(text) > 12:
        raise ValueError(text)
    return Fraction(text)


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


def _event_document(event: Event) -> dict[str, Any]:
    return {
        "length": str(event.length_quarters),
        "pitches": list(event.pitches),
        "is_rest": event.is_rest,
        "is_tied": event.is_tied,
    }
