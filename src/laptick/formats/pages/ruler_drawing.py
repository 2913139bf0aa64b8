"""The beat ruler on paper: one row of bars as SVG, black and white safe.

Right hand above the line with round ends, filled; left hand below with square ends, hatched by a frame only;
tick lengths by metrical weight; counts on the ruler: strike bold, (hold), rest under a bar of silence; strokes
where both hands strike. Lengths are in millimetres times ten, so that everything is a plain number.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import escape

from laptick.core.base.units import Quarters
from laptick.core.counting.counts import Count, Kind
from laptick.core.score.hand_line import HandLine, hand_line
from laptick.core.score.score import Hand, Measure, Score


@dataclass(frozen=True, slots=True)
class RowStyle:
    """Sizes in tenths of a millimetre."""

    width: float
    height: float
    count_size: float
    label_size: float


@dataclass(frozen=True)
class RulerRow:
    """Bars of one row with their counts; ``anyway``: instants at which a number is said and nothing played,
    because a syncopation lies across them."""

    measures: tuple[Measure, ...]
    counts: tuple[tuple[Count, ...], ...]
    anyway: frozenset[Quarters] = frozenset()

    @property
    def start_quarters(self) -> Quarters:
        return self.measures[0].start_quarters

    @property
    def end_quarters(self) -> Quarters:
        return self.measures[-1].end_quarters


#: From an instant to its place in the row.
Place = Callable[[Quarters], float]

#: Heights of what stands in a row, as shares of it.
_RIGHT, _BASE, _COUNT, _LEFT, _THICK = 0.24, 0.50, 0.68, 0.76, 0.11
#: Tick lengths by depth, as shares of the row.
_TICKS = (0.20, 0.14, 0.10, 0.06, 0.04)


def draw_row(score: Score, row: RulerRow, style: RowStyle, quarters_wide: float) -> str:
    """The shapes of one row, for an SVG element; ``quarters_wide`` quarters fill its width, so rows share one scale."""
    scale = style.width / quarters_wide
    start = float(row.start_quarters)

    def x(at: Quarters) -> float:
        return round((float(at) - start) * scale, 1)

    height = style.height
    right, left = (hand_line(score, hand) for hand in (Hand.RIGHT, Hand.LEFT))
    parts = [
        f'<path d="M0 {_BASE * height:.1f}H{x(row.end_quarters)}" stroke="#000" stroke-width="2" fill="none"/>',
    ]
    for measure in row.measures:
        parts += _bar(measure, x, style)
    parts.append(_bar_line(x(row.end_quarters), height))
    parts += _spans(right, row, x, style, is_right=True)
    parts += _spans(left, row, x, style, is_right=False)
    together = set(right.strikes) & set(left.strikes)
    for onset in sorted(at for at in together if row.start_quarters <= at < row.end_quarters):
        parts.append(
            f'<path d="M{x(onset)} {_RIGHT * height:.1f}V{(_BASE + 0.04) * height:.1f}M{x(onset)} {_LEFT * height:.1f}'
            f'v{_THICK * height:.1f}" stroke="#000" stroke-width="5" fill="none"/>'
        )
    for measure, counts in zip(row.measures, row.counts, strict=True):
        parts += _counts(measure, counts, row.anyway, x, style)
    return "".join(parts)


def _bar_line(at: float, height: float) -> str:
    return f'<path d="M{at} {0.16 * height:.1f}V{0.90 * height:.1f}" stroke="#000" stroke-width="2.5" fill="none"/>'


def _bar(measure: Measure, x: Place, style: RowStyle) -> list[str]:
    height = style.height
    left = x(measure.start_quarters)
    name = "pickup" if measure.bar_in_line == 0 else measure.number
    parts = [
        _bar_line(left, height),
        f'<text x="{left + 6}" y="{0.12 * height:.1f}" font-size="{style.label_size}" font-weight="700">'
        f"{escape(name)}</text>",
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


def _spans(line: HandLine, row: RulerRow, x: Place, style: RowStyle, *, is_right: bool) -> list[str]:
    height, thick = style.height, _THICK * style.height
    top = (_RIGHT if is_right else _LEFT) * height
    parts = []
    for tick, length in line.strike_lengths.items():
        onset = line.quarters(tick)
        if not row.start_quarters <= onset < row.end_quarters:
            continue
        end = min(onset + line.quarters(length), row.end_quarters)
        width = max(8.0, x(end) - x(onset) - 5)
        shape = f'x="{x(onset)}" y="{top:.1f}" width="{width:.1f}" height="{thick:.1f}"'
        # Told apart without colour: right filled and round, left framed and square.
        parts.append(
            f'<rect {shape} rx="{thick / 2:.1f}" fill="#444"/>'
            if is_right
            else f'<rect {shape} fill="#fff" stroke="#000" stroke-width="4"/>'
        )
    return parts


def _counts(
    measure: Measure, counts: Sequence[Count], anyway: frozenset[Quarters], x: Place, style: RowStyle
) -> list[str]:
    height, size = style.height, style.count_size
    parts = []
    for index, count in enumerate(counts):
        at = x(measure.start_quarters + count.offset_quarters) + 5
        following = counts[index + 1].offset_quarters if index + 1 < len(counts) else measure.length_quarters
        room = x(measure.start_quarters + following) - at + 3
        said = f"({count.say})" if count.kind is Kind.HOLD else count.say
        fitted = min(size, room / (0.56 * len(said)))
        weight = 800 if count.kind is Kind.STRIKE else 400
        y = _COUNT * height
        parts.append(
            f'<text x="{at:.1f}" y="{y:.1f}" font-size="{fitted:.1f}" font-weight="{weight}">{escape(said)}</text>'
        )
        onset = measure.start_quarters + count.offset_quarters
        if count.kind is not Kind.STRIKE and onset in anyway:
            parts.append(
                f'<path d="M{at + 0.3 * fitted:.1f} {y - 1.35 * fitted:.1f}l10 10-10 10-10-10z" fill="#fff"'
                ' stroke="#000" stroke-width="3"/>'
            )
        if count.kind is Kind.REST:
            wide = 0.56 * fitted * len(said)
            parts.append(
                f'<path d="M{at:.1f} {y - 0.82 * fitted:.1f}h{wide:.1f}" stroke="#000" stroke-width="3" fill="none"/>'
            )
    return parts
