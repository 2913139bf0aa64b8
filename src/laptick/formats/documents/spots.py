"""The places of a stored check document that a heard slip can be laid beside."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from laptick.core.base.units import Quarters, parse_quarters
from laptick.core.judging.listening import Spot
from laptick.core.score.score import Place, Score


def spots_of_document(document: Mapping[str, Any], score: Score) -> list[Spot]:
    """The places a stored judgement names, from the start of the piece: strikes missing, wrong and too many, notes
    further from the beat than the limit, stops, and where the player went back to. ``score``: in the order that was
    played."""
    limit_ms = document["limits"]["deviation_ms"]
    spots: set[tuple[Quarters, str]] = set()
    for code, key in (("missing", "missing"), ("wrong-notes", "wrong"), ("extra", "extra")):
        for one in document.get(key) or []:
            if one["onset_quarters"] is not None:
                spots.add((_exact(one["onset_quarters"]), code))
    for note in document.get("notes") or []:
        if abs(note["deviation_ms"]) > limit_ms + note["uncertainty_ms"]:
            spots.add((_exact(note["onset_quarters"]), "late" if note["deviation_ms"] > 0 else "early"))
    places = [("hesitation", stop) for stop in document.get("hesitations") or []]
    places += [("restart", restart["from"]) for restart in document.get("restarts") or []]
    for code, place in places:
        offset = parse_quarters(place["offset"])
        measure = score.measure_of(Place(place["measure"], offset, place["pass"]))
        spots.add((measure.start_quarters + offset, code))
    return [Spot(onset, code) for onset, code in sorted(spots)]


def _exact(quarters: float) -> Quarters:
    return Fraction(quarters).limit_denominator(10_000)
