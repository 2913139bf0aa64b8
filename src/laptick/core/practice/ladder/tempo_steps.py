"""How the tempo moves from try to try: a state machine.

From 60 to 70 % of the target, never above the fastest clean hand alone, by stops at about 80, 90 and 100 %; single
marks only towards a stop that failed twice; down two marks after two failures; never above the target. *Hard* stops a
step; *tired* and *it hurts* end the session. Source: docs/trade.md 3.4 (common practice).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

from laptick.core.base.units import METRONOME_MARKS, Bpm, nearest_mark
from laptick.core.practice.ladder.gates import Outcome

START_SHARE, STOP_SHARES = 0.65, (0.8, 0.9, 1.0)

#: So many failures in a row, and by how many marks it goes down then.
FAILURES, DOWN = 2, 2


class Feel(StrEnum):
    """What the student says after a run."""

    EASY = "easy"
    ALL_RIGHT = "all-right"
    HARD = "hard"
    TIRED = "tired"
    HURTS = "it-hurts"


class Move(StrEnum):
    FASTER = "faster"
    AGAIN = "again"
    SLOWER = "slower"
    REACHED = "reached"
    END = "end"
    END_AND_TELL = "end-and-tell"


@dataclass(frozen=True, slots=True)
class Tempo:
    """``bpm``: the mark of the next try; ``failures``: in a row, at it or since it was last left; ``towards``: the stop
    that failed twice, up to which it goes mark by mark."""

    bpm: int
    target: int
    failures: int = 0
    towards: int | None = None


def first_tempo(target_bpm: Bpm, fastest_hand_bpm: Bpm | None = None) -> Tempo:
    """Where practice begins. ``fastest_hand_bpm``: the fastest clean tempo of one hand alone, where it is known."""
    target = nearest_mark(target_bpm)
    most = min(START_SHARE * target_bpm, target_bpm if fastest_hand_bpm is None else fastest_hand_bpm)
    below = [mark for mark in METRONOME_MARKS if mark <= most]
    return Tempo(below[-1] if below else METRONOME_MARKS[0], target)


def stops_of(tempo: Tempo) -> tuple[int, ...]:
    return tuple(dict.fromkeys(min(tempo.target, nearest_mark(share * tempo.target)) for share in STOP_SHARES))


def after_try(tempo: Tempo, outcome: Outcome, feel: Feel | None = None) -> tuple[Tempo, Move]:
    """The tempo of the next try, and how it came to that."""
    if feel is Feel.HURTS:
        return tempo, Move.END_AND_TELL
    if feel is Feel.TIRED:
        return tempo, Move.END
    if outcome in (Outcome.STEADY, Outcome.WORD):
        return _up(replace(tempo, failures=0), hard=feel is Feel.HARD)
    if outcome is Outcome.NOT_YET:
        return _failed(tempo)
    return tempo, Move.AGAIN


def _up(tempo: Tempo, *, hard: bool) -> tuple[Tempo, Move]:
    if tempo.bpm >= tempo.target:
        return tempo, Move.REACHED
    if hard:
        return tempo, Move.AGAIN
    if tempo.towards is not None and tempo.bpm < tempo.towards:
        bpm = min(_mark(tempo.bpm, 1), tempo.towards)
    else:
        bpm = next((stop for stop in stops_of(tempo) if stop > tempo.bpm), tempo.target)
    towards = None if tempo.towards is not None and bpm >= tempo.towards else tempo.towards
    return replace(tempo, bpm=bpm, towards=towards), Move.FASTER


def _failed(tempo: Tempo) -> tuple[Tempo, Move]:
    failures = tempo.failures + 1
    if failures < FAILURES:
        return replace(tempo, failures=failures), Move.AGAIN
    slower = _mark(tempo.bpm, -DOWN)
    towards = max(tempo.bpm, tempo.towards or 0)
    return replace(tempo, bpm=slower, failures=0, towards=towards), Move.SLOWER if slower < tempo.bpm else Move.AGAIN


def _mark(bpm: int, steps: int) -> int:
    """So many marks up or down, at the ends of the metronome no further."""
    index = METRONOME_MARKS.index(nearest_mark(bpm)) + steps
    return METRONOME_MARKS[min(len(METRONOME_MARKS) - 1, max(0, index))]
