"""How far residuals spread round a regression, when few of them tell and some lie far out.

Motor noise has heavier tails than a normal, and a strike that has an effect to itself tells nothing: its residual is
next to nothing, made large by being divided by next to nothing. So residuals weigh what the other strikes tell of them,
and their scale is that of a t distribution, which wastes less of them than a median does.

Source: the scale of a t distribution by weighed squares, after Lange, Little & Taylor, J. American Statistical
Association 84, 1989 (from memory); the degrees of freedom and what an ordinary player counts for are ours and measured
in docs/operating-curve.md.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np

from laptick.core.effects.noise import Floats

#: The degrees of freedom of the noise. Its scale is told as the SD of a normal as broad in the core: there the mean of
#: the weighed squares lies between what a normal's is (0.82) and what that of a t of four degrees is (0.97).
TAILS, CORE = 6.0, 0.92

#: Rounds in which the scale is found, from the median's; and what it is never below: of who plays exactly nothing is
#: left.
ROUNDS, LEAST = 12, 1e-3

#: Of whom few strikes tell, how well is played is not known: an ordinary player counts as so many strikes.
KNOWN_STRIKES = 5.0


@dataclass(frozen=True, slots=True)
class Residuals:
    """``in_sds``: how far each strike lies from where the others have it, in the SDs of that; ``told``: what share of
    it these others tell, from 0 to 1."""

    in_sds: Floats
    told: Floats


def spread_of(residuals: Sequence[Residuals]) -> float:
    """The SD of residuals, of however many stretches, in their own SDs: 1 for noise as it was thought to be."""
    in_sds = np.concatenate([one.in_sds for one in residuals])
    told = np.concatenate([one.told for one in residuals])
    squares, spread = in_sds**2, max(LEAST, float(median(np.abs(in_sds).tolist())) / 0.6745)
    for _ in range(ROUNDS):
        weights = told * (TAILS + 1) / (TAILS + squares / spread**2)
        spread = max(LEAST, float(np.sqrt(weights @ squares / (CORE * max(LEAST, told.sum())))))
    return spread


def drawn_to(ordinary: float, scale: float, residuals: Sequence[Residuals]) -> float:
    """A scale found from these residuals, drawn towards an ordinary one by as much as they leave open."""
    told = float(sum(one.told.sum() for one in residuals))
    return float(np.sqrt((told * scale**2 + KNOWN_STRIKES * ordinary**2) / (told + KNOWN_STRIKES)))
