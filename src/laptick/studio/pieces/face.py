"""What the shelf shows of a piece: its face, worked out of the score, and its progress, worked out of its ladder
and its takes.

Both are kept with the piece and worked out anew where what they were worked out of has changed, where this module has
(``_VERSION``), or where what is kept is damaged. A score that can no longer be read is on the shelf too, and says so.
"""

from __future__ import annotations

import json
import logging
from dataclasses import asdict, dataclass
from fractions import Fraction
from typing import Any

from laptick.core.base.errors import LapTickError
from laptick.core.base.units import Bpm, Quarters, parse_quarters
from laptick.core.practice.ladder.stages import STAGE_WORDS
from laptick.core.practice.ladder.standing import BarState, bar_standings
from laptick.core.score.hand_line import hand_line
from laptick.core.score.hands import HAND_KEYS, HandName, hand_key
from laptick.core.score.score import HANDS, Score
from laptick.core.together.difficulty import bar_difficulties, piece_difficulty, quarters_a_minute
from laptick.db import pieces as pieces_db
from laptick.db import shelf as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.studio.pieces.open_piece import piece_of
from laptick.studio.studies.open_study import Study
from laptick.studio.studies.studies import study_of
from laptick.studio.use_case import Studio

log = logging.getLogger("laptick")

#: To be raised when a face or a progress comes out otherwise than before for the same piece.
_VERSION = 4

#: No piece is harder than that.
MOST_POINTS = 100

#: Bars whose rhythm is the piece's face.
OPENING_BARS = 4


@dataclass(frozen=True)
class Face:
    """``opening``: the strikes of the right and the left hand as shares of the first bars, ``bar_starts`` where those
    begin; ``unread``: why the score can no longer be read; ``difficulty``: how hard the hands are to join, from 0 to
    100, ``None`` of one hand."""

    signature: str
    bars: int
    beat_quarters: Quarters
    is_asymmetric: bool
    hands: tuple[HandName, ...]
    opening: tuple[tuple[float, ...], ...]
    bar_starts: tuple[float, ...]
    unread: str | None = None
    difficulty: float | None = None


def face_of_score(score: Score, target_bpm: Bpm) -> Face:
    end = score.measures[min(OPENING_BARS, len(score.measures)) - 1].end_quarters
    first = score.measures[0]
    hands = tuple(hand_key(hand) for hand in score.hands_present())
    return Face(
        signature=str(first.signature),
        bars=sum(1 for measure in score.measures if not (measure.is_pickup and measure.index == 0)),
        beat_quarters=first.meter.beat_quarters,
        is_asymmetric=first.meter.is_asymmetric,
        hands=hands,
        opening=tuple(
            tuple(round(float(onset / end), 4) for onset in hand_line(score, hand).strikes if onset < end)
            for hand in HANDS
        ),
        bar_starts=tuple(round(float(measure.start_quarters / end), 4) for measure in score.measures[:OPENING_BARS]),
        difficulty=_difficulty(score, target_bpm) if len(hands) == len(HANDS) else None,
    )


def _difficulty(score: Score, target_bpm: Bpm) -> float:
    difficulties = bar_difficulties(score, quarters_a_minute(score, target_bpm))
    return round(piece_difficulty(difficulties).points, 1)


@dataclass(frozen=True)
class Progress:
    """How far a piece has come: ``passed`` of its ``rungs``; ``next_words``: the lowest that is not; ``bars``: of every
    written bar how far it is with both hands."""

    takes: int
    passed: int
    rungs: int
    next_words: str | None
    bars: tuple[BarState, ...]


def progress_of_study(study: Study, takes: int) -> Progress:
    """What a study has come to, on whatever day."""
    rungs = study.ladder.rungs
    states = [study.standing(rung).state for rung in rungs]
    following = next((rung for rung, state in zip(rungs, states, strict=True) if not state.is_passed), None)
    return Progress(
        takes,
        sum(state.is_passed for state in states),
        len(rungs),
        None if following is None else STAGE_WORDS[following.stage],
        tuple(bar.state for bar in bar_standings(study.ladder, study.states)),
    )


def _keep_face(studio: Studio, piece_id: int, face: Face, face_now: str) -> None:
    new = db.NewFace(
        signature=face.signature,
        bars=face.bars,
        beat_quarters=str(face.beat_quarters),
        is_asymmetric=face.is_asymmetric,
        hands=list(face.hands),
        opening=[*(list(hand) for hand in face.opening), list(face.bar_starts)],
        unread=face.unread,
        difficulty=face.difficulty,
    )
    db.set_face(studio.connection, studio.id, piece_id, new, _stamp(face_now))


