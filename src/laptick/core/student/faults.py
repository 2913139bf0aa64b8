"""The faults a simulated student can be asked for, as a table, and how they are written: ``kind=amount``.

Named and measured as in the command line.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters, parse_quarters


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault as asked for. ``amount`` is in the unit of its kind; ``place`` for faults at a place,
    ``parts`` for figures (without them the first part is ``amount`` times the others)."""

    kind: str
    amount: float
    measure: str | None = None
    offset_quarters: Quarters = Fraction(0)
    parts: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class FaultKind:
    """How a fault is written and said. ``low`` … ``high`` are the amounts accepted."""

    key: str
    unit: str
    low: float
    high: float
    words: str
    example: str


#: Faults that only key-ups show: taps have none.
OF_KEY_UPS = frozenset({"cut-holds", "hold-rests"})

FAULTS: dict[str, FaultKind] = {
    kind.key: kind
    for kind in (
        FaultKind("rush-runs", "ratio", 0.4, 1.0, "rushes the short notes", "rush-runs=0.75"),
        FaultKind("limp", "ratio", 1.0, 4.0, "goes long-short on pairs", "limp=1.6"),
        FaultKind("flatten-dots", "ratio", 1.0, 6.0, "flattens dotted pairs (long:short)", "flatten-dots=2:1"),
        FaultKind("bend-triplets", "parts", 1.0, 6.0, "bends triplets (a:b:c)", "bend-triplets=2:1:1"),
        FaultKind("late-then-hurry", "ms", 0, 600, "begins runs late and hurries", "late-then-hurry=120"),
        FaultKind("short-quarters", "percent", 0, 60, "rushes the long notes", "short-quarters=20"),
        FaultKind("cut-holds", "percent", 0, 90, "lets long notes go early", "cut-holds=40"),
        FaultKind("hold-rests", "percent", 0, 100, "holds on into rests", "hold-rests=60"),
        FaultKind("late-after-rest", "ms", 0, 600, "comes in late after rests", "late-after-rest=120"),
        FaultKind("spread", "ms", -400, 400, "left hand after the right", "spread=100"),
        FaultKind("hesitate", "beats", 0, 16, "stops before a place", "hesitate=5:1.5"),
        FaultKind("stop-at-seams", "beats", 0, 16, "stops where it is hard to go on", "stop-at-seams=1.5"),
        FaultKind("drift", "percent", -50, 100, "gets faster or slower", "drift=16"),
        FaultKind("miss", "percent", 0, 90, "leaves strikes out", "miss=15"),
        FaultKind("extra", "percent", 0, 200, "adds strikes", "extra=15"),
        FaultKind("wrong", "percent", 0, 90, "strikes the wrong key or side", "wrong=15"),
        FaultKind("restart", "measure", 0, 0, "stops and goes back to a bar", "restart=5"),
        FaultKind("jitter", "ms", 0, 400, "is unsteady", "jitter=60"),
    )
}


def parse_fault(text: str) -> Fault:
    """``kind=amount`` as written in a shell: ``limp=3:2``, ``hesitate=5@1/2:1.5``, ``restart=4``.

    Raises:
        OptionError: unknown kind, or an amount that cannot be read or lies outside its range.
    """
    name, equals, value = text.partition("=")
    kind = FAULTS.get(name)
    if kind is None:
        raise OptionError(f"there is no fault “{name}”; there are {', '.join(FAULTS)}.", where="fault")
    if not equals or not value:
        raise OptionError(f"the fault “{name}” needs an amount, as in {kind.example}.", where="fault")
    try:
        if kind.unit == "measure":
            return Fault(name, 1.0, measure=value)
        if name == "hesitate":
            place, _, beats = value.rpartition(":")
            measure, _, offset = place.partition("@")
            if not measure:
                raise ValueError
            return _in_range(kind, Fault(name, float(beats), measure, parse_quarters(offset or "0", where="fault")))
        if kind.unit == "parts":
            return _parts(kind, value)
        if kind.unit == "ratio" and ":" in value:
            first, _, second = value.partition(":")
            return _in_range(kind, Fault(name, float(first) / float(second)))
        return _in_range(kind, Fault(name, float(value)))
    except (ValueError, ZeroDivisionError):
        raise OptionError(f"“{value}” cannot be read; write it as in {kind.example}.", where="fault") from None


#: A part of a figure is no longer than this many times another.
MOST_UNEVEN = 6.0


def _parts(kind: FaultKind, value: str) -> Fault:
    parts = tuple(float(part) for part in value.split(":"))
    if len(parts) != 3 or not all(math.isfinite(part) and part > 0 for part in parts):
        raise ValueError
    if max(parts) > MOST_UNEVEN * min(parts):
        raise OptionError(f"the parts of “{kind.key}” differ by more than {MOST_UNEVEN:g} to 1.", where="fault")
    return Fault(kind.key, 1.0, parts=parts)


def _in_range(kind: FaultKind, fault: Fault) -> Fault:
    if not (math.isfinite(fault.amount) and kind.low <= fault.amount <= kind.high):
        raise OptionError(f"the fault “{kind.key}” takes {kind.low:g} to {kind.high:g} ({kind.unit}).", where="fault")
    return fault
