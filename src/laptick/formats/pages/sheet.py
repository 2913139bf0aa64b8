"""The count sheet: a page or two that go on the music stand, as HTML to print and as PDF.

Black and white safe, with the count-in, what the signs mean, bars named as in the printed book, a big print,
and two paper sizes. Everything on it is computed from the score and the choices; it needs nothing from outside.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from html import escape

from laptick.core.base.units import Bpm, bpm_text, length_name
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.count_in import count_in
from laptick.core.counting.counted_beats import has_units
from laptick.core.counting.counting import LineCount, count_line
from laptick.core.counting.traps import find_traps, lengths_worth
from laptick.core.counting.word_tables import SYSTEM_WORDS
from laptick.core.score.hand_line import hand_line
from laptick.core.score.roadmap import play_order
from laptick.core.score.score import Hand, Score
from laptick.formats.musicxml.file import MusicXmlFile
from laptick.formats.pages.map_drawing import MapOnPaper, map_words
from laptick.formats.pages.notation_rows import draw_notation
from laptick.formats.pages.paper import Pictures, lettered, page_pdf
from laptick.formats.pages.ruler_rows import FAMILIES, Drawing, draw_rows, thinned_text

#: Paper sizes: (width, height) in millimetres, and the margin.
PAPERS: dict[str, tuple[int, int]] = {"a4": (210, 297), "letter": (216, 279)}
MARGIN_MM = 13

#: What the heading of the first page takes, in millimetres.
HEADING_MM = 58


@dataclass(frozen=True)
class SheetOptions:
    """``hand``: whose count; ``None``: both hands together. ``shows``: the ruler, the notes with the count beneath
    them, or both, line by line; ``with_map``: the together map besides."""

    hand: Hand | None = None
    paper: str = "a4"
    is_big: bool = False
    shows: str = "ruler"
    with_map: MapOnPaper | None = None


#: What a sheet can show → what that is called.
SHOWS: dict[str, str] = {"notation": "the notes, with the count", "ruler": "the ruler", "both": "notes and ruler"}


def sheet_html(
    score: Score, choices: CountChoices | None, options: SheetOptions, bpm: Bpm, notes: MusicXmlFile | None = None
) -> str:
    """The sheet as one page of HTML that holds everything it needs. ``notes``: what is engraved, where notes are shown.

    Raises:
        ScoreError: notation is asked for, and the score cannot be drawn as notation.
    """
    counted = count_line(score, options.hand, choices, bpm=bpm)
    return lettered(_page(counted, options, bpm, _Drawn(score, notes, _inside)))


def sheet_pdf(
    score: Score, choices: CountChoices | None, options: SheetOptions, bpm: Bpm, notes: MusicXmlFile | None = None
) -> bytes:
    """The sheet as PDF; errors as ``sheet_html``."""
    counted = count_line(score, options.hand, choices, bpm=bpm)
    pictures = Pictures()
    page = _page(counted, options, bpm, _Drawn(score, notes, pictures.embed))
    return page_pdf(page, pictures.drawings)


def _inside(svg: str) -> str:
    return svg


@dataclass(frozen=True)
class _Row:
    """A row of either kind on its way to the page; ``place``: the order in its printed line."""

    line: int
    place: int
    shown: str
    kind: str


@dataclass(frozen=True)
class _Drawn:
    """What is drawn from, and how a drawing gets onto the page."""

    score: Score
    notes: MusicXmlFile | None
    embed: Callable[[str], str]


def _page(counted: LineCount, options: SheetOptions, bpm: Bpm, drawn: _Drawn) -> str:
    score, embed = drawn.score, drawn.embed
    width_mm, height_mm = PAPERS[options.paper]
    inner_mm = width_mm - 2 * MARGIN_MM
    rows: list[_Row] = []
    thinned: list[str] = []
    if options.shows != "ruler" and drawn.notes is not None:
        for system in draw_notation(drawn.notes, counted, options.hand, inner_mm, is_big=options.is_big):
            rows.append(_Row(system.line, 0, embed(system.svg), "notes"))
            thinned += system.thinned
    if options.shows != "notation":
        # A short ruler is made to fit two pages; beneath notes it is as high as it is.
        room_mm = 2 * (height_mm - 2 * MARGIN_MM) - HEADING_MM if options.shows == "ruler" else None
        drawing = Drawing(inner_mm * 10.0, options.is_big, room_mm, options.with_map)
        rulers = draw_rows(score, counted, options.hand, drawing)
        rows += [_Row(row.line, 1, embed(row.svg), "ruler") for row in rulers]
        thinned += [name for row in rulers for name in row.thinned]
    rows.sort(key=lambda row: (row.line, row.place))
    joining = map_words(options.with_map) if options.with_map else ""
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(score.title)} – count sheet</title>'
        f"<style>{_style(options)}</style></head><body>{_heading(score, counted, options, bpm)}"
        f"{''.join(_shown(rows))}{joining}{_notes(score, counted, options, thinned_text(thinned))}</body></html>"
    )


def _shown(rows: Sequence[_Row]) -> Iterator[str]:
    line = 0
    for row in rows:
        heading = "" if row.line == line else f'<p class="line">line {row.line}</p>'
        line = row.line
        yield f'<div class="row {row.kind}">{heading}{row.shown}</div>'


# -- words -------------------------------------------------------------------------------------------------


def _heading(score: Score, counted: LineCount, options: SheetOptions, bpm: Bpm) -> str:
    first = counted.by[0]
    whose = "both hands" if options.hand is None else f"{options.hand} hand"
    said = " ".join(
        f"<b>{escape(word.say)}</b>" if word.is_beat else escape(word.say) for word in count_in(counted, bpm)
    )
    beat = length_name(first.measure.meter.beat_quarters, counted.naming)
    composer = f" · {escape(score.composer)}" if score.composer else ""
    order = play_order(score)
    road = (
        ""
        if order.is_plain
        else f"<p>Played: bars {escape(_runs([score.measures[i].number for i in order.order]))}</p>"
    )
    school = f" {escape(first.beats.reason)}" if has_units(first.beats.meter) else ""
    return (
        f"<header><h1>{escape(score.title)}</h1>"
        f"<p>{first.measure.signature} · {whose} · {beat} = {bpm_text(bpm)}{composer}</p>"
        f'<p class="in">Count in: {said}</p>'
        f"<p>{escape(SYSTEM_WORDS[first.resolved.system])}{school}</p>{road}{_legend(options)}</header>"
    )


def _runs(names: Sequence[str]) -> str:
    runs: list[list[str]] = []
    for name in names:
        goes_on = runs and runs[-1][-1].isdigit() and name.isdigit() and int(name) == int(runs[-1][-1]) + 1
        if goes_on:
            runs[-1].append(name)
        else:
            runs.append([name])
    return " · ".join(run[0] if len(run) == 1 else f"{run[0]}–{run[-1]}" for run in runs)


def _legend(options: SheetOptions) -> str:
    box = '<svg viewBox="0 0 40 14" width="8mm" height="2.8mm">{}</svg>'
    right = box.format('<rect y="2" width="40" height="10" rx="5" fill="#444"/>')
    left = box.format('<rect x="1" y="2" width="38" height="10" fill="#fff" stroke="#000" stroke-width="2"/>')
    signs = ["<b>2</b> play", "(2) keep holding", '<span class="rest">2</span> rest']
    if options.shows != "notation":
        signs = [f"{right} right hand", f"{left} left hand", *signs, "◇ say it anyway", "thick stroke: both together"]
        signs += _map_signs(options)
    # Spaces between them: a line may break there.
    return f'<p class="legend">{" ".join(f"<span>{sign}</span>" for sign in signs)}</p>'


def _map_signs(options: SheetOptions) -> list[str]:
    if options.with_map is None:
        return []
    box = '<svg viewBox="0 0 40 14" width="8mm" height="2.8mm">{}</svg>'
    goes = '<path d="M0 7H26" stroke="#000" stroke-width="2" stroke-dasharray="6 5"/>'
    arrow = box.format(goes + '<path d="M26 1l12 6-12 6z" fill="#fff" stroke="#000" stroke-width="2"/>')
    notch = box.format('<path d="M11 0h18l-9 14z" fill="#000"/>')
    ratio = ["2:1 strikes, right to left"] if options.with_map.ratios else []
    return ["bracket: where the hand stands", f"{arrow} go now", f"{notch} hard to go on", *ratio]


def _notes(score: Score, counted: LineCount, options: SheetOptions, thinned: str) -> str:
    worth = lengths_worth(score, counted)
    signatures = list(dict.fromkeys(w.signature for w in worth))
    lines = [
        f"<p>In {escape(signature)}: "
        + ", ".join(f"{w.name} {w.counts}" for w in worth if w.signature == signature)
        + ".</p>"
        for signature in signatures
    ]
    traps = find_traps(counted, hand_line(score, options.hand))
    lines += [f"<p>Bar {escape(score.measures[t.measure_index].number)}: {escape(t.text)}</p>" for t in traps[:4]]
    if thinned:
        lines.insert(0, f"<p>{escape(thinned)}</p>")
    return f"<footer>{''.join(lines)}</footer>"


def _style(options: SheetOptions) -> str:
    size = "13pt" if options.is_big else "10pt"
    return f"""
