"""A piece as pages and files: notation, sheets, the ruler as a picture, exports."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response

from laptick.api.request.asking import StudioNow
from laptick.api.request.sending import ModelRoute
from laptick.api.request.waiting import made_or_job
from laptick.api.routers.pieces.made import BEING_MADE, SHEET_POLICY, file_answer, job_answer, notation_public
from laptick.api.routers.pieces.pieces import BpmQuery, named
from laptick.api.schemas.common import Id
from laptick.api.schemas.pieces import NotationPublic
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN
from laptick.formats.documents.counts_csv import write_counts_csv
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.pages.engraving import MOST_LINES
from laptick.formats.score_files import score_file
from laptick.studio.jobs.jobs import Job
from laptick.studio.jobs.making import MadeWanted
from laptick.studio.pieces import shelf
from laptick.studio.takes.settings import HandChoice

router = APIRouter(route_class=ModelRoute, prefix="/pieces", tags=["pieces"])


@router.get("/{piece_id}/notation", response_model=NotationPublic, responses=BEING_MADE)
async def get_notation(
    request: Request,
    piece_id: Id,
    bpm: BpmQuery,
    hand: HandChoice = "both",
    width: Annotated[int, Query(ge=280, le=2400)] = 900,
    counts: bool = True,
    first: Annotated[int, Query(ge=0, le=MOST_LINES)] = 0,
    rows: Annotated[int, Query(ge=1, le=MOST_LINES)] = MOST_LINES,
) -> Response:
    """The written score engraved, line by line, with the counts of one hand, or of both, beneath the notes: how high
    each line is, and the drawings of ``rows`` of them from the ``first`` on. The group of each note and rest says in
    ``data-item`` which one it is. 202 while it is being engraved."""
    options = {"width": width, "counts": counts, "bpm": bpm if counts else None, "hand": hand if counts else None}
    made = await made_or_job(request, MadeWanted("notation", piece_id, options))
    if isinstance(made, Job):
        return job_answer(made)
    return Response(notation_public(made, first, rows).model_dump_json(), media_type="application/json")


@router.get("/{piece_id}/sheet", response_class=Response, responses=BEING_MADE)
async def get_sheet(
    request: Request,
    piece_id: Id,
    bpm: BpmQuery,
    format: Literal["pdf", "html"] = "pdf",
    hand: HandChoice = "both",
    paper: Literal["a4", "letter"] = "a4",
    big: bool = False,
    shows: Literal["notation", "ruler", "both"] = "ruler",
    map: Annotated[int | None, Query(ge=LEAST_SPAN, le=MOST_SPAN)] = None,
) -> Response:
    """The count sheet: as PDF, or as a page to print. ``map``: with the together map, for a hand that spans such an
    interval. 202 while it is being made."""
    options = {"bpm": bpm, "format": format, "hand": hand, "paper": paper, "big": big, "shows": shows, "map": map}
    made = await made_or_job(request, MadeWanted(f"sheet-{format}", piece_id, options))
    if format == "html" and not isinstance(made, Job):
        return Response(made.body, media_type=made.media_type, headers={"Content-Security-Policy": SHEET_POLICY})
    return await file_answer(request, made, piece_id, "-count-sheet.pdf", "inline")


@router.get("/{piece_id}/ruler-picture", response_class=Response, responses=BEING_MADE)
async def get_ruler_picture(
    request: Request,
    piece_id: Id,
    bpm: BpmQuery,
    format: Literal["svg", "png"] = "svg",
    hand: HandChoice = "both",
    big: bool = False,
) -> Response:
    """The beat ruler with its counts as a picture to keep or to put on a page; 202 while it is being made."""
    options = {"bpm": bpm, "format": format, "hand": hand, "big": big}
    made = await made_or_job(request, MadeWanted("picture", piece_id, options))
    answer = await file_answer(request, made, piece_id, f"-ruler.{format}")
    answer.headers["Content-Security-Policy"] = SHEET_POLICY
    return answer


#: What a piece can be written as: ending → media type.
EXPORTS: dict[str, str] = {
    "musicxml": "application/vnd.recordare.musicxml+xml",
    "mxl": "application/vnd.recordare.musicxml",
    "mid": "audio/midi",
    "csv": "text/csv; charset=utf-8",
}


@router.get("/{piece_id}/export", response_class=Response)
def export_piece(
    studio: StudioNow,
    piece_id: Id,
    format: Literal["musicxml", "mxl", "mid", "csv"],
    counts: bool = False,
    hand: HandChoice | None = None,
    bpm: Annotated[float | None, Query(ge=MIN_BPM, le=MAX_BPM)] = None,
) -> Response:
    """The piece as a file: its own MusicXML with the counts as lyrics, MIDI in played order, a table of counts.

    ``hand``: whose counts; without it each hand under its own notes."""
    piece = shelf.get_piece(studio, piece_id)
    file, choices = piece.file, piece.choices
    if format == "mid":
        data = write_midi(piece.played, with_counts=counts, choices=choices)
    elif format == "csv":
        hands = tuple(HAND_KEYS) if hand is None else (hand,)
        data = write_counts_csv(file.score, choices, hands=hands, bpm=bpm).encode()
    else:
        lines = (HANDS if hand is None else (HAND_KEYS[hand],)) if counts else ()
        data = score_file(file, choices, hands=lines, bpm=bpm)
        data = compress(data) if format == "mxl" else data
    name = f"{piece.stem}{'-counts' if counts or format == 'csv' else ''}.{format}"
    return Response(data, media_type=EXPORTS[format], headers=named(name))
