"""What passes a rung: evidence folded into a state.

Evidence is a take with its outcome, or the word of somebody who heard it, each with the day and who gave it. A rung
that is passed stays passed: a worse take later, or one judged anew, undoes nothing. *Nearly* neither counts nor breaks;
the word passes any gate. Source: docs/trade.md 3.3 (common practice).
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from enum import StrEnum

from laptick.core.practice.ladder.stages import GateKind


class Outcome(StrEnum):
    """What came of a try. The first four are the checker's, ``WORD`` is the teacher's (or, at a rung that goes by word,
    the student's), ``TICKED`` says that a clean take higher up shows it to be known."""

    STEADY = "steady"
    NEARLY = "nearly"
    NOT_YET = "not-yet"
    COULD_NOT_FOLLOW = "could-not-follow"
    WORD = "word"
    TICKED = "ticked"


#: So many clean ones of so many tries that count; and on so many days.
CLEAN_OF, OF_THE_LAST = 2, 3
CLEAN_DAYS = 2

#: So many tries of one rung in a day; then something smaller, or enough for today.
TRIES_A_DAY = 6


@dataclass(frozen=True, slots=True)
class Evidence:
    """``day``: a number that is one more every day; ``by``: who judged or said it, ``why``: in words; ``at_target``: at
    the tempo to be reached."""

    outcome: Outcome
    day: int
    by: str
    at_target: bool = False
    why: str = ""


@dataclass(frozen=True, slots=True)
class RungState:
    """``last``: the last tries that count, clean or not, the newest last; ``clean_days``: days with a clean one at the
    target; ``today``: the day of the newest try, and how many it has."""

    passed_day: int | None = None
    passed_by: str = ""
    passed_why: str = ""
    tries: int = 0
    last: tuple[bool, ...] = ()
    clean_days: frozenset[int] = frozenset()
    today: tuple[int, int] = (0, 0)

    @property
    def is_passed(self) -> bool:
        return self.passed_day is not None

    def tries_on(self, day: int) -> int:
        return self.today[1] if self.today[0] == day else 0

    def is_enough_on(self, day: int) -> bool:
        """Is it time for something smaller?"""
        return not self.is_passed and self.tries_on(day) >= TRIES_A_DAY


def fold(gate: GateKind, evidence: Iterable[Evidence]) -> RungState:
    """The state that all evidence of a rung, in order, comes to."""
    state = RungState()
    for one in evidence:
        state = after(gate, state, one)
    return state


def after(gate: GateKind, state: RungState, evidence: Evidence) -> RungState:
    """The state with one more piece of evidence."""
    if evidence.outcome in (Outcome.WORD, Outcome.TICKED):
        return state if state.is_passed else _passed(state, evidence)
    tries = state.tries_on(evidence.day) + 1
    state = replace(state, tries=state.tries + 1, today=(evidence.day, tries))
    if evidence.outcome not in (Outcome.STEADY, Outcome.NOT_YET):
        return state
    is_clean = evidence.outcome is Outcome.STEADY
    days = state.clean_days | ({evidence.day} if is_clean and evidence.at_target else set())
    state = replace(state, last=(*state.last, is_clean)[-OF_THE_LAST:], clean_days=days)
    if not state.is_passed and is_clean and _passes(gate, state):
        state = _passed(state, evidence)
    return state


def _passed(state: RungState, by: Evidence) -> RungState:
    return replace(state, passed_day=by.day, passed_by=by.by, passed_why=by.why)


def _passes(gate: GateKind, state: RungState) -> bool:
    if gate is GateKind.ONE_CLEAN:
        return True
    if gate is GateKind.TWO_OF_THREE:
        return sum(state.last) >= CLEAN_OF
    return gate is GateKind.TWO_DAYS and len(state.clean_days) >= CLEAN_DAYS
