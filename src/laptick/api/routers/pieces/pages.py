"""A piece as pages and files: notation, sheets, the ruler as a picture, exports."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response

from laptick.api.request.asking import StudioNow
from laptick.api.routers.pieces.pieces import BpmQuery, named
from laptick.api.schemas.common import Id
from laptick.api.schemas.pieces import NotationPublic
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.counting.counting import count_line
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import HANDS
from laptick.core.together.difficulty import quarters_a_minute
from laptick.core.together.spans import LEAST_SPAN, MOST_SPAN, span_of
from laptick.formats.documents.counts_csv import write_counts_csv
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.pages.engraving import engrave
from laptick.formats.pages.map_drawing import map_on_paper
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.ruler_picture import ruler_png, ruler_svg
from laptick.formats.pages.sheet import SheetOptions, sheet_html, sheet_pdf
from laptick.formats.score_files import as_musicxml, drawn_from, score_file
from laptick.studio.pieces import shelf
from laptick.studio.takes.settings import HandChoice

router = APIRouter(prefix="/pieces", tags=["pieces"])


@router.get("/{piece_id}/notation")
def get_notation(
    studio: StudioNow,
    piece_id: Id,
    bpm: BpmQuery,
    hand: HandChoice = "both",
    width: Annotated[int, Query(ge=280, le=2400)] = 900,
    counts: bool = True,
) -> NotationPublic:
    """The written score engraved, line by line, with the counts of one hand, or of both, beneath the notes. The group
    of each note and rest says in ``data-item`` which one it is."""
    piece = shelf.get_piece(studio, piece_id)
    file = piece.file
    if not counts:
        return NotationPublic(svg=engrave(as_musicxml(file), score_file(file), width_px=width))
    counted = count_line(file.score, HAND_KEYS[hand], piece.choices, bpm=bpm)
    rows = draw_notation(drawn_from(file), counted, HAND_KEYS[hand], width * MM_A_PX, is_big=width >= BIG_PX)
    return NotationPublic(svg="\n".join(row.svg for row in rows))


#: Millimetres a pixel; and from which width on the engraving is large.
MM_A_PX, BIG_PX = 25.4 / 96, 500

#: A sheet is a page of its own: it loads nothing, and runs nothing.
SHEET_POLICY = "default-src 'none'; style-src 'unsafe-inline'; font-src data:"


@router.get("/{piece_id}/sheet", response_class=Response)
def get_sheet(
    studio: StudioNow,
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
    interval."""
    piece = shelf.get_piece(studio, piece_id)
    file, choices = piece.file, piece.choices
    with_map = None
    if map is not None:
        quarter_bpm = quarters_a_minute(file.score, piece.target_bpm)
        with_map = map_on_paper(file.score, HAND_KEYS[hand], span_of(map), quarter_bpm)
    options = SheetOptions(HAND_KEYS[hand], paper, big, shows, with_map)
    notes = None if shows == "ruler" else drawn_from(file)
    if format == "html":
        page = sheet_html(file.score, choices, options, bpm, notes)
        return Response(page, media_type="text/html", headers={"Content-Security-Policy": SHEET_POLICY})
    return Response(
        sheet_pdf(file.score, choices, options, bpm, notes),
        media_type="application/pdf",
        headers=named(f"{piece.stem}-count-sheet.pdf", "inline"),
    )


#: What a picture of the ruler can be: format → media type.
PICTURES: dict[str, str] = {"svg": "image/svg+xml", "png": "image/png"}


@router.get("/{piece_id}/ruler-picture", response_class=Response)
def get_ruler_picture(
    studio: StudioNow,
    piece_id: Id,
    bpm: BpmQuery,
    format: Literal["svg", "png"] = "svg",
    hand: HandChoice = "both",
    big: bool = False,
) -> Response:
    """The beat ruler with its counts as a picture to keep or to put on a page."""
    piece = shelf.get_piece(studio, piece_id)
    score, choices = piece.score, piece.choices
    draw = ruler_png if format == "png" else ruler_svg
    return Response(
        draw(score, choices, bpm, HAND_KEYS[hand], is_big=big),
        media_type=PICTURES[format],
        headers={**named(f"{piece.stem}-ruler.{format}"), "Content-Security-Policy": SHEET_POLICY},
    )


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
