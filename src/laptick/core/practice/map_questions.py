"""Questions from the together map: which bars are the same but for one thing, where a hand must move, on which key each
finger first plays.

Moves are asked line by line, as a student looks over the page before playing. Source: docs/trade.md 3.1 (common
practice).
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from laptick.core.practice.question import Question, QuestionKind
from laptick.core.rhythm.likeness import bar_likeness
from laptick.core.score.score import HANDS, Score
from laptick.core.together.fingers import fingers_of
from laptick.core.together.shifts import shifts_of
from laptick.core.together.sounds import sounds_of

#: Said where a hand stays through a line.
NOWHERE = "in none of them"

#: Keys that a hand first strikes, among which a finger's is to be found.
MOST_KEYS = 8


def almost_the_same(score: Score) -> Iterator[Question]:
    """For every bar that others are like but for one thing: which ones?"""
    groups: dict[int, list[tuple[int, str]]] = {}
    for bar in bar_likeness(score):
        if bar.almost is not None:
            groups.setdefault(bar.almost, []).append((bar.measure_index, bar.difference))
    names = [measure.number for measure in score.measures]
    for first, others in groups.items():
        asked = names[first]
        right = [names[index] for index, _ in others if names[index] != asked]
        if right:
            yield Question(
                kind=QuestionKind.ALMOST,
                key=f"almost:{asked}",
                text=f"Which bars are like bar {asked} but for one thing?",
                measure_index=first,
                notes=_items(score, first),
                options=tuple(dict.fromkeys(name for name in names if name != asked)),
                answer=frozenset(right),
                said="; ".join(f"bar {names[index]}: {difference}" for index, difference in others),
                many=True,
            )


def where_a_hand_moves(score: Score) -> Iterator[Question]:
    """For every line and hand: in which of its bars must the hand go to another place? Asked only of a hand that moves
    somewhere."""
    for hand in HANDS:
        moves = {shift.measure_index for shift in shifts_of(score, hand)}
        played = {sound.measure_index for sound in sounds_of(score) if sound.hand is hand}
        if not moves:
            continue
        for line, own in itertools.groupby(score.measures, key=lambda measure: measure.line):
            bars = list(own)
            names = [bar.number for bar in bars]
            if not played & {bar.index for bar in bars} or len(set(names)) < len(names):
                continue
            right = [bar.number for bar in bars if bar.index in moves] or [NOWHERE]
            yield Question(
                kind=QuestionKind.MOVES,
                key=f"moves:{hand}:{line}",
                text=f"In which bars of line {line} must the {hand} hand move to another place?",
                measure_index=bars[0].index,
                notes=tuple(item for bar in bars for item in _items(score, bar.index)),
                options=(*names, NOWHERE),
                answer=frozenset(right),
                said=NOWHERE if right == [NOWHERE] else f"in {'bar' if len(right) == 1 else 'bars'} {', '.join(right)}",
                many=True,
            )


def first_of_each_finger(score: Score) -> Iterator[Question]:
    """For every hand and finger that the score has: on which key does it first play?"""
    fingers = fingers_of(score)
    for hand in HANDS:
        first: dict[int, tuple[str, int]] = {}
        keys: dict[str, None] = {}
        for sound in sounds_of(score):
            if sound.hand is hand and sound.name:
                keys[sound.name] = None
                if sound.note_id in fingers:
                    first.setdefault(fingers[sound.note_id], (sound.name, sound.measure_index))
        right = {name for name, _ in first.values()}
        others = [name for name in keys if name not in right][: max(0, MOST_KEYS - len(right))]
        options = tuple(name for name in keys if name in right or name in others)
        for finger, (name, measure_index) in sorted(first.items()):
            if len(options) > 1:
                yield Question(
                    kind=QuestionKind.FINGERS,
                    key=f"fingers:{hand}:{finger}",
                    text=f"On which key does finger {finger} of the {hand} hand first play?",
                    measure_index=measure_index,
                    notes=(),
                    options=options,
                    answer=frozenset([name]),
                    said=f"{name}, in bar {score.measures[measure_index].number}",
                )


def _items(score: Score, index: int) -> tuple[str, ...]:
    notes = [note.id for note in score.notes_of_measure(index)]
    return (*notes, *(rest.id for rest in score.rests_of_measure(index)))
