"""The teacher's own hand in a ladder, as data: what she changed of it, in the order in which she did.

An edit names a rung by its key and bars by their names, so that it holds for the ladder however that is built anew; one
whose rung or bars are no longer there is passed over and told. A rung over other bars, or with other hands, is another
rung: it has a key of its own, and what was practised before stays with the old one.
Source: docs/trade.md 3.3 (the ladder is the teacher's).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar, TypeAlias

from laptick.core.base.errors import OptionError
from laptick.core.practice.ladder.rungs import bare_rung, in_spot, in_way, named_bars
from laptick.core.practice.ladder.stages import BY_WORD, GateKind, Ladder, Rung, Stage
from laptick.core.practice.ladder.ways import WAYS
from laptick.core.score.score import Score
from laptick.core.score.within import check_within, parse_within

#: So many edits of one ladder, and so many letters of a cue.
MOST_EDITS, MOST_TOUCH = 500, 120

OWN_WHY = "You put it here."


@dataclass(frozen=True, slots=True)
class DropRung:
    """Leaves a rung out."""

    kind: ClassVar[str] = "drop"
    rung: str


@dataclass(frozen=True, slots=True)
class MoveRung:
    """Puts a rung right above another, ``None``: onto the floor."""

    kind: ClassVar[str] = "move"
    rung: str
    above: str | None = None


@dataclass(frozen=True, slots=True)
class AddRung:
    """One more rung, right above another, ``None``: onto the floor; ``way``: joined in another way; ``within``: only
    that spot of the bars, as a text (``score/within``)."""

    kind: ClassVar[str] = "add"
    stage: Stage
    first: str
    last: str
    hands: str
    above: str | None = None
    way: str | None = None
    within: str | None = None


@dataclass(frozen=True, slots=True)
class SplitRung:
    """Two smaller rungs below one, the second beginning with bar ``at``; the rung itself joins them."""

    kind: ClassVar[str] = "split"
    rung: str
    at: str


@dataclass(frozen=True, slots=True)
class SetBars:
    kind: ClassVar[str] = "bars"
    rung: str
    first: str
    last: str


@dataclass(frozen=True, slots=True)
class SetHands:
    kind: ClassVar[str] = "hands"
    rung: str
    hands: str


@dataclass(frozen=True, slots=True)
class SetTempo:
    """Where it begins, in beats a minute."""

    kind: ClassVar[str] = "tempo"
    rung: str
    bpm: int


@dataclass(frozen=True, slots=True)
class SetGate:
    kind: ClassVar[str] = "gate"
    rung: str
    gate: GateKind


@dataclass(frozen=True, slots=True)
class SetTouch:
    """A cue said before the count-in, never judged; empty: none."""

    kind: ClassVar[str] = "touch"
    rung: str
    text: str


Edit: TypeAlias = DropRung | MoveRung | AddRung | SplitRung | SetBars | SetHands | SetTempo | SetGate | SetTouch


@dataclass(frozen=True)
class Edited:
    """``over``: the edits that could not be made any more, by their number, each with why."""

    ladder: Ladder
    over: dict[int, str]


def apply_edits(score: Score, ladder: Ladder, edits: Sequence[Edit]) -> Edited:
    """The ladder with the teacher's edits made, one after the other."""
    rungs, over = list(ladder.rungs), {}
    for number, edit in enumerate(edits):
        try:
            rungs = _made(_Bench(score, ladder, rungs), edit)
        except OptionError as error:
            over[number] = error.what
    return Edited(replace(ladder, rungs=tuple(rungs)), over)


def check_edit(score: Score, ladder: Ladder, edit: Edit) -> Ladder:
    """The ladder with one more edit.

    Raises:
        OptionError: it cannot be made.
    """
    return replace(ladder, rungs=tuple(_made(_Bench(score, ladder, list(ladder.rungs)), edit)))


