"""A score harder than any demo piece, made by a rule for the tests: five voices on two staves, 12/8, 4/4 and 7/8, runs
of sixteenths and thirty-seconds, triplets, sextuplets, duplets and quadruplets, ties over bar lines, grace notes,
fingerings, slurs, hairpins, pedal, dynamics, chord symbols, words and lyrics. It is not music."""

from __future__ import annotations

import random
from fractions import Fraction as F

from laptick.core.score.meter import TimeSignature
from laptick.core.score.score import Hand, Mark, MarkKind, Measure, Note, Rest, Score, TempoMark, mark_order
from laptick.formats.musicxml_writing.writer import write_musicxml

#: Ways to fill a dotted quarter, and a quarter.
COMPOUND = [
    [F(1, 4)] * 6,
    [F(3, 4)] * 2,
    [F(3, 8)] * 4,
    [F(1, 2)] * 3,
    [F(1), F(1, 2)],
    [F(3, 2)],
    [F(1, 8)] * 4 + [F(1)],
]
SIMPLE = [[F(1, 4)] * 4, [F(1, 3)] * 3, [F(1, 6)] * 6, [F(3, 4), F(1, 4)], [F(1, 2)] * 2, [F(1)], [F(1, 8)] * 8]
SIGNATURES = [(TimeSignature(12, 8), F(3, 2), 4), (TimeSignature(4, 4), F(1), 4), (TimeSignature(7, 8), F(1, 2), 7)]
VOICES = [("1.1", Hand.RIGHT, 1, 76), ("1.2", Hand.RIGHT, 1, 67), ("1.5", Hand.LEFT, 2, 55), ("1.6", Hand.LEFT, 2, 48),
          ("1.7", Hand.LEFT, 2, 41)]  # fmt: skip
NAMES = ["C", "C♯", "D", "E♭", "E", "F", "F♯", "G", "A♭", "A", "B♭", "B"]


def hard_score(bars: int = 24, seed: int = 1) -> Score:
    dice = random.Random(seed)
    measures: list[Measure] = []
    notes: list[Note] = []
    rests: list[Rest] = []
    marks: list[Mark] = []
    start = F(0)
    for index in range(bars):
        signature, beat, beats = SIGNATURES[(index // 4) % 3]
        measures.append(
            Measure(index, str(index + 1), signature, start, beat * beats, F(0), index // 4 + 1, index % 4 + 1)
        )
        for voice, hand, staff, middle in VOICES:
            _fill(dice, notes, rests, index, start, beat, beats, voice, hand, staff, middle)
        marks += _marks(dice, notes, index, start, beat * beats)
        start += beat * beats
    notes.sort(key=lambda n: (n.onset_quarters, not n.is_grace, n.pitch or 0, n.voice))
    rests.sort(key=lambda r: (r.onset_quarters, r.hand, r.voice))
    marks.append(Mark(MarkKind.KEY, F(0), "-3"))
    tempo = TempoMark(F(0), 54.0, F(3, 2))
    return Score(
        "Five Voices", "Made by a rule", tuple(measures), tuple(notes), tuple(rests), (tempo,), (), tuple(sorted(marks, key=mark_order))
    )  # fmt: skip


def _fill(dice, notes, rests, index, start, beat, beats, voice, hand, staff, middle) -> None:
    at, end = start, start + beat * beats
    number = 0
    while at < end:
        inside = (
            dice.choice(COMPOUND if beat == F(3, 2) else SIMPLE)
            if beat != F(1, 2)
            else dice.choice([[F(1, 2)], [F(1, 4)] * 2])
        )
        if voice == "1.7":
            inside = [beat]
        for length in inside:
            pitch = middle + dice.randint(-6, 7)
            key = f"{voice}-{index}-{number}"
            number += 1
            if dice.random() < 0.1:
                rests.append(Rest(hand, voice, index, at, length, staff))
            else:
                name = f"{NAMES[pitch % 12]}{pitch // 12 - 1}"
                if dice.random() < 0.03:
                    notes.append(
                        Note(
                            f"g{key}",
                            hand,
                            voice,
                            index,
                            at,
                            F(0),
                            pitch + 1,
                            _named(pitch + 1),
                            is_grace=True,
                            staff=staff,
                        )
                    )
                notes.append(Note(key, hand, voice, index, at, length, pitch, name, staff=staff))
                if dice.random() < 0.15:
                    notes.append(
                        Note(f"c{key}", hand, voice, index, at, length, pitch + 4, _named(pitch + 4), staff=staff)
                    )
            at += length


def _named(pitch: int) -> str:
    return f"{NAMES[pitch % 12]}{pitch // 12 - 1}"


def _marks(dice, notes, index, start, length) -> list[Mark]:
    here = [n for n in notes if n.measure_index == index and not n.is_grace]
    right = [n for n in here if n.voice == "1.1"]
    made = [Mark(MarkKind.DYNAMIC, start, dice.choice(["p", "mf", "f"]), None, Hand.RIGHT)]
    if index % 2 == 0:
        made.append(Mark(MarkKind.PEDAL, start, "", start + length / 2, Hand.LEFT))
        made.append(Mark(MarkKind.WEDGE, start + length / 2, "crescendo", start + length, Hand.RIGHT))
    if len(right) > 2:
        made.append(Mark(MarkKind.SLUR, right[0].onset_quarters, "", right[-1].end_quarters, Hand.RIGHT, right[0].id))
        made.append(Mark(MarkKind.FINGERING, right[1].onset_quarters, "3", None, Hand.RIGHT, right[1].id))
        made.append(Mark(MarkKind.LYRIC, right[0].onset_quarters, "1:ah", None, Hand.RIGHT, right[0].id))
    if index % 3 == 0:
        made.append(Mark(MarkKind.CHORD_SYMBOL, start, "E♭maj7/B♭"))
        made.append(Mark(MarkKind.WORDS, start, "with weight", None, Hand.LEFT))
    return made


def hard_bytes(bars: int = 24, seed: int = 1) -> bytes:
    return write_musicxml(hard_score(bars, seed))
