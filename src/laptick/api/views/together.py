"""From core's map to what the API gives. No rule of music is decided here."""

from __future__ import annotations

from collections.abc import Iterator

from laptick.api.schemas import together as schemas
from laptick.api.views.places import place_text
from laptick.core.base.levels import LEVEL_NAMES, Level
from laptick.core.base.units import Bpm, Quarters
from laptick.core.practice.reading_aids import reading_aids
from laptick.core.rhythm.likeness import BarLikeness, bar_likeness
from laptick.core.rhythm.lines import alike_lines, line_words
from laptick.core.score.score import HANDS, Hand, MarkKind, Score
from laptick.core.score.within import within_between
from laptick.core.together.difficulty import bar_difficulties, piece_difficulty
from laptick.core.together.events import BarEvents, events_of
from laptick.core.together.names import name_of_position
from laptick.core.together.reaches import Choice, reaches_of
from laptick.core.together.seams import Spot, Where, seams_of
from laptick.core.together.shifts import positions_of, shifts_of
from laptick.core.together.sounds import Sound
from laptick.core.together.spans import Span
from laptick.core.together.telling import HardPlace, go_from, hardest_first, shift_words
from laptick.core.together.windows import grips_of

#: What teachers let a hand do that cannot reach.
CHOICE_WORDS: dict[Choice, str] = {
    Choice.ROLL: "roll it",
    Choice.RELEASE_TO_THE_PEDAL: "let a key go into the pedal",
    Choice.REDISTRIBUTE: "give a key to the other hand",
    Choice.LEAVE_ONE_OUT: "leave one out",
}


def map_public(score: Score, span: Span, quarter_bpm: Bpm, level: Level) -> schemas.MapPublic:
    """``quarter_bpm``: the tempo to be reached, in quarters a minute; ``level``: the one the piece is filed under."""
    difficulties = bar_difficulties(score, quarter_bpm, span)
    piece = piece_difficulty(difficulties)
    bars = events_of(score)
    keys = _Keys(score)
    return schemas.MapPublic(
        quarter_bpm=quarter_bpm,
        span=span.steps + 1,
        difficulty=round(piece.points, 1),
        level=piece.level,
        beyond=beyond_words(piece.level, level),
        bars=[
            schemas.MapBarPublic(
                start_quarters=float(bar.measure.start_quarters),
                number=bar.measure.number,
                difficulty=round(difficulty.points, 1),
                ratio=str(bar.ratio) if bar.ratio else "free",
                mixture=[str(ratio) for ratio in bar.mixture],
                same=_same(score, alike),
            )
            for bar, difficulty, alike in zip(bars, difficulties, bar_likeness(score), strict=True)
        ],
        events=[event for bar in bars for event in _events(score, bar, keys)],
        lifts=[lift for bar in bars for lift in _lifts(score, bar, keys)],
        seams=[
            schemas.SeamPublic(
                from_quarters=_quarters(score, seam.before),
                to_quarters=_quarters(score, seam.to),
                difficulty=round(seam.points, 1),
                is_repeat=seam.where is Where.REPEAT,
            )
            for seam in seams_of(score, quarter_bpm, span)
        ],
        shifts=[
            schemas.ShiftPublic(
                hand=shift.hand.value,
                go_quarters=float(go_from(score, shift)),
                to_quarters=float(shift.to.onset_quarters),
                steps=shift.steps,
                words=shift_words(score, shift),
            )
            for hand in HANDS
            for shift in shifts_of(score, hand, span)
        ],
        positions=[position for hand in HANDS for position in _positions(score, hand, span)],
        reaches=[
            schemas.ReachPublic(
                hand=reach.hand.value,
                onset_quarters=_quarters(score, Spot(reach.measure_index, reach.offset_quarters)),
                place=place_text(score, score.measures[reach.measure_index].start_quarters + reach.offset_quarters),
                steps=reach.steps,
                choices=[CHOICE_WORDS[choice] for choice in reach.choices],
            )
            for reach in reaches_of(score, span)
        ],
        hardest=[_hard(score, place) for place in hardest_first(score, quarter_bpm, span)],
        lines=[line_words(score, alike) for alike in alike_lines(score)],
        aids=[
            schemas.AidPublic(kind=aid.kind.value, onset_quarters=_quarters(score, aid.spots[0]), words=aid.words)
            for aid in reading_aids(score, span)
        ],
    )


