"""From stored rows and core's results to what the API gives. No rule of music is decided here."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import lru_cache

from laptick.api.schemas import pieces as schemas
from laptick.core.countin import count_in
from laptick.core.counting import Compound, Density, count_line, resolve_compound
from laptick.core.ladder import GATE_CLEAN_TAKES, RUNGS, clean_in_a_row, counts_for_gate, start_bpm
from laptick.core.playing import Schedule
from laptick.core.rhythm import bar_letters
from laptick.core.score import HANDS, Hand, Measure, Score, hand_line
from laptick.core.syncopation import find_syncopations
from laptick.core.units import METRONOME_MARKS, Bpm, Quarters, length_name
from laptick.core.verdict import beat_words, place_words
from laptick.db.connect import Row
from laptick.formats.documents import HAND_KEYS
from laptick.formats.musicxml import read_musicxml


@lru_cache(maxsize=64)
def _score_of(original: bytes, filename: str) -> Score:
    return read_musicxml(original, filename=filename)


def score_of(piece: Row) -> Score:
    """The score of a piece row; reading the same bytes again gives the same score, so it is kept."""
    return _score_of(piece["original"], piece["filename"])


def rung_progress(takes: Sequence[Row]) -> list[schemas.RungProgress]:
    """``takes`` are rows of rung, settings and status, newest first."""
    result = []
    for rung in RUNGS:
        here = [take for take in takes if take["rung"] == rung.key]
        statuses = [
            take["status"]
            for take in here
            if counts_for_gate(rung.key, take["settings"].get("hands", "both"), take["settings"].get("measures"))
        ]
        in_a_row = min(clean_in_a_row(statuses), GATE_CLEAN_TAKES)
        passed = _was_passed(statuses)
        result.append(
            schemas.RungProgress(
                key=rung.key,
                title=rung.title,
                what=rung.what,
                takes=len(here),
                clean_in_a_row=in_a_row,
                clean_needed=GATE_CLEAN_TAKES,
                state="steady" if passed else ("begun" if here else "untouched"),
            )
        )
    return result


def _was_passed(statuses: list[str]) -> bool:
    return any(clean_in_a_row(statuses[start:]) >= GATE_CLEAN_TAKES for start in range(len(statuses)))


def piece_short(piece: Row, takes: Sequence[Row]) -> schemas.PieceShort:
    score = score_of(piece)
    first = score.measures[0]
    whole = [m for m in score.measures if not (m.is_pickup and m.index == 0)]
    return schemas.PieceShort(
        id=piece["id"],
        title=piece["title"],
        composer=piece["composer"],
        signature=str(first.signature),
        bars=len(whole),
        level=piece["level"],
        target_bpm=piece["target_bpm"],
        beat_name=length_name(first.meter.beat_quarters),
        hands=[hand.value for hand in score.hands_present()],
        takes=len(takes),
        rungs=rung_progress(takes),
        rhythm=_opening(score),
    )


def _opening(score: Score) -> list[list[float]]:
    """Strikes of each hand in the first bars, as shares of that stretch: the piece's face on the shelf."""
    end = score.measures[min(3, len(score.measures) - 1)].end_quarters
    return [[round(float(onset / end), 4) for onset in hand_line(score, hand).strikes if onset < end] for hand in HANDS]


def piece_public(piece: Row, takes: Sequence[Row]) -> schemas.PiecePublic:
    score = score_of(piece)
    beat = score.measures[0].meter.beat_quarters
    return schemas.PiecePublic(
        id=piece["id"],
        title=piece["title"],
        composer=piece["composer"],
        filename=piece["filename"],
        level=piece["level"],
        target_bpm=piece["target_bpm"],
        start_bpm=start_bpm(piece["target_bpm"]),
        beat_quarters=str(beat),
        beat_name=length_name(beat),
        hands=[hand.value for hand in score.hands_present()],
        created_at=piece["created_at"],
        notices=[
            schemas.NoticePublic(kind=n.kind, text=n.text, measure=n.measure, staff=n.staff, times=n.times)  # type: ignore[arg-type]
            for n in score.notices
        ],
        ruler=ruler_public(score),
        rungs=rung_progress(takes),
        metronome_marks=list(METRONOME_MARKS),
    )


