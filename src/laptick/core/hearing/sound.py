"""A sound as the ear has it: mono samples from −1 to 1 at a rate, its zero the take's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds

Samples = NDArray[np.float32]

#: What is heard is brought to this rate; what has a lower one stays as it is, down to the lowest.
RATE, LOWEST_RATE = 22_050, 8_000

#: Stated limits on what is listened to.
LONGEST_S: Seconds = 1200.0
SHORTEST_S: Seconds = 0.5


@dataclass(frozen=True, eq=False)
class Sound:
    """``samples``: mono; ``rate``: of them, in Hz."""

    samples: Samples
    rate: int

    @property
    def seconds(self) -> Seconds:
        return len(self.samples) / self.rate

    def windows(self, size: int) -> Samples:
        """Every window of so many samples, a row a sample that one begins with: a view, with no checks on the way."""
        samples = self.samples
        count, step = max(0, len(samples) - size + 1), samples.strides[0]
        return np.lib.stride_tricks.as_strided(samples, (count, size), (step, step), writeable=False)

    def since(self, at_s: Seconds) -> Sound:
        """What sounds from an instant on."""
        return Sound(self.samples[max(0, round(at_s * self.rate)) :], self.rate)
