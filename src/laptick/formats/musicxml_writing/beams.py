"""Beams for files that write none: notes shorter than a quarter joined by the beats they stand in.

Source: common practice of notation; a rest, a longer note or a beat's end ends a beam.
"""

from __future__ import annotations

from collections.abc import Mapping

from lxml import etree

from laptick.core.score.score import Measure, Note, Score

#: Written type → how many beams it has.
LEVELS: dict[str, int] = {"eighth": 1, "16th": 2, "32nd": 3, "64th": 4}

#: What follows a ``<beam>`` inside a ``<note>``.
_AFTER = ("notations", "lyric", "play", "listen")


def write_beams(score: Score, elements: Mapping[str, etree._Element | None]) -> None:
    """Joins what belongs to one beat, voice by voice; files that have beams of their own are left alone."""
    if any(element is not None and element.find("beam") is not None for element in elements.values()):
        return
    for measure in score.measures:
        voices: dict[str, list[tuple[Note, etree._Element]]] = {}
        for note in score.notes_of_measure(measure.index):
            element = elements.get(note.id)
            if element is not None and not note.is_grace:
                voices.setdefault(note.voice, []).append((note, element))
        for voice in voices.values():
            beam_voice(measure, voice)


def beam_voice(measure: Measure, voice: list[tuple[Note, etree._Element]]) -> None:
    """The beams of one voice in one bar, which has none yet."""
    for group in _groups(measure, voice):
        _write(group)


def _groups(measure: Measure, voice: list[tuple[Note, etree._Element]]) -> list[list[etree._Element]]:
    """The stems of each beam: the first notes of chords, in order of time."""
    stems: dict[object, tuple[Note, etree._Element]] = {}
    for note, element in voice:
        known = stems.get(note.onset_quarters)
        if known is None or element.find("chord") is None:
            stems[note.onset_quarters] = (note, element)
    groups: list[list[etree._Element]] = []
    end, beat = None, None
    for note, element in sorted(stems.values(), key=lambda pair: pair[0].onset_quarters):
        here = measure.meter.beat_at(measure.position_of(note.onset_quarters))
        level = LEVELS.get((element.findtext("type") or "").strip(), 0)
        if level and groups and end == note.onset_quarters and beat == here:
            groups[-1].append(element)
        elif level:
            groups.append([element])
        end, beat = (note.end_quarters, here) if level else (None, None)
    return [group for group in groups if len(group) > 1]


def _write(group: list[etree._Element]) -> None:
    levels = [LEVELS[(element.findtext("type") or "").strip()] for element in group]
    for index, element in enumerate(group):
        for level in range(1, levels[index] + 1):
            before = index > 0 and levels[index - 1] >= level
            after = index + 1 < len(group) and levels[index + 1] >= level
            beam = etree.Element("beam", number=str(level))
            if before and after:
                beam.text = "continue"
            elif before:
                beam.text = "end"
            elif after:
                beam.text = "begin"
            else:
                beam.text = "backward hook" if index else "forward hook"
            _put(element, beam)


def _put(note: etree._Element, beam: etree._Element) -> None:
    for child in note.iterchildren("*"):
        if child.tag in _AFTER:
            child.addprevious(beam)
            return
    note.append(beam)
