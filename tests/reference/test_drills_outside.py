"""Drills as files, opened by an independent reader: music21 (test-only) finds every note at its place, with its length,
pitch and name, and counts the beats of a ratio scale as we do."""

from __future__ import annotations

import tempfile
import warnings
from fractions import Fraction
from pathlib import Path

import pytest

from helpers import demo_score
from laptick.core.score.score import HANDS, Hand, Score
from laptick.formats.drills import make_drill
from laptick.formats.musicxml_writing.writer import write_musicxml

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import music21

#: One of every kind, and what writes oddly: thirds of beats against quarters, ties over bar lines, flats and sharps.
DRILLS = [
    ("ratio", {"scale": "C-major", "ratio": "2:1"}),
    ("ratio", {"scale": "Eb-major", "ratio": "3:2", "octaves": "2", "fast": "left"}),
    ("ratio", {"scale": "F#-minor", "ratio": "4:3", "motion": "contrary", "start": "together"}),
    ("ratio", {"scale": "D-major", "ratio": "4:1", "start": "crossed"}),
    ("cross", {"ratio": "3:2"}),
    ("cross", {"ratio": "3:4", "scale": "Ab-major"}),
    ("form", {"bars": "twelve-bar", "key": "Bb-major", "fill": "chords"}),
    ("form", {"bars": "I,IV,V,I", "key": "E-major"}),
    ("layer", {"of": "harbour-steps", "pattern": "3+3+2"}),
    ("layer", {"of": "lantern-boat", "pattern": "broken-chord", "left": "staccato"}),
    ("layer", {"of": "kite-over-the-orchard", "pattern": "boogie"}),
    ("layer", {"of": "harbour-steps", "pattern": "pulse,low-high", "held": "yes", "turns": "4"}),
    ("spot", {"of": "harbour-steps", "measures": "2-3", "within": "3..0"}),
    ("spot", {"of": "copper-kettle-parade", "measures": "1-2"}),
    ("variants", {"of": "copper-kettle-parade"}),
    ("variants", {"of": "copper-kettle-parade", "pattern": "long-quick-long-quick"}),
]


def opened(score: Score) -> music21.stream.Score:
    with tempfile.TemporaryDirectory() as folder, warnings.catch_warnings():
        warnings.simplefilter("ignore")
        path = Path(folder) / "drill.musicxml"
        path.write_bytes(write_musicxml(score))
        return music21.converter.parse(path)


def as_read(score: Score) -> list[tuple[str, Fraction, int, str]]:
    """Staff by hand, onset, key and name of every strike, by music21."""
    read = opened(score)
    found = []
    for hand, part in zip(HANDS, read.parts, strict=True):
        for note in part.flatten().notes:
            if isinstance(note, music21.harmony.ChordSymbol):
                continue
            for one in note.notes if note.isChord else [note]:
                if one.tie is None or one.tie.type == "start":
                    name = one.pitch.nameWithOctave.replace("##", "𝄪").replace("#", "♯").replace("-", "♭")
                    onset = Fraction(note.getOffsetInHierarchy(part)).limit_denominator(48)
                    found.append((hand.value, onset, one.pitch.midi, name))
    return sorted(found)


@pytest.mark.parametrize(("kind", "options"), DRILLS, ids=str)
def test_every_strike_is_found_by_another_reader(kind, options):
    score = make_drill(kind, options, demo_score).score
    own = sorted((n.hand.value, n.onset_quarters, n.pitch, n.name) for n in score.notes if n.is_strike)
    assert as_read(score) == own


def test_the_chords_of_a_left_hand_are_found_by_another_reader():
    words = {"of": "harbour-steps", "pattern": "pulse", "roots": "C Am F G7 C Dm Gsus4 C"}
    score = make_drill("layer", words, demo_score).score
    symbols = opened(score).parts[0].flatten().getElementsByClass(music21.harmony.ChordSymbol)
    assert [(one.root().name, Fraction(one.offset)) for one in symbols] == [
        ("C", 0), ("A", 4), ("F", 8), ("G", 12), ("C", 16), ("D", 20), ("G", 24), ("C", 28),
    ]  # fmt: skip


def test_claps_are_strikes_without_a_key_for_another_reader():
    score = make_drill("form", {"bars": "I,IV,V,I", "fill": "two-claps", "walk": "no"}, demo_score).score
    claps = opened(score).recurse().getElementsByClass(music21.note.Unpitched)
    found = sorted(Fraction(one.getOffsetInHierarchy(one.activeSite.activeSite.activeSite)) for one in claps)
    assert found == [n.onset_quarters for n in score.notes if n.is_clap]
    assert {one.notehead for one in claps} == {"x"}


@pytest.mark.parametrize(("kind", "options"), DRILLS, ids=str)
def test_its_beats_are_counted_the_same(kind, options):
    """Which strikes fall on a beat, in every meter: music21's beats against ours."""
    score = make_drill(kind, options, demo_score).score
    beats = {
        measure.start_quarters + beat.start_quarters - measure.lead_quarters
        for measure in score.measures
        for beat in measure.meter.beats
    }
    ours = {n.onset_quarters for n in score.notes if n.hand is Hand.RIGHT and n.is_strike and n.onset_quarters in beats}
    part = opened(score).parts[0]
    theirs = {
        Fraction(note.getOffsetInHierarchy(part)).limit_denominator(48)
        for note in part.flatten().notes
        if not isinstance(note, music21.harmony.ChordSymbol)
        and (note.tie is None or note.tie.type == "start")
        and float(note.beat).is_integer()
    }
    assert theirs == ours
