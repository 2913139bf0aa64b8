"""Scales in ratios: one hand goes two, three or four times as fast as the other, or three to its two.

Both hands go up and down their octaves without repeating the top note. The drill ends when the slow hand stands at an
end of its scale and the fast one strikes with it: *2 : 1* and *4 : 1*, the fast hand is back where it began when the
slow one tops; *3 : 1*, both are at the top. Where they *meet* – the same note at once, by its letter – is how one
checks it.
Source: docs/trade.md 3.5 (common practice).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Bpm
from laptick.core.drills.drill import Drill, Event, Frame, Meeting, laid, with_last_filled
from laptick.core.drills.scales import Scale
from laptick.core.score.score import HANDS, Hand

#: Strikes of the fast hand to strikes of the slow one.
RATIOS: Mapping[str, tuple[int, int]] = {"2:1": (2, 1), "3:1": (3, 1), "4:1": (4, 1), "3:2": (3, 2), "4:3": (4, 3)}

#: Where the hands begin: octaves of the right hand above the left.
STARTS: Mapping[str, int] = {"octave-apart": 1, "together": 0, "two-octaves-apart": 2, "crossed": -1}

MOTIONS = ("parallel", "contrary")
MOST_OCTAVES = 4

#: In parallel motion the left hand begins on the highest tonic below that key, an octave lower for each octave more
#: than one; in contrary motion the right hand begins on the highest tonic below the other one.
_LEFT_BELOW, _RIGHT_BELOW = 57, 66


@dataclass(frozen=True, slots=True)
class RatioScale:
    """``ratio``, ``start``: keys of ``RATIOS`` and ``STARTS``; ``fast``: the hand; ``motion``: in contrary motion the
    left hand goes down while the right one goes up."""

    scale: Scale
    octaves: int = 1
    ratio: str = "2:1"
    fast: Hand = Hand.RIGHT
    start: str = "octave-apart"
    motion: str = "parallel"
    bpm: Bpm | None = None

    @property
    def top(self) -> int:
        """The degree at which a hand turns."""
        return self.octaves * self.scale.size

    @property
    def title(self) -> str:
        ratio = self.ratio.replace(":", " : ")
        far = "" if self.octaves == 1 else f", {self.octaves} octaves"
        return f"{self.scale.title}{far}, {ratio}, {self.fast.value} hand fast"


def check_ratio(asked: RatioScale) -> None:
    """Raises:
    OptionError: a ratio, a start, a motion or octaves that there are none of.
    """
    for value, known, where in (
        (asked.ratio, tuple(RATIOS), "ratio"),
        (asked.start, tuple(STARTS), "start"),
        (asked.motion, MOTIONS, "motion"),
    ):
        if value not in known:
            raise OptionError(f"“{value[:20]}” is none.", where=where, todo=f"There are {', '.join(known)}.")
    if not 1 <= asked.octaves <= MOST_OCTAVES:
        raise OptionError(f"a scale goes over 1 to {MOST_OCTAVES} octaves.", where="octaves")
    if asked.motion == "parallel" and STARTS[asked.start] == 0:
        raise OptionError(
            "in parallel motion both hands would want the same keys.", where="start", todo="Begin an octave apart."
        )
    if asked.scale.mode == "five-finger" and asked.octaves != 1:
        raise OptionError("five fingers cover one place.", where="octaves", todo="Choose one octave.")


def degree_at(step: int, top: int) -> int:
    """Where a hand is after so many steps up and down, the top and the bottom struck once each."""
    inside = step % (2 * top)
    return inside if inside <= top else 2 * top - inside


def slow_steps(top: int, fast: int, slow: int) -> int:
    """How far the slow hand goes: to an end of its scale where the fast one strikes too."""
    return next(times * top for times in range(1, slow + 1) if times * top * fast % slow == 0)


def make_ratio(asked: RatioScale) -> Drill:
    """The scale as a score, with the places where the hands meet.

    Raises:
        OptionError: something that there is none of, or a key that no keyboard has.
    """
    check_ratio(asked)
    fast, slow = RATIOS[asked.ratio]
    steps = {asked.fast: fast, _other(asked.fast): slow}
    total = Fraction(slow_steps(asked.top, fast, slow), slow)  # in beats
    lines = {hand: _line(asked, hand, steps[hand], total) for hand in HANDS}
    frame = Frame(asked.title, bpm=asked.bpm, fifths=asked.scale.fifths)
    score = laid(frame, {h: with_last_filled([e for e, _ in line], Fraction(4)) for h, line in lines.items()})
    at = {hand: dict(_onsets(line)) for hand, line in lines.items()}
    meetings = []
    for onset in sorted(at[Hand.RIGHT].keys() & at[Hand.LEFT].keys()):
        (right, right_key), (left, left_key) = at[Hand.RIGHT][onset], at[Hand.LEFT][onset]
        if onset and (right.rstrip("0123456789-") == left.rstrip("0123456789-") or onset == total):
            measure = score.measure_at(onset)
            meetings.append(Meeting(measure.index, onset - measure.start_quarters, right, left, right_key == left_key))
    ends = (lines[Hand.RIGHT][-1][1][0], lines[Hand.LEFT][-1][1][0])
    return Drill(score, tuple(meetings), ends, _sentence(asked, meetings))


def _other(hand: Hand) -> Hand:
    return Hand.LEFT if hand is Hand.RIGHT else Hand.RIGHT


def _line(asked: RatioScale, hand: Hand, a_beat: int, total: Fraction) -> list[tuple[Event, tuple[str, int]]]:
    """A hand's strikes, ``a_beat`` of them, up and down, and the one that ends it."""
    octave = _left_octave(asked) + (STARTS[asked.start] if hand is Hand.RIGHT else 0)
    down = asked.motion == "contrary" and hand is Hand.LEFT
    found = []
    for step in range(int(total * a_beat) + 1):
        degree = degree_at(step, asked.top)
        note = asked.scale.note(-degree if down else degree, octave)
        is_last = step == total * a_beat
        found.append((Event(Fraction(1) if is_last else Fraction(1, a_beat), (note,)), note))
    return found


def _onsets(line: list[tuple[Event, tuple[str, int]]]) -> list[tuple[Fraction, tuple[str, int]]]:
    found, at = [], Fraction(0)
    for event, note in line:
        found.append((at, note))
        at += event.length_quarters
    return found


def _left_octave(asked: RatioScale) -> int:
    """The octave of the left hand's first note: so that the middle of the keyboard is in reach of both."""
    if asked.motion == "contrary":
        return _highest(asked.scale, _RIGHT_BELOW) - STARTS[asked.start]
    crossed = 1 if STARTS[asked.start] < 0 else 0
    return max(1, _highest(asked.scale, _LEFT_BELOW) - (asked.octaves - 1) + crossed)


def _highest(scale: Scale, below: int) -> int:
    return max(octave for octave in range(8) if scale.tonic_key(octave) < below)


def _sentence(asked: RatioScale, meetings: list[Meeting]) -> str:
    last = meetings[-1]
    slow = _other(asked.fast).value
    name = last.right.rstrip("0123456789-")
    if last.left.rstrip("0123456789-") != name:
        return f"You end together: the right hand on {last.right}, the left on {last.left}."
    where = "on one key" if last.same_key else "in both hands"
    return f"When the {slow} hand turns you meet on {name}, {where}."