def ruler_public(score: Score) -> schemas.RulerPublic:
    right, left = (hand_line(score, hand) for hand in HANDS)
    return schemas.RulerPublic(
        measures=[
            schemas.MeasurePublic(
                number=measure.number,
                line=measure.line,
                bar_in_line=measure.bar_in_line,
                signature=str(measure.signature),
                start_quarters=float(measure.start_quarters),
                length_quarters=float(measure.length_quarters),
                letter=letter,
                ticks=_ticks(measure),
            )
            for measure, letter in zip(score.measures, bar_letters(score), strict=True)
        ],
        right=_spans(score, Hand.RIGHT),
        left=_spans(score, Hand.LEFT),
        together=[float(onset) for onset in sorted(set(right.strikes) & set(left.strikes))],
    )


def _ticks(measure: Measure) -> list[schemas.TickPublic]:
    """A tick at the bar, each beat, and its halves and quarters (thirds in a compound beat)."""
    ticks = []
    for beat in measure.meter.beats:
        parts = 3 if beat.division == 3 else 4
        for part in range(parts):
            position = beat.start_quarters + beat.length_quarters * Fraction(part, parts)
            offset = position - measure.lead_quarters
            if 0 <= offset < measure.length_quarters:
                depth = -measure.meter.weight(position)
                ticks.append(schemas.TickPublic(offset_quarters=float(offset), depth=depth))
    return ticks


def _spans(score: Score, hand: Hand) -> list[schemas.SpanPublic]:
    """Each strike with how long it sounds, up to the hand's next strike."""
    line = hand_line(score, hand)
    spans, sounding = [], iter(line.sounding)
    current = next(sounding, None)
    for index, onset in enumerate(line.strikes):
        while current is not None and current[1] <= onset:
            current = next(sounding, None)
        following = line.strikes[index + 1] if index + 1 < len(line.strikes) else score.end_quarters
        end = min(following, current[1]) if current else following
        spans.append(schemas.SpanPublic(onset_quarters=float(onset), length_quarters=float(end - onset)))
    return spans


def counts_public(score: Score, hand: str, density: Density, compound: Compound, bpm: Bpm) -> schemas.CountsPublic:
    chosen = HAND_KEYS[hand]
    line = hand_line(score, chosen)
    counted = count_line(score, line, score.measures, density, compound, bpm)
    first = score.measures[0]
    resolved, reason = resolve_compound(compound, first.meter, bpm)
    return schemas.CountsPublic(
        hand=hand,  # type: ignore[arg-type]
        density=density,
        compound=resolved,
        compound_reason=reason,
        counts=[
            schemas.CountPublic(
                onset_quarters=float(measure.start_quarters + count.offset_quarters),
                say=count.say,
                kind=count.kind,
                is_beat=count.is_beat,
            )
            for measure, bar in zip(score.measures, counted.bars, strict=True)
            for count in bar
        ],
        count_in=[word.say for word in count_in(first, counted, compound, bpm)],
        syncopations=[
            schemas.SyncopationPublic(
                onset_quarters=float(s.onset_quarters),
                silent_quarters=float(s.silent_quarters),
                hand=one.value,
                strength=s.strength,
                name=s.name,
                place_text=_place_text(score, s.onset_quarters),
                taught=s.is_taught,
            )
            for one in (HANDS if chosen is None else (chosen,))
            for s in find_syncopations(score, hand_line(score, one), score.measures, one)
        ],
        changes=[
            schemas.ChangePublic(
                onset_quarters=float(score.measures[c.measure_index].start_quarters + c.offset_quarters),
                before=c.before,
                after=c.after,
                place_text=_place_text(score, score.measures[c.measure_index].start_quarters + c.offset_quarters),
            )
            for c in counted.changes
        ],
    )


def _place_text(score: Score, onset: Quarters) -> str:
    measure = score.measure_at(onset)
    return f"{place_words(score, score.place_at(onset))}, {beat_words(measure, onset - measure.start_quarters)}"


def schedule_public(schedule: Schedule) -> schemas.SchedulePublic:
    return schemas.SchedulePublic(
        bpm=schedule.bpm,
        first_beat_s=schedule.first_beat_s,
        end_s=schedule.end_s,
        silence_s=schedule.silence_s,
        clicks=[
            schemas.ClickPublic(at_s=c.at_s, accent=c.accent, say=c.say, is_count_in=c.is_count_in)  # type: ignore[arg-type]
            for c in schedule.clicks
        ],
        knocks=[schemas.KnockPublic(at_s=k.at_s, hand=k.hand.value) for k in schedule.knocks],
        cursor=[schemas.CursorPublic(at_s=c.at_s, onset_quarters=float(c.onset_quarters)) for c in schedule.cursor],
    )
