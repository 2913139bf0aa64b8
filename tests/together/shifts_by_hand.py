"""Where a hand is put down anew: twenty lines whose positions were chosen by hand, before there was code that looks for
them.

A bar is ``position: figure``, two of them divided by ``;`` where the hand moves inside it. The position is the key under
the lowest finger; a figure has words such as ``1q`` (the first of the five neighbouring keys, a quarter), ``135h`` (a
chord), ``8e`` (an octave above the first: one open hand), ``rq`` (a rest). Every position shows its lowest and its highest
key, so that where the hand stands is no matter of taste. A shift stands at the first strike of a new position.
Source: docs/trade.md 3.2 (common practice); worked by hand.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction as F

STEPS = "CDEFGAB"
LENGTHS = {"w": F(4), "h": F(2), "q": F(1), "e": F(1, 2)}


@dataclass(frozen=True)
class Line:
    words: str
    hand: str
    bars: str
    time: tuple[int, int] = (4, 4)


@dataclass(frozen=True)
class Shift:
    """``steps`` up (+) or down, at a bar (from 0) and an offset in it; ``time_quarters``: from the end of the last sound."""

    bar: int
    offset: F
    steps: int
    time_quarters: F


def step_of(name: str) -> int:
    return 7 * int(name[-1]) + STEPS.index(name[0])


def name_of(step: int) -> str:
    return f"{STEPS[step % 7]}{step // 7}"


def _words(line: Line) -> list[list[tuple[str, list[tuple[str, F, str]]]]]:
    """Of every bar its positions, each with (keys, length, letter) of its figure."""
    found = []
    for bar in line.bars.split("|"):
        parts = []
        for part in bar.split(";"):
            position, figure = part.split(":")
            words = []
            for word in figure.split():
                dots = word.count(".")
                letter = word.rstrip(".")[-1]
                words.append((word.rstrip(".")[:-1], LENGTHS[letter] * (F(3, 2) if dots else 1), letter + "." * dots))
            parts.append((position.strip(), words))
        found.append(parts)
    return found


def notation(line: Line) -> str:
    """The line in the notation of tools/compose_demo.py."""
    bars = []
    for parts in _words(line):
        tokens = []
        for position, words in parts:
            for keys, _, length in words:
                low = step_of(position)
                named = "r" if keys == "r" else "+".join(name_of(low + int(key) - 1) for key in keys)
                tokens.append(f"{named}/{length}")
        bars.append(" ".join(tokens))
    return " | ".join(bars)


def shifts(line: Line) -> list[Shift]:
    """What was chosen: every change of position, where its first strike stands."""
    found: list[Shift] = []
    now: int | None = None
    at, sounded = F(0), F(0)
    bar_length = F(4 * line.time[0], line.time[1])
    for parts in _words(line):
        for position, words in parts:
            fresh = True
            for keys, length, _ in words:
                if keys != "r":
                    low = step_of(position)
                    if fresh and now is not None and low != now:
                        found.append(Shift(int(at // bar_length), at % bar_length, low - now, at - sounded))
                    now, fresh, sounded = low, False, at + length
                at += length
    return found


LINES = (
    Line("broken triads, fourths and octaves away", "right",
         "C4: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | D5: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | C4: 1q 3q 5q 3q | C5: 1q 3q 5q 3q |"
         "C4: 1q 3q 5q 3q | A4: 1q 3q 5q 3q | C4: 1q 3q 5q 3q | B4: 1q 3q 5q 3q | C4: 1q 3q 5q 3q"),
    Line("the same figure a step on", "right",
         "C4: 1q 2q 3q 5q | D4: 1q 2q 3q 5q | E4: 1q 2q 3q 5q | F4: 1q 2q 3q 5q | G4: 1q 2q 3q 5q | A4: 1q 2q 3q 5q |"
         "G4: 1q 2q 3q 5q | F4: 1q 2q 3q 5q | E4: 1q 2q 3q 5q | D4: 1q 2q 3q 5q | C4: 1q 2q 3q 5q"),
    Line("rests that give the time", "right",
         "C4: 1q 3q 5q rq | G4: 5q 3q 1q rq | C5: 1q 3q 5q rq | F4: 5q 3q 1q rq | C4: 1q 2q 5q rq | G4: 1q 3q 5q rq |"
         "D5: 5q 2q 1q rq | G4: 1q 4q 5q rq | C4: 5q 4q 1q rq | A4: 1q 3q 5q rq | D4: 1q 3q 5q rq"),
    Line("rests at the beginning of the bar", "right",
         "C4: 1q 3q 5h | G4: rq 1q 3q 5q | C4: rq 5q 3q 1q | A4: rq 1q 2q 5q | E4: rq 5q 2q 1q | C5: rq 1q 3q 5q |"
         "G4: rq 5q 3q 1q | D4: rq 1q 3q 5q | A4: rq 5q 3q 1q | E4: rq 1q 4q 5q | B4: rq 5q 4q 1q"),
    Line("long notes that give the time", "right",
         "C4: 1q 3q 5h | G4: 1q 3q 5h | C5: 5q 3q 1h | F4: 5q 3q 1h | C4: 1q 3q 5h | A4: 1q 3q 5h | D4: 5q 3q 1h |"
         "A4: 1q 2q 5h | E4: 5q 4q 1h | B4: 1q 3q 5h | E4: 5q 3q 1h"),
    Line("inside the bar, without time", "right",
         "C4: 1e 2e 3e 5e; C5: 5e 3e 2e 1e | C4: 1e 3e 4e 5e; A4: 5e 4e 2e 1e | D4: 1e 2e 3e 5e; D5: 5e 3e 2e 1e |"
         "E4: 1e 2e 4e 5e; C5: 5e 4e 3e 1e | F4: 1e 3e 4e 5e; E5: 5e 3e 2e 1e | F4: 5e 3e 2e 1e rh"),
    Line("triads in halves", "right",
         "C4: 135h; F4: 135h | C4: 135h; G4: 135h | C5: 135h; G4: 135h | D4: 135h; A4: 135h | E4: 135h; A4: 135h |"
         "D4: 135h; G4: 135h"),
    Line("in three", "right",
         "C4: 1q 3q 5q | G4: 5q 3q 1q | C4: 1q 3q 5q | A4: 5q 3q 1q | D4: 1q 3q 5q | A4: 5q 3q 1q | E4: 1q 3q 5q |"
         "B4: 5q 3q 1q | F4: 1q 3q 5q | C5: 5q 3q 1q | G4: 1q 3q 5q", (3, 4)),
    Line("in two, eighths", "right",
         "C4: 1e 2e 3e 5e | G4: 5e 4e 3e 1e | C5: 1e 2e 3e 5e | F4: 5e 4e 2e 1e | C4: 1e 2e 4e 5e | A4: 5e 3e 2e 1e |"
         "D4: 1e 2e 3e 5e | A4: 5e 4e 2e 1e | D5: 1e 2e 4e 5e | G4: 5e 3e 2e 1e | C4: 1e 3e 4e 5e", (2, 4)),
    Line("a dotted note before each move", "right",
         "C4: 1q 3q 5q. 3e | G4: 1q 2q 5q. 3e | C4: 5q 3q 1q. 2e | G4: 5q 4q 1q. 3e | D5: 1q 3q 5q. 4e | G4: 5q 3q 1q. 2e |"
         "C4: 1q 2q 5q. 4e | A4: 5q 4q 1q. 2e | E4: 1q 3q 5q. 2e | B4: 5q 3q 1q. 3e | E4: 1q 4q 5q. 3e"),
    Line("the left hand in broken triads", "left",
         "C3: 1q 3q 5q 3q | F2: 1q 3q 5q 3q | C3: 1q 3q 5q 3q | G2: 1q 3q 5q 3q | D3: 1q 3q 5q 3q | G2: 1q 3q 5q 3q |"
         "C3: 1q 3q 5q 3q | E2: 1q 3q 5q 3q | A2: 1q 3q 5q 3q | D2: 1q 3q 5q 3q | G2: 1q 3q 5q 3q"),
    Line("the left hand in open octaves: each bar one hand", "left",
         "C3: 1q 5q 8q 5q | F2: 1q 5q 8q 5q | G2: 1q 5q 8q 5q | C3: 1q 5q 8q 5q | A2: 1q 5q 8q 5q | D3: 1q 5q 8q 5q |"
         "G2: 1q 5q 8q 5q | E2: 1q 5q 8q 5q | A2: 1q 5q 8q 5q | D2: 1q 5q 8q 5q | G2: 1q 5q 8q 5q"),
    Line("broken chords in eighths", "left",
         "C3: 1e 5e 3e 5e 1e 5e 3e 5e | G2: 1e 5e 3e 5e 1e 5e 3e 5e | C3: 1e 5e 3e 5e 1e 5e 3e 5e |"
         "F2: 1e 5e 3e 5e 1e 5e 3e 5e | C3: 1e 5e 3e 5e 1e 5e 3e 5e | A2: 1e 5e 3e 5e 1e 5e 3e 5e |"
         "D3: 1e 5e 3e 5e 1e 5e 3e 5e | G2: 1e 5e 3e 5e 1e 5e 3e 5e | C3: 1e 5e 3e 5e 1e 5e 3e 5e |"
         "F2: 1e 5e 3e 5e 1e 5e 3e 5e | C3: 1e 5e 3e 5e 1e 5e 3e 5e"),
    Line("one chord a bar", "left",
         "C3: 135w | G2: 135w | D3: 135w | G2: 135w | C3: 135w | F2: 135w | C3: 135w | A2: 135w | E3: 135w | A2: 135w |"
         "D3: 135w"),
    Line("half notes, fifths", "left",
         "C3: 1h 5h | F2: 1h 5h | C3: 5h 1h | G2: 1h 5h | D3: 5h 1h | G2: 1h 5h | C3: 1h 5h | A2: 5h 1h | D2: 1h 5h |"
         "G2: 5h 1h | C3: 1h 5h"),
    Line("rests in the left hand", "left",
         "C3: 1h 5q rq | F2: 1h 5q rq | C3: 5h 1q rq | G2: 1h 5q rq | C3: 1h 5q rq | E2: 5h 1q rq | A2: 1h 5q rq |"
         "D2: 1h 5q rq | G2: 5h 1q rq | C3: 1h 5q rq | F2: 1h 5q rq"),
    Line("both halves of the bar", "left",
         "C3: 1q 5q; F2: 1q 5q | C3: 1q 5q; G2: 1q 5q | C3: 5q 1q; G2: 5q 1q | D3: 1q 5q; A2: 1q 5q | E3: 5q 1q; A2: 1q 5q |"
         "D3: 1q 5q; G2: 5q 1q"),
    Line("a sixth is one hand", "right",
         "C4: 1q 3q 6q 5q | C4: 1q 2q 6q 3q | A4: 1q 3q 5q 3q | C4: 1q 4q 6q 5q | C5: 1q 3q 5q 3q | C4: 1q 5q 6q 3q |"
         "G4: 5q 4q 3q 1q | C5: 1q 3q 6q 5q | F4: 1q 3q 5q 3q | B4: 5q 3q 2q 1q | E4: 1q 3q 5q 1q | B4: 1q 3q 5q 3q |"
         "E4: 5q 3q 2q 1q"),
    Line("repeated bars before each move", "right",
         "C4: 1q 3q 5q 3q | C4: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | C5: 5q 3q 1q 3q | C5: 5q 3q 1q 3q |"
         "F4: 5q 3q 1q 3q | C4: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | D5: 1q 3q 5q 3q | G4: 1q 3q 5q 3q | C4: 1q 3q 5q 3q |"
         "A4: 1q 3q 5q 3q | D4: 1q 3q 5q 3q"),
    Line("far away, in time", "left",
         "C3: 1q 3q 5h | C2: 1q 3q 5h | C3: 5q 3q 1h | G2: 1q 3q 5h | E3: 5q 3q 1h | A2: 1q 3q 5h | D2: 5q 3q 1h |"
         "A2: 1q 3q 5h | E2: 5q 3q 1h | B2: 1q 3q 5h | E2: 5q 3q 1h"),
)  # fmt: skip
