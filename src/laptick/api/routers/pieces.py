"""Pieces: the shelf, a piece with its ruler, its counts and its schedule."""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, File, Query, Response, UploadFile

from laptick.api.request.asking import AskingNow, DbNow
from laptick.api.schemas.choices import PieceChoices
from laptick.api.schemas.common import Level
from laptick.api.schemas.counts import CountedAnew, CountsPublic
from laptick.api.schemas.pieces import NotationPublic, PieceAdded, PiecePublic, PieceShort, PieceUpdate
from laptick.api.schemas.roadmap import (
    PartPublic,
    PhraseStart,
    ReadingPublic,
    ReadingUpdate,
    RoadmapPublic,
    RoadmapUpdate,
)
from laptick.api.schemas.takes import HandChoice
from laptick.api.views import counts as count_views
from laptick.api.views import pieces as views
from laptick.core.base.errors import OptionError
from laptick.core.base.units import MAX_BPM, MIN_BPM, LengthNaming
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import default_bpm
from laptick.core.rhythm.phrases import check_places, find_phrases
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.roadmap import order_of_names, play_order
from laptick.core.score.score import HANDS
from laptick.db import choices as choices_db
from laptick.db import pieces as db
from laptick.db import takes as takes_db
from laptick.db.engine.connect import Row
from laptick.formats.documents.choices import choices_of, naming_of
from laptick.formats.documents.counts_csv import write_counts_csv
from laptick.formats.midi.score_writer import write_midi
from laptick.formats.musicxml_writing.counts import compress
from laptick.formats.pages.engraving import engrave
from laptick.formats.pages.ruler_picture import ruler_png, ruler_svg
from laptick.formats.pages.sheet import SheetOptions, sheet_html, sheet_pdf
from laptick.formats.parts.reading import GRIDS, reading_of
from laptick.formats.score_files import as_musicxml, open_score, read_score, score_file

router = APIRouter(prefix="/pieces", tags=["pieces"])

#: A piece without a tempo mark gets this target until the teacher sets one.
UNMARKED_BPM = 72.0

BpmQuery = Annotated[float, Query(ge=MIN_BPM, le=MAX_BPM)]


@router.get("")
def list_pieces(asking: AskingNow, connection: DbNow) -> list[PieceShort]:
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id)
    naming = studio_naming(asking, connection)
    return [
        views.piece_short(piece, statuses.get(piece["id"], []), naming)
        for piece in db.list_pieces(connection, asking.studio_id)
    ]


@router.post("", status_code=201)
def add_piece(asking: AskingNow, connection: DbNow, file: Annotated[UploadFile, File()]) -> PieceAdded:
    """Reads a score file and puts it on the shelf; a file that cannot be read leaves nothing behind."""
    original = file.file.read()
    filename = (file.filename or "score.musicxml").replace("\\", "/").rsplit("/", 1)[-1][:255]
    score = read_score(original, filename=filename)
    piece_id = db.add_piece(
        connection,
        asking.studio_id,
        title=score.title,
        composer=score.composer,
        filename=filename,
        original=original,
        level=Level.ELEMENTARY.value,
        target_bpm=default_bpm(score) or UNMARKED_BPM,
    )
    twin = db.same_file(connection, asking.studio_id, piece_id)
    added = piece_now(asking, connection, piece_id)
    return PieceAdded(**added.model_dump(), same_file_as=twin["id"] if twin else None)


@router.get("/{piece_id}")
def get_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    return piece_now(asking, connection, piece_id)


def piece_now(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    statuses = takes_db.statuses_by_piece(connection, asking.studio_id).get(piece_id, [])
    return views.piece_public(piece, statuses, studio_naming(asking, connection))


@router.patch("/{piece_id}")
def update_piece(asking: AskingNow, connection: DbNow, piece_id: int, update: PieceUpdate) -> PiecePublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    db.update_piece(
        connection,
        asking.studio_id,
        piece_id,
        level=update.level or piece["level"],
        target_bpm=update.target_bpm or piece["target_bpm"],
    )
    return piece_now(asking, connection, piece_id)


@router.delete("/{piece_id}", status_code=204)
def delete_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> None:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=True)


@router.post("/{piece_id}/restore")
def restore_piece(asking: AskingNow, connection: DbNow, piece_id: int) -> PiecePublic:
    db.mark_piece_deleted(connection, asking.studio_id, piece_id, deleted=False)
    return piece_now(asking, connection, piece_id)


