"""Takes: sent in or simulated, judged, listed, opened, noted, deleted and brought back."""

from __future__ import annotations

import secrets
from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, File, Query, UploadFile

from laptick.api.judging import task_of
from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.takes import (
    FaultChoice,
    FaultCreate,
    NoteCreate,
    SimulatedTakeCreate,
    TakeCreate,
    TakePublic,
    TakeSettings,
    TakeShort,
    TakeUpdate,
)
from laptick.api.views import pieces as views
from laptick.api.views.takes import settings_kept, store_take, take_public
from laptick.core.base.errors import OptionError
from laptick.core.base.levels import Level
from laptick.core.student.faults import FAULTS, OF_KEY_UPS, Fault
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Performance, Source
from laptick.db import pieces as pieces_db
from laptick.db import takes as db
from laptick.formats.documents.take import stored_strikes
from laptick.formats.take_files import MAX_TAKE_BYTES, read_take

router = APIRouter(tags=["takes"])

#: Amounts offered for a fault, slight to strong, in its unit.
FAULT_AMOUNTS: dict[str, tuple[float, float, float]] = {
    "rush-runs": (0.85, 0.7, 0.6),
    "limp": (1.3, 1.7, 2.2),
    "flatten-dots": (2.5, 2.0, 1.6),
    "bend-triplets": (1.3, 1.8, 2.2),
    "late-then-hurry": (90, 150, 220),
    "short-quarters": (12, 25, 40),
    "cut-holds": (25, 45, 65),
    "hold-rests": (30, 60, 90),
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
#: When the first beat of a simulated take falls on its clock.
LEAD_S = 2.0
AMOUNT_WORDS = ("a little", "clearly", "badly")


@router.get("/faults")
def list_faults() -> list[FaultChoice]:
    """What the simulated student can do wrong; ``keys_only``: only at the keys."""
    return [
        FaultChoice(
            kind=kind.key,
            words=kind.words,
            unit=kind.unit,
            needs_measure=kind.key in ("hesitate", "restart"),
            amounts=list(FAULT_AMOUNTS[kind.key]),
            amount_words=list(AMOUNT_WORDS),
            keys_only=kind.key in OF_KEY_UPS,
        )
        for kind in FAULTS.values()
    ]


@router.get("/pieces/{piece_id}/takes")
def list_takes(asking: AskingNow, connection: DbNow, piece_id: int) -> list[TakeShort]:
    pieces_db.get_piece(connection, asking.studio_id, piece_id)
    return [
        TakeShort.model_validate(
            {
                "hands": row["settings"].get("hands", "both"),
                "measures": row["settings"].get("measures"),
            }
            | {
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
                    "overruled",
                    "verdict",
                )
            }
        )
        for row in db.list_takes(connection, asking.studio_id, piece_id)
    ]


@router.post("/pieces/{piece_id}/takes", status_code=201)
def add_take(asking: AskingNow, connection: DbNow, piece_id: int, take: TakeCreate) -> TakePublic:
    """Stores a take, tapped or played on a keyboard, with its judgement."""
    strikes: dict[str, Any]
    if take.notes:
        notes = sorted(take.notes, key=lambda note: (note.t, note.pitch))
        pedal = sorted(take.pedal, key=lambda change: change.t)
        strikes = {"notes": [n.model_dump(exclude_none=True) for n in notes], "pedal": [c.model_dump() for c in pedal]}
    else:
        strikes = {"taps": [tap.model_dump() for tap in take.taps]}
    if take.first_beat_s is not None:
        strikes |= {"first_beat_s": take.first_beat_s, "click_bpm": take.bpm}
    played_by = "simulated" if take.stand_in else "student"
    return store_take(asking, connection, piece_id, take, strikes, played_by, take.client_key)


@router.post("/pieces/{piece_id}/takes/file", status_code=201)
def add_take_file(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    file: Annotated[UploadFile, File()],
    settings: Annotated[TakeSettings, Query()],
) -> TakePublic:
    """A take from a file: Standard MIDI, or taps as the command line writes them."""
    filename = (file.filename or "take.mid").replace("\\", "/").rsplit("/", 1)[-1][:255]
    performance = read_take(file.file.read(MAX_TAKE_BYTES + 1), filename=filename)
    strikes = stored_strikes(performance) | {"filename": filename}
    return store_take(asking, connection, piece_id, settings, strikes, "file", None)


@router.post("/pieces/{piece_id}/takes/simulated", status_code=201)
def add_simulated_take(asking: AskingNow, connection: DbNow, piece_id: int, wanted: SimulatedTakeCreate) -> TakePublic:
    """Lets the simulated student play, and treats the take like any other."""
    source = Source.MIDI if wanted.rung == "play" else Source.TAPS
    performance, seed = _played(asking, connection, piece_id, wanted, source)
    strikes = stored_strikes(performance)
    strikes["simulated"] = {
        "seed": seed,
        "skill": wanted.skill,
        "faults": [fault.model_dump() for fault in wanted.faults],
    }
    return store_take(asking, connection, piece_id, wanted, strikes, "simulated", None)


@router.post("/pieces/{piece_id}/stand-in")
def stand_in(asking: AskingNow, connection: DbNow, piece_id: int, wanted: SimulatedTakeCreate) -> list[NoteCreate]:
    """What the stand-in keyboard will play: the simulated student's notes, the first beat at ``LEAD_S``. Nothing is
    stored; the take comes in as from any keyboard."""
    performance, _ = _played(asking, connection, piece_id, wanted, Source.MIDI)
    return [
        NoteCreate(t=s.played_s, pitch=s.pitch or 0, velocity=s.velocity or 64, released=s.released_s)
        for s in performance.strikes
    ]


def _played(
    asking: AskingNow, connection: DbNow, piece_id: int, wanted: SimulatedTakeCreate, source: Source
) -> tuple[Performance, int]:
    """One take of the simulated student, and its seed."""
    piece = pieces_db.get_piece(connection, asking.studio_id, piece_id)
    faults, skill = [_fault(fault) for fault in wanted.faults], wanted.skill or Level(piece["level"])
    kept = settings_kept(asking, connection, piece, wanted)
    task = task_of(views.played_of(piece), kept, piece["level"], keys=source is Source.MIDI)
    seed = secrets.randbelow(2**31) if wanted.seed is None else wanted.seed
    performance = simulate(task, level=skill, seed=seed, faults=faults, source=source, lead_s=LEAD_S)
    if source is Source.MIDI:  # the click is heard beside the keyboard too
        performance = replace(performance, first_beat_s=LEAD_S, click_bpm=wanted.bpm)
    return performance, seed


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


@router.get("/takes/{take_id}")
def get_take(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    return take_public(asking, connection, take_id)


@router.patch("/takes/{take_id}")
def update_take(asking: AskingNow, connection: DbNow, take_id: int, update: TakeUpdate) -> TakePublic:
    db.get_take(connection, asking.studio_id, take_id)
    db.set_note(connection, asking.studio_id, take_id, update.note)
    return take_public(asking, connection, take_id)


@router.delete("/takes/{take_id}", status_code=204)
def delete_take(asking: AskingNow, connection: DbNow, take_id: int) -> None:
    db.mark_take_deleted(connection, asking.studio_id, take_id, deleted=True)


@router.post("/takes/{take_id}/restore")
def restore_take(asking: AskingNow, connection: DbNow, take_id: int) -> TakePublic:
    db.mark_take_deleted(connection, asking.studio_id, take_id, deleted=False)
    return take_public(asking, connection, take_id)
