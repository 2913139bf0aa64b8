"""From a piece's map to its ladder: the stages that a teacher makes, no more than a child would climb.

Stages go through one line at a time or through the whole piece, by school; what was met before is not made again: lines
and chunks that hold the same, hands that play what they played. Then lines are joined to lines, the whole goes up to
its tempo and is finished. A pure function of score, school, level and target. Source: docs/trade.md 1, 3.3, 3.4 (common
practice); the bounds are ours.
"""

from __future__ import annotations

import itertools
from collections.abc import Generator, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from laptick.core.base.levels import Level
from laptick.core.base.units import Bpm, Quarters
from laptick.core.practice.ladder.chunks import chunks_of
from laptick.core.practice.ladder.rungs import bare_rung, in_spot, in_way
from laptick.core.practice.ladder.school import QUESTIONS, School, school_of
from laptick.core.practice.ladder.spots import Chosen, Halt, phrase_chunks, seam_chosen
from laptick.core.practice.ladder.stages import (
    SHORT_BARS,
    WITHOUT_CLICK,
    GateKind,
    Ladder,
    Rung,
    Stage,
    key_part,
)
from laptick.core.practice.ladder.tempo_steps import first_tempo, stops_of
from laptick.core.rhythm.likeness import bar_likeness, hand_likeness
from laptick.core.score.score import HANDS, Hand, MarkKind, Place, Score
from laptick.core.together.difficulty import bar_difficulties, quarters_a_minute
from laptick.core.together.seams import seams_of
from laptick.core.together.spans import OCTAVE, Span

#: Bars of up to so many points are easy: nothing is lined up there.
EASY_POINTS = 10.0


#: The scope of school that goes from one cue to the next, and the bars on either side of one that are joined.
CUE, _LINE = "cue", 4

#: Before the letters of phrases, that they are none of bars.
_PHRASES = -1


@dataclass(frozen=True, slots=True)
class Practised:
    """What a ladder is asked for: which bars (by index, all for ``None``), towards which tempo, for which hand span;
    ``phrase_starts``: where the teacher lets phrases begin; ``halts``: where takes halted."""

    target_bpm: Bpm
    first: int | None = None
    last: int | None = None
    span: Span = OCTAVE
    phrase_starts: tuple[Place, ...] = ()
    halts: tuple[Halt, ...] = ()


def build_ladder(score: Score, level: Level, asked: Practised, *chosen: Mapping[str, str]) -> Ladder:
    """The ladder of a piece or of some of its bars. ``chosen``: answers to questions of school, layer by layer.

    Raises:
        OptionError: an answer that there is none of.
    """
    school = school_of(level, *chosen)
    building = _Building(score, school, asked)
    return Ladder(tuple(_distinct(building.rungs())), school, building.first, building.last, tuple(building.notes))


def _distinct(rungs: Iterator[Rung]) -> Iterator[Rung]:
    """No two of one key: where a file names several bars alike, the later ones say so."""
    met: dict[str, int] = {}
    for rung in rungs:
        times = met[rung.key] = met.get(rung.key, 0) + 1
        yield rung if times == 1 else replace(rung, key=f"{rung.key}:again-{times}")


@dataclass(frozen=True, slots=True)
class _Group:
    """Bars that go through the stages together."""

    name: str
    first: int
    last: int

    @property
    def bars(self) -> range:
        return range(self.first, self.last + 1)