@router.get("/{piece_id}/original", response_class=Response)
def get_original(asking: AskingNow, connection: DbNow, piece_id: int) -> Response:
    """The file as it came."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    return Response(
        piece["original"],
        media_type="application/octet-stream",
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quoted(piece['filename'])}"},
    )


def quoted(filename: str) -> str:
    return quote(filename, safe="")


def _at_once(answer: CountsPublic | CountedAnew) -> Response:
    """A large answer written as it is: checking and converting it a second time would take as long as counting."""
    return Response(answer.model_dump_json(by_alias=True), media_type="application/json")


@router.get("/{piece_id}/counts", response_model=CountsPublic)
def get_counts(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    hand: HandChoice = "both",
) -> Response:
    """The counts of the written score by the choices stored for studio, level and piece."""
    return _at_once(_counts(asking, connection, piece_id, bpm, hand))


def _counts(asking: AskingNow, connection: DbNow, piece_id: int, bpm: float, hand: HandChoice) -> CountsPublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    return count_views.counts_public(views.score_of(piece), hand, stored_choices(asking, connection, piece), bpm)


@router.get("/{piece_id}/notation")
def get_notation(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    hand: HandChoice = "both",
    width: Annotated[int, Query(ge=280, le=2400)] = 900,
    counts: bool = True,
) -> NotationPublic:
    """The written score engraved, with the counts of one hand, or of each hand under its own staff. The group of each
    note and rest says in ``data-item`` which one it is."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    file, choices = views.file_of(piece), stored_choices(asking, connection, piece)
    hands = (HANDS if hand == "both" else (HAND_KEYS[hand],)) if counts else ()
    return NotationPublic(
        svg=engrave(as_musicxml(file), score_file(file, choices, hands=hands, bpm=bpm), width_px=width)
    )


# -- how it is counted, played and read ------------------------------------------------------------------


def stored_choices(asking: AskingNow, connection: DbNow, piece: Row) -> CountChoices:
    """All counting choices that bear on a piece."""
    studio = choices_db.get_choices(connection, asking.studio_id, None)
    own = choices_db.get_choices(connection, asking.studio_id, piece["id"])
    return choices_of(studio, own, piece["level"])


def studio_naming(asking: AskingNow, connection: DbNow) -> LengthNaming:
    """What the studio calls lengths."""
    return naming_of(choices_db.get_choices(connection, asking.studio_id, None))


@router.get("/{piece_id}/choices")
def get_choices(asking: AskingNow, connection: DbNow, piece_id: int) -> PieceChoices:
    db.get_piece(connection, asking.studio_id, piece_id)
    return PieceChoices.model_validate(choices_db.get_choices(connection, asking.studio_id, piece_id))


@router.put("/{piece_id}/choices")
def put_choices(asking: AskingNow, connection: DbNow, piece_id: int, choices: PieceChoices) -> PieceChoices:
    """How this piece is counted, in place of what was chosen before."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    document = choices.model_dump(mode="json", exclude_defaults=True)
    choices_of({}, document, piece["level"])  # raises for what cannot be counted so
    known = {measure.number for measure in views.score_of(piece).measures}
    for name in [*choices.bars, *(syllable.measure for syllable in choices.syllables)]:
        if name not in known:
            raise OptionError(f"there is no bar “{name}” in this piece.", where="bars", kept="Nothing was changed.")
    choices_db.put_choices(connection, asking.studio_id, piece_id, document)
    return get_choices(asking, connection, piece_id)


@router.put("/{piece_id}/counts", response_model=CountedAnew)
def put_counts(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    choices: PieceChoices,
    bpm: BpmQuery,
    hand: HandChoice = "both",
) -> Response:
    """Stores how this piece is counted, as ``put_choices`` does, and gives the counts by that in the same answer, so
    that a choice is on the screen at once."""
    stored = put_choices(asking, connection, piece_id, choices)
    return _at_once(CountedAnew(choices=stored, counts=_counts(asking, connection, piece_id, bpm, hand)))


@router.get("/{piece_id}/roadmap")
def get_roadmap(asking: AskingNow, connection: DbNow, piece_id: int) -> RoadmapPublic:
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    score = views.score_of(piece)
    phrasing = find_phrases(score, views.reading_of_piece(piece).phrase_starts)
    return count_views.roadmap_public(
        score, play_order(score), piece["play_order"], phrasing, studio_naming(asking, connection)
    )


@router.put("/{piece_id}/roadmap")
def put_roadmap(asking: AskingNow, connection: DbNow, piece_id: int, update: RoadmapUpdate) -> RoadmapPublic:
    """The teacher's own playing order; takes made before keep theirs."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    if update.order is not None:
        order_of_names(views.score_of(piece), update.order)
    db.set_reading(connection, asking.studio_id, piece_id, reading=piece["reading"], play_order=update.order)
    return get_roadmap(asking, connection, piece_id)


