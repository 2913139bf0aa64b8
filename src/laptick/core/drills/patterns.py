"""What a left hand does under a tune, as a table: each pattern a row of lengths with the tones struck over a root.

Lengths are shares of a beat. A pattern is of so many beats; a bar of more beats repeats it, what is left over is one
root a beat; a bar of fewer beats has it at half its lengths where that fills the bar, else as much of it as it holds.
Source: docs/trade.md 3.3 (layered left hand), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.score.score import Measure

F = Fraction

#: A share of a beat, and the tones struck: none is silence.
Cell = tuple[F, tuple[str, ...]]

R, THIRD, FIFTH, SIXTH, SEVENTH, HIGH = ("root",), ("third",), ("fifth",), ("sixth",), ("seventh",), ("octave",)
CHORD = ("fifth", "octave")


@dataclass(frozen=True, slots=True)
class Pattern:
    """``cells`` over ``beats`` beats; ``dotted``: where the beat has three parts; ``is_whole_bar``: one sound a bar."""

    key: str
    words: str
    beats: int
    cells: tuple[Cell, ...]
    dotted: tuple[Cell, ...] | None = None
    is_whole_bar: bool = False


PATTERNS: Mapping[str, Pattern] = {
    one.key: one
    for one in (
        Pattern("pulse", "the pulse", 1, ((F(1), R),)),
        Pattern("half-speed", "at half speed", 2, ((F(2), R),)),
        Pattern("double-speed", "at double speed", 1, ((F(1, 2), R),) * 2, ((F(1, 3), R),) * 3),
        Pattern("low-high", "low and high", 2, ((F(1), R), (F(1), HIGH))),
        Pattern(
            "low-high-doubled", "low and high, doubled", 1, ((F(1, 2), R), (F(1, 2), HIGH)),
            ((F(2, 3), R), (F(1, 3), HIGH)),
        ),
        Pattern(
            "shorts-long", "two shorts and a long", 2, ((F(1, 2), R), (F(1, 2), R), (F(1), HIGH)),
            ((F(2, 3), R), (F(1, 3), R), (F(1), HIGH)),
        ),
        Pattern("3+3+2", "three, three, two", 4, ((F(3, 2), R), (F(3, 2), HIGH), (F(1), R))),
        Pattern("waltz", "low, then twice the chord", 3, ((F(1), R), (F(1), CHORD), (F(1), CHORD))),
        Pattern(
            "broken-chord", "the chord, broken", 2,
            ((F(1, 2), R), (F(1, 2), THIRD), (F(1, 2), FIFTH), (F(1, 2), THIRD)),
            ((F(1, 3), R), (F(1, 3), THIRD), (F(1, 3), FIFTH)) * 2,
        ),
        Pattern(
            "boogie", "walking up and down", 4,
            tuple((F(1, 2), tone) for tone in (R, THIRD, FIFTH, SIXTH, SEVENTH, SIXTH, FIFTH, THIRD)),
        ),
        Pattern("held-chord", "the chord, held", 1, ((F(1), ("root", "fifth")),), is_whole_bar=True),
    )
}  # fmt: skip


def pattern_of(key: str) -> Pattern:
    """Raises:
    OptionError: there is no such pattern.
    """
    found = PATTERNS.get(key)
    if found is None:
        raise OptionError(
            f"there is no pattern “{key[:20]}”.", where="pattern", todo=f"There are {', '.join(PATTERNS)}."
        )
    return found


def beats_of(measure: Measure) -> list[Quarters]:
    """How long each beat of a bar is; a short bar has fewer, or a shorter one."""
    begins, ends = measure.lead_quarters, measure.lead_quarters + measure.length_quarters
    cut = [(max(beat.start_quarters, begins), min(beat.end_quarters, ends)) for beat in measure.meter.beats]
    lengths = [end - start for start, end in cut if end > start]
    over = measure.length_quarters - sum(lengths, F(0))  # a bar longer than its signature says
    return [*lengths, over] if over else lengths


def cells_of(pattern: Pattern, measure: Measure) -> list[tuple[Quarters, tuple[str, ...]]]:
    """What a pattern is in one bar: lengths in quarters, tones."""
    lengths = beats_of(measure)
    if pattern.is_whole_bar:
        return [(sum(lengths, F(0)), pattern.cells[0][1])]
    cells = pattern.dotted if pattern.dotted is not None and measure.meter.beats[0].division == 3 else pattern.cells
    found: list[tuple[Quarters, tuple[str, ...]]] = []
    at = 0
    while at < len(lengths):
        left = lengths[at:]
        if len(left) >= pattern.beats:
            found += _over(cells, left[: pattern.beats])
            at += pattern.beats
        elif at == 0 and pattern.beats == 2 * len(left):
            found += _over([(share / 2, tones) for share, tones in cells], left)
            break
        elif at == 0:
            found += _over(_first(cells, F(len(left))), left)
            break
        else:
            found.append((left[0], R))
            at += 1
    return found


def _first(cells: Sequence[Cell], beats: F) -> list[Cell]:
    """As many as fit into so many beats, the last one cut."""
    found: list[Cell] = []
    for share, tones in cells:
        room = beats - sum((one for one, _ in found), F(0))
        if room <= 0:
            break
        found.append((min(share, room), tones))
    return found


def _over(cells: Sequence[Cell], beats: Sequence[Quarters]) -> list[tuple[Quarters, tuple[str, ...]]]:
    """Shares of beats as quarters; beats may be of different lengths."""
    edges = [F(0)]
    for length in beats:
        edges.append(edges[-1] + length)

    def place(share: F) -> Quarters:
        whole = min(int(share), len(beats) - 1)
        return edges[whole] + (share - whole) * beats[whole]

    found, at = [], F(0)
    for share, tones in cells:
        found.append((place(at + share) - place(at), tones))
        at += share
    return found
