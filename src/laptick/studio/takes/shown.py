"""A stored take as it is shown: what was asked for, what was said of it, and the score as it was then."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, TypeVar

from laptick.core.base.errors import StorageError
from laptick.core.base.levels import Level
from laptick.core.base.units import quarters_to_text
from laptick.core.drills.met import TOUCH_KINDS, Met, Touched, met_at, touched
from laptick.core.measuring.limits import limits_of, softened
from laptick.core.score.score import HANDS, Score
from laptick.db import choices as choices_db
from laptick.db import judgements, recordings
from laptick.db import takes as db
from laptick.db.engine.connect import Row
from laptick.db.people import students as students_db
from laptick.formats.documents.check import CheckDocument, VerdictTold, read_check, read_verdict
from laptick.studio.pieces.made import ratio_of
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.recordings.consents import may_hear
from laptick.studio.takes.kept import status_or_none, whole_take
from laptick.studio.takes.passage import passage_of
from laptick.studio.takes.settings import KeptSettings, kept_settings
from laptick.studio.use_case import Studio

Read = TypeVar("Read")


@dataclass(frozen=True)
class ShownTake:
    """``row``: the stored take with its newest judgement; ``verdict``, ``document``: what that said, ``None`` where
    there is none or it cannot be read; ``overrule``: the teacher's word that holds; ``earlier``: judgements before the
    newest, with their verdicts; ``score``: in the order in which it was to be played; ``met``: of a ratio scale,
    whether the hands met; ``touched``: of a drill in which hands were given a touch, whether they kept it;
    ``recording``: the sound it was, or is to be, heard in; ``may_hear``: it is for the asker's ears."""

    id: int
    row: Row
    settings: KeptSettings
    level: Level
    score: Score
    verdict: VerdictTold | None
    document: CheckDocument | None
    overrule: dict[str, Any] | None
    earlier: list[tuple[Row, VerdictTold | None]]
    met: tuple[Met, ...] = ()
    touched: tuple[Touched, ...] = ()
    recording: Row | None = None
    may_hear: bool = False


def shown_take(studio: Studio, take_id: int) -> ShownTake:
    """A take that is not deleted.

    Raises:
        NotFoundError: there is none of that id in this studio.
        StorageError: it or its settings cannot be read.
    """
    row = whole_take(db.get_take(studio.connection, studio.id, take_id))
    piece, settings = open_piece(studio, row["piece_id"]), kept_settings(row["settings"])
    document = read_or_none(read_check, row["document"])
    recording = recordings.recording_of_take(studio.connection, studio.id, take_id)
    return ShownTake(
        take_id,
        row,
        settings,
        Level(row["level"]),
        passage_of(piece.played_then(settings), settings)[0],
        read_or_none(read_verdict, row["verdict"]),
        document,
        _word_that_holds(studio, take_id),
        [
            (earlier, read_or_none(read_verdict, earlier["verdict"]))
            for earlier in judgements.earlier_judgements(studio.connection, studio.id, take_id)
            if status_or_none(earlier["status"])
        ],
        () if document is None else _met(piece, settings, document, _limit_ms(studio, row)),
        () if document is None else _touched(piece, document),
        recording,
        recording is not None and may_hear(studio, recording),
    )


def _word_that_holds(studio: Studio, take_id: int) -> Row | None:
    """The teacher's; one that is damaged is none."""
    row = judgements.get_overrule(studio.connection, studio.id, take_id)
    return row if row is not None and status_or_none(row["status"]) else None


def _limit_ms(studio: Studio, take: Row) -> float:
    """How far hands may be apart in a take, as the studio has it, for this student."""
    known = choices_db.get_choices(studio.connection, studio.id, None)
    softer = students_db.softer_of_study(studio.connection, studio.id, take["study_id"])
    return softened(limits_of(Level(take["level"]), known.get("limits")), softer).hands_apart_ms


def _touched(piece: Piece, document: CheckDocument) -> tuple[Touched, ...]:
    """Of a take at the keys of a drill that gives a hand a touch: whether it kept it."""
    made = piece.drill_document
    if not isinstance(made, dict) or document.touch is None:
        return ()
    found = []
    for hand in HANDS:
        touch = str(made.get(hand.value))
        if touch not in TOUCH_KINDS:
            continue
        kind, _ = TOUCH_KINDS[touch]
        of_kind = [one for one in document.touch.lengths if (one.hand, one.kind) == (hand.value, kind)]
        found += [touched(hand, touch, one.asked, one.kept) for one in of_kind]
    return tuple(one for one in found if one is not None)


def _met(piece: Piece, settings: KeptSettings, document: CheckDocument, limit_ms: float) -> tuple[Met, ...]:
    """Of a take of a whole ratio scale on keys: what came of each of its meetings, every time round. A piece that
    was changed since it was made is none any more."""
    is_whole = settings.activity == "play" and settings.hands == "both" and settings.measures is None
    if not is_whole or not document.followed or not any(note.pitch is not None for note in document.notes):
        return ()
    drill = ratio_of(piece)
    if drill is None:
        return ()
    struck = {
        (note.pass_, note.measure, note.offset, note.hand): note.deviation_ms for note in document.notes if note.pitch
    }
    found = []
    for time in range(1, settings.times_round + 1):
        for meeting in drill.meetings:
            at = (time, drill.score.measures[meeting.measure_index].number, quarters_to_text(meeting.offset_quarters))
            met = met_at(meeting, {hand: struck.get((*at, hand.value)) for hand in HANDS}, limit_ms)
            found.append(replace(met, time=time))
    return tuple(found)


def read_or_none(reader: Callable[[Any], Read], document: Any) -> Read | None:
    """A stored document; ``None`` where there is none, or a damaged one."""
    if document is None:
        return None
    try:
        return reader(document)
    except StorageError:
        return None
