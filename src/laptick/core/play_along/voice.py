"""The counting voice: which sample says which word, and when the voice says less than everything.

A *reading* is how a word sounds: ``a`` is one sound in ``1 e & a`` and another in ``ta a``. Every word of the tables of
counting has a reading that ships; a word that a teacher types is read as it is spelled. A *sample* is a recording of a
reading: how long it lasts and where in it the vowel begins, which falls on the beat.

Common practice, no source: rests are whispered, holds softer than strikes; cues are said a beat ahead.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from laptick.core.base.units import Seconds
from laptick.core.counting.counts import Kind
from laptick.core.counting.word_tables import System

#: Longest sample of a word of one syllable: sixteenths at a quarter of 93 have room for it.
SYLLABLE_S: Seconds = 0.16

#: Reading → its pronunciation, in the mnemonics of the speech package; ``'`` stands before the stressed vowel.
SHIPPED: dict[str, str] = {
    "1": "w'Vn", "2": "t'u:", "3": "Tr'i:", "4": "f'o@", "5": "f'aIv", "6": "s'Iks", "7": "s'Ev@n", "8": "'eIt",
    "9": "n'aIn", "10": "t'En", "11": "Il'Ev@n", "12": "tU'Elv", "13": "T3:t'i:n", "14": "fo@t'i:n", "15": "fIft'i:n",
    "and": "'and", "e": "'i:", "uh": "'V", "trip": "tr'Ip", "let": "l'Et", "la": "l'A:", "li": "l'i:",
    "ta": "t'A:", "di": "d'i:", "ki": "k'i:", "da": "d'A:", "ka": "k'A:", "mi": "m'i:", "va": "v'A:", "ma": "m'A:",
    "ti": "t'i:", "ah": "'A:", "ri": "r'i:", "tri": "tr'i:", "o": "'oU", "syn": "s'In", "co": "k'oU", "pa": "p'A:",
    "sh": "S", "long": "l'0N", "short": "S'o@t", "rest": "r'Est", "together": "t@g'ED3", "left": "l'Eft",
    "right": "r'aIt", "ready": "r'Edi", "go": "g'oU",
    "C": "s'i:", "D": "d'i:", "F": "'Ef", "G": "dZ'i:", "A": "'eI", "B": "b'i:", "X": "'Eks",
    "move": "m'u:v", "lift": "l'Ift", "line": "l'aIn", "you": "j'u:",
}  # fmt: skip

#: Words whose reading is not the word itself; those of one system first.
READINGS: dict[tuple[System | None, str], str] = {
    (System.DURATION, "a"): "ah",
    (System.DURATION, "i"): "e",
    (System.NAMES, "E"): "e",
    (System.NAMES, "x"): "X",
    (None, "&"): "and",
    (None, "a"): "uh",
    (None, "E"): "e",
}


def reading_of(say: str, system: System | None = None) -> str:
    """The reading of a said word; a word without one of its own is read as it is spelled."""
    return READINGS.get((system, say)) or READINGS.get((None, say)) or say


@dataclass(frozen=True, slots=True)
class WordSample:
    """``sound`` names the sample; ``vowel_s`` is from its first instant to the onset of its vowel."""

    sound: str
    length_s: Seconds
    vowel_s: Seconds


#: Finds the sample of a reading.
Voice = Callable[[str], WordSample]


def silent_voice(reading: str) -> WordSample:
    """A voice without any samples: its words last as long as the longest syllable."""
    return WordSample(f"word:{reading}", SYLLABLE_S, SYLLABLE_S / 3)


#: How loud the voice says a count.
LEVELS: dict[Kind, float] = {Kind.STRIKE: 1.0, Kind.HOLD: 0.45, Kind.REST: 0.7}

#: How much two words may run into each other: the end of a word is weak.
OVERLAP_S: Seconds = 0.03


@dataclass(frozen=True, slots=True)
class SaidWord:
    """A word to be said. ``rank``: 0 the bar, 1 a felt beat, 2 a said beat (a unit), 3 any other count."""

    at_s: Seconds
    sample: WordSample
    rank: int
    bar: int

    @property
    def begin_s(self) -> Seconds:
        return self.at_s - self.sample.vowel_s

    @property
    def end_s(self) -> Seconds:
        return self.begin_s + self.sample.length_s


#: What the voice says by the highest rank that it keeps.
THINNED: dict[int, str] = {2: "the counted beats", 1: "the beats", 0: "the first beat of each bar"}


def thin(spots: Sequence[SaidWord]) -> tuple[tuple[bool, ...], tuple[tuple[int, int], ...]]:
    """Which words are said so that none runs into the next: a bar in which they would says less, beats first.

    Returns whether each word is said, and (bar, highest rank kept) for every bar that says less.
    """
    kept: dict[int, int] = {}
    while True:
        said = [i for i, spot in enumerate(spots) if spot.rank <= kept.get(spot.bar, 3)]
        clashes: set[int] = set()
        for i, j in pairwise(said):
            if spots[i].end_s > spots[j].begin_s + OVERLAP_S:
                # The weaker of the two gives way; of equals (two beats) the bar of the later one says less.
                clashes.add(spots[i].bar if spots[i].rank > spots[j].rank else spots[j].bar)
        narrower = {bar: kept.get(bar, 3) - 1 for bar in clashes if kept.get(bar, 3) > 0}
        if not narrower:
            chosen = frozenset(said)
            return tuple(i in chosen for i in range(len(spots))), tuple(sorted(kept.items()))
        kept.update(narrower)
