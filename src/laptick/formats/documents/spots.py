"""The places of a stored check document that a heard slip can be laid beside."""

from __future__ import annotations

from fractions import Fraction

from laptick.core.base.units import Quarters, parse_quarters
from laptick.core.judging.document import CheckDocument, PlaceTold
from laptick.core.score.score import Place, Score
from laptick.core.takes.listening import MeasuredSlip


def spots_of_document(document: CheckDocument, score: Score) -> list[MeasuredSlip]:
    """The places a stored judgement names, from the start of the piece: strikes missing, wrong and too many, notes
    further from the beat than the limit, stops, and where the player went back to. ``score``: in the order that was
    played."""
    limit_ms = document.limits.deviation_ms

    def onset_of(place: PlaceTold) -> Quarters:
        offset = parse_quarters(place.offset)
        return score.measure_of(Place(place.measure, offset, place.pass_)).start_quarters + offset

    spots = {(onset_of(one), "missing") for one in document.missing}
    spots |= {(onset_of(one), "wrong-notes") for one in document.wrong}
    # What nothing asked for has no written place: it lies where it fell on the student's own beat.
    spots |= {(_exact(one.onset_quarters), "extra") for one in document.extra if one.onset_quarters is not None}
    for note in document.notes:
        if abs(note.deviation_ms) > limit_ms + note.uncertainty_ms:
            spots.add((onset_of(note), "late" if note.deviation_ms > 0 else "early"))
    spots |= {(onset_of(stop), "hesitation") for stop in document.hesitations}
    spots |= {(onset_of(restart.from_), "restart") for restart in document.restarts}
    return [MeasuredSlip(onset, code) for onset, code in sorted(spots)]


def _exact(quarters: float) -> Quarters:
    return Fraction(quarters).limit_denominator(10_000)