@dataclass(frozen=True)
class _Bench:
    score: Score
    ladder: Ladder
    rungs: list[Rung]

    def index(self, key: str) -> int:
        for index, rung in enumerate(self.rungs):
            if rung.key == key:
                return index
        raise OptionError("this rung is no longer on the ladder.", where="rung", kept="Nothing was changed.")

    def bars(self, first: str, last: str) -> range:
        """Bars by name, inside what the ladder is of."""
        bars = named_bars(self.score, first, last)
        if bars[0] < self.ladder.first or bars[-1] > self.ladder.last:
            raise OptionError(f"bars {first} to {last} are not on this ladder.", where="bars")
        return bars

    def above(self, key: str | None) -> int:
        return 0 if key is None else self.index(key) + 1

    def with_new(self, rung: Rung, at: int) -> list[Rung]:
        if any(one.key == rung.key for one in self.rungs):
            raise OptionError("there is such a rung on the ladder.", where="rung", kept="Nothing was changed.")
        return [*self.rungs[:at], rung, *self.rungs[at:]]

    def changed(self, key: str, **parts: object) -> list[Rung]:
        index = self.index(key)
        changed = replace(self.rungs[index], is_own=True, **parts)  # type: ignore[arg-type]
        return [*self.rungs[:index], changed, *self.rungs[index + 1 :]]


def _drop(bench: _Bench, edit: DropRung) -> list[Rung]:
    index = bench.index(edit.rung)
    return bench.rungs[:index] + bench.rungs[index + 1 :]


def _move(bench: _Bench, edit: MoveRung) -> list[Rung]:
    index = bench.index(edit.rung)
    if edit.above == edit.rung:
        return bench.rungs
    rung, others = bench.rungs[index], bench.rungs[:index] + bench.rungs[index + 1 :]
    at = replace(bench, rungs=others).above(edit.above)
    return [*others[:at], replace(rung, is_own=True), *others[at:]]


def _like(bench: _Bench, stage: Stage, bars: range, hands: str, near: Rung | None) -> Rung:
    """A rung as the one near it: in its group, at its tempo."""
    _check_hands(stage, hands)
    start = near or next(iter(bench.rungs), None)
    bare = bare_rung(bench.score, stage, bars, hands)
    group = start.group if start else "the piece"
    return replace(bare, group=group, tempos=start.tempos[:1] if start else (), why=OWN_WHY, is_own=True)


def _check_hands(stage: Stage, hands: str) -> None:
    alone = {Stage.RIGHT: "right", Stage.LEFT: "left"}.get(stage)
    if alone is not None and hands != alone:
        raise OptionError(f"the {alone} hand's rung is of the {alone} hand.", where="hands")


def _add(bench: _Bench, edit: AddRung) -> list[Rung]:
    at = bench.above(edit.above)
    near = bench.rungs[at - 1] if at else None
    bars = bench.bars(edit.first, edit.last)
    if edit.way is None:
        plain = _like(bench, edit.stage, bars, edit.hands, near)
        return bench.with_new(_in_spot(bench, plain, edit.within), at)
    if edit.way not in WAYS or edit.stage is not Stage.JOIN:
        raise OptionError("there is no such way of joining.", where="way", todo=f"There are {', '.join(WAYS)}.")
    plain = _like(bench, Stage.JOIN, bars, "both", near)
    return bench.with_new(in_way(plain, edit.way), at)


#: What is played in time with a hand or both can be a spot that is no whole bars.
_SPOT_STAGES = frozenset({Stage.RIGHT, Stage.LEFT, Stage.LAP, Stage.JOIN, Stage.SEAMS})


def _in_spot(bench: _Bench, rung: Rung, text: str | None) -> Rung:
    if text is None:
        return rung
    if rung.stage not in _SPOT_STAGES:
        raise OptionError("that is done with whole bars.", where="within", kept="Nothing was changed.")
    within = parse_within(text)
    check_within(within, bench.score.measures[rung.first], bench.score.measures[rung.last])
    return in_spot(bench.score, rung, within)


