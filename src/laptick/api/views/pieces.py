"""From stored rows and core's results to what the API gives. No rule of music is decided here."""

from __future__ import annotations

import json
from collections.abc import Sequence
from fractions import Fraction
from functools import lru_cache

from laptick.api.schemas import pieces as schemas
from laptick.api.schemas import ruler as ruler_schemas
from laptick.api.schemas.takes import KeptSettings
from laptick.core.base.errors import OptionError
from laptick.core.base.units import METRONOME_MARKS, LengthNaming, length_name
from laptick.core.editing.entry import entry_score
from laptick.core.practice.ladder import GATE_CLEAN_TAKES, RUNGS, clean_in_a_row, counts_for_gate, start_bpm
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.hand_line import hand_line
from laptick.core.score.roadmap import in_played_order, order_of_names, play_order
from laptick.core.score.score import HANDS, Hand, Measure, Score
from laptick.db.engine.connect import Row
from laptick.formats.documents.entry import entry_of
from laptick.formats.documents.pencil import changes_of
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.parts.reading import Reading, reading_of
from laptick.formats.score_files import PencilledFile, ScoreFile, open_score, with_pencil


@lru_cache(maxsize=64)
def _file_of(original: bytes, filename: str, reading: str, allow_silent: bool) -> ScoreFile:
    return open_score(original, filename=filename, reading=reading_of(json.loads(reading)), allow_silent=allow_silent)


@lru_cache(maxsize=64)
def _pencilled(file: tuple[bytes, str, str, bool], pencil: str, naming: LengthNaming) -> PencilledFile:
    return with_pencil(_file_of(*file), changes_of(json.loads(pencil)), naming)


def _key(piece: Row) -> tuple[bytes, str, str, bool]:
    """What a piece row is read from; a passage that is being typed may be without a note."""
    reading = json.dumps(piece["reading"] or {}, sort_keys=True)
    return piece["original"], piece["filename"], reading, piece["entry"] is not None


def read_file_of(piece: Row) -> ScoreFile:
    """The file of a piece row as it has been read, without the pencil; reading the same bytes the same way gives the
    same, so it is kept."""
    return _file_of(*_key(piece))


def pencilled_of(piece: Row, naming: LengthNaming = LengthNaming.AMERICAN) -> PencilledFile:
    """The file of a piece row with the pencilled changes made, and what became of each."""
    if not piece["pencil"]:
        return PencilledFile(read_file_of(piece), ())
    return _pencilled(_key(piece), json.dumps(piece["pencil"]), naming)


def file_of(piece: Row) -> ScoreFile:
    """The file of a piece row as it is used: read, and pencilled."""
    return pencilled_of(piece).file


def score_of(piece: Row) -> Score:
    """The written score of a piece row, as it is used."""
    return file_of(piece).score


def reading_of_piece(piece: Row) -> Reading:
    return reading_of(piece["reading"] or {})


def played_of(piece: Row) -> Score:
    """The score in played order: the teacher's own, else that of the signs."""
    score, names = score_of(piece), piece["play_order"]
    return in_played_order(score, None if names is None else _order_of(score, names))


def order_kept(piece: Row) -> list[str] | None:
    """The playing order that holds now, bars by name; ``None``: as written."""
    played = played_of(piece)
    return None if played is score_of(piece) else [measure.number for measure in played.measures]


def played_then(piece: Row, kept: KeptSettings) -> Score:
    """The score as it was when a take was made: with the changes and in the order kept with it."""
    then = {**piece, "pencil": kept.pencil}
    if kept.entry is not None:
        then["original"] = write_musicxml(entry_score(entry_of(kept.entry)))
    score, order = score_of(then), kept.order
    return score if order is None else in_played_order(score, _order_of(score, order))


def _order_of(score: Score, names: Sequence[str]) -> tuple[int, ...]:
    """A stored order; one that names bars the score no longer has gives way to the signs."""
    try:
        return order_of_names(score, names)
    except OptionError:
        return play_order(score).order


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


def piece_short(piece: Row, takes: Sequence[Row], naming: LengthNaming) -> schemas.PieceShort:
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
        beat_quarters=str(first.meter.beat_quarters),
        beat_name=length_name(first.meter.beat_quarters, naming),
        hands=[hand.value for hand in score.hands_present()],
        takes=len(takes),
        rungs=rung_progress(takes),
        rhythm=_opening(score),
    )


def _opening(score: Score) -> list[list[float]]:
    """Strikes of each hand in the first bars, as shares of that stretch: the piece's face on the shelf."""
    end = score.measures[min(3, len(score.measures) - 1)].end_quarters
    return [[round(float(onset / end), 4) for onset in hand_line(score, hand).strikes if onset < end] for hand in HANDS]


def piece_public(piece: Row, takes: Sequence[Row], naming: LengthNaming) -> schemas.PiecePublic:
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
        beat_name=length_name(beat, naming),
        hands=[hand.value for hand in score.hands_present()],
        created_at=piece["created_at"],
        notices=[
            schemas.NoticePublic(kind=n.kind, text=n.text, measure=n.measure, staff=n.staff, times=n.times)  # type: ignore[arg-type]
            for n in score.notices
        ],
        ruler=ruler_public(score),
        is_played_as_written=played_of(piece) is score,
        is_entered=piece["entry"] is not None,
        rungs=rung_progress(takes),
        metronome_marks=list(METRONOME_MARKS),
    )


def ruler_public(score: Score) -> ruler_schemas.RulerPublic:
    right, left = (hand_line(score, hand) for hand in HANDS)
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
            )
            for measure, letter in zip(score.measures, _letters(score), strict=True)
        ],
        right=_spans(score, Hand.RIGHT),
        left=_spans(score, Hand.LEFT),
        together=[float(onset) for onset in sorted(set(right.strikes) & set(left.strikes))],
    )


def _letters(score: Score) -> list[str]:
    """A letter for every bar, the same one for bars of the same rhythm."""
    return [bar.letter for bar in bar_likeness(score)]


def _ticks(measure: Measure) -> list[ruler_schemas.TickPublic]:
    """A tick at the bar, each beat, and its halves and quarters (thirds in a compound beat)."""
    ticks = []
    for beat in measure.meter.beats:
        parts = 3 if beat.division == 3 else 4
        for part in range(parts):
            position = beat.start_quarters + beat.length_quarters * Fraction(part, parts)
            offset = position - measure.lead_quarters
            if 0 <= offset < measure.length_quarters:
                depth = -measure.meter.weight(position)
                ticks.append(ruler_schemas.TickPublic(offset_quarters=float(offset), depth=depth))
    return ticks


def _spans(score: Score, hand: Hand) -> list[ruler_schemas.SpanPublic]:
    """Each strike with how long it sounds, up to the hand's next strike."""
    line = hand_line(score, hand)
    spans, sounding = [], iter(line.sounding)
    current = next(sounding, None)
    for index, onset in enumerate(line.strikes):
        while current is not None and current[1] <= onset:
            current = next(sounding, None)
        following = line.strikes[index + 1] if index + 1 < len(line.strikes) else score.end_quarters
        end = min(following, current[1]) if current else following
        spans.append(ruler_schemas.SpanPublic(onset_quarters=float(onset), length_quarters=float(end - onset)))
    return spans
