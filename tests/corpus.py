"""Scores that nobody here wrote, taken through everything: read, counted, round-tripped, played by the simulated student
without a fault, and checked. Shared by the sample in the tests and by ``benchmarks/corpus.py``.

Source of the scores: the corpus and the MusicXML conformance set that ship with music21 (test-only).
"""

from __future__ import annotations

import random
import warnings
import zlib
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from laptick.core.base.errors import LapTickError
from laptick.core.base.levels import Level
from laptick.core.counting.counting import count_line, default_bpm
from laptick.core.counting.counts import Kind
from laptick.core.judging.judgement import judge_take
from laptick.core.measuring.limits import limits_of
from laptick.core.score.roadmap import in_played_order
from laptick.core.score.score import HANDS, Score
from laptick.core.student.student import simulate
from laptick.core.takes.performance import Source
from laptick.core.takes.task import lap_task
from laptick.formats.score_files import ScoreFile, open_score, score_file

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import music21

CORPUS = Path(music21.__file__).parent / "corpus"
CONFORMANCE = Path(music21.__file__).parent / "musicxml" / "lilypondTestSuite"

#: Bars that are played of each score, for long ones take long; and the tempo where a score has none.
MOST_BARS, UNMARKED_BPM = 40, 60.0
SLOWEST_BPM, FASTEST_BPM = 40.0, 132.0


#: Fewer instants than this are no take: the conformance set has scores of a note or two.
LEAST_INSTANTS = 4


@dataclass(frozen=True)
class Outcome:
    """What came of a file. ``refused``: why it was not read; ``blamed``: what a clean take was blamed for, by source;
    ``faults``: what is wrong with how we read, counted or wrote it."""

    name: str
    bars: int
    notes: int
    refused: str = ""
    takes: int = 0
    blamed: tuple[str, ...] = ()
    faults: tuple[str, ...] = ()


def files() -> list[Path]:
    """Every score of both sets, in a fixed order."""
    found = [*CORPUS.rglob("*"), *CONFORMANCE.rglob("*")]
    return sorted(path for path in found if path.suffix in (".mxl", ".xml", ".musicxml"))


def spread(many: list[Path], wanted: int) -> list[Path]:
    """As many of them as are wanted, of every folder in turn, so that no composer has the most."""
    folders: dict[Path, list[Path]] = {}
    for path in many:
        folders.setdefault(path.parent, []).append(path)
    order = random.Random(15)
    for inside in folders.values():
        order.shuffle(inside)
    chosen: list[Path] = []
    while len(chosen) < wanted and any(folders.values()):
        for inside in folders.values():
            if inside and len(chosen) < wanted:
                chosen.append(inside.pop())
    return sorted(chosen)


def name_of(path: Path) -> str:
    return str(path.relative_to(CORPUS if path.is_relative_to(CORPUS) else CONFORMANCE.parent))


def opened(path: Path) -> ScoreFile | str:
    """The file, or why it is refused."""
    try:
        return open_score(path.read_bytes(), filename=path.name)
    except LapTickError as error:
        return error.one_line().removeprefix(f"{path.name}: ")


def outcome_of(path: Path) -> Outcome:
    """A file taken through everything. Whatever breaks is raised: nothing may break."""
    name, file = name_of(path), opened(path)
    if isinstance(file, str):
        return Outcome(name, 0, 0, file)
    score = file.score
    faults = [*_counted(score), *_round_tripped(file)]
    blamed, takes = [], 0
    for source in (Source.MIDI, Source.TAPS):
        told = _played(score, source, zlib.crc32(name.encode()))
        if told is not None:
            takes += 1
            blamed += [f"{source.value}: {code}" for code in told]
    return Outcome(name, len(score.measures), len(score.notes), "", takes, tuple(blamed), tuple(faults))


def _counted(score: Score) -> Iterator[str]:
    """Each strike of a line has a count of its own, inside its bar, and no two counts stand at one place."""
    for hand in (*HANDS, None):
        counted = count_line(score, hand)
        for bar, counts in zip(counted.by, counted.bars, strict=True):
            offsets = [count.offset_quarters for count in counts]
            if offsets != sorted(set(offsets)):
                yield f"bar {bar.measure.number}: counts out of order"
            if any(not 0 <= offset < bar.measure.length_quarters for offset in offsets):
                yield f"bar {bar.measure.number}: a count outside the bar"
            struck = {
                note.onset_quarters - bar.measure.start_quarters
                for note in score.notes_of_measure(bar.measure.index)
                if note.is_strike and not note.is_grace and (hand is None or note.hand is hand)
            }
            said = {count.offset_quarters for count in counts if count.kind is Kind.STRIKE}
            if said - struck:
                yield f"bar {bar.measure.number}: a strike is counted that is not there"


def _round_tripped(file) -> Iterator[str]:  # type: ignore[no-untyped-def]
    """Written out with its counts and read in again, it is the same score."""
    score = file.score
    again = open_score(score_file(file, hands=(None,)), filename="again.musicxml").score
    for what in ("onset_quarters", "duration_quarters", "pitch", "hand", "is_strike"):
        mine, theirs = (Counter(getattr(note, what) for note in one.notes) for one in (score, again))
        if mine != theirs:
            yield f"round trip: {what} differs"
    if [m.number for m in score.measures] != [m.number for m in again.measures]:
        yield "round trip: bars differ"


def _played(score: Score, source: Source, seed: int) -> list[str] | None:
    """What a clean take of the simulated student is blamed for; ``None``: there is nothing to play."""
    played = in_played_order(score, None)
    bpm = min(FASTEST_BPM, max(SLOWEST_BPM, default_bpm(score) or UNMARKED_BPM))
    try:
        task = lap_task(
            played, assigned_bpm=bpm, measures=played.measures[:MOST_BARS], with_pitches=source is Source.MIDI
        )
    except LapTickError:
        return None
    if len({expected.onset_quarters for expected in task.expected}) < LEAST_INSTANTS:
        return None
    level = (Level.FIRST_YEAR, Level.ELEMENTARY, Level.INTERMEDIATE, Level.ADVANCED)[seed % 4]
    judged = judge_take(task, simulate(task, level=level, seed=seed, source=source), limits_of(level, None))
    return sorted({str(finding.code) for finding in judged.findings}) if judged.checked.followed else ["not followed"]
