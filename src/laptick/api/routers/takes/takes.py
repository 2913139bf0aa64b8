"""Takes: sent in or simulated, judged, listed, opened, noted, deleted and brought back."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, File, Query, UploadFile

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.routers.pieces.pieces import plain_name
from laptick.api.schemas.common import PAGE, Cursor, Id, PageSize, WhoseQuery
from laptick.api.schemas.studies import NextPublic
from laptick.api.schemas.takes import (
    FaultChoice,
    FaultCreate,
    NoteCreate,
    SimulatedTakeCreate,
    StudentTakePage,
    TakeAdded,
    TakeCreate,
    TakePage,
    TakePublic,
    TakeUpdate,
)
from laptick.api.views.studies import next_public
from laptick.api.views.takes import student_take, take_public, take_short
from laptick.core.base.errors import OptionError
from laptick.core.student.faults import FAULTS, OF_KEY_UPS, Fault
from laptick.core.takes.performance import Source
from laptick.formats.take_files import MAX_TAKE_BYTES
from laptick.studio.studies.spoken import said_after
from laptick.studio.takes import takes
from laptick.studio.takes.settings import TakeSettings
from laptick.studio.takes.shown import ShownTake
from laptick.studio.takes.takes import Played, Simulation
from laptick.studio.use_case import Studio

router = APIRouter(route_class=ModelRoute, tags=["takes"])

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
    "stop-at-seams": (0.75, 1.5, 2.5),
    "drift": (8, 16, 30),
    "miss": (5, 12, 25),
    "extra": (5, 12, 25),
    "wrong": (5, 12, 25),
    "restart": (1, 1, 1),
    "jitter": (40, 80, 130),
}
AMOUNT_WORDS = ("a little", "clearly", "badly")


@router.get("/faults")
def list_faults(_studio: StudioNow) -> list[FaultChoice]:
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
def list_takes(
    studio: StudioNow, piece_id: Id, before: Cursor = None, limit: PageSize = PAGE, student: WhoseQuery = None
) -> TakePage:
    """A piece's takes, newest first, page by page; of one student, or of all."""
    found = takes.list_takes(studio, piece_id, before, limit + 1, student)
    items = [take_short(row, verdict) for row, verdict in found[:limit]]
    return TakePage(items=items, next=items[-1].id if len(found) > limit else None)


@router.get("/students/{student_id}/takes")
def list_student_takes(
    studio: StudioNow, student_id: Id, before: Cursor = None, limit: PageSize = PAGE
) -> StudentTakePage:
    """A student's takes of all pieces, newest first, page by page."""
    found = takes.takes_of_student(studio, student_id, before, limit + 1)
    items = [student_take(row, verdict) for row, verdict in found[:limit]]
    return StudentTakePage(items=items, next=items[-1].id if len(found) > limit else None)


@router.post("/pieces/{piece_id}/takes", status_code=201)
def add_take(studio: StudioNow, piece_id: Id, take: TakeCreate) -> TakeAdded:
    """Stores a take, tapped or played on a keyboard, with its judgement."""
    played = Played(_strikes(take), "simulated" if take.stand_in else "student", take.client_key)
    return _added(studio, takes.add_take(studio, piece_id, take, played))


def _added(studio: Studio, shown: ShownTake) -> TakeAdded:
    """A take that was just made, with what it leads to."""
    said = said_after(studio, shown.id)
    return TakeAdded(**dict(take_public(shown)), next=None if said is None else next_public(said))


def _strikes(take: TakeCreate) -> dict[str, Any]:
    """What was sent, as it is kept."""
    strikes: dict[str, Any]
    if take.notes:
        notes = sorted(take.notes, key=lambda note: (note.t, note.pitch))
        pedal = sorted(take.pedal, key=lambda change: change.t)
        strikes = {
            "source": Source.MIDI.value,
            "notes": [note.model_dump(exclude_none=True) for note in notes],
            "pedal": [change.model_dump() for change in pedal],
        }
    else:
        strikes = {"source": Source.TAPS.value, "taps": [tap.model_dump() for tap in take.taps]}
    if take.first_beat_s is not None:
        strikes |= {"first_beat_s": take.first_beat_s, "click_bpm": take.bpm}
    return strikes


@router.post("/pieces/{piece_id}/takes/file", status_code=201)
def add_take_file(
    studio: StudioNow,
    piece_id: Id,
    file: Annotated[UploadFile, File()],
    settings: Annotated[TakeSettings, Query()],
) -> TakeAdded:
    """A take from a file: Standard MIDI, or taps as the command line writes them."""
    data, filename = file.file.read(MAX_TAKE_BYTES + 1), plain_name(file.filename, "take.mid")
    return _added(studio, takes.add_take_file(studio, piece_id, settings, data, filename))


@router.post("/pieces/{piece_id}/takes/simulated", status_code=201)
def add_simulated_take(studio: StudioNow, piece_id: Id, wanted: SimulatedTakeCreate) -> TakeAdded:
    """Lets the simulated student play, and treats the take like any other."""
    return _added(studio, takes.add_simulated_take(studio, piece_id, wanted, _simulation(wanted)))


@router.post("/pieces/{piece_id}/stand-in")
def stand_in(studio: StudioNow, piece_id: Id, wanted: SimulatedTakeCreate) -> list[NoteCreate]:
    """What the stand-in keyboard will play: the simulated student's notes. Nothing is stored; the take comes in as from
    any keyboard."""
    return [
        NoteCreate(t=s.played_s, pitch=s.pitch or 0, velocity=s.velocity or 64, released=s.released_s)
        for s in takes.stand_in(studio, piece_id, wanted, _simulation(wanted)).strikes
    ]


def _simulation(wanted: SimulatedTakeCreate) -> Simulation:
    return Simulation(wanted.skill, wanted.seed, tuple(_fault(fault) for fault in wanted.faults))


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


@router.get("/takes/{take_id}/next")
def get_next(studio: StudioNow, take_id: Id) -> NextPublic | None:
    """What a take leads to at its rung, once it was judged; nothing where it is a try of none."""
    said = said_after(studio, take_id)
    return None if said is None else next_public(said)


@router.get("/takes/{take_id}")
def get_take(studio: StudioNow, take_id: Id) -> TakePublic:
    return take_public(takes.get_take(studio, take_id))


@router.patch("/takes/{take_id}")
def update_take(studio: StudioNow, take_id: Id, update: TakeUpdate) -> TakePublic:
    return take_public(takes.set_note(studio, take_id, update.note))


@router.delete("/takes/{take_id}", status_code=204)
def delete_take(studio: StudioNow, take_id: Id) -> None:
    takes.delete_take(studio, take_id)


@router.post("/takes/{take_id}/restore", status_code=204)
def restore_take(studio: StudioNow, take_id: Id) -> None:
    takes.restore_take(studio, take_id)
