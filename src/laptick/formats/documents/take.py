"""Takes as documents: taps as JSON, and strikes as they are stored."""

from __future__ import annotations

import json
import math
from dataclasses import asdict
from typing import Any

from laptick.core.base.errors import LimitError, TakeError
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.score.score import Hand
from laptick.core.takes.heard import Heard, SoundLevel
from laptick.core.takes.performance import MAX_STRIKES, Performance, Source, Strike

_KEPT = "Nothing was changed."


def read_taps(data: bytes | str, *, filename: str = "the take") -> Performance:
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        raise TakeError(
            "this is neither MIDI nor a recording nor a list of taps in JSON.", where=filename, kept=_KEPT
        ) from None
    if not isinstance(document, dict) or not isinstance(document.get("taps"), list):
        raise TakeError("there is no list “taps”.", where=filename, kept=_KEPT)
    taps = document["taps"]
    if len(taps) > MAX_STRIKES:
        raise LimitError(
            f"the take has {len(taps):,} taps; up to {MAX_STRIKES:,} are checked at once.",
            where=f"{filename}, taps",
            kept=_KEPT,
            todo="Check a shorter take.",
        )
    strikes = tuple(_tap(tap, index) for index, tap in enumerate(taps))
    first_beat_s = _optional(document, "first_beat_s", 0.0, 36_000.0)
    click_bpm = _optional(document, "click_bpm", MIN_BPM, MAX_BPM)
    return Performance(Source.TAPS, strikes, first_beat_s, click_bpm)


def _tap(tap: Any, index: int) -> Strike:
    where = f"taps[{index}]"
    time = tap.get("t") if isinstance(tap, dict) else None
    if isinstance(time, bool) or not isinstance(time, int | float) or not math.isfinite(time) or time < 0:
        raise TakeError(
            "a tap has no usable time; it should be seconds, zero or above.", where=f"{where}.t", kept=_KEPT
        )
    hand = tap.get("hand")
    if hand not in (None, "left", "right"):
        raise TakeError("a tap's hand should be “left” or “right”.", where=f"{where}.hand", kept=_KEPT)
    return Strike(float(time), Hand(hand) if hand else None)


def _optional(document: dict[str, Any], name: str, low: float, high: float) -> float | None:
    value = document.get(name)
    if value is None:
        return None
    if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
        raise TakeError(f"{name} should be a number from {low:g} to {high:g}.", where=name, kept=_KEPT)
    return float(value)


def write_taps(performance: Performance) -> str:
    taps = [{"t": round(s.played_s, 6), **_of_strike(s)} for s in performance.strikes]
    document: dict[str, Any] = {"taps": taps}
    if performance.first_beat_s is not None:
        document["first_beat_s"] = performance.first_beat_s
    if performance.click_bpm is not None:
        document["click_bpm"] = performance.click_bpm
    return json.dumps(document, indent=1) + "\n"


def _of_strike(strike: Strike) -> dict[str, Any]:
    """What is written of a strike only where it is so."""
    return {**({"hand": strike.hand.value} if strike.hand else {}), **({} if strike.is_apart else {"apart": False})}


def stored_strikes(performance: Performance) -> dict[str, Any]:
    """A performance as it is kept with a take."""
    heard = {} if performance.heard is None else {"heard": asdict(performance.heard)}
    if not performance.knows.pitch:
        document: dict[str, Any] = {"source": performance.source.value, **json.loads(write_taps(performance)), **heard}
        return document
    document = {
        "source": performance.source.value,
        "notes": [
            {
                "t": round(s.played_s, 6),
                "pitch": s.pitch,
                "velocity": s.velocity,
                "released": None if s.released_s is None else round(s.released_s, 6),
                **_of_strike(s),
            }
            for s in performance.strikes
        ],
        "pedal": [{"t": round(at_s, 6), "down": down} for at_s, down in performance.pedal],
        **heard,
    }
    if performance.first_beat_s is not None:
        document |= {"first_beat_s": performance.first_beat_s, "click_bpm": performance.click_bpm}
    return document


def performance_of_stored(document: dict[str, Any], begin_s: float = 0.0) -> Performance:
    """What is kept with a take as a performance, from an instant on (what was struck along with a count-in is kept, and
    left out here).

    Raises:
        TakeError: the times cannot be used, or nothing is left.
    """
    first_beat_s, click_bpm = document.get("first_beat_s"), document.get("click_bpm")
    heard = heard_of(document.get("heard"))
    if "notes" not in document:
        taps = (
            Strike(float(t["t"]), Hand(t["hand"]) if t.get("hand") else None, is_apart=t.get("apart") is not False)
            for t in document["taps"]
        )
        kept = tuple(strike for strike in taps if not strike.played_s < begin_s)
        return Performance(_source_of(document, Source.TAPS), kept, first_beat_s, click_bpm, heard=heard)
    notes = (
        Strike(
            float(n["t"]),
            Hand(n["hand"]) if n.get("hand") else None,
            int(n["pitch"]),
            n.get("velocity"),
            None if n.get("released") is None else float(n["released"]),
            n.get("apart") is not False,
        )
        for n in document["notes"]
    )
    kept = tuple(strike for strike in notes if not strike.played_s < begin_s)
    pedal = tuple((float(change["t"]), bool(change["down"])) for change in document.get("pedal", ()))
    return Performance(_source_of(document, Source.MIDI), kept, first_beat_s, click_bpm, pedal, heard)


def heard_of(document: Any) -> Heard | None:
    """What is known of a recording, as it is kept with its take; ``None`` where there is none, or it is damaged."""
    if not isinstance(document, dict):
        return None
    try:
        return Heard(**{**document, "level": SoundLevel(document["level"])})
    except (KeyError, TypeError, ValueError):
        return None  # a damaged row tells nothing of its recording; the strikes stand


def _source_of(document: dict[str, Any], unnamed: Source) -> Source:
    """Where stored strikes came from; takes stored before sources were named know it by their shape."""
    return Source(document.get("source", unnamed))
