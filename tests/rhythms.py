"""Scores from lengths alone, for hand-worked tables: ``"1 1/2 1/2 r1 | 2~ | 2"`` is a line of bars whose
notes last so many quarters; ``r`` is a rest, ``~`` ties to the next note. The pitch is always the same."""

from __future__ import annotations

from fractions import Fraction

from laptick.core.score.meter import TimeSignature, parse_grouping
from laptick.core.score.score import Hand, Measure, Note, Rest, Score, TempoMark

STAFF = {Hand.RIGHT: 1, Hand.LEFT: 2}
VOICE = {Hand.RIGHT: "1.1", Hand.LEFT: "1.2"}
PITCH = {Hand.RIGHT: (72, "C5"), Hand.LEFT: (48, "C3")}


def signature(text: str) -> TimeSignature:
    beats, beat_type = text.split("/")
    terms = tuple(int(term) for term in beats.split("+"))
    return TimeSignature(sum(terms), int(beat_type), terms if len(terms) > 1 else ())


def rhythm(time: str, right: str, left: str = "", *, bpm: float | None = None, grouping: str | None = None) -> Score:
    """``time`` is one signature, or one a bar divided by ``|``. A short first bar is a pickup."""
    bars = [bar.split() for bar in right.split("|")]
    lefts = [bar.split() for bar in left.split("|")] if left else [[] for _ in bars]
    times = [signature(part.strip()) for part in time.split("|")]
    times += [times[-1]] * (len(bars) - len(times))
    measures: list[Measure] = []
    notes: list[Note] = []
    rests: list[Rest] = []
    start = Fraction(0)
    tied = {Hand.RIGHT: False, Hand.LEFT: False}
    for index, (sign, *lines) in enumerate(zip(times, bars, lefts, strict=True)):
        length = max(sum(Fraction(w.strip("r~")) for w in line) for line in lines)
        lead = sign.bar_quarters - length if index == 0 else Fraction(0)
        beams = parse_grouping(grouping) if grouping else None
        measures.append(
            Measure(
                index, str(index + 1), sign, start, length, lead, index // 4 + 1, index % 4 + 1, beam_grouping=beams
            )
        )
        for hand, line in zip((Hand.RIGHT, Hand.LEFT), lines, strict=True):
            at = start
            for word in line:
                value = Fraction(word.strip("r~"))
                if word.startswith("r"):
                    rests.append(Rest(hand, VOICE[hand], index, at, value, STAFF[hand]))
                else:
                    pitch, name = PITCH[hand]
                    onward = word.endswith("~")
                    tie_in, identity = tied[hand], f"n{len(notes)}"
                    notes.append(
                        Note(
                            identity,
                            hand,
                            VOICE[hand],
                            index,
                            at,
                            value,
                            pitch,
                            name,
                            tie_in,
                            onward,
                            False,
                            STAFF[hand],
                        )
                    )
                    tied[hand] = onward
                at += value
        start += length
    tempos = () if bpm is None else (TempoMark(Fraction(0), bpm, measures[0].meter.beat_quarters),)
    ordered = sorted(notes, key=lambda note: (note.onset_quarters, note.pitch or 0))
    return Score("Rhythm", "", tuple(measures), tuple(ordered), tuple(rests), tempos)
