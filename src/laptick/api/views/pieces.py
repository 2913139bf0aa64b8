"""From stored rows and core's results to what the API gives. No rule of music is decided here."""

from __future__ import annotations

from fractions import Fraction
from functools import lru_cache

from laptick.api.schemas import pieces as schemas
from laptick.api.schemas import ruler as ruler_schemas
from laptick.api.views.together import is_beyond
from laptick.core.base.units import METRONOME_MARKS, Quarters, length_name
from laptick.core.drills.drill import Drill
from laptick.core.practice.ladder.tempo_steps import first_tempo
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.hand_line import hand_line, to_ticks
from laptick.core.score.meter import Meter
from laptick.core.score.places import beat_words
from laptick.core.score.score import HANDS, Hand, MarkKind, Measure, Score
from laptick.core.together.difficulty import level_of
from laptick.formats.drills import KINDS, Document
from laptick.studio.pieces.made import ratio_of
from laptick.studio.pieces.shelf import OnShelf, ShownPiece


def piece_short(shown: OnShelf) -> schemas.PieceShort:
    face = shown.face
    return schemas.PieceShort(
        id=shown.id,
        title=shown.title,
        composer=shown.composer,
        signature=face.signature,
        bars=face.bars,
        level=shown.level,
        target_bpm=shown.target_bpm,
        beat_quarters=str(face.beat_quarters),
        beat_name=length_name(face.beat_quarters, shown.naming),
        unit_name=length_name(face.beat_quarters / 2, shown.naming) if face.is_asymmetric else None,
        hands=list(face.hands),
        takes=shown.progress.takes,
        rungs=shown.progress.rungs,
        passed=shown.progress.passed,
        next_words=shown.progress.next_words,
        bar_states=list(shown.progress.bars),
        rhythm=[list(hand) for hand in face.opening],
        bar_starts=list(face.bar_starts),
        unread=face.unread,
        difficulty=face.difficulty,
        is_beyond=face.difficulty is not None and is_beyond(level_of(face.difficulty), shown.level),
        is_drill=shown.is_drill,
    )


def piece_public(shown: ShownPiece) -> schemas.PiecePublic:
    piece, score = shown.piece, shown.piece.score
    beat = score.measures[0].meter.beat_quarters
    return schemas.PiecePublic(
        id=piece.id,
        title=piece.title,
        composer=piece.composer,
        filename=piece.filename,
        level=piece.level,
        target_bpm=piece.target_bpm,
        start_bpm=first_tempo(piece.target_bpm).bpm,
        beat_quarters=str(beat),
        beat_name=length_name(beat, piece.naming),
        unit_name=length_name(beat / 2, piece.naming) if score.measures[0].meter.is_asymmetric else None,
        hands=[hand.value for hand in score.hands_present()],
        created_at=piece.created_at,
        notices=[
            schemas.NoticePublic(kind=n.kind, text=n.text, measure=n.measure, staff=n.staff, times=n.times)  # type: ignore[arg-type]
            for n in score.notices
        ],
        ruler=ruler_public(score),
        is_played_as_written=piece.played is score,
        is_entered=piece.entry is not None,
        drill=_drill_made(piece.drill_document),
        meetings=meetings_public(ratio_of(piece)),
        metronome_marks=list(METRONOME_MARKS),
    )


def meetings_public(drill: Drill | None) -> list[schemas.MeetingPublic]:
    """Where the hands of a drill meet; nowhere of what is none."""
    found: list[schemas.MeetingPublic] = []
    if drill is None:
        return found
    for one in drill.meetings:
        measure = drill.score.measures[one.measure_index]
        found.append(
            schemas.MeetingPublic(
                onset_quarters=float(measure.start_quarters + one.offset_quarters),
                place_text=f"bar {measure.number}, {beat_words(measure, one.offset_quarters)}",
                right=one.right,
                left=one.left,
                same_key=one.same_key,
            )
        )
    return found


def _drill_made(document: Document | None) -> schemas.DrillMade | None:
    """What a drill was made by; nothing where what is stored of it is damaged."""
    if not isinstance(document, dict) or document.get("kind") not in KINDS:
        return None
    options = {str(name): str(value) for name, value in document.items() if name != "kind"}
    kind = str(document["kind"])
    return schemas.DrillMade(kind=kind, title=KINDS[kind].title, options=options)


def ruler_public(score: Score) -> ruler_schemas.RulerPublic:
    right, left = (hand_line(score, hand) for hand in HANDS)
    cues, chords = _said(score, MarkKind.CUE), _said(score, MarkKind.CHORD_SYMBOL)
    return ruler_schemas.RulerPublic(
        measures=[
            ruler_schemas.MeasurePublic(
                number=measure.number,
                pass_number=measure.pass_number,
                line=measure.line,
                bar_in_line=measure.bar_in_line,
                signature=str(measure.signature),
                start_quarters=float(measure.start_quarters),
                length_quarters=float(measure.length_quarters),
                letter=letter,
                ticks=_ticks(measure),
                cue=" · ".join(cues.get(measure.index, ())),
                chords=chords.get(measure.index, []),
            )
            for measure, letter in zip(score.measures, _letters(score), strict=True)
        ],
        right=_spans(score, Hand.RIGHT),
        left=_spans(score, Hand.LEFT),
        together=[tick / right.per_quarter for tick in sorted(right.strike_set & left.strike_set)],
    )


def _said(score: Score, kind: MarkKind) -> dict[int, list[str]]:
    """The texts of the marks of one kind, by the index of the bar they stand in."""
    found: dict[int, list[str]] = {}
    for mark in score.marks:
        if mark.kind is kind:
            found.setdefault(score.measure_at(mark.onset_quarters).index, []).append(mark.text)
    return found


def _letters(score: Score) -> list[str]:
    """A letter for every bar, the same one for bars of the same rhythm."""
    return [bar.letter for bar in bar_likeness(score)]


def _ticks(measure: Measure) -> list[ruler_schemas.TickPublic]:
    """A tick at the bar, each beat, and its halves and quarters (thirds in a compound beat)."""
    return list(_ticks_of(measure.meter, measure.lead_quarters, measure.length_quarters))


@lru_cache(maxsize=256)
def _ticks_of(meter: Meter, lead: Quarters, length: Quarters) -> tuple[ruler_schemas.TickPublic, ...]:
    ticks = []
    for beat in meter.beats:
        parts = 3 if beat.division == 3 else 4
        for part in range(parts):
            position = beat.start_quarters + beat.length_quarters * Fraction(part, parts)
            offset = position - lead
            if 0 <= offset < length:
                depth = -meter.weight(position)
                ticks.append(ruler_schemas.TickPublic(offset_quarters=float(offset), depth=depth))
    return tuple(ticks)


def _spans(score: Score, hand: Hand) -> list[ruler_schemas.SpanPublic]:
    """Each strike with how long it sounds, up to the hand's next strike."""
    line = hand_line(score, hand)
    per = line.per_quarter
    claps = {to_ticks(note.onset_quarters, per) for note in score.notes if note.hand is hand and note.is_clap}
    return [
        ruler_schemas.SpanPublic(onset_quarters=tick / per, length_quarters=length / per, is_clap=tick in claps)
        for tick, length in line.strike_lengths.items()
    ]
