"""Questions to the student about a piece, with their answers: which bars are the same, what a note is called, whether
the line steps or skips (and how far), how a bar is counted; and what is asked of the map (``map_questions.py``).

Conventions: bars by name, notes by id; a question's key names what is asked about, so that answers can be kept. An
answer is the set of the right options. Which are asked next: those never asked, then those last answered wrongly,
then those answered longest ago. Source: docs/trade.md 3.1; skips by the names of their intervals.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator, Mapping, Sequence

from laptick.core.base.units import Bpm
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.counting import count_line
from laptick.core.counting.counts import Kind, shown
from laptick.core.practice.map_questions import almost_the_same, first_of_each_finger, where_a_hand_moves
from laptick.core.practice.question import Question, QuestionKind
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.pitch import LETTERS, steps_above_c0
from laptick.core.score.places import listed
from laptick.core.score.score import HANDS, Hand, Note, Rest, Score

#: Size of a move in steps → what it is called.
MOVES: tuple[str, ...] = (
    "the same note", "a step", "a third", "a fourth", "a fifth", "a sixth", "a seventh", "an octave",
    "more than an octave",
)  # fmt: skip

#: Moves that are offered as answers whatever the piece has, so that there is something to choose from.
USUAL_MOVES = 4

#: Ways to count among which the right one is to be found.
MAX_WAYS = 4


def questions(
    score: Score, kind: QuestionKind, choices: CountChoices | None = None, bpm: Bpm | None = None
) -> list[Question]:
    """All questions of a kind that the score has an answer to, in score order."""
    return list(_MAKERS[kind](score, choices, bpm))


def next_questions(made: Sequence[Question], answers: Mapping[str, tuple[bool, int]], limit: int) -> list[Question]:
    """Those to ask next. ``answers``: key → (right the last time, when: any number that grows)."""

    def order(question: Question) -> tuple[int, int]:
        if question.key not in answers:
            return 0, 0
        was_right, when = answers[question.key]
        return (2 if was_right else 1), when

    return sorted(made, key=order)[:limit]


def _bar_items(score: Score, index: int, hand: Hand | None = None) -> tuple[str, ...]:
    items: list[Note | Rest] = [*score.notes_of_measure(index), *score.rests_of_measure(index)]
    return tuple(item.id for item in items if hand is None or item.hand is hand)


def _alike(score: Score, by: Callable[[object], object], kind: QuestionKind, words: str) -> Iterator[Question]:
    """For every group of bars that are alike: which others are like the first of them?"""
    groups: dict[object, list[int]] = {}
    for bar in bar_likeness(score):
        if score.notes_of_measure(bar.measure_index):
            first = by(bar)
            groups.setdefault(bar.measure_index if first is None else first, []).append(bar.measure_index)
    names = [measure.number for measure in score.measures]
    for bars in groups.values():
        others = [names[index] for index in bars[1:] if names[index] != names[bars[0]]]
        if others:
            asked = names[bars[0]]
            options = tuple(dict.fromkeys(name for name in names if name != asked))
            text = words.format(bar=asked)
            said = f"{'bar' if len(others) == 1 else 'bars'} {listed(others)}"
            yield Question(
                kind,
                f"{kind}:{asked}",
                text,
                bars[0],
                _bar_items(score, bars[0]),
                options,
                frozenset(others),
                said,
                True,
            )


def _same_bars(score: Score, choices: CountChoices | None, bpm: Bpm | None) -> Iterator[Question]:
    text = "Which bars are exactly like bar {bar}, in both hands?"
    return _alike(score, lambda bar: bar.same_notes_as, QuestionKind.SAME_BARS, text)  # type: ignore[attr-defined]


def _same_rhythm(score: Score, choices: CountChoices | None, bpm: Bpm | None) -> Iterator[Question]:
    text = "Which bars have the rhythm of bar {bar}, whatever the notes?"
    return _alike(score, lambda bar: bar.same_rhythm_as, QuestionKind.SAME_RHYTHM, text)  # type: ignore[attr-defined]


def _struck(score: Score) -> list[Note]:
    return [note for note in score.notes if note.is_strike and note.pitch is not None and note.name]


def _names(score: Score, choices: CountChoices | None, bpm: Bpm | None) -> Iterator[Question]:
    notes = _struck(score)
    altered = sorted({_plain(note) for note in notes if len(_plain(note)) > 1}, key=lambda n: (LETTERS.index(n[0]), n))
    options = (*LETTERS, *altered)
    for note in notes:
        text = f"What is this note of the {note.hand} hand called, in bar {score.measures[note.measure_index].number}?"
        name = _plain(note)
        yield Question(
            QuestionKind.NAMES,
            f"names:{note.id}",
            text,
            note.measure_index,
            (note.id,),
            options,
            frozenset([name]),
            name,
        )


def _plain(note: Note) -> str:
    """The name without its octave."""
    return note.name.rstrip("-0123456789")


def _skips(score: Score, choices: CountChoices | None, bpm: Bpm | None) -> Iterator[Question]:
    """From one note to the next of the same hand, where each is struck alone."""
    for hand in HANDS:
        at: dict[object, list[Note]] = {}
        for note in _struck(score):
            if note.hand is hand:
                at.setdefault(note.onset_quarters, []).append(note)
        moments = list(at.values())
        options = _move_options(moments)
        for one, other in itertools.pairwise(moments):
            if len(one) > 1 or len(other) > 1:
                continue
            here, there = one[0], other[0]
            words = move_words(here.name, there.name)
            bar = score.measures[here.measure_index].number
            text = f"How does the {hand} hand move between these two notes, from bar {bar}?"
            yield Question(
                QuestionKind.SKIPS, f"skips:{here.id}", text, here.measure_index, (here.id, there.id), options,
                frozenset([words]), f"{words}, {here.name} to {there.name}",
            )  # fmt: skip


def _move_options(moments: Sequence[Sequence[Note]]) -> tuple[str, ...]:
    """Both ways of every move from a step to the widest of the line, and to a fourth at least."""
    moves = [
        abs(steps_above_c0(other[0].name) - steps_above_c0(one[0].name))
        for one, other in itertools.pairwise(moments)
        if len(one) == len(other) == 1
    ]
    widest = min(max([USUAL_MOVES - 1, *moves]), len(MOVES) - 1)
    return (MOVES[0], *(f"{words} {way}" for words in MOVES[1 : widest + 1] for way in ("up", "down")))


def move_words(name: str, other: str) -> str:
    """How far and which way from one note to another: by the lines and spaces, whatever the accidentals."""
    way = steps_above_c0(other) - steps_above_c0(name)
    words = MOVES[min(abs(way), len(MOVES) - 1)]
    return words if way == 0 else f"{words} {'up' if way > 0 else 'down'}"


def _rhythms(score: Score, choices: CountChoices | None, bpm: Bpm | None) -> Iterator[Question]:
    """A bar of one hand, and ways to count bars of its length among which its own is."""
    for hand in HANDS:
        counted = count_line(score, hand, choices, bpm=bpm)
        said: dict[int, str] = {}
        for measure, counts in zip(score.measures, counted.bars, strict=True):
            if any(count.kind is Kind.STRIKE for count in counts):
                said[measure.index] = " ".join(shown(count) for count in counts)
        asked: set[str] = set()
        for index, words in said.items():
            measure = score.measures[index]
            frame = (measure.signature, measure.length_quarters)
            same = [
                w for i, w in said.items() if (score.measures[i].signature, score.measures[i].length_quarters) == frame
            ]
            ways = list(dict.fromkeys(w for w in same if w != words))[: MAX_WAYS - 1]
            if not ways or words in asked:
                continue
            asked.add(words)
            yield Question(
                QuestionKind.RHYTHMS, f"rhythms:{hand}:{measure.number}",
                f"How is bar {measure.number} of the {hand} hand counted?", index, _bar_items(score, index, hand),
                tuple(sorted([words, *ways])), frozenset([words]), words,
            )  # fmt: skip


_MAKERS: dict[QuestionKind, Callable[[Score, CountChoices | None, Bpm | None], Iterator[Question]]] = {
    QuestionKind.SAME_BARS: _same_bars,
    QuestionKind.SAME_RHYTHM: _same_rhythm,
    QuestionKind.NAMES: _names,
    QuestionKind.SKIPS: _skips,
    QuestionKind.RHYTHMS: _rhythms,
    QuestionKind.ALMOST: lambda score, choices, bpm: almost_the_same(score),
    QuestionKind.MOVES: lambda score, choices, bpm: where_a_hand_moves(score),
    QuestionKind.FINGERS: lambda score, choices, bpm: first_of_each_finger(score),
}
