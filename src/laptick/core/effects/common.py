"""What pulls at every strike of a take alike: its begin, its pace, hands apart, stops, phrases; and the take itself.

Columns are seconds per unit of the effect; prior SDs are weak enough to determine nothing that is played.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from laptick.core.effects.noise import Floats, Strikes
from laptick.core.effects.phrases import Shape, broad
from laptick.core.effects.places import Scale
from laptick.core.score.score import Hand

#: Prior SDs: of the begin (s), the pace (share), a hand's lag (s), a stop (s), and how much broader a phrase's end is.
BEGIN_SD_S, PACE_SD, APART_SD_S, STOP_SD_S, PHRASE_SD = 100.0, 0.5, 0.2, 5.0, 0.15


@dataclass(frozen=True)
class Take:
    """What the regression is given. ``steps``: onsets from which the playing began anew, after a stop or a bend;
    ``together_sd_s``: how far one hand may lag wherever both strike."""

    strikes: Strikes
    hands: tuple[Hand | None, ...]
    steps: tuple[float, ...]
    phrases: tuple[Shape, ...]
    scale: Scale
    together_sd_s: float = APART_SD_S


def everywhere(take: Take, strikes: Strikes) -> tuple[list[Floats], list[float]]:
    """(columns, prior SDs) of begin, pace, hands apart, stops and phrases, in that order."""
    columns: list[Floats] = [np.ones(len(strikes)), strikes.clock_s]
    sds = [BEGIN_SD_S, PACE_SD]
    if strikes.hand.any() and not strikes.hand.all():
        columns.append(strikes.hand.astype(np.float64) - 0.5)
        sds.append(APART_SD_S)
    for step in take.steps:
        if strikes.onset[0] < step <= strikes.onset[-1]:
            columns.append((strikes.onset >= step - 1e-6).astype(np.float64))
            sds.append(STOP_SD_S)
    for shape in take.phrases:
        columns.append(broad(strikes, shape.spans))
        sds.append(PHRASE_SD)
    return columns, sds
