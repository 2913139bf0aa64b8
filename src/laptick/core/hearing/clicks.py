"""Clicks that the recorder sounded itself: when it did is known, but for the way through loudspeaker and microphone.

The delay is the one at which the most of them have something struck beside them. Found on their beat, they are told
from what is played: something that belongs to no note and lies on a click is the click. Source: ours.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.hearing.groups import Group

#: Looked for from a little before (clocks are read to some ms) to the delay of a wireless loudspeaker, in steps.
LEAST_DELAY_S, MOST_DELAY_S, DELAY_STEP_S = -0.060, 0.400, 0.004

#: Something lies on a click within this; of fewer clicks than these, or a smaller share of them, no delay is told.
ON_S: Seconds = 0.025
LEAST_CLICKS, FOUND_SHARE = 4, 0.6


def delay_of(groups: Sequence[Group], clicks_s: Sequence[Seconds]) -> Seconds | None:
    """How much later than it was sounded a click is heard; ``None`` where none is."""
    if len(clicks_s) < LEAST_CLICKS or not groups:
        return None
    at = np.array([group.at_s for group in groups])
    clicks = np.array(clicks_s)
    best_share, best_s = 0.0, 0.0
    for delay_s in np.arange(LEAST_DELAY_S, MOST_DELAY_S, DELAY_STEP_S).tolist():
        off = _nearest(at, clicks + delay_s)
        near = np.maximum(0, 1 - np.abs(off) / ON_S)
        share = float(near.mean())
        if share > best_share:
            inside = np.abs(off) < ON_S
            best_share, best_s = share, delay_s + float(np.median(off[inside]))
    off = _nearest(at, clicks + best_s)
    return best_s if float((np.abs(off) < ON_S).mean()) >= FOUND_SHARE else None


def without_clicks(groups: Sequence[Group], clicks_s: Sequence[Seconds]) -> Sequence[Group]:
    """Everything struck that lies on no click."""
    delay_s = delay_of(groups, clicks_s)
    if delay_s is None:
        return groups
    clicks = np.array(clicks_s) + delay_s
    off = _nearest(clicks, np.array([group.at_s for group in groups]))
    return [group for group, by_s in zip(groups, off.tolist(), strict=True) if abs(by_s) >= ON_S]


def _nearest(of: np.ndarray, to: np.ndarray) -> np.ndarray:
    """From each instant to the nearest of some, in time order."""
    place = np.clip(np.searchsorted(of, to), 1, max(1, len(of) - 1))
    before, after = of[place - 1] - to, of[np.minimum(place, len(of) - 1)] - to
    nearest: np.ndarray = np.where(np.abs(before) <= np.abs(after), before, after)
    return nearest