class _Building:
    def __init__(self, score: Score, school: School, asked: Practised) -> None:
        self.score, self.school, self.asked = score, school, asked
        self.first = 0 if asked.first is None else asked.first
        self.last = len(score.measures) - 1 if asked.last is None else asked.last
        likeness = bar_likeness(score)
        self.notes = [one.same_notes_as if one.same_notes_as is not None else one.measure_index for one in likeness]
        self.rhythms = [one.letter for one in likeness]
        self.of_hand = hand_likeness(score)
        self.quarter_bpm = quarters_a_minute(score, asked.target_bpm)
        self.difficulties = bar_difficulties(score, self.quarter_bpm, asked.span)
        self.strikes = {hand: [0] * len(score.measures) for hand in HANDS}
        for note in score.notes:
            if note.is_strike:
                self.strikes[note.hand][note.measure_index] += 1
        self.tempo = first_tempo(asked.target_bpm)
        self.met: set[tuple[int, ...]] = set()
        # What the groups before hold: their bars by notes, by rhythm, and by what each hand plays.
        self.known_notes, self.known_rhythms = set[int](), set[str]()
        self.known_of: dict[Hand, set[int]] = {hand: set() for hand in HANDS}

    # -- the whole -------------------------------------------------------------------------------------

    def rungs(self) -> Iterator[Rung]:
        groups = self._groups()
        self.seams = seams_of(self.score, self.quarter_bpm, self.asked.span)
        whole = _Group("the whole", self.first, self.last)
        if self._is_called():
            whole = yield from self._called(groups)
        else:
            for group in groups:
                yield from self._stages(group)
                self._know(group)
            yield from self._lines_joined(groups)
        yield self._rung(
            Stage.TEMPO, whole, "both", GateKind.TWO_DAYS, "Up by stops, then twice at its tempo, on different days.",
            tempos=stops_of(self.tempo),
        )  # fmt: skip
        yield from self._finish(whole)

    def _know(self, group: _Group) -> None:
        for bar in group.bars:
            self.known_notes.add(self.notes[bar])
            self.known_rhythms.add(self.rhythms[bar])
            for hand in HANDS:
                self.known_of[hand].add(self._of_hand(bar, hand))

    def _groups(self) -> list[_Group]:
        own = self.score.measures[self.first : self.last + 1]
        if self.school["scope"] == "piece":
            return [
                _Group("the piece" if len(own) == len(self.score.measures) else "the passage", self.first, self.last)
            ]
        if self._is_called():
            return self._from(MarkKind.CUE, self.first, self.last)
        found = []
        for line, bars in itertools.groupby(own, key=lambda measure: measure.line):
            inside = list(bars)
            found.append(_Group(f"line {line}", inside[0].index, inside[-1].index))
        return found

    # -- from one cue to the next ----------------------------------------------------------------------

    def _is_called(self) -> bool:
        """Does the ladder go from cue to cue? Where fewer than two are called it goes line by line."""
        return self.school["scope"] == CUE and len(self._from(MarkKind.CUE, self.first, self.last)) > 1

    def _from(self, kind: MarkKind, first: int, last: int) -> list[_Group]:
        """Bars from one mark of a kind to the next, called as it says; what lies before the first is the beginning."""
        text_at = {mark.onset_quarters: mark.text for mark in self.score.marks if mark.kind is kind}
        starts = {
            index: text_at[self.score.measures[index].start_quarters]
            for index in range(first, last + 1)
            if self.score.measures[index].start_quarters in text_at
        }
        starts = {first: "the beginning", **starts}
        bounds = [*sorted(starts)[1:], last + 1]
        return [_Group(starts[start], start, end - 1) for start, end in zip(sorted(starts), bounds, strict=True)]

    def _called(self, groups: Sequence[_Group]) -> Generator[Rung, None, _Group]:
        """What is called, each by itself, then one into the other; gives what is brought to its tempo: the last
        section, if several are called in it, else all."""
        sections = self._from(MarkKind.REHEARSAL, self.first, self.last)
        inside = [[group for group in groups if group.first in section.bars] for section in sections]
        is_in_turn = len(sections) > 1 and len(inside[-1]) > 1
        for group in itertools.chain.from_iterable(inside[:-1] if is_in_turn else inside):
            yield from self._one_called(group)
            self._know(group)
        whole = replace(sections[-1], name="in turn") if is_in_turn else _Group("the whole", self.first, self.last)
        for section in inside:
            for here, after in itertools.pairwise(section):
                first, last = max(here.first, here.last - _LINE + 1), min(after.last, after.first + _LINE - 1)
                if (first, last) == (whole.first, whole.last):
                    continue  # that is practised as the whole
                why = f"From “{here.name}” into “{after.name}”: it is called a beat ahead, the beat runs on."
                part = _Group("one into the other", first, last)
                yield self._rung(Stage.JOIN, part, "both", GateKind.ONE_CLEAN, why)
        yield self._rung(Stage.JOIN, whole, "both", GateKind.TWO_OF_THREE, "All of it, slowly, without a stop.")
        return whole

    def _one_called(self, group: _Group) -> Iterator[Rung]:
        """Say it, tap it; over held chords play it; under a tune sing that, then play."""
        if self._content(group.first, group.last) in self.met:
            return
        self.met.add(self._content(group.first, group.last))
        if not all(self.rhythms[bar] in self.known_rhythms for bar in group.bars):
            yield self._rung(Stage.COUNT, group, "both", GateKind.WORD, "What can be said can be played.")
            yield self._rung(
                Stage.LAP, group, "both", GateKind.ONE_CLEAN, "The rhythm of both hands, without the keys."
            )
        if self._is_held(group):
            yield self._rung(Stage.JOIN, group, "both", GateKind.ONE_CLEAN, "Only the left hand is thought of.")
            return
        if any(self.strikes[Hand.RIGHT][bar] for bar in group.bars):
            if not all(self._of_hand(bar, Hand.RIGHT) in self.known_of[Hand.RIGHT] for bar in group.bars):
                yield self._rung(Stage.RIGHT, group, "right", GateKind.ONE_CLEAN, "The tune, before it is carried.")
            yield in_way(self._rung(Stage.JOIN, group, "both", GateKind.ONE_CLEAN, ""), "tune-sung")
        yield self._whole(group)

    def _is_held(self, group: _Group) -> bool:
        """Does the right hand only hold chords, struck anew where a bar or a chord symbol is?"""
        symbols = {mark.onset_quarters for mark in self.score.marks if mark.kind is MarkKind.CHORD_SYMBOL}
        keys: dict[Quarters, int] = {}
        for bar in group.bars:
            for note in self.score.notes_of_measure(bar):
                if note.hand is Hand.RIGHT and note.is_strike:
                    keys[note.onset_quarters] = keys.get(note.onset_quarters, 0) + 1
        places = {self.score.measures[bar].start_quarters for bar in group.bars} | symbols
        return keys.keys() <= places and min(keys.values(), default=0) > 1

    # -- one line, or the piece ------------------------------------------------------------------------

    def _stages(self, group: _Group) -> Iterator[Rung]:
        if all(self.notes[bar] in self.known_notes for bar in group.bars):
            self.met.add(self._content(group.first, group.last))
            return  # known whole: only the way into it is new, and that is joined with the lines
        hands = [hand for hand in HANDS if any(self.strikes[hand][bar] for bar in group.bars)]
        yield from self._first_met(group)
        if self.school["start"] == "separate" or len(hands) < 2:
            yield from self._separate(group, hands)
        if len(hands) < 2:
            return
        if not all(self.rhythms[bar] in self.known_rhythms for bar in group.bars):
            yield self._rung(
                Stage.LAP, group, "both", GateKind.ONE_CLEAN, "The rhythm of both hands, without the keys."
            )
        if any(self.difficulties[bar].points > EASY_POINTS for bar in group.bars):
            yield self._rung(Stage.LINE_UP, group, "both", GateKind.WORD, "What goes down together, out of time.")
        yield from self._joined(group)

    def _first_met(self, group: _Group) -> Iterator[Rung]:
        hear = self._rung(Stage.HEAR, group, "both", GateKind.WORD, QUESTIONS["first"].answer("hear").why)
        is_first = self.school["first"] == "count"
        why = QUESTIONS["first"].answer("count").why if is_first else "What can be said can be played."
        count = self._rung(Stage.COUNT, group, "both", GateKind.WORD, why)
        counted = [] if all(self.rhythms[bar] in self.known_rhythms for bar in group.bars) else [count]
        yield from [*counted, hear] if is_first else [hear, *counted]

    def _separate(self, group: _Group, hands: Sequence[Hand]) -> Iterator[Rung]:
        for hand in self._in_order(hands, group):
            known = self.known_of[hand]
            own = [bar for bar in group.bars if self.strikes[hand][bar]]
            if own and all(self._of_hand(bar, hand) in known for bar in own):
                continue
            stage = Stage.RIGHT if hand is Hand.RIGHT else Stage.LEFT
            yield self._rung(stage, group, hand.value, GateKind.ONE_CLEAN, self._why_hand(hand, hands, group))

    def _of_hand(self, bar: int, hand: Hand) -> int:
        same = self.of_hand[bar][hand].same_notes_as
        return bar if same is None else same

    def _in_order(self, hands: Sequence[Hand], group: _Group) -> list[Hand]:
        first = self.school["first-hand"]
        if first in ("right", "left"):
            return sorted(hands, key=lambda hand: hand.value != first)
        if first == "busier":
            return sorted(hands, key=lambda hand: -self._count(hand, group))
        return sorted(hands, key=lambda hand: self._kinds(hand, group))

    def _count(self, hand: Hand, group: _Group) -> int:
        return sum(self.strikes[hand][bar] for bar in group.bars)

    def _kinds(self, hand: Hand, group: _Group) -> int:
        """How many different bars a hand plays: the fewer, the steadier it is."""
        return len({self._of_hand(bar, hand) for bar in group.bars if self.strikes[hand][bar]})

    def _why_hand(self, hand: Hand, hands: Sequence[Hand], group: _Group) -> str:
        if len(hands) < 2:
            return "The hand that plays here."
        if self._in_order(hands, group)[0] is hand:
            return f"First: {QUESTIONS['first-hand'].answer(self.school['first-hand']).words}."
        return "Then the other hand, until one of them needs no thought."

    # -- joining ---------------------------------------------------------------------------------------

    def _content(self, first: int, last: int) -> tuple[int, ...]:
        return tuple(self.notes[first : last + 1])

    def _joined(self, group: _Group) -> Iterator[Rung]:
        if self.school["chunks"] == "phrases":
            yield from self._phrases_joined(group)
            return
        bars = list(group.bars)
        chunks = chunks_of(
            self.school["chunks"],
            [self.notes[bar] for bar in bars],
            [self.score.measures[bar].line for bar in bars],
        )
        seam = seam_chosen(self.score, group.bars, self.seams, self.asked.halts)
        for low, high in chunks:
            first, last = bars[low], bars[high]
            is_whole = (first, last) == (group.first, group.last)
            if self._content(first, last) in self.met and not is_whole:
                continue
            if first == last and self.score.measures[first].is_pickup and len(bars) > 1:
                continue  # it leads into its bar, and is nothing by itself
            self.met.add(self._content(first, last))
            part = _Group(group.name, first, last)
            if is_whole and seam is not None:
                yield self._seam_rung(group, seam)
            yield (
                self._whole(group)
                if is_whole
                else self._rung(Stage.JOIN, part, "both", GateKind.ONE_CLEAN, self._why_chunk)
            )

    @property
    def _why_chunk(self) -> str:
        return QUESTIONS["chunks"].answer(self.school["chunks"]).why

    def _whole(self, group: _Group) -> Rung:
        gate = GateKind.TWO_OF_THREE if len(group.bars) > SHORT_BARS else GateKind.ONE_CLEAN
        return self._rung(Stage.JOIN, group, "both", gate, "All of it, without a stop.")

    def _phrases_joined(self, group: _Group) -> Iterator[Rung]:
        """Phrase by phrase, each with the next, then all; they need not begin at a bar line."""
        passage = range(self.first, self.last + 1)
        for chunk in phrase_chunks(self.score, self.asked.phrase_starts, group.bars, passage):
            content = (_PHRASES, *chunk.content)
            if content in self.met:
                continue
            self.met.add(content)
            part = _Group(group.name, chunk.first, chunk.last)
            rung = self._rung(Stage.JOIN, part, "both", GateKind.ONE_CLEAN, self._why_chunk)
            yield replace(in_spot(self.score, rung, chunk.within), title=chunk.name[0].upper() + chunk.name[1:])
        seam = seam_chosen(self.score, group.bars, self.seams, self.asked.halts)
        if seam is not None:
            yield self._seam_rung(group, seam)
        self.met.add(self._content(group.first, group.last))
        yield self._whole(group)

    def _seam_rung(self, group: _Group, seam: Chosen) -> Rung:
        before, to = (self.score.measures[index] for index in (seam.first, seam.last))
        rung = self._rung(Stage.SEAMS, _Group(group.name, before.index, to.index), "both", GateKind.ONE_CLEAN, seam.why)
        return in_spot(self.score, rung, seam.within)

    def _lines_joined(self, groups: Sequence[_Group]) -> Iterator[Rung]:
        """Each line with the next, then all."""
        if len(groups) < 2:
            return
        if len(groups) > 2:
            for here, after in itertools.pairwise(groups):
                if self._content(here.first, after.last) not in self.met:
                    self.met.add(self._content(here.first, after.last))
                    part = _Group(f"{here.name} and {after.name.removeprefix('line ')}", here.first, after.last)
                    yield self._rung(
                        Stage.JOIN, part, "both", GateKind.ONE_CLEAN, "Across the end of the line, where eyes jump."
                    )
        whole = _Group("the whole", self.first, self.last)
        yield self._rung(Stage.JOIN, whole, "both", GateKind.TWO_OF_THREE, "All of it, slowly, without a stop.")

    # -- the end ---------------------------------------------------------------------------------------

    def _finish(self, whole: _Group) -> Iterator[Rung]:
        target = (self.tempo.target,)
        yield self._named(WITHOUT_CLICK, whole, GateKind.ONE_CLEAN, "The beat is yours now.", tempos=target)
        kinds = {mark.kind for mark in self.score.marks}
        if self.school["dynamics"] == "last" and kinds & {MarkKind.DYNAMIC}:
            yield self._named("loud and soft", whole, GateKind.WORD, "Once notes need no attention.", tempos=target)
        if self.school["pedal"] == "last" and MarkKind.PEDAL in kinds:
            yield self._named("with the pedal", whole, GateKind.WORD, "A foot is a third hand.", tempos=target)
        yield self._named("the ending", whole, GateKind.WORD, "Hold the last notes, then hands off.", tempos=target)
        yield self._named("your own version", whole, GateKind.WORD, "Another clap, rhythm or ending: not judged.")

    def _named(self, name: str, group: _Group, gate: GateKind, why: str, *, tempos: tuple[int, ...] = ()) -> Rung:
        rung = self._rung(Stage.FINISH, group, "both", gate, why, tempos=tempos)
        return replace(rung, key=f"{rung.key}:{key_part(name)}", title=name[0].upper() + name[1:])

    # -- one rung --------------------------------------------------------------------------------------

    def _rung(
        self, stage: Stage, group: _Group, hands: str, gate: GateKind, why: str, *, tempos: tuple[int, ...] = ()
    ) -> Rung:
        rung = bare_rung(self.score, stage, group.bars, hands)
        return replace(rung, group=group.name, tempos=tempos or (self.tempo.bpm,), gate=gate, why=why)
