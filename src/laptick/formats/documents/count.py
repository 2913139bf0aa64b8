"""The JSON documents of ``count`` and ``roadmap``, also what the API builds on.

Positions are quarters as fraction strings; places are ``{"measure", "offset", "pass"}``. Field names are
fixed: fields may be added, never renamed.
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any

from laptick.core.base.units import Bpm, Quarters, length_name, quarters_to_text
from laptick.core.counting.choices import CountChoices
from laptick.core.counting.count_in import count_in
from laptick.core.counting.counting import Count, CountedBar, LineCount, count_line, default_bpm
from laptick.core.counting.traps import find_traps, lengths_worth
from laptick.core.rhythm.cells import find_cells
from laptick.core.rhythm.rests import good_for, hand_rests
from laptick.core.rhythm.syncopation import find_syncopations
from laptick.core.score.hand_line import HandLine, hand_line
from laptick.core.score.hands import HAND_KEYS, hand_key
from laptick.core.score.roadmap import Roadmap
from laptick.core.score.score import Hand, Measure, Score

Document = dict[str, Any]


def count_document(
    score: Score,
    choices: CountChoices | None = None,
    *,
    hands: Sequence[str] = ("right", "left", "both"),
    measures: tuple[Measure, ...] | None = None,
    bpm: Bpm | None = None,
) -> Document:
    """The document of ``laptick count``. ``hands`` are keys of ``HAND_KEYS``."""
    chosen = score.measures if measures is None else measures
    tempo = bpm or default_bpm(score)
    counted = {key: count_line(score, HAND_KEYS[key], choices, measures=chosen, bpm=tempo) for key in hands}
    composite = counted.get("both") or count_line(score, None, choices, measures=chosen, bpm=tempo)
    single = [key for key in hands if key != "both"] or list(hands)
    leading = counted.get("both") or counted[hands[0]]
    lines = {key: hand_line(score, HAND_KEYS[key]) for key in hands}
    by = leading.by[0]
    return {
        "system": by.resolved.system.value,
        "density": by.resolved.density.value,
        "compound": by.resolved.compound.value,
        "counted": by.beats.compound.value,
        "reason": by.beats.reason,
        "measures": [
            {
                "number": bar.measure.number,
                "time_signature": str(bar.measure.signature),
                "beat_quarters": quarters_to_text(bar.measure.meter.beat_quarters),
                "grouping": _grouping(bar),
                "hands": {key: [_count_entry(count) for count in counted[key].bars[index]] for key in hands},
            }
            for index, bar in enumerate(leading.by)
        ],
        "count_in": [
            {"say": word.say, "offset": quarters_to_text(word.offset_quarters)} for word in count_in(composite, tempo)
        ],
        "syncopations": [entry for key in single for entry in _syncopations(score, lines[key], chosen, HAND_KEYS[key])],
        "cells": [entry for key in single for entry in _cells(score, lines[key], chosen, HAND_KEYS[key])],
        "rests": [entry for key in single for entry in _rests(score, lines[key], chosen, HAND_KEYS[key], counted[key])],
        "changes": _changes(score, leading),
        "traps": [
            {
                "kind": trap.kind,
                "measure": score.measures[trap.measure_index].number,
                "offset": quarters_to_text(trap.offset_quarters),
                "text": trap.text,
            }
            for trap in find_traps(leading, hand_line(score, HAND_KEYS["both" if "both" in counted else hands[0]]))
        ],
        "worth": [
            {
                "time_signature": worth.signature,
                "length": worth.name,
                "quarters": quarters_to_text(worth.length_quarters),
                "counts": quarters_to_text(worth.counts),
            }
            for worth in lengths_worth(score, leading)
        ],
    }


def _grouping(bar: CountedBar) -> str:
    """``3+2`` where beats are unequal or joined; empty otherwise."""
    meter = bar.beats.meter
    if meter.is_asymmetric:
        return "+".join(str(beat.division) for beat in meter.beats)
    return "+".join(str(size) for size in meter.beat_groups)


def _count_entry(count: Count) -> Document:
    return {"offset": quarters_to_text(count.offset_quarters), "say": count.say, "kind": count.kind.value}


def _syncopations(score: Score, line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> list[Document]:
    result = []
    for found in find_syncopations(score, line, measures, hand):
        place, silent = found.places(score)
        result.append(
            {
                "measure": place.measure,
                "offset": quarters_to_text(place.offset_quarters),
                "hand": hand_key(hand),
                "strength": found.strength,
                "name": found.name,
                "silent": {"measure": silent.measure, "offset": quarters_to_text(silent.offset_quarters)},
                "taught": found.is_taught,
            }
        )
    return result


def _cells(score: Score, line: HandLine, measures: tuple[Measure, ...], hand: Hand | None) -> list[Document]:
    result = []
    for cell in find_cells(line, measures, hand):
        place = score.place_at(cell.onset_quarters)
        result.append(
            {
                "measure": place.measure,
                "offset": quarters_to_text(place.offset_quarters),
                "hand": hand_key(hand),
                "name": cell.name,
                "units": "+".join(str(unit) for unit in cell.units),
                "unit_quarters": quarters_to_text(cell.unit_quarters),
                "quarters": quarters_to_text(cell.end_quarters - cell.onset_quarters),
            }
        )
    return result


def _rests(
    score: Score, line: HandLine, measures: tuple[Measure, ...], hand: Hand | None, counted: LineCount
) -> list[Document]:
    said = {
        (bar.measure.index, count.offset_quarters): count.say
        for bar, counts in zip(counted.by, counted.bars, strict=True)
        for count in counts
    }
    result = []
    for rest in hand_rests(line, measures, hand):
        measure = score.measures[rest.measure_index]
        entry = None if rest.entry_quarters is None else score.place_at(rest.entry_quarters)
        result.append(
            {
                "measure": measure.number,
                "offset": quarters_to_text(rest.offset_quarters),
                "hand": hand_key(hand),
                "quarters": quarters_to_text(rest.length_quarters),
                "length": length_name(rest.length_quarters),
                "say": " ".join(_said_in(said, measure.index, rest.offset_quarters, rest.length_quarters)),
                "entry": None if entry is None else {"measure": entry.measure, "offset": str(entry.offset_quarters)},
                "good_for": good_for(rest, measure.meter.beat_quarters),
            }
        )
    return result


def _said_in(said: dict[tuple[int, Fraction], str], index: int, start: Quarters, length: Quarters) -> list[str]:
    return [say for (at, offset), say in said.items() if at == index and start <= offset < start + length]


def _changes(score: Score, counted: LineCount) -> list[Document]:
    return [
        {
            "measure": score.measures[change.measure_index].number,
            "offset": quarters_to_text(change.offset_quarters),
            "from": change.before,
            "to": change.after,
        }
        for change in counted.changes
    ]


def roadmap_document(score: Score, roadmap: Roadmap) -> Document:
    """The document of ``laptick roadmap``."""
    return {
        "order": [score.measures[index].number for index in roadmap.order],
        "problems": [
            {"measure": score.measures[problem.measure_index].number, "text": problem.text}
            for problem in roadmap.problems
        ],
    }
