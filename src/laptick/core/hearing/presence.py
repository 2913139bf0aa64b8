"""Was a key struck? By how loud its own partials are just after, against how loud they are wherever it is struck.

Loudness is the logarithm of the level over the floor of its bin. What is usual for a key's partial is the median over
the take, drawn towards that of the keys beside it where the key is struck seldom; what is usual *there* takes in how
loud the hand plays round it, so that a soft bar is no bar of missing notes. A key was not struck only when its partials
are neither as loud as that nor newly loud. Source: ours, measured in docs/hearing.md.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from statistics import median

import numpy as np
from numpy.typing import NDArray

from laptick.core.base.units import Seconds
from laptick.core.hearing.hands import APART_BINS
from laptick.core.hearing.partials import HEARD, IN_THE_WAY, partials_of
from laptick.core.hearing.spectrum import Spectrum

Doubles = NDArray[np.float64]

#: Loudness is taken so long before a strike, and so long after it.
BEFORE_S: tuple[Seconds, Seconds] = (0.060, 0.025)
AFTER_S: tuple[Seconds, Seconds] = (0.035, 0.065)

#: So many partials of its own a key needs to be told; a partial counts up to so many times its usual loudness, and one
#: that is usually no louder than this does not count.
LEAST_PARTIALS, MOST_TIMES, AUDIBLE = 3, 1.3, 1.0

#: … which together are usually at least so loud: what is hardly above the noise is not told by it.
LEAST_LOUD = 7.0

#: Keys this near each other sound alike; their usual loudness counts as so many strikes of a key.
ALIKE, COUNTS_AS = 3, 2

#: So many notes of the hand on either side tell how loud it plays there.
ROUND = 4

#: There are no others: a neighbour of the highest one is none.
EVERY_KEY = range(128)

#: Not struck: less loud than this share of what is usual there, and newly loud by less than this share.
QUIET, NEW = 0.58, 0.6

#: Of an event of which nothing else was heard: at least so loud, and so newly loud.
SURE_LOUD, SURE_NEW = 0.85, 0.2


@dataclass(frozen=True, eq=False)
class Loudness:
    """Of one key at one strike, partial by partial of those it has for itself: ``numbers`` of them, ``after`` it and
    ``before`` it."""

    pitch: int
    numbers: tuple[int, ...]
    after: Doubles
    before: Doubles


@dataclass(frozen=True)
class Beside:
    """What a key is heard beside: other keys that may sound with it, on a piano of this tuning; when it may have been
    struck, and later that it may have been too."""

    others: Sequence[int]
    cents: float
    at_s: Seconds
    late_s: Sequence[Seconds] = ()


@lru_cache(maxsize=16_384)
def _own_bins(
    pitch: int, others: tuple[int, ...], cents: float, bin_hz: float, bins: int
) -> tuple[NDArray[np.int64], tuple[int, ...]]:
    """The bins just below the partials that a key has for itself beside others, and which partials they are."""
    hertz = partials_of([pitch], cents, HEARD)
    foreign = partials_of(others, cents, IN_THE_WAY)
    is_own = hertz / bin_hz < bins - 1
    if len(foreign):
        is_own &= np.abs(hertz[:, None] - foreign[None, :]).min(axis=1) > APART_BINS * bin_hz
    below = (hertz[is_own] / bin_hz).astype(np.int64)
    below.setflags(write=False)
    return below, tuple(np.flatnonzero(is_own).tolist())


@lru_cache(maxsize=1024)
def _bins_of_keys(
    keys: tuple[int, ...], others: tuple[int, ...], cents: float, bin_hz: float, bins: int
) -> tuple[NDArray[np.int64], NDArray[np.bool_]]:
    """The bins just below the partials of many keys, a row a key, and which of them a key has for itself."""
    below = np.zeros((len(keys), HEARD), np.int64)
    is_own = np.zeros((len(keys), HEARD), np.bool_)
    for row, key in enumerate(keys):
        own, numbers = _own_bins(key, others, cents, bin_hz, bins)
        below[row, numbers] = own
        is_own[row, numbers] = True
    below.setflags(write=False)
    is_own.setflags(write=False)
    return below, is_own


def loudness_of(spectrum: Spectrum, pitch: int, beside: Beside) -> Loudness:
    """How loud a key is at a strike."""
    at_s = beside.at_s
    below, numbers = _own_bins(pitch, tuple(beside.others), beside.cents, spectrum.bin_hz, spectrum.bins)
    after = _loud(spectrum, below, at_s + AFTER_S[0], at_s + AFTER_S[1])
    for late_s in beside.late_s:
        later = _loud(spectrum, below, late_s + AFTER_S[0], late_s + AFTER_S[1])
        if later.sum() > after.sum():
            after = later
    before = _loud(spectrum, below, at_s - BEFORE_S[0], at_s - BEFORE_S[1])
    return Loudness(pitch, numbers, after, before)


def _loud(spectrum: Spectrum, below: NDArray[np.int64], from_s: Seconds, to_s: Seconds) -> Doubles:
    first, last = spectrum.frame_of(from_s), spectrum.frame_of(to_s) + 1
    loud: Doubles = spectrum.levels(first, last)[below]
    return loud


class Usual:
    """How loud the partials of keys usually are in a take, and how much of that is new with the strike."""

    def __init__(self, heard: Iterable[Loudness]) -> None:
        self._after: dict[tuple[int, int], list[float]] = defaultdict(list)
        self._new: dict[tuple[int, int], list[float]] = defaultdict(list)
        for one in heard:
            for number, after, before in zip(one.numbers, one.after.tolist(), one.before.tolist(), strict=True):
                self._after[one.pitch, number].append(after)
                self._new[one.pitch, number].append(after - before)
        self._known: dict[tuple[int, int], tuple[float, float] | None] = {}

    @cached_property
    def rows(self) -> tuple[Doubles, Doubles]:
        """``of`` every pitch (rows) and partial: loudness, and how much of it is new; NaN where neither is known."""
        both = np.full((2, len(EVERY_KEY), HEARD), np.nan)
        near = {(pitch + step, number) for pitch, number in self._after for step in range(-ALIKE, ALIKE + 1)}
        for pitch, number in near:
            known = self.of(pitch, number) if pitch in EVERY_KEY else None
            if known is not None:
                both[:, pitch, number] = known
        return both[0], both[1]

    def of(self, pitch: int, number: int) -> tuple[float, float] | None:
        """(loudness, how much of it is new) of a partial; ``None`` where neither the key nor one like it is struck."""
        key = (pitch, number)
        if key not in self._known:
            self._known[key] = self._found(pitch, number)
        return self._known[key]

    def _found(self, pitch: int, number: int) -> tuple[float, float] | None:
        near = [(pitch + step, number) for step in range(-ALIKE, ALIKE + 1)]
        figures = []
        for table in (self._after, self._new):
            around = [one for key in near for one in table.get(key, ())]
            if not around:
                return None
            own = table.get((pitch, number), [])
            figures.append(median([*own, *[median(around)] * COUNTS_AS]))
        return figures[0], figures[1]


@dataclass(frozen=True, slots=True)
class Share:
    """Of what is usual: how loud, and how newly loud."""

    loud: float
    new: float


def share_of(heard: Loudness, usual: Usual) -> Share | None:
    """How loud a key is for what it usually is; ``None`` where it has too few partials for itself."""
    loud = usually = new = newly = 0.0
    counted = 0
    for number, after, before in zip(heard.numbers, heard.after.tolist(), heard.before.tolist(), strict=True):
        known = usual.of(heard.pitch, number)
        if known is None or known[0] < AUDIBLE:
            continue
        counted += 1
        loud += min(after, MOST_TIMES * known[0])
        usually += known[0]
        new += min(after - before, MOST_TIMES * max(known[1], AUDIBLE))
        newly += max(known[1], AUDIBLE)
    if counted < LEAST_PARTIALS or usually < LEAST_LOUD:
        return None
    return Share(loud / usually, new / newly)


def shares_of(spectrum: Spectrum, usual: Usual, keys: Sequence[int], beside: Beside) -> list[Share | None]:
    """``share_of`` many keys, each of ``EVERY_KEY``, beside the same others; ``beside.late_s`` is left aside."""
    asked = tuple(keys)
    below, is_own = _bins_of_keys(asked, tuple(beside.others), beside.cents, spectrum.bin_hz, spectrum.bins)
    after = _loud(spectrum, below, beside.at_s + AFTER_S[0], beside.at_s + AFTER_S[1])
    new = after - _loud(spectrum, below, beside.at_s - BEFORE_S[0], beside.at_s - BEFORE_S[1])
    usually, newly = (table[list(asked)] for table in usual.rows)
    counts = is_own & (usually >= AUDIBLE)
    newly = np.maximum(newly, AUDIBLE)
    sums = [
        np.where(counts, one, 0.0).sum(axis=1).tolist()
        for one in (np.minimum(after, MOST_TIMES * usually), usually, np.minimum(new, MOST_TIMES * newly), newly)
    ]
    return [
        Share(loud / of_loud, is_new / of_new) if count >= LEAST_PARTIALS and of_loud >= LEAST_LOUD else None
        for count, loud, of_loud, is_new, of_new in zip(counts.sum(axis=1).tolist(), *sums, strict=True)
    ]


def were_struck(shares: Sequence[Share | None], doubtful: Sequence[bool]) -> list[bool]:
    """Of the notes of one hand in time order: was each struck? What cannot be told was, unless nothing else of its
    event was heard (``doubtful``): such a note is loud and newly loud."""
    loud = [None if share is None else share.loud for share in shares]
    struck = []
    for index, (share, in_doubt) in enumerate(zip(shares, doubtful, strict=True)):
        around = [one for one in loud[max(0, index - ROUND) : index + ROUND + 1] if one is not None]
        here = min(1.0, median(around)) if around else 1.0
        if share is None:
            struck.append(not in_doubt)
            continue
        sure = share.loud >= SURE_LOUD * here and share.new >= SURE_NEW * here
        tests = (share.loud >= QUIET * here, share.new >= NEW * here)
        struck.append(sure if in_doubt else any(tests))
    return struck
