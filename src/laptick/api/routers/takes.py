"""Takes: sent in or simulated, judged, listed, opened, noted, deleted and brought back."""

from __future__ import annotations

import json
import secrets
from typing import Any

from fastapi import APIRouter

from laptick.api import count_views, views
from laptick.api.asking import AskingNow, DbNow
from laptick.api.judging import judge, performance_of, take_choices, task_of
from laptick.api.schemas.takes import (
    FaultChoice,
    FaultCreate,
    KeptSettings,
    SimulatedTakeCreate,
    TakeCreate,
    TakePublic,
    TakeSettings,
    TakeShort,
    TakeUpdate,
)
from laptick.core.checking import CHECKER_VERSION
from laptick.core.errors import OptionError
from laptick.core.faults import FAULTS, Fault
from laptick.core.limits import Level
from laptick.core.student import simulate
from laptick.db import choices as choices_db
from laptick.db import pieces as pieces_db
from laptick.db import takes as db
from laptick.db.connect import Row
from laptick.formats.takes import write_taps

router = APIRouter(tags=["takes"])

#: Amounts offered for a fault, slight to strong, in its unit.
FAULT_AMOUNTS: dict[str, tuple[float, float, float]] = {
    "rush-runs": (0.85, 0.7, 0.6),
    "limp": (1.3, 1.7, 2.2),
    "flatten-dots": (2.5, 2.0, 1.6),
    "bend-triplets": (1.3, 1.8, 2.2),
    "late-after-rest": (60, 120, 200),
    "spread": (50, 100, 160),
    "hesitate": (0.5, 1, 2),
    "drift": (8, 16, 30),
    "miss": (5, 12, 25),
    "extra": (5, 12, 25),
    "wrong": (5, 12, 25),
    "restart": (1, 1, 1),
    "jitter": (40, 80, 130),
}
AMOUNT_WORDS = ("a little", "clearly", "badly")


@router.get("/faults")
def list_faults() -> list[FaultChoice]:
    """What the simulated student can do wrong."""
    return [
        FaultChoice(
            kind=kind.key,
            words=kind.words,
            unit=kind.unit,
            needs_measure=kind.key in ("hesitate", "restart"),
            amounts=list(FAULT_AMOUNTS[kind.key]),
            amount_words=list(AMOUNT_WORDS),
        )
        for kind in FAULTS.values()
    ]


@router.get("/pieces/{piece_id}/takes")
def list_takes(asking: AskingNow, connection: DbNow, piece_id: int) -> list[TakeShort]:
    pieces_db.get_piece(connection, asking.studio_id, piece_id)
    return [
        TakeShort.model_validate(
            {
                name: row[name]
                for name in (
                    "id",
                    "rung",
                    "created_at",
                    "assigned_bpm",
                    "median_bpm",
                    "played_by",
                    "note",
                    "checker_version",
                    "verdict",
                )
            }
        )
        for row in db.list_takes(connection, asking.studio_id, piece_id)
    ]


@router.post("/pieces/{piece_id}/takes", status_code=201)
def add_take(asking: AskingNow, connection: DbNow, piece_id: int, take: TakeCreate) -> TakePublic:
    """Stores a tapped take with its judgement."""
    strikes: dict[str, Any] = {"taps": [tap.model_dump() for tap in take.taps]}
    if take.first_beat_s is not None:
        strikes |= {"first_beat_s": take.first_beat_s, "click_bpm": take.bpm}
    return _store(asking, connection, piece_id, take, strikes, "student", take.client_key)


@router.post("/pieces/{piece_id}/takes/simulated", status_code=201)
def add_simulated_take(asking: AskingNow, connection: DbNow, piece_id: int, wanted: SimulatedTakeCreate) -> TakePublic:
    """Lets the simulated student play, and treats the take like any other."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    task = task_of(views.played_of(piece), _kept(asking, connection, piece, wanted), piece["level"])
    faults = [_fault(fault) for fault in wanted.faults]
    seed = secrets.randbelow(2**31) if wanted.seed is None else wanted.seed
    performance = simulate(task, level=Level(piece["level"]), seed=seed, faults=faults)
    strikes = json.loads(write_taps(performance))
    strikes["simulated"] = {"seed": seed, "faults": [fault.model_dump() for fault in wanted.faults]}
    return _store(asking, connection, piece_id, wanted, strikes, "simulated", None)


def _fault(fault: FaultCreate) -> Fault:
    kind = FAULTS.get(fault.kind)
    if kind is None:
        raise OptionError(f"there is no fault “{fault.kind}”.", where="faults", kept="Nothing was changed.")
    if fault.kind in ("hesitate", "restart") and not fault.measure:
        raise OptionError(f"“{kind.words}” needs a bar.", where="faults", kept="Nothing was changed.")
    if kind.unit != "measure" and not kind.low <= fault.amount <= kind.high:
        raise OptionError(
            f"“{kind.words}” takes {kind.low:g} to {kind.high:g} {kind.unit}.",
            where="faults",
            kept="Nothing was changed.",
        )
    return Fault(fault.kind, fault.amount, fault.measure)


def _store(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    wanted: TakeSettings,
    strikes: dict[str, Any],
    played_by: str,
    client_key: str | None,
) -> TakePublic:
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    settings = _kept(asking, connection, piece, wanted)
    level = Level(piece["level"])
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    previous = db.previous_codes(connection, asking.studio_id, piece_id, settings.model_dump(mode="json"), None)
    judged = judge(views.played_of(piece), settings, level, performance_of(strikes), previous, studio)
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
    return _public(asking, connection, take_id)


def _kept(asking: AskingNow, connection: DbNow, piece: Row, wanted: TakeSettings) -> KeptSettings:
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


@router.get("/takes/{take_id}")
def get_take(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    return _public(asking, connection, take_id)


@router.patch("/takes/{take_id}")
def update_take(asking: AskingNow, connection: DbNow, take_id: int, update: TakeUpdate) -> TakePublic:
    db.get_take(connection, asking.studio_id, take_id)
    db.set_note(connection, asking.studio_id, take_id, update.note)
    return _public(asking, connection, take_id)


@router.post("/takes/{take_id}/judge")
def judge_again(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    """Judges a stored take with the present checker; the earlier judgement is kept."""
    take = db.get_take(connection, asking.studio_id, take_id)
    piece = pieces_db.get_piece(connection, asking.studio_id, take["piece_id"])
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    previous = db.previous_codes(connection, asking.studio_id, take["piece_id"], take["settings"], take_id)
    settings = KeptSettings.model_validate(take["settings"])
    score = views.played_then(piece, settings)
    judged = judge(score, settings, Level(take["level"]), performance_of(take["strikes"]), previous, studio)
    db.add_judgement(
        connection,
        asking.studio_id,
        take_id,
        checker_version=judged.checker_version,
        status=judged.status,
        document=judged.document,
    )
    return _public(asking, connection, take_id)


@router.delete("/takes/{take_id}", status_code=204)
def delete_take(asking: AskingNow, connection: DbNow, take_id: int) -> None:
    db.mark_take_deleted(connection, asking.studio_id, take_id, deleted=True)


@router.post("/takes/{take_id}/restore")
def restore_take(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    db.mark_take_deleted(connection, asking.studio_id, take_id, deleted=False)
    return _public(asking, connection, take_id)


def _public(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
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
            "strikes": row["strikes"]["taps"],
            "ruler": views.ruler_public(score),
            "counts": count_views.counts_public(
                score, settings.hands, take_choices(settings, row["level"]), settings.bpm
            ),
        }
    )
