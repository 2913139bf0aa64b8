"""The roadmap: in which order the written bars are played, and the score laid out in that order.

Rules (common practice, no source): a repeat back goes to the repeat forward before it, else to just after
the last repeat back, else to the start; a bracket is played on the turns it names, and the section is
repeated up to the highest number over it; D.C. and D.S. are taken once, when the repeats of their bar are
done; after them repeats are not taken, the last ending is played, *Fine* ends and *To Coda* leads on.
A sign to go to or to stop at stands at its bar's start (segno, coda), one to leave at its end.

What contradicts itself is reported and not taken; nothing is guessed.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TypeVar

from laptick.core.base.errors import OptionError
from laptick.core.base.kept import Kept
from laptick.core.base.units import Quarters
from laptick.core.score.score import Mark, Measure, Note, Rest, Score, TempoMark

#: A played piece is at most this long; a roadmap that goes on longer is reported and cut.
MAX_PLAYED_BARS = 2000

#: A roadmap from a teacher has at most this many times the written bars.
MAX_TURNS = 20


@dataclass(frozen=True, slots=True)
class Problem:
    """A sign that cannot be followed. ``measure_index`` is the written bar."""

    measure_index: int
    text: str


@dataclass(frozen=True)
class Roadmap:
    """``order``: indices of written bars as played."""

    order: tuple[int, ...]
    problems: tuple[Problem, ...] = ()

    @property
    def is_plain(self) -> bool:
        """Every bar once, as written."""
        return self.order == tuple(range(len(self.order)))


@dataclass(frozen=True, slots=True)
class _Block:
    """One bracket: its bars and numbers; ``highest`` of the brackets that follow on each other.
    ``is_broken``: the brackets contradict the repeats and are played as written."""

    first: int
    last: int
    numbers: tuple[int, ...]
    highest: int
    is_broken: bool


def play_order(score: Score) -> Roadmap:
    """The playing order of a score by its signs."""
    return ROADMAPS.of(score, None, lambda: _Walk(score.measures).walk())


ROADMAPS: Kept[Score, None, Roadmap] = Kept()


class _Walk:
    def __init__(self, measures: Sequence[Measure]) -> None:
        self.measures = measures
        self.problems: list[Problem] = []
        self.blocks = self._find_blocks()
        self.block_at = {i: block for block in self.blocks for i in range(block.first, block.last + 1)}
        self.jumps = self._find_jumps()
        self._look_for_loose_ends()

    def _problem(self, index: int, text: str) -> None:
        self.problems.append(Problem(index, text))

    # -- reading the signs --------------------------------------------------------------------------

    def _find_blocks(self) -> list[_Block]:
        runs: list[tuple[int, int, tuple[int, ...]]] = []
        for i, measure in enumerate(self.measures):
            signs = measure.signs
            if not signs.endings:
                continue
            goes_on = runs and runs[-1][1] == i - 1 and runs[-1][2] == signs.endings and not signs.ending_begins
            if goes_on:
                runs[-1] = (runs[-1][0], i, signs.endings)
            else:
                runs.append((i, i, signs.endings))
        groups: list[list[tuple[int, int, tuple[int, ...]]]] = []
        for run in runs:
            if groups and groups[-1][-1][1] == run[0] - 1 and run[2][0] > groups[-1][-1][2][0]:
                groups[-1].append(run)
            else:
                groups.append([run])
        return [block for group in groups for block in self._group_blocks(group)]

    def _group_blocks(self, group: list[tuple[int, int, tuple[int, ...]]]) -> list[_Block]:
        numbers = [number for _, _, own in group for number in own]
        highest = max(numbers)
        broken = False
        if sorted(numbers) != list(range(1, highest + 1)):
            broken = True
            self._problem(group[0][0], "the endings here are not numbered 1, 2, … in order; they are played as written")
        else:
            for _, last, own in group:
                signs = self.measures[last].signs
                if highest not in own and not (signs.backward or signs.da_capo or signs.dal_segno):
                    broken = True
                    self._problem(last, f"ending {own[0]} does not lead back; the endings are played as written")
        if highest == 1 and not broken and not self.measures[group[0][1]].signs.backward:
            broken = True  # a first ending alone without a repeat says nothing
        return [_Block(first, last, own, highest, broken) for first, last, own in group]

    def _find_jumps(self) -> dict[int, int]:
        """Bar at whose end a jump is taken → bar jumped to."""
        segnos = {m.signs.segno: i for i, m in reversed(list(enumerate(self.measures))) if m.signs.segno}
        jumps: dict[int, int] = {}
        for i, measure in enumerate(self.measures):
            signs = measure.signs
            if signs.da_capo and signs.dal_segno:
                self._problem(i, "both D.C. and D.S. stand here; neither is taken")
            elif signs.da_capo:
                jumps[i] = 0
            elif signs.dal_segno:
                target = self._target(signs.dal_segno, segnos)
                if target is None:
                    self._problem(i, "D.S. stands here, but there is no segno to go to; it is not taken")
                else:
                    jumps[i] = target
        return jumps

    @staticmethod
    def _target(name: str, signs: dict[str, int]) -> int | None:
        """The sign of that name; where there is only one sign, that one."""
        if name in signs:
            return signs[name]
        return next(iter(signs.values())) if len(signs) == 1 else None

    def _coda_of(self, index: int, codas: dict[str, int]) -> int | None:
        later = {name: at for name, at in codas.items() if at > index}
        return self._target(self.measures[index].signs.to_coda, later)

    def _look_for_loose_ends(self) -> None:
        codas = {m.signs.coda: i for i, m in enumerate(self.measures) if m.signs.coda}
        self.coda_from: dict[int, int] = {}
        for i, measure in enumerate(self.measures):
            if measure.signs.to_coda:
                target = self._coda_of(i, codas)
                if target is None:
                    self._problem(i, "“To Coda” stands here, but no coda follows; it is not taken")
                else:
                    self.coda_from[i] = target
            if measure.signs.fine and not self.jumps:
                self._problem(i, "“Fine” stands here, but nothing leads back to it; the piece is played to its end")
        if self.coda_from and not self.jumps:
            first = min(self.coda_from)
            self._problem(first, "“To Coda” stands here, but nothing leads back to it; it is not taken")
        opened: int | None = None
        for i, measure in enumerate(self.measures):
            if measure.signs.forward:
                opened = i
            if measure.signs.backward:
                opened = None
        if opened is not None:
            self._problem(opened, "a repeat begins here and does not end; it is not taken")

    # -- walking ------------------------------------------------------------------------------------

    def walk(self) -> Roadmap:
        order: list[int] = []
        taken: set[int] = set()
        i = section = 0
        turn, jumped = 1, False
        while i < len(self.measures):
            if len(order) >= MAX_PLAYED_BARS:
                self._problem(i, f"the playing order is longer than {MAX_PLAYED_BARS} bars and was cut here")
                break
            signs, block = self.measures[i].signs, self.block_at.get(i)
            if signs.forward and i != section:
                section, turn = i, 1
            if block and not block.is_broken and i == block.first:
                is_wanted = block.highest in block.numbers if jumped else turn in block.numbers
                if not is_wanted:
                    i = block.last + 1
                    continue
            order.append(i)
            if jumped and signs.fine:
                break
            if jumped and i in self.coda_from:
                i = self.coda_from[i]
                continue
            if signs.backward and not jumped:
                if turn < self._turns(i, block):
                    turn, i = turn + 1, section
                    continue
                section, turn = i + 1, 1
            elif block and i == block.last and block.highest in block.numbers:
                section, turn = i + 1, 1
            if i in self.jumps and i not in taken:
                taken.add(i)
                i, section, turn, jumped = self.jumps[i], self.jumps[i], 1, True
                continue
            i += 1
        ordered = sorted(self.problems, key=lambda problem: problem.measure_index)
        return Roadmap(tuple(order), tuple(ordered))

    def _turns(self, index: int, block: _Block | None) -> int:
        """How many times in all the section that ends here is played."""
        if block and not block.is_broken:
            # A repeat at the last bracket adds nothing; one ending alone is repeated by its repeat.
            return block.highest if block.highest > 1 else self.measures[index].signs.backward
        return self.measures[index].signs.backward


# -- the score in played order ------------------------------------------------------------------------


def order_of_names(score: Score, names: Iterable[str]) -> tuple[int, ...]:
    """A teacher's own order, bars named as in the file.

    Raises:
        OptionError: a name that the score does not have, no bar at all, or far too many.
    """
    by_name = {measure.number: measure.index for measure in reversed(score.measures)}
    order: list[int] = []
    for name in names:
        if name not in by_name:
            raise OptionError(
                f"there is no bar “{name[:20]}” in this score.", where="order", kept="Nothing was changed."
            )
        order.append(by_name[name])
    most = min(MAX_TURNS * len(score.measures), MAX_PLAYED_BARS)
    if not order or len(order) > most:
        raise OptionError(
            f"a playing order has from one to {most:,} bars here.",
            where="order",
            kept="Nothing was changed.",
        )
    return tuple(order)


def in_played_order(score: Score, order: Sequence[int] | None = None) -> Score:
    """The score laid out as it is played: a bar for every time it comes, each with its pass.

    ``order`` defaults to the score's own roadmap. A score played as written is returned as it is.
    """
    chosen = tuple(play_order(score).order if order is None else order)
    if chosen == tuple(range(len(score.measures))):
        return score
    return PLAYED.of(score, chosen, lambda: _Layout(score).of(chosen))


#: As many bars are played round as one take, so many times.
MOST_ROUND_BARS, MOST_TIMES_ROUND = 4, 8


def laid_round(score: Score, measures: Sequence[Measure], times_round: int) -> Score:
    """A short passage of a score so many times round without a stop, each bar with the pass that its round is.

    Raises:
        OptionError: the passage is too long, or is to go round too often.
    """
    if not 1 <= times_round <= MOST_TIMES_ROUND:
        raise OptionError(f"a passage goes from 1 to {MOST_TIMES_ROUND} times round.", where="times_round")
    if len(measures) > MOST_ROUND_BARS:
        raise OptionError(
            f"up to {MOST_ROUND_BARS} bars are played round as one take.",
            where="times_round",
            kept="Nothing was changed.",
            todo="Choose fewer bars, or play the passage once.",
        )
    chosen = tuple(measure.index for measure in measures) * times_round
    return PLAYED.of(score, chosen, lambda: _Layout(score).of(chosen))


#: The score as it is played, by the order of its bars.
PLAYED: Kept[Score, tuple[int, ...], Score] = Kept()


class _Layout:
    """Lays the bars of a score out in an order, each with what stands in it, moved to where it is played."""

    def __init__(self, score: Score) -> None:
        self._score = score
        self._marks = _by_bar(score, score.marks)
        self._tempos = _by_bar(score, score.tempos)
        self._passes: Counter[int] = Counter()
        self._start: Quarters = Fraction(0)
        self._tempo_now = score.tempos[0] if score.tempos else None
        self.measures: list[Measure] = []
        self.notes: list[Note] = []
        self.rests: list[Rest] = []
        self.marks: list[Mark] = []
        self.tempos: list[TempoMark] = []

    def of(self, order: Sequence[int]) -> Score:
        for place, index in enumerate(order):
            self._add_bar(place, self._score.measures[index])
        score = self._score
        return replace(
            score,
            measures=tuple(self.measures),
            notes=tuple(_mend_ties(self.notes)),
            rests=tuple(self.rests),
            tempos=tuple(self.tempos),
            marks=tuple(self.marks),
        )

    def _add_bar(self, place: int, written: Measure) -> None:
        index, start, score = written.index, self._start, self._score
        self._passes[index] += 1
        times = self._passes[index]
        suffix = "" if times == 1 else f"p{times}"
        laid = replace(
            written,
            index=place,
            start_quarters=start,
            pass_number=times,
            written_index=written.index if written.written_index < 0 else written.written_index,
            written_start=written.written_start_quarters,
        )
        shift = start - written.start_quarters
        self.measures.append(laid)
        self.notes += [
            replace(note, id=note.id + suffix, measure_index=place, onset_quarters=note.onset_quarters + shift)
            for note in score.notes_of_measure(index)
        ]
        self.rests += [
            replace(rest, measure_index=place, onset_quarters=rest.onset_quarters + shift)
            for rest in score.rests_of_measure(index)
        ]
        for mark in self._marks.get(index, ()):
            end = None if mark.end_quarters is None else mark.end_quarters + shift
            note_id = None if mark.note_id is None else mark.note_id + suffix
            moved = replace(mark, onset_quarters=mark.onset_quarters + shift, end_quarters=end, note_id=note_id)
            self.marks.append(moved)
        self._add_tempos(written, shift)
        self._start += written.length_quarters

    def _add_tempos(self, written: Measure, shift: Quarters) -> None:
        """The bar's own tempo marks. A jump back brings back the tempo that holds there."""
        own = self._tempos.get(written.index, [])
        holding = _tempo_holding(self._score, written)
        begins_anew = bool(own) and own[0].onset_quarters == written.start_quarters
        if holding is not None:
            if holding != self._tempo_now and not begins_anew:
                self.tempos.append(replace(holding, onset_quarters=self._start))
            self._tempo_now = holding
        for tempo in own:
            self.tempos.append(replace(tempo, onset_quarters=tempo.onset_quarters + shift))
            self._tempo_now = tempo


Placed = TypeVar("Placed", Mark, TempoMark)


def _by_bar(score: Score, placed: Sequence[Placed]) -> dict[int, list[Placed]]:
    result: dict[int, list[Placed]] = {}
    for one in placed:
        result.setdefault(score.measure_at(one.onset_quarters).index, []).append(one)
    return result


def _tempo_holding(score: Score, measure: Measure) -> TempoMark | None:
    """The tempo that holds at the start of a written bar; the first one before it has come."""
    before = [tempo for tempo in score.tempos if tempo.onset_quarters <= measure.start_quarters]
    return before[-1] if before else (score.tempos[0] if score.tempos else None)


def _mend_ties(notes: list[Note]) -> list[Note]:
    """The later part of a tie whose first part is not played before it is struck."""
    open_ties: dict[tuple[object, int | None], Quarters] = {}
    mended = []
    for note in notes:
        key = (note.hand, note.pitch)
        if note.tied_from_before and open_ties.get(key) != note.onset_quarters:
            note = replace(note, tied_from_before=False)
        if note.tied_onward:
            open_ties[key] = note.end_quarters
        mended.append(note)
    return mended
