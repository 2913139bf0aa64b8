"""How each kind of thing is made of a piece: what it is made of, and by what."""

from __future__ import annotations

import hashlib
import json
import re
from collections.abc import Callable
from typing import Any

from laptick.core.counting.counting import count_line
from laptick.core.score.hands import HAND_KEYS
from laptick.core.together.difficulty import quarters_a_minute
from laptick.core.together.spans import span_of
from laptick.db import voice as voice_db
from laptick.db.made import Made
from laptick.formats.pages.engraving import engrave_rows
from laptick.formats.pages.map_drawing import map_on_paper
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.paper import page_pdf
from laptick.formats.pages.ruler_picture import ruler_png, ruler_svg
from laptick.formats.pages.sheet import SheetOptions, sheet_html, sheet_pdf
from laptick.formats.score_files import as_musicxml, drawn_from, score_file
from laptick.formats.sound.play_along import sound_midi, sound_wav
from laptick.studio.jobs.prepared import SLOW_TO_BEGIN, Prepared
from laptick.studio.pieces.open_piece import Piece, open_piece
from laptick.studio.pieces.play_along import PlayQuery, levels_of, schedule_of
from laptick.studio.studies.session import prepare_session
from laptick.studio.use_case import Studio
from laptick.studio.voice import voice_bank

Options = dict[str, Any]

#: What a note or rest on an engraved page is called.
_ITEM = re.compile(r'data-item="([^"]+)"')

#: Millimetres a pixel; and from which width on an engraving is large.
MM_A_PX, BIG_PX = 25.4 / 96, 500


def _of_piece(make: Callable[[Piece, Options], Made], bars: int = 0) -> Callable[[Studio, int, Options], Prepared]:
    """Of the piece alone. ``bars``: beyond its own, how much it is."""

    def prepare(studio: Studio, piece_id: int, options: Options) -> Prepared:
        piece = open_piece(studio, piece_id)
        return Prepared(piece.stamp, len(piece.score.measures) + bars, lambda: make(piece, options))

    return prepare


def _notation(piece: Piece, options: Options) -> Made:
    """Rows of an engraved page, as JSON: ``[{"share": height by width, "items": its notes and rests, "svg": …}]``."""
    file, width = piece.file, int(options["width"])
    if options["counts"]:
        hand = HAND_KEYS[options["hand"]]
        counted = count_line(file.score, hand, piece.choices, bpm=options["bpm"])
        drawn = draw_notation(drawn_from(file), counted, hand, width * MM_A_PX, is_big=width >= BIG_PX)
        rows = [(row.share, row.svg) for row in drawn]
    else:
        rows = engrave_rows(as_musicxml(file), score_file(file), width_px=width)
    told = json.dumps(
        [{"share": round(share, 5), "items": [] if options["counts"] else _ITEM.findall(svg), "svg": svg}
         for share, svg in rows]
    )  # fmt: skip
    return Made("application/json", told.encode())


def _sheet(piece: Piece, options: Options) -> Made:
    file, hand = piece.file, HAND_KEYS[options["hand"]]
    with_map = None
    if options["map"] is not None:
        quarter_bpm = quarters_a_minute(file.score, piece.target_bpm)
        with_map = map_on_paper(file.score, hand, span_of(options["map"]), quarter_bpm)
    shown = SheetOptions(hand, options["paper"], options["big"], options["shows"], with_map)
    notes = None if options["shows"] == "ruler" else drawn_from(file)
    if options["format"] == "html":
        page = sheet_html(file.score, piece.choices, shown, options["bpm"], notes)
        return Made("text/html; charset=utf-8", page.encode())
    return Made("application/pdf", sheet_pdf(file.score, piece.choices, shown, options["bpm"], notes))


def _picture(piece: Piece, options: Options) -> Made:
    is_png = options["format"] == "png"
    draw = ruler_png if is_png else ruler_svg
    data = draw(piece.score, piece.choices, options["bpm"], HAND_KEYS[options["hand"]], is_big=options["big"])
    return Made("image/png" if is_png else "image/svg+xml", data if isinstance(data, bytes) else data.encode())


def _sound(studio: Studio, piece_id: int, options: Options) -> Prepared:
    piece, query = open_piece(studio, piece_id), PlayQuery(**options["play"])
    is_wav, levels = options["format"] == "wav", levels_of(options["levels"])
    bank = voice_bank(studio, with_whispers=is_wav)
    words = [(row["id"], row["vowel_s"]) for row in voice_db.used_words(studio.connection, studio.id)]
    # What cannot be played is told at once; how long it lasts is known when it is laid out.
    schedule = schedule_of(piece, query, bank)

    def make() -> Made:
        if is_wav:
            return Made("audio/wav", sound_wav(schedule, bank, levels))
        return Made("audio/midi", sound_midi(schedule, levels))

    stamp = hashlib.sha256(json.dumps([piece.stamp, bank.language, words]).encode()).hexdigest()
    return Prepared(stamp, len(schedule.sounds) // SOUNDS_A_BAR if is_wav else 0, make)


def _page(_studio: Studio, _piece_id: int, options: Options) -> Prepared:
    """A page of HTML that is asked for as it is."""
    return Prepared("", SLOW_TO_BEGIN, lambda: Made("application/pdf", page_pdf(str(options["page"]))))


#: About how many sounds a bar has, to tell how much a schedule is.
SOUNDS_A_BAR = 16

#: Kind → reads from the database what such a thing is made of: piece, options → what is to be made.
MAKERS: dict[str, Callable[[Studio, int, Options], Prepared]] = {
    "notation": _of_piece(_notation),
    "sheet-html": _of_piece(_sheet),
    "sheet-pdf": _of_piece(_sheet, SLOW_TO_BEGIN),
    "picture": _of_piece(_picture),
    "page-pdf": _page,
    "sound": _sound,
    "session": lambda studio, piece_id, options: prepare_session(studio, piece_id, options.get("student")),
}
