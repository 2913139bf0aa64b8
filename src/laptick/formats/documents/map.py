"""The JSON document of ``map``: what meets, lifts and moves, how hard it is, also what the API builds on.

``measures`` are written bars, ``order`` is how they are played.
Positions are quarters from the start of the written bar as fraction strings; places are ``{"measure", "offset",
"pass"}``. Pitches are scientific names (``F#4``, ``Bb3``). Field names are fixed: fields may be added, never renamed.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from laptick.core.base.units import Bpm, quarters_to_text
from laptick.core.practice.reading_aids import reading_aids
from laptick.core.rhythm.likeness import BarLikeness, HandLikeness, bar_likeness, hand_likeness
from laptick.core.score.hands import hand_key
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import HANDS, Hand, Score
from laptick.core.together.difficulty import USUAL_BPM, bar_difficulties, piece_difficulty
from laptick.core.together.events import BarEvents, events_of
from laptick.core.together.names import name_of_position
from laptick.core.together.reaches import reaches_of
from laptick.core.together.seams import Spot, seams_of
from laptick.core.together.shifts import Shift, When, positions_of, shifts_of
from laptick.core.together.spans import OCTAVE, Span
from laptick.core.together.windows import Grip, grips_of

Document = dict[str, Any]

#: As names are written in plain letters.
PLAIN = str.maketrans({"♯": "#", "♭": "b", "𝄪": "x"})


def map_document(score: Score, span: Span = OCTAVE, quarter_bpm: Bpm | None = None) -> Document:
    """The document of ``laptick map``. ``quarter_bpm``: the tempo to be reached, in quarters; else the printed one."""
    bpm = quarter_bpm or printed_quarter_bpm(score) or USUAL_BPM
    difficulties = bar_difficulties(score, bpm, span)
    piece = piece_difficulty(difficulties)
    by_hand, alike = hand_likeness(score), bar_likeness(score)
    shifts = [shift for hand in HANDS for shift in shifts_of(score, hand, span)]
    return {
        "quarter_bpm": bpm,
        "order": [score.measures[index].number for index in play_order(score).order],
        "span_steps": span.steps,
        "measures": [
            {
                **_bar(bar),
                **_likeness(score, by_hand[i], alike[i]),
                "difficulty": round(difficulties[i].points, 1),
                "reasons": [reason.value for reason in difficulties[i].reasons],
            }
            for i, bar in enumerate(events_of(score))
        ],
        "seams": [
            {
                "from": _place(score, seam.before),
                "to": _place(score, seam.to),
                "where": seam.where.value,
                "difficulty": round(seam.points, 1),
                "reasons": [reason.value for reason in seam.reasons],
            }
            for seam in seams_of(score, bpm, span)
        ],
        "shifts": [
            _shift(score, shift)
            for shift in sorted(shifts, key=lambda one: (one.to.onset_quarters, HANDS.index(one.hand)))
        ],
        "positions": [entry for hand in HANDS for entry in _positions(score, hand, span)],
        "reaches": [
            {
                "hand": reach.hand.value,
                "measure": score.measures[reach.measure_index].number,
                "offset": quarters_to_text(reach.offset_quarters),
                "steps": reach.steps,
                "choices": [choice.value for choice in reach.choices],
            }
            for reach in reaches_of(score, span)
        ],
        "aids": [
            {
                "kind": aid.kind.value,
                "hand": None if aid.hand is None else aid.hand.value,
                "places": [_place(score, spot) for spot in aid.spots],
                "text": aid.words,
            }
            for aid in reading_aids(score, span)
        ],
        "piece": {"difficulty": round(piece.points, 1), "level": piece.level.value},
    }


def printed_quarter_bpm(score: Score) -> Bpm | None:
    """The first printed tempo in quarters; ``None`` where none is printed."""
    return score.tempos[0].bpm * float(score.tempos[0].beat_quarters) if score.tempos else None


def _bar(bar: BarEvents) -> Document:
    return {
        "number": bar.measure.number,
        "events": [
            {
                "offset": quarters_to_text(event.offset_quarters),
                "hand": event.letter.value,
                "pitches": {hand.value: [_plain(s.name) for s in event.struck if s.hand is hand] for hand in HANDS},
                "held": {hand.value: [_plain(s.name) for s in event.held if s.hand is hand] for hand in HANDS},
            }
            for event in bar.events
        ],
        "lifts": [
            {
                "offset": quarters_to_text(lift.offset_quarters),
                "hand": lift.hand.value,
                "pitches": [_plain(sound.name) for sound in lift.sounds],
            }
            for lift in bar.lifts
        ],
        "ratio": str(bar.ratio) if bar.ratio else "free",
        "mixture": [str(ratio) for ratio in bar.mixture],
    }


@lru_cache(maxsize=1024)
def _plain(name: str) -> str:
    return name.translate(PLAIN)


def _likeness(score: Score, by_hand: dict[Hand | None, HandLikeness], alike: BarLikeness) -> Document:
    def number(index: int | None) -> str | None:
        return None if index is None else score.measures[index].number

    return {
        "same_rhythm_as": {hand_key(hand): number(one.same_rhythm_as) for hand, one in by_hand.items()},
        "same_notes_as": {hand_key(hand): number(one.same_notes_as) for hand, one in by_hand.items()},
        "almost": None if alike.almost is None else {"measure": number(alike.almost), "difference": alike.difference},
    }


def _place(score: Score, spot: Spot) -> Document:
    return {
        "measure": score.measures[spot.measure_index].number,
        "offset": quarters_to_text(spot.offset_quarters),
        "pass": 1,
    }


def _at(score: Score, grip: Grip) -> Document:
    start = score.measures[grip.measure_index].start_quarters
    return _place(score, Spot(grip.measure_index, grip.onset_quarters - start))


def _shift(score: Score, shift: Shift) -> Document:
    return {
        "hand": shift.hand.value,
        "measure": score.measures[shift.measure_index].number,
        "offset": quarters_to_text(shift.offset_quarters),
        "steps": shift.steps,
        "time_quarters": quarters_to_text(shift.time_quarters),
        "manner": shift.manner.value,
        "advice": {"code": shift.when.value, "from": _at(score, shift.before), "text": _advice(shift)},
    }


#: What a teacher says of when to go; ``{}`` is where to.
ADVICE: dict[When, str] = {
    When.IN_REST: "Move in the rest, and wait on {}.",
    When.DURING_LONG_NOTE: "Move while the long note sounds, and be on {} before it comes.",
    When.BETWEEN_NOTES: "There is no time to look: practise the way to {} by itself, there and back.",
}


def _advice(shift: Shift) -> str:
    return ADVICE[shift.when].format(" and ".join(_names(shift.to)))


def _names(grip: Grip) -> list[str]:
    return [sound.name for sound in sorted(grip.sounds, key=lambda sound: sound.pitch or 0)]


def _positions(score: Score, hand: Hand, span: Span) -> list[Document]:
    grips = grips_of(score, hand)
    found = []
    for position in positions_of(score, hand, span):
        own = grips[position.first : position.last + 1]
        sounds = [(sound.pitch or 0, sound.name) for grip in own for sound in grip.sounds]
        found.append(
            {
                "hand": hand.value,
                "from": _at(score, grips[position.first]),
                "to": _at(score, grips[position.last]),
                "low": _plain(min(sounds)[1]),
                "high": _plain(max(sounds)[1]),
                "name": name_of_position(score, position, span),
            }
        )
    return found
