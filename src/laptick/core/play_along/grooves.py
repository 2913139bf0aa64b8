"""Backing grooves: a few drums that make the meter felt, as tables.

A pattern is one bar, a sign for each equal part of it: ``L`` low drum, ``H`` high drum, ``t`` tick, ``s`` soft stick,
``.`` nothing. Common practice, no source; the patterns are our own.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.score.meter import Meter
from laptick.core.score.score import Measure

#: Sign → sound of the kit and how loud.
DRUMS: dict[str, tuple[str, float]] = {
    "L": ("drum-low", 0.9),
    "H": ("drum-high", 0.7),
    "t": ("drum-tick", 0.45),
    "s": ("drum-soft", 0.6),
}

NO_GROOVE = "none"
AUTO_GROOVE = "auto"


@dataclass(frozen=True)
class Groove:
    """``bars``: number of beats → pattern of a whole bar; ``cells`` (first, stronger, weaker beat) make up other bars.
    ``division``: how the beats it fits divide (0: groups of twos and threes)."""

    words: str
    division: int
    bars: dict[int, str]
    cells: tuple[str, str, str] = ("", "", "")


GROOVES: dict[str, Groove] = {
    "simple": Groove(
        "simple: low and high by turns",
        2,
        {2: "LtHt", 3: "LtHtHt", 4: "LtHtLtHt", 1: "Lt"},
        ("Lt", "Lt", "Ht"),
    ),
    "waltz": Groove("waltz: low, light, light", 2, {3: "L.s.s."}),
    "compound": Groove(
        "rocking threes", 3, {1: "Ltt", 2: "LttHtt", 3: "LttHttHtt", 4: "LttHttLttHtt"}, ("Ltt", "Ltt", "Htt")
    ),
    "three-three-two": Groove("3+3+2", 2, {4: "LttsttHt", 2: "LttsttHt"}),
    "groups": Groove("twos and threes", 0, {}, ("L", "s", "t")),
}


def grooves_for(meter: Meter) -> tuple[str, ...]:
    """The grooves that fit a meter, the usual one first."""
    if meter.is_asymmetric:
        return ("groups",)
    division, beats = meter.beats[0].division, len(meter.beats)
    fitting = [
        key
        for key, groove in GROOVES.items()
        if groove.division == division and (beats in groove.bars or groove.cells[0])
    ]
    if beats == 3 and "waltz" in fitting:
        fitting.sort(key=lambda key: key != "waltz")
    return tuple(fitting)


@dataclass(frozen=True, slots=True)
class Hit:
    """``offset_quarters`` from the start of the written bar."""

    offset_quarters: Quarters
    sound: str
    level: float


def check_groove(groove: str) -> None:
    """
    Raises:
        OptionError: there is no such groove.
    """
    if groove not in (AUTO_GROOVE, NO_GROOVE) and groove not in GROOVES:
        raise OptionError(f"there is no groove “{groove[:30]}”; there are {', '.join(GROOVES)}.", where="groove")


def hits(measure: Measure, groove: str) -> tuple[Hit, ...]:
    """The drums of one bar; where a groove does not fit its meter, the usual one of that meter."""
    if groove == NO_GROOVE:
        return ()
    fitting = grooves_for(measure.meter)
    pattern = _pattern(measure.meter, groove if groove in fitting else fitting[0])
    part = measure.meter.bar_quarters / len(pattern)
    found = []
    for index, sign in enumerate(pattern):
        offset = index * part - measure.lead_quarters
        if sign != "." and Fraction(0) <= offset < measure.length_quarters:
            found.append(Hit(offset, *DRUMS[sign]))
    return tuple(found)


def _pattern(meter: Meter, groove: str) -> str:
    chosen = GROOVES[groove]
    beats = len(meter.beats)
    if chosen.division == 0:
        first, other, unit = chosen.cells
        return "".join(
            (first if i == 0 else other) + unit * (int(beat.length_quarters / meter.unit_quarters) - 1)
            for i, beat in enumerate(meter.beats)
        )
    if beats in chosen.bars:
        return chosen.bars[beats]
    # Groups of beats (3+2) begin low; without groups only the bar does.
    starts, at = set(), 0
    for size in meter.beat_groups:
        starts.add(at)
        at += size
    first, strong, weak = chosen.cells
    return "".join(first if i == 0 else strong if i in starts else weak for i in range(beats))