def _split(bench: _Bench, edit: SplitRung) -> list[Rung]:
    index = bench.index(edit.rung)
    rung = bench.rungs[index]
    if rung.within is not None:
        raise OptionError("a spot is not split.", where="at", kept="Nothing was changed.", todo="Add a smaller one.")
    at = bench.bars(edit.at, edit.at)[0]
    if not rung.first < at <= rung.last:
        raise OptionError(f"bar {edit.at} is not a place to split it.", where="at", todo="Choose a bar inside it.")
    known = {one.key for one in bench.rungs}
    halves = [
        _like(bench, rung.stage, bars, rung.hands, rung) for bars in (range(rung.first, at), range(at, rung.last + 1))
    ]
    new = [replace(half, gate=GateKind.ONE_CLEAN if rung.stage not in BY_WORD else rung.gate) for half in halves]
    return [*bench.rungs[:index], *(half for half in new if half.key not in known), *bench.rungs[index:]]


def _other(bench: _Bench, key: str, bars: range, hands: str) -> list[Rung]:
    """The same rung over other bars, or with other hands: another one in its place."""
    index = bench.index(key)
    rung = bench.rungs[index]
    stage = rung.stage
    if stage in (Stage.RIGHT, Stage.LEFT) or (stage is Stage.JOIN and hands != "both"):
        stage = {"right": Stage.RIGHT, "left": Stage.LEFT, "both": Stage.JOIN}[hands]
    other = replace(_like(bench, stage, bars, hands, rung), gate=rung.gate, touch=rung.touch, why=rung.why)
    if bars == rung.bars:  # other hands at the same spot
        other = in_spot(bench.score, other, rung.within)
    if other.key == rung.key:
        return bench.rungs
    return replace(bench, rungs=bench.rungs[:index] + bench.rungs[index + 1 :]).with_new(other, index)


def _bars(bench: _Bench, edit: SetBars) -> list[Rung]:
    return _other(bench, edit.rung, bench.bars(edit.first, edit.last), bench.rungs[bench.index(edit.rung)].hands)


def _hands(bench: _Bench, edit: SetHands) -> list[Rung]:
    return _other(bench, edit.rung, bench.rungs[bench.index(edit.rung)].bars, edit.hands)


def _tempo(bench: _Bench, edit: SetTempo) -> list[Rung]:
    rest = tuple(bpm for bpm in bench.rungs[bench.index(edit.rung)].tempos[1:] if bpm > edit.bpm)
    return bench.changed(edit.rung, tempos=(edit.bpm, *rest))


def _gate(bench: _Bench, edit: SetGate) -> list[Rung]:
    rung = bench.rungs[bench.index(edit.rung)]
    if rung.stage in BY_WORD and rung.stage is not Stage.COUNT and edit.gate is not GateKind.WORD:
        raise OptionError("nothing is played there: it goes by word.", where="gate", kept="Nothing was changed.")
    return bench.changed(edit.rung, gate=edit.gate)


def _touch(bench: _Bench, edit: SetTouch) -> list[Rung]:
    return bench.changed(edit.rung, touch=edit.text.strip()[:MOST_TOUCH] or None)


_MAKING: dict[type, Callable[..., list[Rung]]] = {
    DropRung: _drop,
    MoveRung: _move,
    AddRung: _add,
    SplitRung: _split,
    SetBars: _bars,
    SetHands: _hands,
    SetTempo: _tempo,
    SetGate: _gate,
    SetTouch: _touch,
}


def _made(bench: _Bench, edit: Edit) -> list[Rung]:
    return _MAKING[type(edit)](bench, edit)


#: Kept here so that a document of an edit can be read by its kind.
EDIT_KINDS: dict[str, type] = {kind.kind: kind for kind in _MAKING}  # type: ignore[attr-defined]
