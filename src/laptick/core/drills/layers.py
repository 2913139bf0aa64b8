"""A left hand in layers: one tune over a row of accompaniments, each a pattern over the roots of its bars.

The roots are those of the chord symbols, those the teacher types, or proposed from the tune and said to be so. A root
stands as near to the one before as it can, so that no key of a pattern reaches into what the right hand plays in that
bar, and the octave of a pattern becomes its fifth where that is too far or taken.
Source: docs/trade.md 3.3 (layered left hand), common practice; what a root is proposed by is ours.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.drills.chords import Chord, chord_of
from laptick.core.drills.drill import Drill, Event, Laying
from laptick.core.drills.patterns import Pattern, cells_of
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Score, mark_order

#: Where a root lies: not below, not above, and where the first one is looked for.
LOWEST_ROOT, HIGHEST_ROOT, FIRST_ROOT = 28, 57, 48

#: The lowest key of a piano.
LOWEST_KEY = 21

#: Above every key: where the right hand is silent.
_ABOVE_ALL = 128

#: An octave in white-key steps.
OCTAVE_STEPS = 7

TOUCHES = ("legato", "staccato")


@dataclass(frozen=True)
class Layer:
    """``patterns``: from which bar on (by index) which, the first from the beginning; ``chords``: one a bar;
    ``is_proposed``: by the tune; ``touch``: legato or staccato by hand; ``span_steps``: what the hand reaches;
    ``ceilings``: below which key it stays in each bar, ``None``: below what the right hand plays there; ``changes``: of
    the bars (by index) in which the chord changes, from where in them on (in quarters) to which."""

    patterns: tuple[tuple[int, Pattern], ...]
    chords: tuple[Chord, ...]
    is_proposed: bool = False
    touch: Mapping[Hand, str] | None = None
    span_steps: int = OCTAVE_STEPS
    ceilings: tuple[int, ...] | None = None
    changes: Mapping[int, tuple[tuple[Quarters, Chord], ...]] = field(default_factory=dict)


def ceilings_of(score: Score) -> tuple[int, ...]:
    """For each bar the lowest key of the right hand: what the left hand's keys stay below."""
    tune = [note for note in score.notes if note.hand is Hand.RIGHT]
    return tuple(min(_sounding(tune, measure), default=_ABOVE_ALL) for measure in score.measures)


def make_layer(score: Score, layer: Layer) -> Drill:
    """The tune of a score over a pattern.

    Raises:
        OptionError: the right hand has no note, or no root finds its place.
    """
    tune = [note for note in score.notes if note.hand is Hand.RIGHT]
    if not tune:
        raise OptionError("the right hand has no note here.", where="of", todo="Choose a piece with a tune.")
    laying = Laying(Hand.LEFT, score.measures)
    root = FIRST_ROOT
    ceilings = ceilings_of(score) if layer.ceilings is None else layer.ceilings
    for measure, chord, ceiling in zip(score.measures, layer.chords, ceilings, strict=True):
        pattern = [one for from_bar, one in layer.patterns if from_bar <= measure.index][-1]
        if measure.is_pickup:
            laying.lay_bar(measure, [Event(measure.length_quarters)])
            continue
        events: list[Event] = []
        for held, cells in _by_chord(cells_of(pattern, measure), chord, layer.changes.get(measure.index, ())):
            placed = _placed(held, cells, ceiling, root, layer.span_steps)
            if placed is None:
                raise OptionError(
                    f"in bar {measure.number} the right hand plays too low for {held.name}.",
                    where="of",
                    kept="Nothing was made.",
                    todo="Choose another root for that bar, or a tune that lies higher.",
                )
            root, own = placed
            events += own
        laying.lay_bar(measure, events)
    marks = [mark for mark in score.marks if mark.hand is not Hand.LEFT and not _is_of(score, mark, Hand.LEFT)]
    marks += laying.marks
    marks += _cues(score, layer)
    if layer.chords != chords_written(score):  # the symbols say what is played
        marks = [mark for mark in marks if mark.kind is not MarkKind.CHORD_SYMBOL] + _symbols(score, layer)
    made = replace(
        score,
        title=f"{score.title}, {', then '.join(one.words for _, one in layer.patterns)}",
        notes=tuple(sorted([*tune, *laying.notes], key=lambda n: (n.onset_quarters, n.pitch or 0, n.voice))),
        rests=tuple(
            sorted(
                [*(rest for rest in score.rests if rest.hand is Hand.RIGHT), *laying.rests],
                key=lambda rest: (rest.onset_quarters, rest.hand),
            )
        ),
        marks=tuple(sorted(marks, key=mark_order)),
        notices=(),
    )
    made = _touched(made, layer.touch or {})
    how = "proposed from the tune: change them as you like" if layer.is_proposed else "as they are given"
    bars = zip(score.measures, layer.chords, strict=True)
    roots = tuple(chord.name for measure, chord in bars if not measure.is_pickup)
    return Drill(made, sentence=f"The roots are {how}: {' '.join(roots)}.", roots=roots)