@router.get("/{piece_id}/reading")
def get_reading(asking: AskingNow, connection: DbNow, piece_id: int) -> ReadingPublic:
    """How the file is read, and the parts it has."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    file, reading = views.file_of(piece), views.reading_of_piece(piece)
    return ReadingPublic(
        parts=[PartPublic(id=p.id, name=p.name, staves=p.staves, is_read=p.is_read) for p in file.parts],
        staff_hands={key: hand.value for key, hand in reading.staff_hands.items()},
        note_hands={key: hand.value for key, hand in reading.note_hands.items()},
        split_pitch=reading.split_pitch,
        line_starts=list(reading.line_starts),
        phrase_starts=[PhraseStart(measure=p.measure, offset=str(p.offset_quarters)) for p in reading.phrase_starts],
        grid=reading.grid,
        grids=list(GRIDS),
        is_midi=file.musicxml is None,
    )


@router.put("/{piece_id}/reading")
def put_reading(asking: AskingNow, connection: DbNow, piece_id: int, update: ReadingUpdate) -> PiecePublic:
    """Reads the file another way; a way in which it gives no score is refused, and nothing changes."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    reading = reading_of(update.model_dump())
    known = {part.id for part in views.file_of(piece).parts}
    for part in reading.parts:
        if part not in known:
            raise OptionError(f"the file has no part “{part[:20]}”.", where="parts", kept="Nothing was changed.")
    check_places(
        open_score(piece["original"], filename=piece["filename"], reading=reading).score, reading.phrase_starts
    )
    db.set_reading(connection, asking.studio_id, piece_id, reading=reading.document(), play_order=piece["play_order"])
    return piece_now(asking, connection, piece_id)


#: A sheet is a page of its own: it loads nothing, and runs nothing.
SHEET_POLICY = "default-src 'none'; style-src 'unsafe-inline'; font-src data:"


@router.get("/{piece_id}/sheet", response_class=Response)
def get_sheet(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    format: Literal["pdf", "html"] = "pdf",
    hand: HandChoice = "both",
    paper: Literal["a4", "letter"] = "a4",
    big: bool = False,
) -> Response:
    """The count sheet: as PDF, or as a page to print."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    score, choices = views.score_of(piece), stored_choices(asking, connection, piece)
    options = SheetOptions(HAND_KEYS[hand], paper, big)
    if format == "html":
        page = sheet_html(score, choices, options, bpm)
        return Response(page, media_type="text/html", headers={"Content-Security-Policy": SHEET_POLICY})
    name = f"{piece['filename'].rsplit('.', 1)[0]}-count-sheet.pdf"
    return Response(
        sheet_pdf(score, choices, options, bpm),
        media_type="application/pdf",
        headers={"Content-Disposition": f"inline; filename*=UTF-8''{quoted(name)}"},
    )


#: What a picture of the ruler can be: format → media type.
PICTURES: dict[str, str] = {"svg": "image/svg+xml", "png": "image/png"}


@router.get("/{piece_id}/ruler-picture", response_class=Response)
def get_ruler_picture(
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    bpm: BpmQuery,
    format: Literal["svg", "png"] = "svg",
    hand: HandChoice = "both",
    big: bool = False,
) -> Response:
    """The beat ruler with its counts as a picture to keep or to put on a page."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    score, choices = views.score_of(piece), stored_choices(asking, connection, piece)
    draw = ruler_png if format == "png" else ruler_svg
    name = f"{piece['filename'].rsplit('.', 1)[0]}-ruler.{format}"
    return Response(
        draw(score, choices, bpm, HAND_KEYS[hand], is_big=big),
        media_type=PICTURES[format],
        headers={
            "Content-Disposition": f"attachment; filename*=UTF-8''{quoted(name)}",
            "Content-Security-Policy": SHEET_POLICY,
        },
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
    asking: AskingNow,
    connection: DbNow,
    piece_id: int,
    format: Literal["musicxml", "mxl", "mid", "csv"],
    counts: bool = False,
    hand: HandChoice | None = None,
    bpm: Annotated[float | None, Query(ge=MIN_BPM, le=MAX_BPM)] = None,
) -> Response:
    """The piece as a file: its own MusicXML with the counts as lyrics, MIDI in played order, a table of counts.

    ``hand``: whose counts; without it each hand under its own notes."""
    piece = db.get_piece(connection, asking.studio_id, piece_id)
    file, choices = views.file_of(piece), stored_choices(asking, connection, piece)
    if format == "mid":
        data = write_midi(views.played_of(piece), with_counts=counts, choices=choices)
    elif format == "csv":
        hands = tuple(HAND_KEYS) if hand is None else (hand,)
        data = write_counts_csv(file.score, choices, hands=hands, bpm=bpm).encode()
    else:
        lines = (HANDS if hand is None else (HAND_KEYS[hand],)) if counts else ()
        data = score_file(file, choices, hands=lines, bpm=bpm)
        data = compress(data) if format == "mxl" else data
    stem = piece["filename"].rsplit(".", 1)[0]
    name = f"{stem}{'-counts' if counts or format == 'csv' else ''}.{format}"
    return Response(
        data,
        media_type=EXPORTS[format],
        headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quoted(name)}"},
    )
