"""What a left hand does under a tune, as a table: each pattern a row of lengths with the tones struck over a root.

One's own pattern is read from a bar as it was written: its lowest strike on the first beat is the root, the others are
tones over it. Lengths are shares of a beat. A pattern is of so many beats; a bar of more beats repeats it, what is left
over is one root a beat; a bar of fewer beats has it at half its lengths where that fills the bar, else as much of it as
it holds.
Source: docs/trade.md 3.3 (layered left hand), common practice.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.score.pitch import steps_above_c0
from laptick.core.score.score import Hand, Measure, Note, Score

F = Fraction

#: A share of a beat, and the tones struck: none is silence.
Cell = tuple[F, tuple[str, ...]]

R, THIRD, FIFTH, SIXTH, SEVENTH, HIGH = ("root",), ("third",), ("fifth",), ("sixth",), ("seventh",), ("octave",)
CHORD = ("fifth", "octave")


@dataclass(frozen=True, slots=True)
class Pattern:
    """``cells`` over ``beats`` beats; ``dotted``: where the beat has three parts; ``is_whole_bar``: one sound a bar;
    ``division``: into how many parts the beats are written that it is for, ``None``: any."""

    key: str
    words: str
    beats: int
    cells: tuple[Cell, ...]
    dotted: tuple[Cell, ...] | None = None
    is_whole_bar: bool = False
    division: int | None = None


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


#: What stands for one's own pattern among the others.
OWN = "own"

_TONE_OF = ("root", "second", "third", "fourth", "fifth", "sixth", "seventh")


def pattern_written(score: Score) -> Pattern:
    """The pattern that the first whole bar of a score is: of its left hand, or of the right where that is silent. A
    strike without a key is the root.

    Raises:
        OptionError: nothing is struck in that bar.
    """
    measure = next((one for one in score.measures if not one.is_pickup), score.measures[0])
    for hand in (Hand.LEFT, Hand.RIGHT):
        struck = [note for note in score.notes_of_measure(measure.index) if note.hand is hand and note.is_strike]
        if struck:
            break
    else:
        raise OptionError(
            f"nothing is struck in bar {measure.number}.", where=OWN, todo="Write the pattern into its first bar."
        )
    by_onset: dict[Quarters, list[Note]] = {}
    for note in struck:
        by_onset.setdefault(note.onset_quarters - measure.start_quarters, []).append(note)
    root = min(by_onset[min(by_onset)], key=lambda note: -1 if note.pitch is None else note.pitch)
    lengths = beats_of(measure)
    cells: list[Cell] = []
    onsets = sorted(by_onset)
    for onset, following in zip(onsets, [*onsets[1:], measure.length_quarters], strict=True):
        end = min(following, onset + max(note.duration_quarters for note in by_onset[onset]))
        at, until, after = (_share_at(lengths, place) for place in (onset, end, following))
        if not cells and at:
            cells.append((at, ()))
        steps = sorted({_steps_over(root, note) for note in by_onset[onset]})
        cells.append((until - at, tuple(_tone(step) for step in steps)))
        if after > until:
            cells.append((after - until, ()))
    division = measure.meter.beats[0].division
    return Pattern(OWN, score.title, len(lengths), tuple(cells), tuple(cells), division=division)


def _share_at(lengths: Sequence[Quarters], place: Quarters) -> F:
    """An instant of a bar in beats."""
    at = F(0)
    for index, length in enumerate(lengths):
        if place < at + length:
            return index + (place - at) / length
        at += length
    return F(len(lengths))


def _steps_over(root: Note, note: Note) -> int:
    """Letters above the root; a strike without a key is on it."""
    return 0 if root.pitch is None or note.pitch is None else steps_above_c0(note.name) - steps_above_c0(root.name)


def _tone(steps: int) -> str:
    if steps == len(_TONE_OF):
        return "octave"
    octaves, step = divmod(steps, len(_TONE_OF))
    return _TONE_OF[step] + ("'" * octaves if octaves > 0 else "," * -octaves)


def beats_of(measure: Measure) -> list[Quarters]:
    """How long each beat of a bar is; a short bar has fewer, or a shorter one."""
    begins, ends = measure.lead_quarters, measure.lead_quarters + measure.length_quarters
    cut = [(max(beat.start_quarters, begins), min(beat.end_quarters, ends)) for beat in measure.meter.beats]
    lengths = [end - start for start, end in cut if end > start]
    over = measure.length_quarters - sum(lengths, F(0))  # a bar longer than its signature says
    return [*lengths, over] if over else lengths


def cells_of(pattern: Pattern, measure: Measure) -> list[tuple[Quarters, tuple[str, ...]]]:
    """What a pattern is in one bar: lengths in quarters, tones.

    Raises:
        OptionError: it is written for beats of another division.
    """
    lengths = beats_of(measure)
    if pattern.division not in (None, measure.meter.beats[0].division):
        raise OptionError(
            f"the pattern is written in beats of {_PARTS[pattern.division == 3]} parts, bar {measure.number} has"
            f" {_PARTS[pattern.division != 3]}.",
            where=OWN,
            todo="Write it in the meter of the tune.",
        )
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


_PARTS = ("two", "three")


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
