"""Syncopation: where the weight of the meter falls on a position that is not struck.

Source: H. C. Longuet-Higgins & C. S. Lee, "The rhythmic interpretation of monophonic music", Music
Perception 1(4), 1984: a strike followed, before the next strike of its line, by a rest or held
position of strictly greater metrical weight; the strength is the difference, taken at the strongest
position covered. Names: common practice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from laptick.core.base.units import Quarters
from laptick.core.rhythm.cells import Cell, find_cells
from laptick.core.score.hand_line import HandLine, to_ticks
from laptick.core.score.meter import Meter
from laptick.core.score.score import Hand, Measure, Place, Score


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


@dataclass(frozen=True, slots=True)
class _Strong:
    """A position that can outweigh a strike: its tick, weight and number as said."""

    tick: int
    weight: int
    say: str
    measure: Measure


def find_syncopations(
    score: Score, line: HandLine, measures: tuple[Measure, ...], hand: Hand | None
) -> list[Syncopation]:
    """All syncopations of a line whose strike lies in ``measures``, in order."""
    if not measures:
        return []
    per = line.per_quarter
    begin = to_ticks(measures[0].start_quarters, per)
    end = to_ticks(measures[-1].end_quarters, per)
    last = to_ticks(score.end_quarters, per)
    hemiolas = [cell for cell in find_cells(line, measures, hand) if cell.name == "hemiola"]
    found: list[Syncopation] = []
    grid = _grid(score, per)
    cursor = 0
    for index, strike in enumerate(line.strike_ticks):
        if not begin <= strike < end:
            continue
        following = line.strike_ticks[index + 1] if index + 1 < len(line.strike_ticks) else last
        while cursor < len(grid) and grid[cursor].tick <= strike:
            cursor += 1
        ahead = cursor
        weight: int | None = None
        best: tuple[int, _Strong] | None = None
        while ahead < len(grid) and grid[ahead].tick < following:
            strong = grid[ahead]
            ahead += 1
            if weight is None:
                onset = line.quarters(strike)
                weight = score.measure_at(onset).weight_at(onset)
            strength = strong.weight - weight
            if strength > 0 and (best is None or strength > best[0]):
                best = (strength, strong)
        if best:
            found.append(_named(score, line, strike, following, hand, best, hemiolas))
    return found


def _grid(score: Score, per: int) -> list[_Strong]:
    """Every beat and its quarters (thirds) in the whole piece: only these can outweigh a strike, since
    anything weaker than a strike's own level never does."""
    if "weights" not in score.memo:
        grid: list[_Strong] = []
        for measure in score.measures:
            start, lead = to_ticks(measure.start_quarters, per), to_ticks(measure.lead_quarters, per)
            length = to_ticks(measure.length_quarters, per)
            for position, weight, say in _places(measure.meter, per):
                if 0 <= position - lead < length:
                    grid.append(_Strong(start + position - lead, weight, say, measure))
        score.memo["weights"] = grid
    known: list[_Strong] = score.memo["weights"]
    return known


@lru_cache(maxsize=512)
def _places(meter: Meter, per: int) -> tuple[tuple[int, int, str], ...]:
    places = []
    for number, beat in enumerate(meter.beats, start=1):
        parts = beat.division if beat.division == 3 else 4
        for part in range(parts):
            position = beat.start_quarters + beat.length_quarters * part / parts
            say = str(number) if part == 0 else _part_word(part, parts, str(number))
            places.append((to_ticks(position, per), meter.weight(position), say))
    return tuple(places)


def _part_word(part: int, parts: int, number: str) -> str:
    return f"{('e', 'the &', 'a')[part - 1]} of {number}" if parts == 4 else f"part {part + 1} of {number}"


def _named(
    score: Score,
    line: HandLine,
    strike: int,
    following: int,
    hand: Hand | None,
    best: tuple[int, _Strong],
    hemiolas: list[Cell],
) -> Syncopation:
    strength, strong = best
    onset, silent = line.quarters(strike), line.quarters(strong.tick)
    measure = score.measure_at(onset)
    position = measure.position_of(onset)
    beat = measure.meter.beat_at(position)
    is_held = line.sounds_at_tick(strong.tick)
    if not is_held:
        name = f"silence on {strong.say}"
    elif any(cell.onset_quarters <= onset < cell.end_quarters for cell in hemiolas):
        name = "hemiola"
    elif strong.measure.index != measure.index:
        name = "tied over the bar"
    elif position == beat.start_quarters:
        name = f"held over {strong.say}"
    elif (
        # A stronger beat than the one the strike lies in, and the note is mostly that beat's own.
        strong.weight > measure.meter.weight(beat.start_quarters)
        and silent - onset < beat.length_quarters
        and line.quarters(following) - silent >= beat.length_quarters
    ):
        name = f"anticipation of {strong.say}"
    else:
        name = f"off-beat held over {strong.say}"
    return Syncopation(onset, hand, strength, name, silent, strong.say, is_held)
