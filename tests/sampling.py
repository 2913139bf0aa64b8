"""How many samples the slowest tests take: few here, all of them in ``benchmarks/full_samples.py``."""

from __future__ import annotations

import os

#: Set by the benchmark.
FULL = os.environ.get("LAPTICK_FULL_SAMPLES") == "1"


def sampled(few: int, full: int) -> int:
    return full if FULL else few
