"""What makes hands hard to join: every reason with its weight, in one table.

A weight is what one occurrence costs; 1 is about a hand that is put down an octave away without time. The weights are
set by judgement and by half of the pairs ranked by hand (docs/difficulty.md tells why each is what it is, and how the
other half comes out). Source of the reasons: docs/trade.md 3.1 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Reason(StrEnum):
    """Why a place is hard to join; ``MIRRORED`` makes it easier."""

    ALTERNATE = "alternate"
    OFF_BEAT = "off-beat"
    CROSS_RHYTHM = "cross-rhythm"
    BOTH_CHANGE = "both-change"
    MOVES_WITHOUT_TIME = "moves-without-time"
    NEW_RHYTHM = "new-rhythm"
    WIDE_REACH = "wide-reach"
    NEAR_PARALLEL = "near-parallel"
    THUMBS_APART = "thumbs-apart"
    SAME_FINGERS_OTHER_SPREAD = "same-fingers-other-spread"
    ONE_CLEF = "one-clef"
    ACCIDENTAL_REVERSED = "accidental-reversed"
    KEY_CLASH = "key-clash"
    LINE_JUMP = "line-jump"
    OVER_THE_OTHER_HAND = "over-the-other-hand"
    MIRRORED = "mirrored"


@dataclass(frozen=True, slots=True)
class Item:
    """One occurrence: ``reason`` is ``None`` for what costs without being told (an event, a move in time)."""

    reason: Reason | None
    cost: float


@dataclass(frozen=True)
class Weights:
    """``*_s``: seconds; costs otherwise. Moves and rhythms have laws of their own (``joining.py``)."""

    event: float = 0.05
    together_after_solo: float = 0.08
    alternate: float = 0.30
    alternate_off_beat: float = 0.50
    off_beat: float = 0.70
    cross_rhythm: float = 0.65
    #: A move by n steps costs this times log2(1 + n); near ones less; halved by so much time.
    move: float = 0.42
    near_move: float = 0.22
    near_steps: int = 2
    move_time_s: float = 0.4
    long_note_s: float = 0.35
    at_once: float = 1.4
    crossing: float = 0.3
    both_shift: float = 0.7
    mirrored_share: float = 0.25
    both_change: float = 0.35
    both_change_after_held: float = 0.49
    chord_note: float = 0.10
    octave: float = 0.15
    beyond_span: float = 0.6
    stretch: float = 0.12
    near_parallel: float = 0.2
    parallel: float = 0.1
    contrary_unequal: float = 0.12
    one_stays: float = 0.08
    mirrored: float = -0.03
    key_clash: float = 0.3
    over_the_other_hand: float = 0.15
    one_clef: float = 0.1
    accidental_reversed: float = 0.2
    line_jump: float = 0.15
    other_spread: float = 0.15
    new_rhythm: float = 0.12
    thumbs_apart: float = 0.35
    #: A two-hand pattern of a beat met for the first, second, later time.
    pattern: tuple[float, float, float] = (1.0, 0.85, 0.7)
    #: Beats closer together than so many events a second cost more with every doubling.
    events_per_s: float = 2.5
    density: float = 0.3
    known_notes: float = 0.5
    known_rhythm: float = 0.8
    #: Where 63 of 100 points are reached.
    bar_scale: float = 1.9
    seam_scale: float = 1.5


WEIGHTS = Weights()
