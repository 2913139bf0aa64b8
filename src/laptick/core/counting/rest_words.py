"""What is said in a silence: its place's own word, “rest”, “off” where the hand lifts, or nothing.

A silence is a count like any other whatever is said in it: it stays a rest, with its place. Source: docs/trade.md 2.4
(common practice).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from laptick.core.counting.choices import RestWords
from laptick.core.counting.counts import Count, CountedBar, Kind

#: School → the word of every count in a silence; ``None``: its own.
_WORDS: dict[RestWords, str | None] = {
    RestWords.NUMBER: None,
    RestWords.REST: "rest",
    RestWords.OFF: None,
    RestWords.SILENCE: "",
}

#: Said where a sound ends.
_OFF = "off"


def say_rests(bars: list[tuple[Count, ...]], by: Sequence[CountedBar]) -> list[tuple[Count, ...]]:
    """The counts of a line with its silences said as each bar's choice has it."""
    if all(bar.resolved.rests is RestWords.NUMBER for bar in by):
        return bars
    result = []
    sounded = False
    for bar, counts in zip(by, bars, strict=True):
        school = bar.resolved.rests
        said = []
        for count in counts:
            lifts = sounded and count.kind is Kind.REST
            sounded = count.kind is not Kind.REST
            word = _OFF if lifts and school is RestWords.OFF else _WORDS[school]
            said.append(count if count.kind is not Kind.REST or word is None else replace(count, say=word))
        result.append(tuple(said))
    return result
