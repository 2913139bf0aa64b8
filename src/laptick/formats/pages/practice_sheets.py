"""Two pages for the music stand: the week's rungs with boxes to tick, and the piece to be coloured.

Black on white, one page each, nothing from outside. The key to the colours is printed at the foot, to be folded under.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from html import escape

from laptick.core.base.units import bpm_text
from laptick.core.practice.colouring import ColouredBar
from laptick.core.score.score import HANDS, Score
from laptick.formats.pages.ruler_rows import FAMILIES
from laptick.formats.pages.sheet import MARGIN_MM, PAPERS

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")

#: How high a line of boxes may be, and what all of them have room for on one page, in millimetres.
LOWEST_MM, HIGHEST_MM, ROOM_MM = 17.0, 44.0, 190.0

#: What fits on one page.
MOST_RUNGS = 14


@dataclass(frozen=True)
class WeekRung:
    """``what``: the stage and the bars, ``task``: what to do; ``bpm``: of the next try, ``gate``: what passes it."""

    what: str
    task: str
    bpm: int
    gate: str
    touch: str | None


def week_html(score: Score, rungs: Sequence[WeekRung], cautions: Sequence[str], minutes: int, paper: str) -> str:
    """The week's practice: every rung a line with what to do and seven boxes."""
    heads = "".join(f"<th>{day}</th>" for day in DAYS)
    rows = "".join(
        f"<tr><td><b>{escape(rung.what)}</b><br>{escape(rung.task)}"
        + (f"<br>Touch: {escape(rung.touch)}" if rung.touch else "")
        + f"</td><td>{bpm_text(rung.bpm)}</td><td>{escape(rung.gate)}</td>{'<td class=box></td>' * len(DAYS)}</tr>"
        for rung in rungs[:MOST_RUNGS]
    )
    empty = "" if rungs else "<p>Every rung of the ladder is passed.</p>"
    careful = "".join(f"<p>{escape(caution)}</p>" for caution in cautions)
    return _page(
        f"{score.title} – this week",
        paper,
        f"<h1>{escape(score.title)}</h1><p>This week, from the floor up. After {minutes} minutes a break."
        f' <span class="name">Name</span></p>'
        f"<table><tr><th>What</th><th>at</th><th>done</th>{heads}</tr>{rows}</table>{empty}<footer>{careful}</footer>",
    )


def colouring_html(score: Score, bars: Sequence[ColouredBar], paper: str) -> str:
    """The piece as boxes to be coloured: same bars in one colour, thirds and fourths in two."""
    height_mm = min(HIGHEST_MM, max(LOWEST_MM, ROOM_MM / len({score.measures[bar.measure_index].line for bar in bars})))
    lines = itertools.groupby(bars, key=lambda bar: score.measures[bar.measure_index].line)
    drawn = "".join(
        f'<p class="line">line {line}</p><div class="bars" style="height: {height_mm:.0f}mm">'
        f"{''.join(_box(score, bar) for bar in inside)}</div>"
        for line, inside in lines
    )
    return _page(
        f"{score.title} – to colour",
        paper,
        f"<h1>{escape(score.title)}</h1>"
        "<p>Which bars are the same? Give them the same colour. Then every circle: thirds in one colour, fourths in"
        " another; above the line the right hand, below it the left.</p>"
        f"{drawn}<footer class=fold><p>Fold under here.</p><p>{_key(score, bars)}</p></footer>",
    )


def _box(score: Score, bar: ColouredBar) -> str:
    circles = "".join(f"<div class=hand>{'<i></i>' * len(bar.intervals[hand])}</div>" for hand in HANDS)
    return f'<div class="bar"><b>{escape(score.measures[bar.measure_index].number)}</b>{circles}</div>'


def _key(score: Score, bars: Sequence[ColouredBar]) -> str:
    """Which bars are the same, and which circle is what."""
    groups: dict[int, list[str]] = {}
    for bar in bars:
        groups.setdefault(bar.same_as, []).append(score.measures[bar.measure_index].number)
    same = [" = ".join(names) for names in groups.values() if len(names) > 1]
    told = [
        f"bar {score.measures[bar.measure_index].number}, {hand.value}: "
        + " ".join("3rd" if one == "third" else "4th" for one in bar.intervals[hand])
        for bar in bars
        for hand in HANDS
        if bar.intervals[hand]
    ]
    sames = f"Same bars: {escape('; '.join(same))}." if same else "No two bars are the same."
    return f"{sames} {escape('; '.join(told))}."


def _page(title: str, paper: str, body: str) -> str:
    width = PAPERS[paper][0] - 2 * MARGIN_MM
    return f"""<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title><style>
@page {{ size: {paper}; margin: {MARGIN_MM}mm; }}
html {{ font-family: {FAMILIES}; font-size: 10pt; color: #000; background: #fff; }}
body {{ margin: 0 auto; max-width: {width}mm; }}
h1 {{ font-size: 1.7em; margin: 0 0 1mm; }}
p {{ margin: 0 0 1.5mm; }}
.name {{ display: inline-block; margin-left: 8mm; width: 60mm; border-bottom: 0.3mm solid #000; }}
table {{ width: 100%; border-collapse: collapse; }}
th, td {{ text-align: left; vertical-align: top; border-bottom: 0.2mm solid #888; padding: 1mm 1.5mm 1mm 0; }}
td.box {{ width: 8mm; border: 0.3mm solid #000; }}
.line {{ font-size: 0.8em; margin: 2mm 0 0; }}
.bars {{ display: flex; }}
.bar {{ flex: 1; border: 0.4mm solid #000; padding: 1mm; margin-right: 1mm; }}
.hand {{ height: 45%; }}
.hand:first-of-type {{ border-bottom: 0.3mm solid #888; margin-bottom: 1mm; }}
i {{ display: inline-block; width: 4mm; height: 4mm; border: 0.3mm solid #000; border-radius: 50%; margin: 0.5mm; }}
footer {{ margin-top: 4mm; font-size: 0.9em; break-inside: avoid; }}
.fold {{ border-top: 0.3mm dashed #000; }}
</style></head><body><main>{body}</main></body></html>"""
