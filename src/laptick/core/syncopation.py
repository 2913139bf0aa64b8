"""Syncopation: where the weight of the meter falls on a position that is not struck.

Source: H. C. Longuet-Higgins & C. S. Lee, "The rhythmic interpretation of monophonic music", Music
Perception 1(4), 1984: a strike followed, before the next strike of its line, by a rest or held
position of strictly greater metrical weight; the strength is the difference, taken at the strongest
position covered.
"""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.counting import Compound, counted_beats
from laptick.core.score import Hand, HandLine, Measure, Place, Score
from laptick.core.units import Quarters


@dataclass(frozen=True, slots=True)
class Syncopation:
    """``is_taught``: a silence on a strong position is listed but not taught as syncopation."""

    onset_quarters: Quarters
    hand: Hand | None
    strength: int
    name: str
    silent_quarters: Quarters
    silent_say: str
    is_taught: bool

    def places(self, score: Score) -> tuple[Place, Place]:
        return score.place_at(self.onset_quarters), score.place_at(self.silent_quarters)


def find_syncopations(
    score: Score, line: HandLine, measures: tuple[Measure, ...], hand: Hand | None
) -> list[Syncopation]:
    """All syncopations of a line whose strike lies in ``measures``, in order."""
    if not measures:
        return []
    found: list[Syncopation] = []
    end = score.end_quarters
    grid = _grid(score)
    cursor = 0
    for index, strike in enumerate(line.strikes):
        if not measures[0].start_quarters <= strike < measures[-1].end_quarters:
            continue
        following = line.strikes[index + 1] if index + 1 < len(line.strikes) else end
        weight = score.measure_at(strike).weight_at(strike)
        while cursor < len(grid) and grid[cursor][0] <= strike:
            cursor += 1
        best: tuple[int, Quarters, str] | None = None
        position = cursor
        while position < len(grid) and grid[position][0] < following:
            onset, strength, say = grid[position][0], grid[position][1] - weight, grid[position][2]
            if strength > 0 and (best is None or strength > best[0]):
                best = (strength, onset, say)
            position += 1
        if best:
            found.append(_named(score, line, strike, hand, best))
    return found


def _grid(score: Score) -> list[tuple[Quarters, int, str]]:
    """(instant, weight, number said) of every beat and of its halves (thirds) in the whole piece: only
    these can outweigh a strike, since anything weaker than a strike's own level never does."""
    grid: list[tuple[Quarters, int, str]] = []
    for measure in score.measures:
        meter = measure.meter
        numbers = counted_beats(meter, Compound.BEATS)
        for beat, counted in zip(meter.beats, numbers, strict=True):
            parts = beat.division if beat.division == 3 else 4
            for part in range(parts):
                position = beat.start_quarters + beat.length_quarters * part / parts
                offset = position - measure.lead_quarters
                if 0 <= offset < measure.length_quarters:
                    say = counted.number if part == 0 else _part_word(part, parts, counted.number)
                    grid.append((measure.start_quarters + offset, meter.weight(position), say))
    return grid


def _part_word(part: int, parts: int, number: str) -> str:
    return f"{('e', 'the &', 'a')[part - 1]} of {number}" if parts == 4 else f"part {part + 1} of {number}"


def _named(
    score: Score, line: HandLine, strike: Quarters, hand: Hand | None, best: tuple[int, Quarters, str]
) -> Syncopation:
    strength, silent, say = best
    measure, silent_measure = score.measure_at(strike), score.measure_at(silent)
    held = line.sounds_at(silent)
    on_beat = any(b.start_quarters == measure.position_of(strike) for b in measure.meter.beats)
    if not held:
        name = f"silence on {say}"
    elif silent_measure.index != measure.index:
        name = "tied over the bar"
    elif on_beat:
        name = f"held over {say}"
    else:
        name = f"off-beat held over {say}"
    return Syncopation(strike, hand, strength, name, silent, say, held)