_ORDER = {level: place for place, level in enumerate(Level)}


def is_beyond(found: Level, filed: Level) -> bool:
    """Whether a piece is harder to join than the level it is filed under."""
    return _ORDER[found] > _ORDER[filed]


def beyond_words(found: Level, filed: Level) -> str | None:
    """How a piece is harder to join than the level it is filed under; ``None`` where it is not."""
    if not is_beyond(found, filed):
        return None
    return f"Harder to join than its level: {LEVEL_NAMES[found]}, and it is filed as {LEVEL_NAMES[filed]}."


class _Keys:
    """Sounds with the fingers that the score has for them."""

    def __init__(self, score: Score) -> None:
        marks = (mark for mark in score.marks if mark.kind is MarkKind.FINGERING and mark.note_id)
        self._fingers = {mark.note_id: mark.text for mark in marks}

    def public(self, sound: Sound) -> schemas.KeyPublic:
        return schemas.KeyPublic(
            note_id=sound.note_id,
            hand=sound.hand.value,
            name=sound.name,
            pitch=sound.pitch,
            finger=self._fingers.get(sound.note_id),
        )


def _quarters(score: Score, spot: Spot) -> float:
    return float(score.measures[spot.measure_index].start_quarters + spot.offset_quarters)


def _same(score: Score, alike: BarLikeness) -> str | None:
    if alike.same_notes_as is not None:
        return f"bar {score.measures[alike.same_notes_as].number} again"
    if alike.almost is not None:
        return f"bar {score.measures[alike.almost].number} but for {alike.difference}"
    if alike.same_rhythm_as is not None:
        return f"the rhythm of bar {score.measures[alike.same_rhythm_as].number}"
    return None


def _place(score: Score, bar: BarEvents, offset: Quarters) -> str:
    return place_text(score, bar.measure.start_quarters + offset)


def _events(score: Score, bar: BarEvents, keys: _Keys) -> Iterator[schemas.EventPublic]:
    for event in bar.events:
        yield schemas.EventPublic(
            onset_quarters=float(bar.measure.start_quarters + event.offset_quarters),
            place=_place(score, bar, event.offset_quarters),
            letter=event.letter.value,
            struck=[keys.public(sound) for sound in event.struck],
            held=[keys.public(sound) for sound in event.held],
        )


def _lifts(score: Score, bar: BarEvents, keys: _Keys) -> Iterator[schemas.LiftPublic]:
    for lift in bar.lifts:
        yield schemas.LiftPublic(
            onset_quarters=float(bar.measure.start_quarters + lift.offset_quarters),
            place=_place(score, bar, lift.offset_quarters),
            keys=[keys.public(sound) for sound in lift.sounds],
        )


def _positions(score: Score, hand: Hand, span: Span) -> Iterator[schemas.PositionPublic]:
    grips, before = grips_of(score, hand), None
    for position in positions_of(score, hand, span):
        steps = 0 if before is None else position.low - before
        before = position.low
        yield schemas.PositionPublic(
            hand=hand.value,
            from_quarters=float(grips[position.first].onset_quarters),
            to_quarters=float(max(grip.end_quarters for grip in grips[position.first : position.last + 1])),
            name=name_of_position(score, position, span),
            moved=f"{'up' if steps > 0 else 'down'} {abs(steps)}" if steps else None,
        )


def _hard(score: Score, place: HardPlace) -> schemas.HardPlacePublic:
    before, to = place.before, place.to
    within = within_between((before.measure_index, before.offset_quarters), (to.measure_index, to.offset_quarters))
    return schemas.HardPlacePublic(
        kind=place.kind.value,
        title=place.title,
        words=place.words,
        difficulty=round(place.points, 1),
        from_quarters=_quarters(score, place.before),
        to_quarters=_quarters(score, place.to),
        from_bar=min(place.before.measure_index, place.to.measure_index),
        to_bar=place.to.measure_index,
        within=None if within is None else within.text,
        again_quarters=[_quarters(score, spot) for spot in place.again],
    )
