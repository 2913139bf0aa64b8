"""Any score file → Score, and back: MusicXML by its text or archive, Standard MIDI by its header."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from laptick.core.base.units import Bpm, LengthNaming
from laptick.core.counting.choices import CountChoices
from laptick.core.editing.changes import PencilChange
from laptick.core.editing.pencil import Outcome, apply_pencil
from laptick.core.score.score import Hand, Score
from laptick.formats.midi.score_reader import open_midi_score
from laptick.formats.musicxml.file import MusicXmlFile, open_musicxml
from laptick.formats.musicxml_writing.counts import serialise, write_counts
from laptick.formats.musicxml_writing.pencil import write_changes
from laptick.formats.musicxml_writing.writer import write_musicxml
from laptick.formats.parts.part import PartInfo
from laptick.formats.parts.reading import Reading


@dataclass(frozen=True)
class ScoreFile:
    """A score, the parts (or tracks) of its file, and its MusicXML tree where it has one."""

    score: Score
    parts: tuple[PartInfo, ...]
    musicxml: MusicXmlFile | None


@dataclass(frozen=True)
class PencilledFile:
    """A file with changes made, and what became of each."""

    file: ScoreFile
    outcomes: tuple[Outcome, ...]


def is_midi(data: bytes) -> bool:
    return data[:4] == b"MThd" or (data[:4] == b"RIFF" and b"MThd" in data[:64])


def open_score(
    data: bytes, *, filename: str = "the file", reading: Reading | None = None, allow_silent: bool = False
) -> ScoreFile:
    """What is in a score file. ``allow_silent``: also one without any note.

    Raises:
        ScoreError: not a score that can be read.
        LimitError: larger than the stated limits.
    """
    if is_midi(data):
        score, parts = open_midi_score(data, filename=filename, reading=reading)
        return ScoreFile(score, parts, None)
    file = open_musicxml(data, filename=filename, reading=reading, allow_silent=allow_silent)
    return ScoreFile(file.score, file.parts, file)


def read_score(data: bytes, *, filename: str = "the file", reading: Reading | None = None) -> Score:
    """The score in a file; errors as ``open_score``."""
    return open_score(data, filename=filename, reading=reading).score


def as_musicxml(file: ScoreFile) -> MusicXmlFile:
    """The file's own tree, or one written from its score; notes and rests keep their ids."""
    if file.musicxml is not None:
        return file.musicxml
    written = open_musicxml(write_musicxml(file.score), allow_silent=True)
    names = dict(zip((n.id for n in written.score.notes), (n.id for n in file.score.notes), strict=True))
    names |= dict(zip((r.id for r in written.score.rests), (r.id for r in file.score.rests), strict=True))
    elements = {names[key]: element for key, element in written.elements.items()}
    return MusicXmlFile(file.score, written.tree, elements, written.parts)


def drawn_from(file: ScoreFile) -> MusicXmlFile:
    """The file's own tree with the score as it is used: what notation is engraved from."""
    return replace(as_musicxml(file), score=file.score)


def with_pencil(
    file: ScoreFile, changes: Sequence[PencilChange], naming: LengthNaming = LengthNaming.AMERICAN
) -> PencilledFile:
    """The file with the teacher's changes made, in its score and in its own tree.

    Raises:
        OptionError: more changes than the stated limit.
    """
    pencilled = apply_pencil(file.score, changes, naming)
    if pencilled.score is file.score:
        return PencilledFile(file, pencilled.outcomes)
    tree = None if file.musicxml is None else write_changes(replace(file.musicxml, score=file.score), pencilled.score)
    return PencilledFile(replace(file, score=pencilled.score, musicxml=tree), pencilled.outcomes)


def score_file(
    file: ScoreFile,
    choices: CountChoices | None = None,
    *,
    hands: Sequence[Hand | None] = (),
    bpm: Bpm | None = None,
) -> bytes:
    """The score as MusicXML, with the counts of ``hands`` as lyrics: a file's own tree where it has one, else
    written from the score."""
    source = as_musicxml(file)
    return write_counts(source, file.score, choices, hands=hands, bpm=bpm) if hands else serialise(source.tree)
