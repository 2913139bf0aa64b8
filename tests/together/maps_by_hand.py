"""Maps worked out by hand, before there was code for them: what goes down together, what lifts, how the hands stand to
each other, what makes a bar hard to join.

Events are written ``offset T``, ``R`` or ``L`` in quarters of the bar; a lift is ``offset hand pitches``: a key that is let
go while its hand strikes nothing, or while another key of its voice sounds on; going from one key to the next is none, and
the last of all is left out. Source: docs/trade.md 3.1 (common practice); worked by hand.
"""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class MapByHand:
    """``events``, ``lifts`` and ``ratio``: one line a bar; ``reasons``: (bar index, code) that must be there; ``not_there``:
    that must not."""

    words: str
    right: str
    left: str
    events: tuple[str, ...]
    ratio: tuple[str, ...]
    lifts: tuple[str, ...] = ()
    time: tuple[int, int] = (4, 4)
    reasons: frozenset[tuple[int, str]] = field(default=frozenset())
    not_there: frozenset[tuple[int, str]] = field(default=frozenset())


M = MapByHand
FOUR = "C5/q D5/q E5/q F5/q"
EVERY = "0 T, 1 T, 2 T, 3 T"


def has(*codes: str, bar: int = 0) -> frozenset[tuple[int, str]]:
    return frozenset((bar, code) for code in codes)


