"""Syncopation: where the weight of the meter falls on a position that is not struck.

Source: H. C. Longuet-Higgins & C. S. Lee, "The rhythmic interpretation of monophonic music", Music
Perception 1(4), 1984: a strike followed, before the next strike of its line, by a rest or held
position of strictly greater metrical weight; the strength is the difference, taken at the strongest
position covered. Names: common practice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.rhythm.cells import Cell, find_cells
from laptick.core.score.hand_line import HandLine, hand_line, to_ticks
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


def syncopations_of(score: Score, hand: Hand | None) -> list[Syncopation]:
    """All syncopations of a hand in the whole score; kept with it, for they do not depend on how it is counted."""
    return SYNCOPATIONS.of(score, hand, lambda: find_syncopations(score, hand_line(score, hand), score.measures, hand))


SYNCOPATIONS: Kept[Score, Hand | None, list[Syncopation]] = Kept()


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
            name = _name_of(score, line, (strike, following), best[1], hemiolas)
            found.append(_syncopation(line, strike, hand, best, name))
    return found


WEIGHTS: Kept[Score, None, list[_Strong]] = Kept()


def _grid(score: Score, per: int) -> list[_Strong]:
    """Every beat and its quarters (thirds) in the whole piece: only these can outweigh a strike, since
    anything weaker than a strike's own level never does."""

    def found() -> list[_Strong]:
        grid: list[_Strong] = []
        for measure in score.measures:
            start, lead = to_ticks(measure.start_quarters, per), to_ticks(measure.lead_quarters, per)
            length = to_ticks(measure.length_quarters, per)
            for position, weight, say in _places(measure.meter, per):
                if 0 <= position - lead < length:
                    grid.append(_Strong(start + position - lead, weight, say, measure))
        return grid

    return WEIGHTS.of(score, None, found)


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


def _syncopation(line: HandLine, strike: int, hand: Hand | None, best: tuple[int, _Strong], name: str) -> Syncopation:
    strength, strong = best
    silent, is_held = line.quarters(strong.tick), line.sounds_at_tick(strong.tick)
    return Syncopation(line.quarters(strike), hand, strength, name, silent, is_held)


def _name_of(score: Score, line: HandLine, between: tuple[int, int], strong: _Strong, hemiolas: list[Cell]) -> str:
    """What a strike is called over which something stronger is not struck. ``between``: the strike and the next."""
    onset, following = (line.quarters(tick) for tick in between)
    silent = line.quarters(strong.tick)
    measure = score.measure_at(onset)
    position = measure.position_of(onset)
    beat = measure.meter.beat_at(position)
    if not line.sounds_at_tick(strong.tick):
        return f"silence on {strong.say}"
    if any(cell.onset_quarters <= onset < cell.end_quarters for cell in hemiolas):
        return "hemiola"
    if strong.measure.index != measure.index:
        return "tied over the bar"
    if position == beat.start_quarters:
        return f"held over {strong.say}"
    # A stronger beat than the one the strike lies in, and the note is mostly that beat's own.
    is_stronger = strong.weight > measure.meter.weight(beat.start_quarters)
    if is_stronger and silent - onset < beat.length_quarters and following - silent >= beat.length_quarters:
        return f"anticipation of {strong.say}"
    return f"off-beat held over {strong.say}"
