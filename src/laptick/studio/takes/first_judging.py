"""A take judged for the first time: kept before that, waiting, so that nothing that was played hangs on the checker.

Whoever asks may judge it, the request that brought it or a worker; only one of them tells the study.
"""

from __future__ import annotations

import logging

from laptick.core.base.errors import LapTickError, StorageError
from laptick.core.base.levels import Level
from laptick.core.practice.ladder.gates import Outcome
from laptick.core.takes.take_state import TakeState
from laptick.db import jobs as jobs_db
from laptick.db import judgements as judgements_db
from laptick.db import studies as studies_db
from laptick.db import takes as db
from laptick.db.engine.connect import Row
from laptick.studio.days import day_of
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.studies.telling import TakeTold, tell_take
from laptick.studio.takes.judging import ToJudge, judged
from laptick.studio.takes.settings import kept_settings
from laptick.studio.use_case import Studio, use_case

log = logging.getLogger("laptick")

#: The kind of job that judges one take, and its key.
KIND = "judge"


def key_of(take_id: int) -> str:
    return f"{KIND}:{take_id}"


#: What is said of a take that the checker broke on.
FAILURE = "The checker broke on this take. That is a fault of ours; what was played is kept and can be judged again."


@use_case
def judge_first(studio: Studio, take_id: int) -> None:
    """Judges a take that waits for it, and tells its study; any other is left as it is.

    Raises:
        NotFoundError: it was deleted meanwhile.
    """
    take = db.get_take(studio.connection, studio.id, take_id)
    if take["state"] == TakeState.WAITING.value:
        judge_kept(studio, open_piece(studio, take["piece_id"]), take)


def judge_kept(studio: Studio, piece: Piece, take: Row, *, day: int | None = None) -> None:
    """The same, of a take at hand. ``day``: when it was played, ``None``: when it was stored."""
    failure, new = FAILURE, None
    settings = kept_settings(take["settings"])
    try:
        score, level = piece.played_then(settings), Level(take["level"])
        new = judged(studio, ToJudge(piece.id, score, settings, level, take["strikes"], take["study_id"], take["id"]))
    except StorageError:
        raise
    except LapTickError as error:
        failure = error.one_line()
    except Exception:
        log.exception("the checker broke on take %s", take["id"])
    if not judgements_db.begin_first(studio.connection, studio.id, take["id"]):
        return  # judged meanwhile, by another
    jobs_db.drop_job(studio.connection, studio.id, key_of(take["id"]))
    if new is None:
        db.set_state(studio.connection, studio.id, take["id"], TakeState.FAILED.value, failure)
        return
    judgements_db.add_judgement(studio.connection, studio.id, take["id"], new)
    told = TakeTold(
        take["id"],
        settings,
        Outcome(new.status),
        new.median_bpm,
        day_of(studio, take["created_at"]) if day is None else day,
    )
    tell_take(studio, piece, studies_db.lock_study(studio.connection, studio.id, take["study_id"]), told)