@page {{ size: {options.paper}; margin: {MARGIN_MM}mm;
  @bottom-right {{ content: counter(page) " / " counter(pages); font-family: "Sheet"; font-size: 8pt; }} }}
html {{ font-family: {FAMILIES}; font-size: {size}; color: #000; background: #fff; }}
body {{ margin: 0 auto; max-width: {PAPERS[options.paper][0] - 2 * MARGIN_MM}mm; }}
svg, svg text {{ font-family: {FAMILIES}; }}
h1 {{ font-size: 1.7em; margin: 0 0 1mm; }}
p {{ margin: 0 0 1mm; }}
.in {{ font-size: 1.2em; }}
.legend span {{ margin-right: 4mm; white-space: nowrap; }}
.legend .rest {{ margin: 0; border-top: 0.4mm solid #000; }}
.row {{ break-inside: avoid; margin-top: 2mm; }}
.row svg, .row img {{ display: block; width: 100%; height: auto; }}
.line {{ font-size: 0.8em; margin: 0; }}
.map {{ break-inside: avoid; margin-top: 4mm; }}
.map h2 {{ font-size: 1.1em; margin: 0 0 1mm; }}
.map ol {{ margin: 0 0 1mm; padding-left: 6mm; }}
footer {{ margin-top: 4mm; break-inside: avoid; font-size: 0.9em; }}
"""
