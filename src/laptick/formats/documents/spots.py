"""The places of a stored check document that a heard slip can be laid beside."""

from __future__ import annotations

from fractions import Fraction

from laptick.core.base.units import Quarters, parse_quarters
from laptick.core.judging.document import CheckDocument, PlaceTold
from laptick.core.score.score import Score
from laptick.core.takes.listening import MeasuredSlip


def spots_of_document(document: CheckDocument, score: Score) -> list[MeasuredSlip]:
    """The places a stored judgement names, from the start of the piece: strikes missing, wrong and too many, notes
    further from the beat than the limit, stops, and where the player went back to. ``score``: in the order that was
    played. What lies in a bar that is there no more, for the piece was changed since, is left out."""
    limit_ms = document.limits.deviation_ms
    starts = {(bar.number, bar.pass_number): bar.start_quarters for bar in reversed(score.measures)}
    told: list[tuple[PlaceTold, str]] = [(one, "missing") for one in document.missing]
    told += [(one, "wrong-notes") for one in document.wrong]
    for note in document.notes:
        if abs(note.deviation_ms) > limit_ms + note.uncertainty_ms:
            told.append((note, "late" if note.deviation_ms > 0 else "early"))
    told += [(stop, "hesitation") for stop in document.hesitations]
    told += [(restart.from_, "restart") for restart in document.restarts]
    spots = {
        (starts[place.measure, place.pass_] + parse_quarters(place.offset), code)
        for place, code in told
        if (place.measure, place.pass_) in starts
    }
    # What nothing asked for has no written place: it lies where it fell on the student's own beat.
    spots |= {(_exact(one.onset_quarters), "extra") for one in document.extra if one.onset_quarters is not None}
    return [MeasuredSlip(onset, code) for onset, code in sorted(spots)]


def _exact(quarters: float) -> Quarters:
    return Fraction(quarters).limit_denominator(10_000)
