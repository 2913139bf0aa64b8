"""Which bars are the same, which are the same but for one thing, and which rhythms occur at all.

A bar is what both hands strike and hold in it: positions, lengths, ties and keys. *Same rhythm* leaves the
keys out. *Almost the same* means that one note differs, in its key or its length, or is there in one bar and not
in the other; the difference is named. Source: common practice of teaching.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction

from laptick.core.base.kept import Kept
from laptick.core.base.units import LengthNaming, Quarters, length_name
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import shown
from laptick.core.score.score import HANDS, Hand, Measure, Note, Score


@dataclass(frozen=True, slots=True)
class BarNote:
    """One note of a bar without its place in the piece; compared by ticks, which is the same and fast."""

    hand: Hand
    offset_ticks: int
    duration_ticks: int
    pitch: int | None
    note: Note = field(compare=False)
    start_quarters: Quarters = field(compare=False)
    is_tied: bool = False

    @property
    def offset_quarters(self) -> Quarters:
        return self.note.onset_quarters - self.start_quarters

    @property
    def duration_quarters(self) -> Quarters:
        return self.note.duration_quarters

    @property
    def name(self) -> str:
        return self.note.name


@dataclass(frozen=True)
class BarLikeness:
    """What an earlier bar has in common with this one, by index; ``almost`` with the difference in words."""

    measure_index: int
    letter: str
    same_rhythm_as: int | None
    same_notes_as: int | None
    almost: int | None = None
    difference: str = ""


@dataclass(frozen=True)
class RhythmUse:
    """A rhythm of one hand: how it is counted, and the bars that have it."""

    hand: Hand
    said: str
    measures: tuple[int, ...]


def bar_likeness(score: Score, naming: LengthNaming = LengthNaming.AMERICAN) -> list[BarLikeness]:
    """Every bar compared with the ones before it; letters in order of first appearance of a rhythm."""
    return LIKENESS.of(score, naming, lambda: _bar_likeness(score, naming))


LIKENESS: Kept[Score, LengthNaming, list[BarLikeness]] = Kept()


def _bar_likeness(score: Score, naming: LengthNaming) -> list[BarLikeness]:
    first_rhythm: dict[object, int] = {}
    first_notes: dict[object, int] = {}
    letters: dict[object, str] = {}
    result: list[BarLikeness] = []
    contents = _contents(score)
    earlier = _Earlier(contents)
    frames: dict[object, int] = {}
    for measure, content, by_hand in zip(score.measures, contents, _rhythms(score), strict=True):
        frame = frames.setdefault((measure.signature, measure.lead_quarters, measure.length_quarters), len(frames))
        rhythm = (frame, by_hand[None])
        notes = (frame, content)
        letter = letters.setdefault(rhythm, letter_of(len(letters)))
        same_notes, same_rhythm = first_notes.get(notes), first_rhythm.get(rhythm)
        almost, difference = None, ""
        if same_notes is None and content:
            found = earlier.nearly(frame, content, measure, naming)
            if found:
                almost, difference = found
        result.append(BarLikeness(measure.index, letter, same_rhythm, same_notes, almost, difference))
        first_rhythm.setdefault(rhythm, measure.index)
        if same_notes is None:
            first_notes[notes] = measure.index
            earlier.add(frame, content, measure.index)
    return result


@dataclass(frozen=True, slots=True)
class HandLikeness:
    """Of one hand (or both, ``None``) the earliest bar with the same rhythm, and with the same notes, by index."""

    same_rhythm_as: int | None
    same_notes_as: int | None


def hand_likeness(score: Score) -> list[dict[Hand | None, HandLikeness]]:
    """Every bar compared with those before it, by hand and for both; a bar in which a hand has nothing is like none."""
    first: dict[object, int] = {}
    frames: dict[object, int] = {}
    found: list[dict[Hand | None, HandLikeness]] = []
    for measure, content, by_hand in zip(score.measures, _contents(score), _rhythms(score), strict=True):
        frame = frames.setdefault((measure.signature, measure.lead_quarters, measure.length_quarters), len(frames))
        bar: dict[Hand | None, HandLikeness] = {}
        for hand in (*HANDS, None):
            own = content if hand is None else tuple(note for note in content if note.hand is hand)
            if not own:
                bar[hand] = HandLikeness(None, None)
                continue
            earlier = [first.setdefault((hand, frame, what), measure.index) for what in (by_hand[hand], own)]
            bar[hand] = HandLikeness(*(None if index == measure.index else index for index in earlier))
        found.append(bar)
    return found


#: What is struck and held in a bar: hand, offset and length in ticks, whether it is tied from before.
Rhythm = tuple[tuple[Hand, int, int, bool], ...]


def _rhythms(score: Score) -> list[dict[Hand | None, Rhythm]]:
    """The rhythm of every bar, by hand and of both."""
    return RHYTHMS.of(score, None, lambda: [_by_hand(content) for content in _contents(score)])


RHYTHMS: Kept[Score, None, list[dict[Hand | None, Rhythm]]] = Kept()


def _by_hand(content: tuple[BarNote, ...]) -> dict[Hand | None, Rhythm]:
    found: dict[Hand | None, Rhythm] = {hand: _rhythm(n for n in content if n.hand is hand) for hand in HANDS}
    # In the order of all: the left hand's name comes first.
    found[None] = tuple(one for hand in sorted(HANDS) for one in found[hand])
    return found


def _contents(score: Score) -> list[tuple[BarNote, ...]]:
    """The notes of every bar, by hand, instant and key."""
    return CONTENTS.of(score, None, lambda: _all_contents(score))


CONTENTS: Kept[Score, None, list[tuple[BarNote, ...]]] = Kept()


def _all_contents(score: Score) -> list[tuple[BarNote, ...]]:
    starts = [score.ticks_of(measure.start_quarters) for measure in score.measures]
    bars: list[list[BarNote]] = [[] for _ in score.measures]
    for at, length, note in score.notes_in_ticks:
        if not note.is_grace:
            index = note.measure_index
            start = score.measures[index].start_quarters
            bars[index].append(
                BarNote(note.hand, at - starts[index], length, note.pitch, note, start, note.tied_from_before)
            )
    return [tuple(sorted(bar, key=lambda n: (n.hand, n.offset_ticks, n.pitch or 0, n.duration_ticks))) for bar in bars]


def _rhythm(content: Iterable[BarNote]) -> Rhythm:
    return tuple(sorted({(n.hand, n.offset_ticks, n.duration_ticks, n.is_tied) for n in content}))


def _without_one(content: tuple[BarNote, ...]) -> Iterator[tuple[BarNote, ...]]:
    for index in range(len(content)):
        yield content[:index] + content[index + 1 :]


class _Earlier:
    """Earlier bars, each under what it holds and what is left when any one of its notes is taken away, so that the work
    grows with the number of notes only."""

    def __init__(self, contents: Sequence[tuple[BarNote, ...]]) -> None:
        self._contents = contents
        self._known: dict[object, list[int]] = {}

    def add(self, frame: object, content: tuple[BarNote, ...], index: int) -> None:
        for rest in (*_without_one(content), content):
            self._known.setdefault((frame, rest), []).append(index)

    def nearly(
        self, frame: object, content: tuple[BarNote, ...], measure: Measure, naming: LengthNaming
    ) -> tuple[int, str] | None:
        """The first earlier bar that differs in one note, and in what."""
        best: tuple[int, str] | None = None
        for rest in (content, *_without_one(content)):
            for other in self._known.get((frame, rest), ())[:3]:
                words = _difference(measure, content, self._contents[other], naming)
                if words and (best is None or other < best[0]):
                    best = (other, words)
        return best


def _difference(measure: Measure, here: tuple[BarNote, ...], there: tuple[BarNote, ...], naming: LengthNaming) -> str:
    """What one note makes different, in words; empty where it is more than one thing."""
    only_here = [n for n in here if n not in there]
    only_there = [n for n in there if n not in here]
    if (len(only_here), len(only_there)) == (1, 1):
        mine, other = only_here[0], only_there[0]
        if mine.hand is not other.hand:
            return ""
        place = f"{mine.hand} hand, {_beat(measure, mine.offset_quarters)}"
        if mine.offset_ticks != other.offset_ticks:
            return ""
        if mine.duration_ticks != other.duration_ticks and mine.pitch == other.pitch:
            mine_name, other_name = (length_name(n.duration_quarters, naming) for n in (mine, other))
            return f"{place}: {mine_name}, not {other_name}"
        if mine.duration_ticks == other.duration_ticks and mine.is_tied == other.is_tied:
            return f"{place}: {mine.name}, not {other.name}"
        return ""
    if (len(only_here), len(only_there)) == (1, 0):
        return f"{only_here[0].hand} hand, {_beat(measure, only_here[0].offset_quarters)}: {only_here[0].name} more"
    if (len(only_here), len(only_there)) == (0, 1):
        return (
            f"{only_there[0].hand} hand, {_beat(measure, only_there[0].offset_quarters)}: without {only_there[0].name}"
        )
    return ""


def _beat(measure: Measure, offset: Quarters) -> str:
    position = offset + measure.lead_quarters
    beats = measure.meter.beats
    number = max(i for i, beat in enumerate(beats, 1) if beat.start_quarters <= position or i == 1)
    return f"beat {number}" if beats[number - 1].start_quarters == position else f"after beat {number}"


def letter_of(index: int) -> str:
    """A … Z, AA, AB …"""
    text = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        text = chr(ord("A") + rest) + text
    return text


def rhythms_used(score: Score) -> list[RhythmUse]:
    """The rhythms of each hand's bars, the commonest first; bars in which the hand is silent are left out."""
    uses: list[RhythmUse] = []
    for hand in HANDS:
        counted = count_line(score, hand)
        found: dict[object, tuple[str, list[int]]] = {}
        for measure, counts in zip(score.measures, counted.bars, strict=True):
            notes = [n for n in score.notes_of_measure(measure.index) if n.hand is hand and not n.is_grace]
            if not notes:
                continue
            said = " ".join(shown(count) for count in counts)
            found.setdefault((measure.signature, _shape(measure, notes)), (said, []))[1].append(measure.index)
        rows = sorted(found.values(), key=lambda row: (-len(row[1]), row[1][0]))
        uses += [RhythmUse(hand, said, tuple(bars)) for said, bars in rows]
    return uses


def _shape(measure: Measure, notes: Sequence[Note]) -> tuple[tuple[Fraction, Fraction, bool], ...]:
    return tuple(
        sorted({(n.onset_quarters - measure.start_quarters, n.duration_quarters, n.tied_from_before) for n in notes})
    )
