"""Counting: which words are said where, and what each of them is.

A count is exactly one of *strike* (a note starts), *hold* (a note sounds on through it by its written
length) or *rest* (the hand is silent). Positions in a bar are nominal (a pickup on 4 of 4/4 starts at
position 3); offsets in the result are from the start of the written bar, as everywhere outside core.

Systems that say a word for each place of the meter are worked out here; those that say one for each
thing that happens in ``spoken``. Source: docs/trade.md 2 (common practice).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import cached_property, lru_cache

from laptick.core.base.kept import Kept
from laptick.core.base.units import Bpm, LengthNaming, convert_bpm
from laptick.core.counting.choices import Compound, CountChoice, CountChoices, Density, choose
from laptick.core.counting.counted_beats import BarBeats, bar_beats, tempo_at
from laptick.core.counting.counts import Change, Count, CountedBar, Kind, LineCount, RawCount, hand_key
from laptick.core.counting.divisions import BarPlan, TickBeat, named_division, plan_bar
from laptick.core.counting.event_words import Spoken
from laptick.core.counting.rest_words import say_rests
from laptick.core.counting.word_tables import MIXED_NAMES, PLACE_SYSTEMS, System, WordTable, division_name, numbered
from laptick.core.score.hand_line import HandLine, hand_line, to_ticks
from laptick.core.score.score import HANDS, Hand, Measure, Score


def count_line(
    score: Score,
    hand: Hand | None,
    choices: CountChoices | None = None,
    *,
    measures: tuple[Measure, ...] | None = None,
    bpm: Bpm | None = None,
) -> LineCount:
    """The counts of one hand, or of both as the composite (``None``), over ``measures`` (all by default).

    ``bpm`` counts the beat of the first of these bars and only decides ``auto``; it defaults to the
    score's own mark.
    """
    chosen = score.measures if measures is None else measures
    layers = choices or CountChoices()
    line = hand_line(score, hand)
    key = hand_key(hand)
    tempo = default_bpm(score) if bpm is None else bpm
    laid_out = _lay_out(_Asked(score, hand, line, chosen, layers, tempo))
    spans = laid_out.spans
    planned = [
        CountedBar(measure, layers.resolve(key, measure.number), beats, plan)
        for measure, (beats, plan) in zip(chosen, laid_out.plans, strict=True)
    ]
    by = _densify(planned)
    spoken: Spoken | None = None
    known: dict[RawCount, Count] = {}
    bars: list[tuple[Count, ...]] = []
    for bar, (start, end) in zip(by, spans, strict=True):
        system = bar.resolved.system
        if system not in PLACE_SYSTEMS or system is System.DURATION:
            spoken = spoken or Spoken(score, hand, line, spans[0][0], spans[-1][1])
        if spoken and system not in PLACE_SYSTEMS:
            said = spoken.say_bar(bar, start, end)
        else:
            said = _say_bar(bar, line, start, end)
            if spoken and system is System.DURATION:
                said = spoken.name_durations(bar, said, start)
        bars.append(_counts(said, line, known))
    bars = say_rests(bars, by)
    bars = _with_syllables(bars, chosen, layers, key)
    naming, per = layers.naming, line.per_quarter
    changes = laid_out.changes(planned, per, naming) if by is planned else _changes(by, per, naming)
    return LineCount(tuple(bars), tuple(changes), tuple(by), naming)


def count_hand(
    score: Score,
    hand: Hand | None,
    *,
    system: System | None = None,
    density: Density | None = None,
    compound: Compound | None = None,
    beat: str | None = None,
    grouping: tuple[int, ...] | None = None,
    measures: tuple[Measure, ...] | None = None,
    bpm: Bpm | None = None,
) -> LineCount:
    """``count_line`` with choices for the whole piece."""
    choices = choose(system=system, density=density, compound=compound, beat=beat, grouping=grouping)
    return count_line(score, hand, choices, measures=measures, bpm=bpm)


def default_bpm(score: Score) -> Bpm | None:
    """The score's first tempo mark, counted in the first bar's beat; ``None`` when it prints none."""
    if not score.tempos or not score.measures:
        return None
    mark = score.tempos[0]
    return convert_bpm(mark.bpm, mark.beat_quarters, score.measures[0].meter.beat_quarters)


# -- planning ---------------------------------------------------------------------------------------


def _spans_of(measures: Sequence[Measure], per: int) -> list[tuple[int, int]]:
    """(start, end) of each bar in ticks."""
    result = []
    for measure in measures:
        start = to_ticks(measure.start_quarters, per)
        result.append((start, start + to_ticks(measure.length_quarters, per)))
    return result


def _boundaries(line: HandLine, spans: list[tuple[int, int]]) -> list[list[int]]:
    """For each bar the instants that divide its beats: strikes and starts of silence."""
    instants = line.boundary_ticks
    result: list[list[int]] = []
    cursor = 0
    for start, end in spans:
        while cursor < len(instants) and instants[cursor] < start:
            cursor += 1
        inside: list[int] = []
        while cursor < len(instants) and instants[cursor] < end:
            inside.append(instants[cursor])
            cursor += 1
        result.append(inside)
    return result


@dataclass
class _LaidOut:
    """What does not depend on the words: bars in ticks, their beats and plans, and the changes between."""

    spans: list[tuple[int, int]]
    plans: list[tuple[BarBeats, BarPlan]]
    known_changes: dict[LengthNaming, list[Change]] = field(default_factory=dict)

    def changes(self, by: list[CountedBar], per: int, naming: LengthNaming) -> list[Change]:
        if naming not in self.known_changes:
            self.known_changes[naming] = _changes(by, per, naming)
        return self.known_changes[naming]


@dataclass(frozen=True)
class _Asked:
    """What is to be counted: which line over which bars, by which choices, at which tempo."""

    score: Score
    hand: Hand | None
    line: HandLine
    measures: tuple[Measure, ...]
    layers: CountChoices
    tempo: Bpm | None


#: Bars, beats and plans of each line, by what they depend on.
LAID_OUT: Kept[Score, tuple[object, ...], _LaidOut] = Kept()


def _lay_out(asked: _Asked) -> _LaidOut:
    """Kept with the score: the systems of one line share it, as long as no bar is counted its own way."""
    if asked.layers.bars:
        return _lay_out_anew(asked)
    chosen, measures = asked.layers.resolve(hand_key(asked.hand)), asked.measures
    which = (measures[0].index, len(measures))
    is_beats = chosen.system is System.BEATS
    key = (asked.hand, which, chosen.compound, chosen.beat, chosen.grouping, asked.tempo, is_beats)
    return LAID_OUT.of(asked.score, key, lambda: _lay_out_anew(asked))


def _lay_out_anew(asked: _Asked) -> _LaidOut:
    measures, line, layers = asked.measures, asked.line, asked.layers
    per, key = line.per_quarter, hand_key(asked.hand)
    spans = _spans_of(measures, per)
    each = _EachHand(asked.score, spans) if asked.hand is None else None
    plans: list[tuple[BarBeats, BarPlan]] = []
    for number, (measure, (start, _), inside) in enumerate(zip(measures, spans, _boundaries(line, spans), strict=True)):
        resolved = layers.resolve(key, measure.number)
        beats = bar_beats(measure, resolved, tempo_at(measure, measures[0], asked.tempo))
        lead = to_ticks(measure.lead_quarters, per) - start
        positions = tuple([tick + lead for tick in inside]) if resolved.system is not System.BEATS else ()
        plan = plan_bar(beats, per, positions)
        if each is not None and plan.is_doubtful:
            leads = each.leads(number, beats, per, lead)
            plan = plan if leads is None else plan_bar(beats, per, positions, leads)
        plans.append((beats, plan))
    return _LaidOut(spans, plans)


class _EachHand:
    """The two hands by themselves, asked where their composite leaves in doubt what a beat is divided into: a triplet
    over two beats in one hand stays one, though the other hand strikes the beats."""

    def __init__(self, score: Score, spans: list[tuple[int, int]]) -> None:
        self._score, self._spans = score, spans

    @cached_property
    def _inside(self) -> list[list[list[int]]]:
        return [_boundaries(hand_line(self._score, hand), self._spans) for hand in HANDS]

    def leads(self, number: int, beats: BarBeats, per: int, lead: int) -> frozenset[int] | None:
        """The beats of a bar at which such a triplet begins; ``None``: there is none."""
        alone = [plan_bar(beats, per, tuple([tick + lead for tick in own[number]])) for own in self._inside]
        if not any(one.leads for one in alone):
            return None
        return frozenset(index for one in alone if not one.is_finer for index in one.leads)


def _densify(by: list[CountedBar]) -> list[CountedBar]:
    """Under *bar* a bar's native beats take its finest division, under *steady* the passage's."""
    if all(bar.resolved.density is Density.BEAT for bar in by):
        return by
    own = [bar.plan.finest_part() for bar in by]
    finest = min((part for part, bar in zip(own, by, strict=True) if part and not bar.plan.is_finer), default=None)
    denser: dict[tuple[int, int], BarPlan] = {}
    result = []
    for bar, part in zip(by, own, strict=True):
        density = bar.resolved.density
        wanted = part if density is Density.BAR or bar.plan.is_finer else finest
        if density is Density.BEAT or wanted is None or bar.resolved.system is System.BEATS:
            result.append(bar)
            continue
        key = (id(bar.plan), wanted)
        if key not in denser:
            denser[key] = bar.plan.densified(wanted)
        result.append(replace(bar, plan=denser[key]))
    return result


# -- saying -----------------------------------------------------------------------------------------


def _counts(said: list[RawCount], line: HandLine, known: dict[RawCount, Count]) -> tuple[Count, ...]:
    """Counts from what is said; equal ones are one object."""
    counts = []
    for raw in said:
        count = known.get(raw)
        if count is None:
            count = known[raw] = Count(line.quarters(raw[0]), *raw[1:])
        counts.append(count)
    return tuple(counts)


_STRIKE, _HOLD, _REST = Kind.STRIKE, Kind.HOLD, Kind.REST


#: What is said in a whole bar, by table.
PLAN_WORDS: Kept[BarPlan, WordTable, list[tuple[int, str, bool]]] = Kept()


def _say_bar(bar: CountedBar, line: HandLine, start: int, end: int) -> list[RawCount]:
    table = bar.resolved.table
    # Plans of equal bars are one object, so a bar's words are put together once.
    words = PLAN_WORDS.of(bar.plan, table, lambda: plan_words(bar.plan, table))
    lead = to_ticks(bar.measure.lead_quarters, line.per_quarter)
    strikes, sounds, length = line.strike_set, line.sounds_at_tick, end - start
    said: list[RawCount] = []
    for position, word, is_beat in words:
        offset = position - lead
        if not 0 <= offset < length:
            continue  # outside the written part of a pickup or a short last bar
        tick = start + offset
        said.append((offset, word, _STRIKE if tick in strikes else (_HOLD if sounds(tick) else _REST), is_beat))
    return said


def plan_words(plan: BarPlan, table: WordTable) -> list[tuple[int, str, bool]]:
    """(nominal tick, word, is a beat) of everything said in a whole bar, in order."""
    said: list[tuple[int, str, bool]] = []
    for index, (beat, grids) in enumerate(zip(plan.beats, plan.grids, strict=True)):
        if index in plan.covered:
            continue
        if index in plan.leads:
            said += _over_words(plan, index, table)
        elif plan.places[index]:
            said.append((beat.start, numbered(table.words("beat")[0], beat.number), True))
            said += [(beat.start + tick, table.words("other")[0], False) for tick in plan.places[index]]
        else:
            said += _beat_words(beat, grids, table)
    return said


@lru_cache(maxsize=16384)
def _beat_words(beat: TickBeat, grids: tuple[int, ...], table: WordTable) -> list[tuple[int, str, bool]]:
    """One beat said complete in its divisions."""
    if len(grids) == 1:
        places = [Fraction(part, grids[0]) for part in range(grids[0])]
        words = list(table.parts(grids[0], beat.is_compound))
    else:
        places = sorted({Fraction(part, grid) for grid in grids for part in range(grid)})
        words = [table.place(place, beat.is_compound) for place in places]
    return [
        (beat.start + int(beat.length * place), numbered(word, beat.number), place == 0)
        for place, word in zip(places, words, strict=True)
    ]


def _over_words(plan: BarPlan, index: int, table: WordTable) -> list[tuple[int, str, bool]]:
    """A triplet over several beats, every beat said."""
    reach = plan.leads[index]
    stretch = plan.beats[index : index + reach]
    start, length = stretch[0].start, stretch[0].length
    beat, other = table.words("beat")[0], table.words("other")[0]
    words = table.words("over-two") if "over-two" in table else (beat, other, beat, other)
    said = [
        (beat.start, numbered(words[0] if step == 0 else words[2], beat.number, beat.number), True)
        for step, beat in enumerate(stretch)
    ]
    said += [(start + length * reach * third // 3, words[2 * third - 1], False) for third in (1, 2)]
    return sorted(said)


def _with_syllables(
    bars: list[tuple[Count, ...]], measures: Sequence[Measure], choices: CountChoices, key: str
) -> list[tuple[Count, ...]]:
    """Single words said otherwise; the last word in every question of what is said."""
    if not choices.syllables:
        return bars
    own = choices.syllables_of(key)
    return [
        tuple(replace(count, say=own.get((measure.number, count.offset_quarters), count.say)) for count in bar)
        for measure, bar in zip(measures, bars, strict=True)
    ]


# -- changes ----------------------------------------------------------------------------------------


def _changes(by: list[CountedBar], per: int, naming: LengthNaming) -> list[Change]:
    """Changes between divided beats; undivided beats keep the division last heard."""
    changes: list[Change] = []
    last: str | None = None
    was_finer = False
    for bar in by:
        plan, measure = bar.plan, bar.measure
        if plan.is_finer != was_finer:
            if plan.is_finer:
                unit = division_name(Fraction(plan.beats[0].length, per), 1, 2, naming)
                changes.append(Change(measure.index, Fraction(0), last or "beats", f"count in {unit}", is_unit=True))
            else:
                changes.append(Change(measure.index, Fraction(0), last or "beats", "count in beats", is_unit=True))
            was_finer = plan.is_finer
        for start, name in _divisions_of(plan, per, naming):
            if last is not None and name != last:
                offset = max(Fraction(0), Fraction(start, per) - measure.lead_quarters)
                changes.append(Change(measure.index, offset, last, name))
            last = name
    return changes


def _divisions_of(plan: BarPlan, per: int, naming: LengthNaming) -> list[tuple[int, str]]:
    """(nominal tick, name) of every divided beat."""

    def named() -> list[tuple[int, str]]:
        every = [(beat.start, _division_at(plan, index, per, naming)) for index, beat in enumerate(plan.beats)]
        return [(start, name) for start, name in every if name is not None]

    return DIVISIONS.of(plan, naming, named)


#: The divided beats of a bar, by what the studio calls lengths.
DIVISIONS: Kept[BarPlan, LengthNaming, list[tuple[int, str]]] = Kept()


def _division_at(plan: BarPlan, index: int, per: int, naming: LengthNaming) -> str | None:
    grids = named_division(plan, index)
    if grids is None:
        return None
    if grids[0] < 0:
        return f"triplet over {'two' if grids[0] == -2 else 'four'} beats"
    if grids == (0,):
        return "a tuplet across the beats"
    if len(grids) > 1:
        return MIXED_NAMES.get(grids, " against ".join(str(grid) for grid in reversed(grids)))
    beat = plan.beats[index]
    return division_name(Fraction(beat.length, grids[0] * per), grids[0], 3 if beat.is_compound else 2, naming)


__all__ = [
    "Change",
    "Compound",
    "Count",
    "CountChoice",
    "CountedBar",
    "Density",
    "Kind",
    "LineCount",
    "System",
    "count_hand",
    "count_line",
    "default_bpm",
    "hand_key",
    "plan_words",
]
