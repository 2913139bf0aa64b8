"""The places of a stored check document that a heard slip can be laid beside."""

from __future__ import annotations

from fractions import Fraction

from laptick.core.base.units import Quarters, parse_quarters
from laptick.core.judging.document import CheckDocument, PlaceTold
from laptick.core.judging.listening import MeasuredSlip
from laptick.core.score.score import Place, Score


def spots_of_document(document: CheckDocument, score: Score) -> list[MeasuredSlip]:
    """The places a stored judgement names, from the start of the piece: strikes missing, wrong and too many, notes
    further from the beat than the limit, stops, and where the player went back to. ``score``: in the order that was
    played."""
    limit_ms = document.limits.deviation_ms
    spots: set[tuple[Quarters, str]] = set()
    told = (("missing", document.missing), ("wrong-notes", document.wrong), ("extra", document.extra))
    for code, strikes in told:
        spots |= {(_exact(one.onset_quarters), code) for one in strikes if one.onset_quarters is not None}
    for note in document.notes:
        if abs(note.deviation_ms) > limit_ms + note.uncertainty_ms:
            spots.add((_exact(note.onset_quarters), "late" if note.deviation_ms > 0 else "early"))
    places: list[tuple[str, PlaceTold]] = [("hesitation", stop) for stop in document.hesitations]
    places += [("restart", restart.from_) for restart in document.restarts]
    for code, place in places:
        offset = parse_quarters(place.offset)
        measure = score.measure_of(Place(place.measure, offset, place.pass_))
        spots.add((measure.start_quarters + offset, code))
    return [MeasuredSlip(onset, code) for onset, code in sorted(spots)]


def _exact(quarters: float) -> Quarters:
    return Fraction(quarters).limit_denominator(10_000)
