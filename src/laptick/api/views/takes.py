"""A take with everything around it: what it was asked for, judged with, stored as and shown as."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from laptick.api.judging import Judgement, judge, performance_of, strikes_shown, take_choices
from laptick.api.request.asking import Asking
from laptick.api.schemas.takes import KeptSettings, TakePublic, TakeSettings
from laptick.api.views import counts as count_views
from laptick.api.views import pieces as views
from laptick.core.base.errors import TakeError
from laptick.core.base.levels import Level
from laptick.core.measuring.checking import CHECKER_VERSION
from laptick.core.score.score import Score
from laptick.core.takes.performance import Performance
from laptick.db import choices as choices_db
from laptick.db import judgements
from laptick.db import pieces as pieces_db
from laptick.db import takes as db
from laptick.db.engine.connect import Connection, Row


def store_take(
    asking: Asking,
    connection: Connection,
    piece_id: int,
    wanted: TakeSettings,
    strikes: dict[str, Any],
    played_by: str,
    client_key: str | None,
) -> TakePublic:
    """Judges what was played and stores both, or neither."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    settings = settings_kept(asking, connection, piece, wanted)
    level = Level(piece["level"])
    judged = judge_now(asking, connection, views.played_of(piece), settings, level, strikes, piece_id, None)
    take_id = db.add_take(
        connection,
        asking.studio_id,
        piece_id=piece_id,
        rung=settings.rung,
        settings=settings.model_dump(mode="json"),
        assigned_bpm=settings.bpm,
        level=level.value,
        strikes=strikes,
        played_by=played_by,
        client_key=client_key,
        checker_version=judged.checker_version,
        status=judged.status,
        document=judged.document,
    )
    return take_public(asking, connection, take_id)


def judge_now(
    asking: Asking,
    connection: Connection,
    score: Score,
    settings: KeptSettings,
    level: Level,
    strikes: dict[str, Any],
    piece_id: int,
    take_id: int | None,
) -> Judgement:
    """Judges strikes with what is known now: the studio's limits, the take before, each hand's take alone.
    ``take_id``: of a stored take, to be compared with those before it only."""
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    previous = db.previous_codes(connection, asking.studio_id, piece_id, settings.model_dump(mode="json"), take_id)
    alone = takes_of_one_hand(connection, asking.studio_id, settings, piece_id, take_id)
    return judge(score, settings, level, performance_of(strikes), previous, studio, alone)


def takes_of_one_hand(
    connection: Connection, studio_id: int, settings: KeptSettings, piece_id: int, before_id: int | None
) -> list[tuple[KeptSettings, Performance]]:
    """The newest take of each hand alone before this one, for what joining cost; of both hands at a rung only."""
    if settings.rung == "count" or settings.hands != "both":
        return []
    rows = db.takes_alone(connection, studio_id, piece_id, settings.rung, before_id)
    alone = []
    for row in rows.values():
        # A damaged take of one hand must not keep a new one of both from being judged.
        with suppress(TakeError):
            alone.append((KeptSettings.model_validate(row["settings"]), performance_of(row["strikes"])))
    return alone


def judge_again(asking: Asking, connection: Connection, take_id: int) -> Judgement:
    """Judges a stored take with the present checker and keeps the earlier judgement."""
    take = db.get_take(connection, asking.studio_id, take_id)
    piece = pieces_db.get_piece(connection, asking.studio_id, take["piece_id"])
    settings = KeptSettings.model_validate(take["settings"])
    score, level = views.played_then(piece, settings), Level(take["level"])
    judged = judge_now(asking, connection, score, settings, level, take["strikes"], take["piece_id"], take_id)
    db.add_judgement(
        connection,
        asking.studio_id,
        take_id,
        checker_version=judged.checker_version,
        status=judged.status,
        document=judged.document,
    )
    return judged


def settings_kept(asking: Asking, connection: Connection, piece: Row, wanted: TakeSettings) -> KeptSettings:
    """What was asked for, with the counting choices, the playing order and the pencilled changes that hold now."""
    settings = KeptSettings.model_validate({name: getattr(wanted, name) for name in TakeSettings.model_fields})
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    own = choices_db.get_choices(connection, asking.studio_id, piece["id"])
    kept = {name: document for name, document in (("studio", studio), ("piece", own)) if document}
    return settings.model_copy(
        update={
            "choices": kept or None,
            "order": views.order_kept(piece),
            "pencil": piece["pencil"] or None,
            "entry": piece["entry"],
        }
    )


def take_public(asking: Asking, connection: Connection, take_id: int) -> TakePublic:
    row = db.get_take(connection, asking.studio_id, take_id)
    piece = pieces_db.get_piece(connection, asking.studio_id, row["piece_id"])
    settings = KeptSettings.model_validate(row["settings"])
    score = views.played_then(piece, settings)
    shown = (
        "id", "piece_id", "rung", "created_at", "assigned_bpm", "level", "played_by", "note", "checker_version",
        "judged_at", "status", "document",
    )  # fmt: skip
    return TakePublic.model_validate(
        {
            **{name: row[name] for name in shown},
            "settings": settings.model_dump(mode="json", exclude={"choices", "order", "pencil", "entry"}),
            "checker_is_current": row["checker_version"] == CHECKER_VERSION,
            "verdict": row["document"]["verdict"],
            "overrule": judgements.get_overrule(connection, asking.studio_id, take_id),
            "earlier": judgements.earlier_judgements(connection, asking.studio_id, take_id),
            "strikes": strikes_shown(row["strikes"]),
            "ruler": views.ruler_public(score),
            "counts": count_views.counts_public(
                score, settings.hands, take_choices(settings, row["level"]), settings.bpm
            ),
        }
    )