def _is_of(score: Score, mark: Mark, hand: Hand) -> bool:
    return mark.note_id is not None and any(note.id == mark.note_id and note.hand is hand for note in score.notes)


def _sounding(tune: Sequence[Note], measure: Measure) -> frozenset[int]:
    """The keys the right hand plays or holds in a bar."""
    return frozenset(
        note.pitch
        for note in tune
        if note.pitch is not None
        and note.onset_quarters < measure.end_quarters
        and (note.end_quarters > measure.start_quarters or note.measure_index == measure.index)
    )


Cells = Sequence[tuple[Quarters, tuple[str, ...]]]


def _by_chord(
    cells: Cells, chord: Chord, changes: Sequence[tuple[Quarters, Chord]]
) -> list[tuple[Chord, list[tuple[Quarters, tuple[str, ...]]]]]:
    """The cells of a bar by the chord that holds where each begins."""
    found: list[tuple[Chord, list[tuple[Quarters, tuple[str, ...]]]]] = []
    at: Quarters = Fraction(0)
    for cell in cells:
        held = [chord, *(other for since, other in changes if since <= at)][-1]
        if not found or found[-1][0] != held:
            found.append((held, []))
        found[-1][1].append(cell)
        at += cell[0]
    return found


def _placed(chord: Chord, cells: Cells, ceiling: int, near: int, span_steps: int) -> tuple[int, list[Event]] | None:
    """The root's key and the events over it, all below the ceiling and as near as can be; ``None`` where there is no
    room."""
    octaves = [octave for octave in range(9) if LOWEST_ROOT <= chord.root_key(octave) <= HIGHEST_ROOT]
    octaves.sort(key=lambda octave: (abs(chord.root_key(octave) - near), octave))
    for high in ("", "fifth", "root") if span_steps >= OCTAVE_STEPS else ("fifth", "root"):
        for octave in octaves:
            events = [
                Event(length, tuple(chord.tone(_tone(tone, high), octave) for tone in _tones(tones, high)))
                for length, tones in cells
            ]
            if all(pitch is not None and LOWEST_KEY <= pitch < ceiling for e in events for _, pitch in e.keys):
                return chord.root_key(octave), events
    return None


def _tone(tone: str, high: str) -> str:
    """``high``: what stands for the octave and what lies above it, empty: they stay; where there is no room above, a
    pattern is of its root alone."""
    if high == "root":
        return "root"
    return high if high and (tone == "octave" or tone.endswith("'")) else tone


def _tones(tones: tuple[str, ...], high: str) -> tuple[str, ...]:
    """No key twice in a chord."""
    return tuple(tone for i, tone in enumerate(tones) if _tone(tone, high) not in {_tone(t, high) for t in tones[:i]})


def _cues(score: Score, layer: Layer) -> list[Mark]:
    """What is said a beat ahead of another pattern."""
    return [
        Mark(MarkKind.CUE, score.measures[from_bar].start_quarters, pattern.words)
        for from_bar, pattern in layer.patterns[1:]
        if from_bar < len(score.measures)
    ]


def _symbols(score: Score, layer: Layer) -> list[Mark]:
    """The chords as they are played, where they change."""
    bars = [(m, chord) for m, chord in zip(score.measures, layer.chords, strict=True) if not m.is_pickup]
    before = [None, *(chord for _, chord in bars)]
    return [
        Mark(MarkKind.CHORD_SYMBOL, measure.start_quarters, chord.name)
        for (measure, chord), last in zip(bars, before, strict=False)
        if chord != last
    ]


def _touched(score: Score, touch: Mapping[Hand, str]) -> Score:
    """Legato: a slur over each line of bars; staccato: a dot on every note."""
    marks = list(score.marks)
    for hand, how in touch.items():
        if how not in TOUCHES:
            raise OptionError(f"“{how[:20]}” is no touch.", where="touch", todo=f"There are {', '.join(TOUCHES)}.")
        own = [note for note in score.notes if note.hand is hand and note.is_strike]
        marks = [
            mark
            for mark in marks
            if not (mark.kind in (MarkKind.SLUR, MarkKind.ARTICULATION) and _is_of(score, mark, hand))
        ]
        if how == "staccato":
            marks += [
                Mark(MarkKind.ARTICULATION, note.onset_quarters, "staccato", hand=hand, note_id=note.id) for note in own
            ]
            continue
        for line in sorted({measure.line for measure in score.measures}):
            inside = [note for note in own if score.measures[note.measure_index].line == line]
            if len({note.onset_quarters for note in inside}) > 1:
                first, last = inside[0], inside[-1]
                marks.append(Mark(MarkKind.SLUR, first.onset_quarters, "", last.onset_quarters, hand, note_id=first.id))
    return replace(score, marks=tuple(sorted(marks, key=mark_order)))


