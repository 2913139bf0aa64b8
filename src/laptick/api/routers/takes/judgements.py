"""Judgements of takes: made again, one or all, for another passage, and overruled by the teacher."""

from __future__ import annotations

from fastapi import APIRouter

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.takes import (
    ChangedVerdict,
    JudgedAgain,
    KeptSettings,
    Outdated,
    OverruleCreate,
    PassageUpdate,
    TakePublic,
)
from laptick.api.views import pieces as views
from laptick.api.views.takes import judge_again, take_public
from laptick.core.base.errors import LapTickError
from laptick.core.judging.verdict import Status
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.db import judgements, takes
from laptick.db import pieces as pieces_db

router = APIRouter(tags=["judgements"])


@router.get("/outdated-takes")
def outdated(asking: AskingNow, connection: DbNow) -> Outdated:
    """How many takes wait to be judged anew."""
    waiting = judgements.outdated_takes(connection, asking.studio_id, CHECKER_VERSION)
    return Outdated(takes=len(waiting), checker_version=CHECKER_VERSION)


@router.post("/takes/judge-all")
def judge_all_again(asking: AskingNow, connection: DbNow) -> JudgedAgain:
    """Judges every take that another version of the checker judged; the earlier judgements are kept. A take that can
    no longer be read keeps the judgement it has."""
    judged, unread, changed = 0, 0, []
    for take in judgements.outdated_takes(connection, asking.studio_id, CHECKER_VERSION):
        try:
            after = Status(judge_again(asking, connection, take["id"]).status)
        except LapTickError:
            unread += 1
            continue
        judged += 1
        if after != take["status"]:
            changed.append(
                ChangedVerdict(
                    take_id=take["id"],
                    piece_id=take["piece_id"],
                    title=take["title"],
                    created_at=take["created_at"],
                    before=take["status"],
                    after=after,
                )
            )
    return JudgedAgain(judged=judged, unread=unread, changed=changed)


@router.post("/takes/{take_id}/judge")
def judge_one_again(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    """Judges a stored take with the present checker; the earlier judgement is kept."""
    judge_again(asking, connection, take_id)
    return take_public(asking, connection, take_id)


@router.post("/takes/{take_id}/passage")
def judge_as_passage(asking: AskingNow, connection: DbNow, take_id: int, wanted: PassageUpdate) -> TakePublic:
    """Takes it for other bars than were asked for, and judges it as those."""
    take = takes.get_take(connection, asking.studio_id, take_id)
    piece = pieces_db.get_piece(connection, asking.studio_id, take["piece_id"])
    settings = KeptSettings.model_validate(take["settings"]).model_copy(update={"measures": wanted.measures})
    views.played_then(piece, settings).select_measures(wanted.measures)
    takes.set_settings(connection, asking.studio_id, take_id, settings.model_dump(mode="json"))
    judge_again(asking, connection, take_id)
    return take_public(asking, connection, take_id)


@router.put("/takes/{take_id}/overrule")
def overrule(asking: AskingNow, connection: DbNow, take_id: int, word: OverruleCreate) -> TakePublic:
    """The teacher's word with its reason, kept beside the figures."""
    takes.get_take(connection, asking.studio_id, take_id)
    judgements.set_overrule(connection, asking.studio_id, take_id, status=word.status, reason=word.reason)
    return take_public(asking, connection, take_id)


@router.delete("/takes/{take_id}/overrule")
def withdraw(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    """The teacher takes her word back: the checker's holds again."""
    takes.get_take(connection, asking.studio_id, take_id)
    judgements.withdraw_overrule(connection, asking.studio_id, take_id)
    return take_public(asking, connection, take_id)