def keep_face_of_score(studio: Studio, piece_id: int, score: Score, target_bpm: Bpm) -> None:
    """Keeps the face of a piece whose score was just read, so that the shelf need not read it again."""
    _keep_face(studio, piece_id, face_of_score(score, target_bpm), db.face_now(studio.connection, studio.id, piece_id))


def faces_to_make(studio: Studio) -> int:
    """How many pieces on the shelf will have to be read before it can be shown."""
    rows = db.list_shelf(studio.connection, studio.id)
    return sum(row["face_of"] != _stamp(row["face_now"]) for row in rows)


def _stamp(worked_out_of: str) -> str:
    return f"{_VERSION}.{worked_out_of}"


def face_of(studio: Studio, row: Row) -> Face:
    """The face that is kept in a shelf's row; worked out anew, and kept, where it is out of date or damaged."""
    if row["face_of"] == _stamp(row["face_now"]):
        try:
            return _kept_face(row)
        except (ValueError, TypeError, KeyError, LapTickError):
            log.warning("the face kept of piece %s was damaged", row["id"])
    face = _face_anew(studio, row["id"])
    _keep_face(studio, row["id"], face, row["face_now"])
    return face


def _kept_face(row: Row) -> Face:
    *opening, bar_starts = (tuple(float(share) for share in part) for part in json.loads(row["opening"]))
    hands: Any = tuple(name for name in row["hands"].split(",") if name)
    if len(opening) != len(HANDS) or not set(hands) <= set(HAND_KEYS):
        raise ValueError("a face has two hands")
    difficulty = None if row["difficulty"] is None else float(row["difficulty"])
    if difficulty is None:
        if len(hands) == len(HANDS):
            raise ValueError("two hands are somehow hard to join")
    elif not 0 <= difficulty <= MOST_POINTS:
        raise ValueError(difficulty)
    beat = parse_quarters(row["beat_quarters"], where="beat_quarters")
    return Face(
        row["signature"],
        int(row["bars"]),
        beat,
        bool(row["is_asymmetric"]),
        hands,
        tuple(opening),
        bar_starts,
        row["unread"],
        difficulty,
    )


def _face_anew(studio: Studio, piece_id: int) -> Face:
    try:
        piece = piece_of(pieces_db.get_piece(studio.connection, studio.id, piece_id), {}, {})
        return face_of_score(piece.score, piece.target_bpm)
    except LapTickError as error:
        unread = error.one_line()
    except Exception:
        log.exception("piece %s cannot be read any more", piece_id)
        unread = "What is stored of this piece cannot be read."
    return Face("", 0, Fraction(1), False, (), ((), ()), (), unread)


def progress_of(studio: Studio, row: Row) -> Progress:
    """The progress that is kept in a shelf's row; worked out anew, and kept, where it is out of date or damaged."""
    if row["progress_of"] == _stamp(row["progress_now"]):
        try:
            return kept_progress(json.loads(row["progress"]))
        except (ValueError, TypeError, KeyError):
            log.warning("the progress kept of piece %s was damaged", row["id"])
    progress = _progress_anew(studio, row["id"])
    db.set_progress(studio.connection, studio.id, row["id"], progress_document(progress), _stamp(row["progress_now"]))
    return progress


#: How a bar's state is kept.
_BAR_LETTERS = {BarState.UNTOUCHED: "o", BarState.BEGUN: "h", BarState.KNOWN: "k"}


def _progress_anew(studio: Studio, piece_id: int) -> Progress:
    takes = takes_db.count_takes(studio.connection, studio.id, piece_id)
    try:
        return progress_of_study(study_of(studio, piece_id), takes)
    except LapTickError:
        pass  # its face says why it cannot be read
    except Exception:
        log.exception("the ladder of piece %s cannot be built", piece_id)
    return Progress(takes, 0, 0, None, ())


def progress_document(progress: Progress) -> dict[str, Any]:
    """As it is kept."""
    return asdict(progress) | {"bars": [_BAR_LETTERS[state] for state in progress.bars]}


def kept_progress(kept: dict[str, Any]) -> Progress:
    """
    Raises:
        ValueError, TypeError, KeyError: what was kept is damaged.
    """
    state_of = {letter: state for state, letter in _BAR_LETTERS.items()}
    words = kept["next_words"]
    if words is not None and words not in STAGE_WORDS.values():
        raise ValueError(words)
    takes, passed, rungs = (int(kept[name]) for name in ("takes", "passed", "rungs"))
    if not 0 <= passed <= rungs or takes < 0:
        raise ValueError(passed)
    return Progress(takes, passed, rungs, words, tuple(state_of[letter] for letter in kept["bars"]))