MAPS = (
    M("quarters over halves", FOUR, "C3/h G3/h", ("0 T, 1 R, 2 T, 3 R",), ("2:1",), not_there=has("alternate", "off-beat")),
    M("quarters over a whole note", FOUR, "C3/w", ("0 T, 1 R, 2 R, 3 R",), ("4:1",), not_there=has("alternate")),
    M("one over four", "C5/w", "C3/q D3/q E3/q F3/q", ("0 T, 1 L, 2 L, 3 L",), ("1:4",)),
    M("three over one", "E5/q D5/q C5/q", "C3/h.", ("0 T, 1 R, 2 R",), ("3:1",), time=(3, 4)),
    M("quarters together", FOUR, "C4/q B3/q A3/q G3/q", (EVERY,), ("1:1",), reasons=has("mirrored")),
    M("two triplets over four eighths", "C5/et D5/et E5/et F5/et E5/et D5/et", "C3/e D3/e E3/e D3/e",
      ("0 T, 1/3 R, 1/2 L, 2/3 R, 1 T, 4/3 R, 3/2 L, 5/3 R",), ("3:2",), time=(2, 4), reasons=has("cross-rhythm")),
    M("two over three", "C5/q. D5/q.", "C3/q D3/q E3/q", ("0 T, 1 L, 3/2 R, 2 L",), ("2:3",), time=(3, 4),
      reasons=has("cross-rhythm")),
    M("four over three", "C5/e. D5/e. E5/e. F5/e.", "C3/q D3/q E3/q", ("0 T, 3/4 R, 1 L, 3/2 R, 2 L, 9/4 R",), ("4:3",),
      time=(3, 4), reasons=has("cross-rhythm")),
    M("eighths on the ands only", "r/e C5/e r/e D5/e r/e E5/e r/e F5/e", "C3/q D3/q E3/q D3/q",
      ("0 L, 1/2 R, 1 L, 3/2 R, 2 L, 5/2 R, 3 L, 7/2 R",), ("free",), ("1 R C5, 2 R D5, 3 R E5",), reasons=has("alternate")),
    M("turns on the beats", "C5/q r/q E5/q r/q", "r/q G3/q r/q C3/q", ("0 R, 1 L, 2 R, 3 L",), ("free",),
      ("1 R C5, 2 L G3, 3 R E5",), reasons=has("alternate")),
    M("tied in from the bar before", "C5/w~ | C5/h D5/h", "C3/w | G3/h C3/h", ("0 T", "0 L, 2 T"), ("1:1", "free"), ("", "")),
    M("one key for both, one T", "C4/q D4/q E4/h", "C4/h G3/h", ("0 T, 1 R, 2 T",), ("free",), reasons=has("key-clash")),
    M("a key that the other hand holds", "E4/q C4/q E4/h", "C4/h G3/h", ("0 T, 1 R, 2 T",), ("free",),
      reasons=has("key-clash")),
    M("one hand rests", "r/w", "C3/q D3/q E3/q D3/q", ("0 L, 1 L, 2 L, 3 L",), ("free",), not_there=has("alternate")),
    M("nothing at all", "r/w | " + FOUR, "r/w | C3/h G3/h", ("", "0 T, 1 R, 2 T, 3 R"), ("free", "2:1")),
    M("syncopated over beats", "C5/e D5/q E5/q F5/q E5/e", "C3/q D3/q E3/q D3/q",
      ("0 T, 1/2 R, 1 L, 3/2 R, 2 L, 5/2 R, 3 L, 7/2 R",), ("free",), reasons=has("off-beat")),
    M("a rest in both hands: what lifts at it", "C5/q D5/q r/h", "C3/q G3/q r/q C3/q", ("0 T, 1 T, 3 L",), ("free",),
      ("2 R D5, 2 L G3",)),
    M("a chord let go before the bar ends", "C5+E5/h r/h", "C3/w", ("0 T",), ("1:1",), ("2 R C5 E5",)),
    M("what sounds to the bar line lifts in the next bar", f"{FOUR} | r/q D5/q E5/h", "C3/h G3/h | C3/w",
      ("0 T, 1 R, 2 T, 3 R", "0 L, 1 R, 2 R"), ("2:1", "free"), ("", "0 R F5")),
    M("both hands move at the bar line", "C5/q D5/q E5/q G5/q | A5/q B5/q C6/q A5/q", "C3/h G3/h | F2/h C3/h",
      ("0 T, 1 R, 2 T, 3 R",) * 2, ("2:1", "2:1"), reasons=has("both-change", bar=1), not_there=has("both-change")),
    M("an octave without time", "C5/q D5/q E5/q G5/q | G6/q F6/q E6/q D6/q", "C3/w | C3/w", ("0 T, 1 R, 2 R, 3 R",) * 2,
      ("4:1", "4:1"), reasons=has("moves-without-time", bar=1)),
    M("the same move after a rest", "C5/q D5/q r/h | G6/q F6/q E6/q D6/q", "C3/w | C3/w", ("0 T, 1 R", "0 T, 1 R, 2 R, 3 R"),
      ("free", "4:1"), ("2 R D5", ""), not_there=has("moves-without-time", bar=1)),
    M("the left hand over the right", "C5/h E5/h", "C3/q E6/q C3/q E6/q", ("0 T, 1 L, 2 T, 3 L",), ("1:2",),
      reasons=has("over-the-other-hand")),
    M("a tenth", FOUR, "C3+E4/h G2+B3/h", ("0 T, 1 R, 2 T, 3 R",), ("2:1",), reasons=has("wide-reach")),
    M("thirds apart, side by side", FOUR, "E3/q F3/q G3/q A3/q", (EVERY,), ("1:1",), reasons=has("near-parallel"),
      not_there=has("mirrored")),
    M("octaves side by side are no trap", FOUR, "C4/q D4/q E4/q F4/q", (EVERY,), ("1:1",), not_there=has("near-parallel")),
    M("F sharp and then F", "D5/q E5/q F#5/q G5/q | G5/q F5/q E5/q D5/q", "G3/w | C3/w", ("0 T, 1 R, 2 R, 3 R",) * 2,
      ("4:1", "4:1"), reasons=has("accidental-reversed", bar=1)),
    M("another rhythm than ever before", f"{FOUR} | C5/e D5/e E5/q F5/e E5/e D5/q", "C3/w | C3/h G3/h",
      ("0 T, 1 R, 2 R, 3 R", "0 T, 1/2 R, 1 R, 2 T, 5/2 R, 3 R"), ("4:1", "free"), reasons=has("new-rhythm", bar=1)),
)  # fmt: skip
