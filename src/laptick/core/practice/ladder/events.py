"""What happened at a rung, as it is kept: only ever added to. Folded, it is what the rung comes to now.

A try is a take; a rung below it that it shows to be known is *ticked* by it. The teacher's word on a take counts
before the checker's, and a take that is deleted counts for nothing: both refold all that hangs on it. A take judged
anew counts as it is judged now, but undoes no gate that it helped to pass: that is decided by the best the checker ever
said of it.
Source: docs/trade.md 3.3 (common practice).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from laptick.core.base.units import Bpm, nearest_mark
from laptick.core.practice.ladder.gates import Evidence, Outcome, RungState, fold
from laptick.core.practice.ladder.stages import GateKind
from laptick.core.practice.ladder.tempo_steps import Feel, Move, Tempo, after_try


class EventKind(StrEnum):
    """``WORD``: somebody's word passes the rung, ``WORD_BACK`` takes it back; ``FEEL``: what the student says after a
    run. The others are of a take: tried, a rung below ticked by it, judged anew, overruled, the overrule taken back,
    deleted, brought back."""

    TRY = "try"
    TICK = "tick"
    JUDGED = "judged"
    OVERRULED = "overruled"
    OVERRULE_BACK = "overrule-back"
    DELETED = "deleted"
    RESTORED = "restored"
    WORD = "word"
    WORD_BACK = "word-back"
    FEEL = "feel"


@dataclass(frozen=True, slots=True)
class Event:
    """``day``: a number that is one more every day; ``by``: who judged, said or did it, ``why``: in words; ``bpm``: the
    tempo it was tried at; ``at_target``: that was the one to be reached."""

    kind: EventKind
    day: int
    by: str
    take_id: int | None = None
    outcome: Outcome | None = None
    bpm: Bpm | None = None
    at_target: bool = False
    feel: Feel | None = None
    why: str = ""


@dataclass
class _Take:
    """What is known of a take at this rung; ``best``: by the checker's most favourable word."""

    event: Event
    checked: Outcome
    best: Outcome
    overruled: Outcome | None = None
    is_deleted: bool = False
    feel: Feel | None = None
    why: str = ""


#: From worst to best.
_ORDER = (Outcome.COULD_NOT_FOLLOW, Outcome.NOT_YET, Outcome.NEARLY, Outcome.STEADY)


@dataclass(frozen=True, slots=True)
class Tried:
    """One piece of evidence, with the tempo and the feeling of it."""

    evidence: Evidence
    bpm: Bpm | None = None
    feel: Feel | None = None


def tried_of(events: Iterable[Event], *, best: bool = False) -> list[Tried]:
    """The evidence that events come to, in order; ``best``: by the best the checker ever said."""
    takes: dict[int, _Take] = {}
    order: list[_Take | Event] = []
    for event in events:
        if event.kind in (EventKind.TRY, EventKind.TICK):
            assert event.take_id is not None
            outcome = event.outcome or Outcome.COULD_NOT_FOLLOW
            if event.take_id not in takes:
                takes[event.take_id] = _Take(event, outcome, outcome)
                order.append(takes[event.take_id])
            else:  # taken for other bars meanwhile, and for these again
                takes[event.take_id].is_deleted = False
                takes[event.take_id].checked = outcome
        elif event.kind is EventKind.WORD:
            order.append(event)
        elif event.kind is EventKind.WORD_BACK:
            order = [one for one in order if not isinstance(one, Event)]
        else:
            take = takes.get(event.take_id or 0)
            if take is not None:
                _told(take, event)
    found = [_tried(one, best=best) for one in order]
    return [one for one in found if one is not None]


def _told(take: _Take, event: Event) -> None:
    if event.kind is EventKind.JUDGED and event.outcome is not None:
        take.checked = event.outcome
        take.best = max(take.best, event.outcome, key=_ORDER.index)
    elif event.kind in (EventKind.OVERRULED, EventKind.OVERRULE_BACK):
        take.overruled, take.why = event.outcome, event.why
    elif event.kind in (EventKind.DELETED, EventKind.RESTORED):
        take.is_deleted = event.kind is EventKind.DELETED
    elif event.kind is EventKind.FEEL:
        take.feel = event.feel


def _tried(one: _Take | Event, *, best: bool) -> Tried | None:
    if isinstance(one, Event):
        return Tried(Evidence(Outcome.WORD, one.day, one.by, why=one.why))
    outcome = one.overruled or (one.best if best else one.checked)
    if one.is_deleted:
        return None
    event = one.event
    if event.kind is EventKind.TICK:
        return Tried(Evidence(Outcome.TICKED, event.day, event.by)) if outcome is Outcome.STEADY else None
    by = "the teacher" if one.overruled else event.by
    return Tried(Evidence(outcome, event.day, by, event.at_target, one.why), event.bpm, one.feel)


def state_of(gate: GateKind, events: Sequence[Event]) -> RungState:
    """What a rung comes to: as its takes are judged now, and passed where the best said of them passes it."""
    state = fold(gate, (one.evidence for one in tried_of(events)))
    if state.is_passed or not any(event.kind is EventKind.JUDGED for event in events):
        return state
    best = fold(gate, (one.evidence for one in tried_of(events, best=True)))
    return replace(state, passed_day=best.passed_day, passed_by=best.passed_by, passed_why=best.passed_why)


@dataclass(frozen=True, slots=True)
class Standing:
    """What a rung has come to. ``tempo``: of the next try, ``None`` where nobody tried it; ``move``: how it came to
    that; ``fastest_bpm``: the fastest at which it was clean."""

    state: RungState
    tempo: Tempo | None = None
    move: Move | None = None
    fastest_bpm: Bpm | None = None


#: What nobody has tried.
UNTRIED = Standing(RungState())


def standing_of(gate: GateKind, target_bpm: Bpm, events: Sequence[Event]) -> Standing:
    """The fold of a rung's events."""
    tempo, move = tempo_of(target_bpm, events)
    return Standing(state_of(gate, events), tempo, move, fastest_clean(events))


def tempo_of(target_bpm: Bpm, events: Iterable[Event]) -> tuple[Tempo | None, Move | None]:
    """The tempo of the next try, and the last move; a try at another tempo than was due goes on from there, but never
    above the target."""
    tempo, move = None, None
    target = nearest_mark(target_bpm)
    for one in tried_of(events):
        if one.bpm is None or one.evidence.outcome in (Outcome.TICKED, Outcome.WORD):
            continue
        bpm = min(nearest_mark(one.bpm), target)
        if tempo is None:
            tempo = Tempo(bpm, target)
        elif bpm != tempo.bpm:
            tempo = replace(tempo, bpm=bpm, target=target, failures=0)
        tempo, move = after_try(tempo, one.evidence.outcome, one.feel)
    return tempo, move


def fastest_clean(events: Iterable[Event]) -> Bpm | None:
    tempos = [one.bpm for one in tried_of(events) if one.evidence.outcome is Outcome.STEADY and one.bpm is not None]
    return max(tempos, default=None)
