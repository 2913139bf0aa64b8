"""Rhythm of whole bars: which bars are the same.

Two bars are the same in rhythm when both hands strike and sound at the same positions for the same
lengths; letters are given in order of first appearance, bars of different signatures never share one.
"""

from __future__ import annotations

from laptick.core.score import HANDS, Score


def bar_letters(score: Score) -> list[str]:
    """A letter for every bar, the same letter for bars of the same rhythm: A … Z, AA, AB …"""
    bars: list[list[tuple[object, ...]]] = [[] for _ in score.measures]
    for note in score.notes:
        if not note.is_grace:
            offset = note.onset_quarters - score.measures[note.measure_index].start_quarters
            bars[note.measure_index].append(
                (HANDS.index(note.hand), offset, note.duration_quarters, note.tied_from_before, note.tied_onward)
            )
    letters: dict[tuple[object, ...], str] = {}
    result = []
    for measure, notes in zip(score.measures, bars, strict=True):
        key = (measure.signature, measure.lead_quarters, measure.length_quarters, tuple(sorted(set(notes))))
        if key not in letters:
            letters[key] = _letter(len(letters))
        result.append(letters[key])
    return result


def _letter(index: int) -> str:
    text = ""
    index += 1
    while index:
        index, rest = divmod(index - 1, 26)
        text = chr(ord("A") + rest) + text
    return text
