"""The playing order, bars that are alike, phrases and lines as they are sent."""

from __future__ import annotations

from fractions import Fraction

from laptick.api.schemas import roadmap as schemas
from laptick.api.views.places import beat_text
from laptick.core.rhythm.likeness import bar_likeness, rhythms_used
from laptick.core.score.places import beat_words, place_words
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import Measure, Place
from laptick.studio.pieces.open_piece import Piece
from laptick.studio.pieces.shelf import phrasing_of


def _beats(measure: Measure) -> list[schemas.BeatPublic]:
    offsets = [beat.start_quarters - measure.lead_quarters for beat in measure.meter.beats]
    return [
        schemas.BeatPublic(offset=str(offset), words=beat_words(measure, offset))
        for offset in offsets
        if 0 <= offset < measure.length_quarters
    ]


def roadmap_public(piece: Piece) -> schemas.RoadmapPublic:
    score, own, naming = piece.score, piece.play_order, piece.naming
    roadmap, phrasing = play_order(score), phrasing_of(piece)
    by_signs = [score.measures[index].number for index in roadmap.order]
    order = list(own) if own is not None else by_signs
    name = [measure.number for measure in score.measures]
    lines = [measure.line for measure in score.measures]

    def named(index: int | None) -> str | None:
        return None if index is None else name[index]

    return schemas.RoadmapPublic(
        bars=[
            schemas.BarLikenessPublic(
                number=name[bar.measure_index],
                place_text=place_words(score, Place(name[bar.measure_index], Fraction(0))),
                letter=bar.letter,
                beats=_beats(score.measures[bar.measure_index]),
                begins_line=bar.measure_index > 0 and lines[bar.measure_index] != lines[bar.measure_index - 1],
                same_rhythm_as=named(bar.same_rhythm_as),
                same_notes_as=named(bar.same_notes_as),
                almost=named(bar.almost),
                difference=bar.difference,
            )
            for bar in bar_likeness(score, naming)
        ],
        rhythms=[
            schemas.RhythmPublic(hand=use.hand.value, said=use.said, measures=[name[index] for index in use.measures])
            for use in rhythms_used(score)
        ],
        phrases=[
            schemas.PhrasePublic(
                number=phrase.index + 1,
                letter=phrase.letter,
                start=schemas.PhraseStart(measure=phrase.start.measure, offset=str(phrase.start.offset_quarters)),
                start_text=beat_text(score, phrase.start),
                end_text=beat_text(score, phrase.last),
                same_rhythm_as=None if phrase.same_rhythm_as is None else phrase.same_rhythm_as + 1,
                same_notes_as=None if phrase.same_notes_as is None else phrase.same_notes_as + 1,
            )
            for phrase in phrasing.phrases
        ],
        phrases_reason=phrasing.reason,
        phrases_are_own=phrasing.is_own,
        order=order,
        by_signs=by_signs,
        is_own=own is not None,
        is_plain=order == [measure.number for measure in score.measures],
        problems=[
            schemas.ProblemPublic(measure=score.measures[p.measure_index].number, text=p.text) for p in roadmap.problems
        ],
    )
