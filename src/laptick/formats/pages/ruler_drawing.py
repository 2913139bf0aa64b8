"""The beat ruler on paper: one row of bars as SVG, black and white safe.

Right hand above the line with round ends, filled; left hand below with square ends, hatched by a frame only;
tick lengths by metrical weight; counts on the ruler: strike bold, (hold), rest under a bar of silence; strokes
where both hands strike. Lengths are in millimetres times ten, so that everything is a plain number.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from html import escape
from itertools import accumulate
from math import ceil

from laptick.core.base.units import Quarters
from laptick.core.counting.counts import Count, Kind
from laptick.core.score.hand_line import HandLine, hand_line
from laptick.core.score.score import Hand, Measure, Score
from laptick.formats.pages.bar_layout import PlacedWord, fit_words
from laptick.formats.pages.letters import BOLD, PLAIN, word_width


@dataclass(frozen=True, slots=True)
class RowStyle:
    """Sizes in tenths of a millimetre."""

    width: float
    height: float
    count_size: float
    label_size: float


@dataclass(frozen=True)
class RulerRow:
    """Bars of one row with their counts and their widths; ``anyway``: instants at which a number is said and nothing
    played, because a syncopation lies across them; ``units``: what is counted from a bar (by its index) on."""

    measures: tuple[Measure, ...]
    counts: tuple[tuple[Count, ...], ...]
    widths: tuple[float, ...]
    anyway: frozenset[Quarters] = frozenset()
    units: Mapping[int, str] = field(default_factory=dict)

    @property
    def start_quarters(self) -> Quarters:
        return self.measures[0].start_quarters

    @property
    def end_quarters(self) -> Quarters:
        return self.measures[-1].end_quarters


#: A word begins so far behind its place, in parts of the type size.
INDENT = 0.11

#: How wide the sign of a silence is in which nothing is said.
SILENT_SIGN = 0.55

#: Between a bar's name and what is counted from there on, in parts of the label's size.
UNIT_GAP = 0.4

#: Just before the end of a bar, whose end is the next one's beginning.
EPSILON = Quarters(1, 1_000_000)

#: From an instant to its place in the row.
Place = Callable[[Quarters], float]

#: Heights of what stands in a row, as shares of it.
_RIGHT, _BASE, _COUNT, _LEFT, _THICK = 0.24, 0.50, 0.68, 0.76, 0.11
#: Tick lengths by depth, as shares of the row.
_TICKS = (0.20, 0.14, 0.10, 0.06, 0.04)


def place_in(row: RulerRow) -> Place:
    """Where in its row an instant lies."""
    edges = [0.0, *accumulate(row.widths)]
    starts = [measure.start_quarters for measure in row.measures]

    def x(at: Quarters) -> float:
        index = max(0, bisect_right(starts, at) - 1)
        measure = row.measures[index]
        share = float((at - measure.start_quarters) / measure.length_quarters)
        return round(edges[index] + min(1.0, share) * row.widths[index], 1)

    return x


def draw_row(score: Score, row: RulerRow, style: RowStyle) -> str:
    """The shapes of one row, for an SVG element."""
    x = place_in(row)
    height = style.height
    right, left = (hand_line(score, hand) for hand in (Hand.RIGHT, Hand.LEFT))
    parts = [
        f'<path d="M0 {_BASE * height:.1f}H{x(row.end_quarters)}" stroke="#000" stroke-width="2" fill="none"/>',
    ]
    for measure in row.measures:
        parts += _bar(measure, x, style, row.units.get(measure.index, ""))
    parts.append(_bar_line(x(row.end_quarters), height))
    parts += _spans(right, row, x, style, is_right=True)
    parts += _spans(left, row, x, style, is_right=False)
    for onset in (right.quarters(tick) for tick in _strikes_in(right, row) if tick in left.strike_set):
        parts.append(
            f'<path d="M{x(onset)} {_RIGHT * height:.1f}V{(_BASE + 0.04) * height:.1f}M{x(onset)} {_LEFT * height:.1f}'
            f'v{_THICK * height:.1f}" stroke="#000" stroke-width="5" fill="none"/>'
        )
    for measure, counts in zip(row.measures, row.counts, strict=True):
        parts += _counts(measure, counts, row.anyway, x, style)
    return "".join(parts)


def _bar_line(at: float, height: float) -> str:
    return f'<path d="M{at} {0.16 * height:.1f}V{0.90 * height:.1f}" stroke="#000" stroke-width="2.5" fill="none"/>'


def bar_name(measure: Measure) -> str:
    return "pickup" if measure.bar_in_line == 0 else measure.number


def head_width(measure: Measure, unit: str, label_size: float) -> float:
    """What stands above a bar: its name, and what is counted from it on."""
    said = UNIT_GAP + word_width(unit, PLAIN) if unit else 0.0
    return (word_width(bar_name(measure), BOLD) + said + 0.5) * label_size


def _bar(measure: Measure, x: Place, style: RowStyle, unit: str) -> list[str]:
    height = style.height
    left = x(measure.start_quarters)
    said = f'<tspan dx="{UNIT_GAP * style.label_size:.1f}" font-weight="400">{escape(unit)}</tspan>' if unit else ""
    parts = [
        _bar_line(left, height),
        f'<text x="{left + 6}" y="{0.12 * height:.1f}" font-size="{style.label_size}" font-weight="700">'
        f"{escape(bar_name(measure))}{said}</text>",
    ]
    for beat in measure.meter.beats:
        pieces = 3 if beat.division == 3 else 4
        for part in range(pieces):
            position = beat.start_quarters + beat.length_quarters * part / pieces
            offset = position - measure.lead_quarters
            if 0 <= offset < measure.length_quarters:
                depth = min(-measure.meter.weight(position), len(_TICKS) - 1)
                at = x(measure.start_quarters + offset)
                parts.append(
                    f'<path d="M{at} {_BASE * height:.1f}v-{_TICKS[depth] * height:.1f}" stroke="#000"'
                    f' stroke-width="{3 if depth < 2 else 1.5}" fill="none"/>'
                )
    return parts


def _strikes_in(line: HandLine, row: RulerRow) -> tuple[int, ...]:
    return line.strike_ticks_between(
        ceil(row.start_quarters * line.per_quarter), ceil(row.end_quarters * line.per_quarter)
    )


def _spans(line: HandLine, row: RulerRow, x: Place, style: RowStyle, *, is_right: bool) -> list[str]:
    height, thick = style.height, _THICK * style.height
    top = (_RIGHT if is_right else _LEFT) * height
    parts = []
    for tick in _strikes_in(line, row):
        onset = line.quarters(tick)
        end = min(onset + line.quarters(line.strike_lengths[tick]), row.end_quarters)
        width = max(8.0, x(end) - x(onset) - 5)
        shape = f'x="{x(onset)}" y="{top:.1f}" width="{width:.1f}" height="{thick:.1f}"'
        # Told apart without colour: right filled and round, left framed and square.
        parts.append(
            f'<rect {shape} rx="{thick / 2:.1f}" fill="#444"/>'
            if is_right
            else f'<rect {shape} fill="#fff" stroke="#000" stroke-width="4"/>'
        )
    return parts


def shown_word(count: Count) -> tuple[str, int]:
    """What is written for a count, and in which weight."""
    return (f"({count.say})" if count.kind is Kind.HOLD else count.say), (BOLD if count.kind is Kind.STRIKE else PLAIN)


def placed_words(measure: Measure, counts: Sequence[Count]) -> list[PlacedWord]:
    """The counts of a bar as words that take room; what stands on a weaker place is left out first."""
    return [
        PlacedWord(
            float(count.offset_quarters),
            word_width(*shown_word(count)) + INDENT,
            -9 if count.is_beat else -measure.meter.weight(measure.lead_quarters + count.offset_quarters),
        )
        for count in counts
    ]


def _counts(
    measure: Measure, counts: Sequence[Count], anyway: frozenset[Quarters], x: Place, style: RowStyle
) -> list[str]:
    height = style.height
    length = float(measure.length_quarters)
    scale = (x(measure.end_quarters - EPSILON) - x(measure.start_quarters)) / length
    fitted = fit_words(placed_words(measure, counts), length, style.count_size, scale)
    y, size = _COUNT * height, fitted.size
    parts = []
    for index, count in enumerate(counts):
        onset = measure.start_quarters + count.offset_quarters
        at = x(onset) + INDENT * size
        if index in fitted.left_out:
            parts.append(f'<circle cx="{at:.1f}" cy="{y - 0.25 * size:.1f}" r="{0.07 * size:.1f}" fill="#000"/>')
            continue
        said, weight = shown_word(count)
        parts.append(
            f'<text x="{at:.1f}" y="{y:.1f}" font-size="{size:.1f}" font-weight="{weight}">{escape(said)}</text>'
        )
        if count.kind is not Kind.STRIKE and onset in anyway:
            parts.append(
                f'<path d="M{at + 0.3 * size:.1f} {y - 1.35 * size:.1f}l10 10-10 10-10-10z" fill="#fff"'
                ' stroke="#000" stroke-width="3"/>'
            )
        if count.kind is Kind.REST:
            wide = (word_width(said, weight) if said else SILENT_SIGN) * size
            parts.append(
                f'<path d="M{at:.1f} {y - 0.82 * size:.1f}h{wide:.1f}" stroke="#000" stroke-width="3" fill="none"/>'
            )
    return parts


def bars_thinned(row: RulerRow, size: float) -> list[str]:
    """The names of the bars in which not every word has room."""
    return [
        bar_name(measure)
        for measure, counts, width in zip(row.measures, row.counts, row.widths, strict=True)
        for length in [float(measure.length_quarters)]
        if fit_words(placed_words(measure, counts), length, size, width / length).left_out
    ]
