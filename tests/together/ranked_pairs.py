"""Pairs of passages ranked by hand: which of two is harder to join, and why. Written down before there were weights.

Of each passage the last bar is ranked; the ones before it are what it comes from. Hands that are separately easy for the
student, at 84 quarters a minute: what is ranked is the joining, not the finger work. Every second pair may set weights
(``SETTING``), the others never (``KEPT``). Source: docs/trade.md 3.1 (common practice); the rankings are ours.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Passage:
    """In the notation of tools/compose_demo.py, bars divided by ``|``."""

    right: str
    left: str
    time: tuple[int, int] = (4, 4)


@dataclass(frozen=True)
class Pair:
    harder: Passage
    easier: Passage
    because: str


P = Passage

# What comes back in many of them.
QUARTERS = "C5/q D5/q E5/q F5/q"
EIGHTHS = "C5/e D5/e E5/e F5/e G5/e F5/e E5/e D5/e"
TRIPLETS = "C5/et D5/et E5/et F5/et E5/et D5/et C5/et D5/et E5/et F5/et E5/et D5/et"
RUN = " ".join(["C5/s D5/s E5/s F5/s G5/s F5/s E5/s D5/s"] * 2)
BROKEN = "C3/q G3/q E3/q G3/q"
ALBERTI = "C3/e G3/e E3/e G3/e C3/e G3/e E3/e G3/e"

PAIRS = (
    Pair(P(QUARTERS, BROKEN), P(QUARTERS, "C3/w"), "the left hand moves too; a held note asks for nothing"),
    Pair(P(EIGHTHS, BROKEN), P("C5/q D5/q E5/q D5/q", "C3/q D3/q E3/q D3/q"), "two against one, and not the same tune"),
    Pair(P(TRIPLETS, ALBERTI), P(EIGHTHS, BROKEN), "three against two; the other falls in with the beat"),
    Pair(P(RUN, "C3/et E3/et G3/et " * 3 + "C3/et E3/et G3/et"), P(TRIPLETS, ALBERTI), "four against three is rarer and closer than three against two"),
    Pair(P("r/e C5/e r/e D5/e r/e E5/e r/e F5/e", BROKEN), P(QUARTERS, BROKEN), "the right hand falls between all beats"),
    Pair(P("C5/e D5/q E5/q F5/q E5/e", "C3/q G3/q C3/q G3/q"), P("C5/q D5/e E5/e F5/q E5/q", "C3/q G3/q C3/q G3/q"), "syncopated against the beat of the left hand"),
    Pair(P("C5/q D5/q E5/q G5/q | A5/q B5/q C6/q A5/q", "C3/h G3/h | F2/h C3/h"), P("C5/q D5/q E5/q G5/q | G5/q F5/q E5/q D5/q", "C3/h G3/h | C3/h G3/h"), "both hands move at the bar line"),
    Pair(P("C5/q D5/q E5/q G5/q | C6/q D6/q E6/q C6/q", "C3/w | C3/w"), P("C5/q D5/q E5/h | r/q D6/q E6/q C6/q", "C3/w | C3/w"), "the same move without time"),
    Pair(P("C5/q D5/q E5/q G5/q | A5/q B5/q C6/q A5/q", "C3/h G3/h | F2/h C3/h"), P("C5/q D5/q E5/q G5/q | A5/q B5/q C6/q A5/q", "C3/h G3/h | C3/h G3/h"), "both move; in the other only the right hand does"),
    Pair(P(QUARTERS, "C2/q E3+G3/q C2/q E3+G3/q"), P(QUARTERS, BROKEN), "the left hand leaps from bass to chord and back"),
    Pair(P(EIGHTHS, "C2/q E3+G3/q D2/q F3+A3/q"), P(QUARTERS, "C3/q E3+G3/q C3/q E3+G3/q"), "leaps under eighths, and the bass moves"),
    Pair(P(QUARTERS, "E3/q F3/q G3/q A3/q"), P(QUARTERS, "C4/q B3/q A3/q G3/q"), "parallel, but not in octaves; the other is mirrored, finger for finger"),
    Pair(P("C5/q E5/q D5/q G5/q", "C4/q B3/q G3/q F3/q"), P("C5/q D5/q E5/q D5/q", "C4/q B3/q A3/q B3/q"), "contrary with unequal steps; mirrored is easier"),
    Pair(P("C5/q r/q E5/q r/q", "r/q G3/q r/q C3/q"), P("C5/q r/q E5/q r/q", "C3/q r/q G3/q r/q"), "the hands take turns; in the other they play together"),
    Pair(P("r/e C5/e r/e D5/e r/e E5/e r/e D5/e", "C3/e r/e G3/e r/e E3/e r/e G3/e r/e"), P("C5/q r/q E5/q r/q", "r/q G3/q r/q C3/q"), "turns within the beat; on the beats they are slower"),
    Pair(P("C4/q D4/q E4/q D4/q", "C4/h G3/h"), P("C4/q D4/q E4/q D4/q", "C3/h G3/h"), "both thumbs want middle C"),
    Pair(P("C5/h E5/h", "C3/q E6/q C3/q E6/q"), P("C5/h E5/h", "C3/q E3/q C3/q E3/q"), "the left hand crosses over the right"),
    Pair(P(QUARTERS, "C3+E4/h G2+B3/h"), P(QUARTERS, "C3+E3/h G2+B2/h"), "tenths are beyond the hand"),
    Pair(P("E4+G4/q F4+A4/q E4+G4/q D4+F4/q", "C3/q F3/q G3/q B2/q"), P("E4+G4/q F4+A4/q E4+G4/q D4+F4/q", "C3/w"), "chords over a bass that moves with each"),
    Pair(P("C4+E4+G4/h C4+F4+A4/h", "C3+G3/h F2+C3/h"), P(QUARTERS, "C3+E3+G3/w"), "two hands full of new keys at once; the other holds one chord"),
    Pair(P("C5/q C6/q C5/q E6/q", "C3/q C2/q C3/q E2/q"), P(RUN, "C3+G3/w"), "both leap; many notes over a held chord are finger work, and no joining"),
    Pair(P(f"{QUARTERS} | {EIGHTHS}", f"C3/w | {BROKEN}"), P(f"{EIGHTHS} | {EIGHTHS}", f"{BROKEN} | {BROKEN}"), "new; the other was just played"),
    Pair(P("E5/e F5/e G5/e F5/e E5/e D5/e C5/e D5/e | " + EIGHTHS, f"G3/q E3/q C3/q E3/q | {BROKEN}"), P(f"{EIGHTHS} | {EIGHTHS}", f"{BROKEN} | {BROKEN}"), "other notes in a known rhythm; the other is the same bar"),
    Pair(P("C5/q. D5/e E5/h | E5/e F5/q. G5/h", "C3/h G3/h | C3/h G3/h"), P("C5/q. D5/e E5/h | E5/q. F5/e G5/h", "C3/h G3/h | C3/h G3/h"), "a new rhythm; the other has it from the bar before"),
    Pair(P("C5/q. D5/e E5/q. F5/e", BROKEN), P("C5/h E5/h", BROKEN), "the short notes fall between the beats of the left hand"),
    Pair(P(TRIPLETS, BROKEN), P("C5/h E5/h", BROKEN), "three to one; long notes over moving ones are easier"),
    Pair(P("C5/et D5/et E5/et C5/q D5/q E5/q", "C3/e G3/e C3/q G3/q C3/q"), P("C5/et D5/et E5/et C5/q D5/q E5/q", "C3/q C3/q G3/q C3/q"), "one beat of three against two"),
    Pair(P("C4/e D4/e E4/e F4/e G4/e A4/e B4/e C5/e", "C3/e D3/e E3/e F3/e G3/e A3/e B3/e C4/e"), P("C4/e D4/e E4/e F4/e G4/e A4/e B4/e C5/e", "C4/e B3/e A3/e G3/e F3/e E3/e D3/e C3/e"), "thumbs go under at different moments; mirrored they go together"),
    Pair(P("C4/e D4/e E4/e F4/e G4/e A4/e B4/e C5/e", "C3/e D3/e E3/e F3/e G3/e A3/e B3/e C4/e"), P(EIGHTHS, "C4/e D4/e E4/e F4/e G4/e F4/e E4/e D4/e"), "a scale with crossings; in five fingers both go straight on"),
    Pair(P("E5/q. F5/e G5/q. F5/e", ALBERTI.replace("C3", "B2", 1)), P("E5/h G5/h", ALBERTI), "a dotted tune over eighths; long notes over them are easier"),
    Pair(P("E5/q F5/q D5/q E5/q", "C3/e G3/e E3/e G3/e B2/e G3/e D3/e G3/e"), P("E5/q F5/q G5/q E5/q", ALBERTI), "the broken chord changes inside the bar"),
    Pair(P("E5/h. F5/q~ | F5/q E5/q D5/h", f"{BROKEN} | {BROKEN}"), P("E5/h. F5/q | F5/q E5/q D5/h", f"{BROKEN} | {BROKEN}"), "tied over the bar line: the left hand alone has the first beat"),
    Pair(P("C5/e D5/q E5/q F5/q E5/e", "C3/q. G3/q. E3/q"), P("C5/e D5/q E5/q F5/q E5/e", "C3/e D3/q E3/q F3/q E3/e"), "two syncopations against each other; in one rhythm they help"),
    Pair(P("C5/h E5/h", "r/q G3/q r/q E3/q"), P("C5/h E5/h", "C3/h G3/h"), "the left hand answers between; together is easier"),
    Pair(P("E5/q D5/q C5/q", "C2/q E3+G3/q E3+G3/q", (3, 4)), P("E5/q D5/q C5/q", "C3/h.", (3, 4)), "a waltz bass leaps; a long note lies still"),
    Pair(P("E5/q D5/q C5/q", "C2/q E3+G3/q E3+G3/q", (3, 4)), P("E5/q D5/q C5/q", "C3+E3+G3/h.", (3, 4)), "a waltz bass leaps; one chord a bar does not"),
    Pair(P("C5/q D5/q E5/q D5/q", "C3/q E3/q C2/q E2/q"), P("C5/q D5/q E5/q D5/q", "C3/h. C2/q"), "the left hand moves between quarters; in the other during a long note"),
    Pair(P(f"{QUARTERS} | C6/q D6/q E6/q F6/q", "C3/h G3/h | C3/h G3/h"), P(f"{QUARTERS} | D5/q E5/q F5/q G5/q", "C3/h G3/h | C3/h G3/h"), "an octave away; a step is near"),
    Pair(P("D5/q E5/q F#5/q G5/q | G5/q F5/q E5/q D5/q", "G3/h D3/h | C3/h G3/h"), P("D5/q E5/q F5/q G5/q | G5/q F5/q E5/q D5/q", "G3/h D3/h | C3/h G3/h"), "F sharp, then F: an accidental is taken back over the bar line"),
    Pair(P("E4/q F4/q E4/q D4/q", "C4/h C4/h"), P("E4/q F4/q E4/q D4/q", "C3/h C3/h"), "both hands among the same few keys"),
    Pair(P(EIGHTHS, "G3/e E3/e F3/e D3/e E3/e C3/e D3/e C3/e"), P(EIGHTHS, "C3/h G3/h"), "eighths against other eighths; halves leave time"),
    Pair(P(f"{QUARTERS} | {EIGHTHS}", f"{BROKEN} | C3/e E3/e G3/e E3/e F3/e A3/e G3/e F3/e"), P(f"{QUARTERS} | {EIGHTHS}", f"{BROKEN} | {BROKEN}"), "the left hand leaves its pattern as the right one begins another"),
    Pair(P("r/e C5/e D5/q E5/h", "C3/q G3/q C3/h"), P("r/q C5/q E5/h", "C3/q G3/q C3/h"), "comes in between the beats"),
    Pair(P(QUARTERS, "C2/q C3/q D2/q D3/q"), P(QUARTERS, "C3/q C3/q D3/q D3/q"), "octaves up and down with one finger at a time"),
    Pair(P("C5/q D5/q E5/h | C6/q D6/q E6/h", "C3/q D3/q E3/h | C2/q D2/q E2/h"), P("C5/q D5/q r/h | C6/q D6/q E6/h", "C3/q D3/q r/h | C2/q D2/q E2/h"), "both hands leap without time; after rests they lie ready"),
    Pair(P("C5/e. D5/s E5/e. F5/s G5/e. F5/s E5/e. D5/s", ALBERTI), P(EIGHTHS, ALBERTI), "the short ones fall after the eighths of the left hand"),
    Pair(P("E5/e r/e F5/e r/e r/e G5/e r/e E5/e", "C3/q r/q G3/q r/q"), P("E5/q F5/q G5/q E5/q", "C3/q r/q G3/q r/q"), "rests turn its beat into off-beats half way"),
    Pair(P(TRIPLETS, "C3/q. G3/e C3/q. G3/e"), P(TRIPLETS, "C3/h G3/h"), "the eighth falls after the last of three"),
)  # fmt: skip

SETTING, KEPT = PAIRS[0::2], PAIRS[1::2]
