"""One rung: how it is made of a stage and a place, what it is called, where bars are named.

A bar has the name it is printed with; where a file names several alike, the first is meant. The keys are ours.
"""

from __future__ import annotations

from dataclasses import replace

from laptick.core.base.errors import OptionError
from laptick.core.practice.ladder.stages import BY_WORD, ROUNDS, SHORT_BARS, GateKind, Rung, Stage
from laptick.core.practice.ladder.ways import WAYS
from laptick.core.score.places import beat_words
from laptick.core.score.roadmap import MOST_ROUND_BARS
from laptick.core.score.score import Measure, Score
from laptick.core.score.within import Within

#: Of the name of a bar so many letters stand in a key.
MOST_NAME = 24


def bare_rung(score: Score, stage: Stage, bars: range, hands: str) -> Rung:
    """A rung over some bars with what follows from these: its key, how it is called, how often it goes round."""
    first, last = score.measures[bars[0]], score.measures[bars[-1]]
    is_short = stage in (Stage.JOIN, Stage.SEAMS, Stage.RIGHT, Stage.LEFT) and len(bars) <= SHORT_BARS
    return Rung(
        f"{stage.value}:{_name(first)[:MOST_NAME]}-{_name(last)[:MOST_NAME]}:{hands}",
        bars_words(first, last),
        stage,
        bars[0],
        bars[-1],
        hands,
        "",
        ROUNDS if is_short else 1,
        (),
        first.meter.beat_quarters,
        GateKind.WORD if stage in BY_WORD else GateKind.ONE_CLEAN,
        "",
    )


def in_way(rung: Rung, way: str) -> Rung:
    """A rung of both hands joined in another way: another key, with the hands and the gate of that way."""
    known = WAYS[way]
    return replace(rung, key=f"{rung.key}:{way}", hands=known.hands, gate=known.gate, why=known.why, way=way)


def in_spot(score: Score, rung: Rung, within: Within | None) -> Rung:
    """The rung over a spot of its bars only: another key, another name, and round and round where it is short."""
    if within is None:
        return rung
    first, last = score.measures[rung.first], score.measures[rung.last]
    at = within.to_quarters if rung.stage is Stage.SEAMS else within.text
    key = f"{rung.stage.value}:{_name(first)[:MOST_NAME]}-{_name(last)[:MOST_NAME]}@{at}:{rung.hands}"
    rounds = ROUNDS if rung.stage is Stage.SEAMS and len(rung.bars) <= MOST_ROUND_BARS else rung.rounds
    title = within.words(first, last)
    if rung.stage is Stage.SEAMS:
        into = beat_words(last, within.to_quarters)
        title = f"bar {first.number} into {last.number}" if first is not last else f"bar {last.number}, into {into}"
    return replace(rung, key=key, title=title[0].upper() + title[1:], rounds=rounds, within=within)


def named_bars(score: Score, first: str, last: str) -> range:
    """Written bars by their names.

    Raises:
        OptionError: there are none of these names, or the last is before the first.
    """
    index_of = {_name(measure): measure.index for measure in reversed(score.measures)}
    for name in (first, last):
        if name not in index_of:
            raise OptionError(f"there is no bar “{name[:12]}” in this piece.", where="bars")
    if index_of[last] < index_of[first]:
        raise OptionError(f"bar {last} comes before bar {first}.", where="bars")
    return range(index_of[first], index_of[last] + 1)


def _name(measure: Measure) -> str:
    return measure.number if measure.pass_number == 1 else f"{measure.number}.{measure.pass_number}"


def bars_words(first: Measure, last: Measure) -> str:
    return f"Bar {first.number}" if first is last else f"Bars {first.number}–{last.number}"


def measures_of(score: Score, rung: Rung) -> str | None:
    """A rung's bars by name; ``None``: the whole piece, as it is played."""
    if rung.first == 0 and rung.last == len(score.measures) - 1:
        return None
    first, last = score.measures[rung.first].number, score.measures[rung.last].number
    return first if rung.first == rung.last else f"{first}-{last}"
