"""Keys struck that nothing asked for: what is strong, belongs to no event, and is clearly one key.

Looked for where something strong is left over, and where an event was heard but a note of it was not. Speech, clicks
and the room are strong at times too; they are no key that is loud in its own partials, newly loud, and clearly more so
than every other key.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from laptick.core.base.units import Seconds
from laptick.core.hearing.groups import Group
from laptick.core.hearing.presence import EVERY_KEY, Beside, Usual, loudness_of, share_of, shares_of
from laptick.core.hearing.spectrum import Spectrum
from laptick.core.takes.performance import Strike

#: What is left over is looked into from this strength on, and this share of the usual; so many of the strongest.
LEAST_STRENGTH, STRENGTH_SHARE, MOST_LOOKED_AT = 0.11, 0.3, 60

#: … and what is weaker, for what is clearly a key, from this share of the usual strength on.
WEAK_STRENGTH, WEAK_SHARE = 0.05, 0.1

#: … and so far from every event: before it, and after it, where the other hand and the ring of the strike are.
BEFORE_S, AFTER_S = 0.045, 0.130

#: … or only so far after it, where it may be the other hand of it.
CLOSE_S = 0.070

#: Where so much is left over and less than this share of it is a clear key, none is told.
LEAST_NOISE, KEYS_SHARE = 5, 0.25

#: A key this loud and newly loud was struck itself; another in its place is more so by this much.
ITSELF, MORE = 0.85, 0.2

#: So long before the first event, and after the last, what sounds is no part of the playing.
ROUND_S = 0.6

#: In a note's place another one lies at most so many semitones away; one too many that falls together with it, so many.
NEAR_KEYS, TOGETHER_KEYS = 4, 7


#: Below this key, those so many semitones beside one that is struck are not told from it: their partials lie too near.
LOW_KEY, BLURRED_KEYS = 52, 2


@dataclass(frozen=True, slots=True)
class Clear:
    """A key is clear that is at least so ``loud`` and so ``new``, as shares of what is usual, and in the lesser of them
    so far ``ahead`` of every other one."""

    loud: float
    new: float
    ahead: float


#: In the place of a note; between events, where hardly anything else begins; together with one, where much does.
INSTEAD, BETWEEN, TOGETHER = Clear(0.85, 0.7, 0.06), Clear(0.6, 0.5, 0.1), Clear(0.95, 0.95, 0.1)


def left_over(groups: Sequence[Group], found_s: Sequence[Seconds], *, every: bool = False) -> list[Seconds]:
    """When something strong was struck that belongs to no event; with ``every``, what is weaker too, and what may be
    the other hand of one."""
    if not groups or not found_s:
        return []
    least, share, after_s = (WEAK_STRENGTH, WEAK_SHARE, CLOSE_S) if every else (LEAST_STRENGTH, STRENGTH_SHARE, AFTER_S)
    usual = float(np.median([group.strength for group in groups]))
    at = np.sort(np.array(found_s))
    strong = []
    for group in groups:
        if not at[0] - ROUND_S <= group.at_s <= at[-1] + ROUND_S or group.strength < least + share * usual:
            continue
        place = int(np.searchsorted(at, group.at_s))
        after = group.at_s - at[place - 1] if place else np.inf
        before = at[place] - group.at_s if place < len(at) else np.inf
        if after > after_s and before > BEFORE_S:
            strong.append(group)
    strong.sort(key=lambda group: -group.strength)
    return sorted(group.at_s for group in strong[:MOST_LOOKED_AT])


def is_noise(looked: Sequence[Strike | None]) -> bool:
    """Is most of what is left over no key? Then somebody speaks, or something knocks, and of that one or the other
    sounds like a key by chance."""
    return len(looked) >= LEAST_NOISE and sum(one is not None for one in looked) < KEYS_SHARE * len(looked)


def key_struck(
    spectrum: Spectrum,
    usual: Usual,
    keys: Iterable[int],
    beside: Beside,
    not_these: frozenset[int] = frozenset(),
    *,
    clear: Clear = INSTEAD,
) -> Strike | None:
    """The one key of some that was struck at an instant, if it is ``clear``. ``not_these``: keys that sound there
    anyway."""
    found = _clearest(spectrum, usual, keys, beside, not_these, clear=clear)
    return None if found is None else Strike(beside.at_s, pitch=found[1])


def taken_for(spectrum: Spectrum, usual: Usual, pitch: int, beside: Beside, chord: frozenset[int]) -> Strike | None:
    """The key near one that seems to be struck, where it was that which was struck in its place: strings of neighbours
    share what lies below, so that the one is heard a little in the other. ``chord``: all keys that are asked for."""
    own = share_of(loudness_of(spectrum, pitch, beside), usual)
    if own is None or min(own.loud, own.new) >= ITSELF:
        return None
    near = range(pitch - NEAR_KEYS, pitch + NEAR_KEYS + 1)
    found = _clearest(spectrum, usual, near, beside, chord, clear=INSTEAD)
    if found is None or found[0] < min(own.loud, own.new) + MORE:
        return None
    return Strike(beside.at_s, pitch=found[1])


def _clearest(
    spectrum: Spectrum, usual: Usual, keys: Iterable[int], beside: Beside, not_these: frozenset[int], *, clear: Clear
) -> tuple[float, int] | None:
    asked = [key for key in keys if key not in not_these and key in EVERY_KEY]
    told = zip(asked, shares_of(spectrum, usual, asked, beside), strict=True)
    shares = [(min(share.loud, share.new), share, key) for key, share in told if share is not None]
    shares.sort(key=lambda one: one[0], reverse=True)
    if not shares:
        return None
    likeness, share, key = shares[0]
    others = [one for one, _, other in shares[1:] if (other - key) % 12 not in (0, 7, 5)]
    if share.loud < clear.loud or share.new < clear.new or (others and likeness < others[0] + clear.ahead):
        return None
    return likeness, key
