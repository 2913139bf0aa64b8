"""The counts as a table: one row a count, for each hand and both."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from laptick.core.base.units import Bpm
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.score.hands import HAND_KEYS
from laptick.core.score.score import Score

COLUMNS = ("measure", "line", "bar_in_line", "time_signature", "hand", "offset_quarters", "say", "kind", "beat")

#: What a spreadsheet takes for a formula when a cell begins with it.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def write_counts_csv(
    score: Score,
    choices: CountChoices | None = None,
    *,
    hands: Sequence[str] = tuple(HAND_KEYS),
    bpm: Bpm | None = None,
) -> str:
    """CSV with a heading line. ``beat`` is 1 where the count is a beat."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for key in hands:
        counted = count_line(score, HAND_KEYS[key], choices, bpm=bpm)
        for bar, counts in zip(counted.by, counted.bars, strict=True):
            measure = bar.measure
            for count in counts:
                row = (
                    measure.number, measure.line, measure.bar_in_line, str(measure.signature), key,
                    str(count.offset_quarters), count.say, count.kind.value, int(count.is_beat),
                )  # fmt: skip
                writer.writerow([_safe(cell) for cell in row])
    return out.getvalue()


def _safe(cell: str | int) -> str | int:
    """A teacher's own word that begins like a formula is shown, not computed."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(_FORMULA) else cell