# -- roots -----------------------------------------------------------------------------------------------


def chords_typed(score: Score, text: str) -> tuple[Chord, ...]:
    """Chords a bar, ``C F G C``: the last one holds to the end; a pickup takes none.

    Raises:
        OptionError: no chord, or more of them than bars.
    """
    words = text.replace(",", " ").split()
    bars = [measure for measure in score.measures if not measure.is_pickup]
    if not words or len(words) > len(bars):
        raise OptionError(
            f"{len(words)} chords for {len(bars)} bars.", where="roots", todo="Write one for each bar, from the first."
        )
    typed = [chord_of(word) for word in words]
    typed += [typed[-1]] * (len(bars) - len(typed))
    return tuple([typed[0]] * (len(score.measures) - len(bars)) + typed)


def chords_written(score: Score) -> tuple[Chord, ...] | None:
    """The chord symbol that holds at each bar's beginning; ``None`` where the score has none."""
    symbols = [mark for mark in score.marks if mark.kind is MarkKind.CHORD_SYMBOL]
    if not symbols:
        return None
    found: list[Chord] = []
    for measure in score.measures:
        holding = [m for m in symbols if m.onset_quarters <= measure.start_quarters] or symbols[:1]
        try:
            found.append(chord_of(holding[-1].text))
        except OptionError:
            found.append(found[-1] if found else Chord("C"))
    return tuple(found)


def changes_written(score: Score) -> dict[int, tuple[tuple[Quarters, Chord], ...]]:
    """Where a chord symbol stands inside a bar: what changes there. One that is not understood changes nothing."""
    found: dict[int, tuple[tuple[Quarters, Chord], ...]] = {}
    for mark in sorted((m for m in score.marks if m.kind is MarkKind.CHORD_SYMBOL), key=lambda m: m.onset_quarters):
        measure = score.measure_at(mark.onset_quarters)
        if mark.onset_quarters > measure.start_quarters:
            try:
                change = (mark.onset_quarters - measure.start_quarters, chord_of(mark.text))
            except OptionError:
                continue
            found[measure.index] = (*found.get(measure.index, ()), change)
    return found


#: Chords that a major tune is tried with, in fifths from its tonic: I, IV, V, and VI in minor; a minor one: i, iv, V.
_MAJOR = ((0, ""), (-1, ""), (1, ""), (3, "m"))
_MINOR = ((0, "m"), (-1, "m"), (1, ""))
_FIFTHS_FROM_F = "FCGDAEB"

#: What speaks for a chord besides the notes that are in it.
_AT_THE_ENDS, _AS_BEFORE, _ON_A_BEAT = Fraction(3, 4), Fraction(1, 4), Fraction(2)


def chords_proposed(score: Score) -> tuple[Chord, ...]:
    """Of the chords of the key, for each bar the one that holds most of the tune: notes on beats count twice."""
    tune = [note for note in score.notes if note.hand is Hand.RIGHT and note.pitch is not None and not note.is_grace]
    fifths = next((int(mark.text) for mark in score.marks if mark.kind is MarkKind.KEY), 0)
    is_minor = bool(tune) and tune[-1].pitch is not None and tune[-1].pitch % 12 == (fifths * 7 + 9) % 12
    candidates = [_by_fifths(fifths + (3 if is_minor else 0) + far, q) for far, q in (_MINOR if is_minor else _MAJOR)]
    found: list[Chord] = []
    for measure in score.measures:
        own = [note for note in tune if note.measure_index == measure.index]
        said = {chord: _speaks(chord, own, measure) for chord in candidates}
        if measure.index in (0, len(score.measures) - 1):
            said[candidates[0]] += _AT_THE_ENDS
        if found:
            said[found[-1]] += _AS_BEFORE
        found.append(max(candidates, key=said.__getitem__))
    return tuple(found)


def _speaks(chord: Chord, notes: Sequence[Note], measure: Measure) -> Fraction:
    """How much of a bar's tune is in a chord."""
    beats, classes = {beat.start_quarters for beat in measure.meter.beats}, chord.classes()
    inside = [note for note in notes if note.pitch is not None and note.pitch % 12 in classes]
    weights = [note.duration_quarters * (_ON_A_BEAT if _offset(note, measure) in beats else 1) for note in inside]
    return sum(weights, Fraction(0))


def _offset(note: Note, measure: Measure) -> Fraction:
    return note.onset_quarters - measure.start_quarters + measure.lead_quarters


def _by_fifths(fifths: int, quality: str) -> Chord:
    octave, place = divmod(fifths + 1, 7)
    sign = {-2: "♭♭", -1: "♭", 0: "", 1: "♯", 2: "𝄪"}[octave]
    return Chord(_FIFTHS_FROM_F[place], sign, quality)
