"""Facts about the MusicXML score format as tables: lengths, pitches, and what becomes of each element.

Source: the W3C MusicXML 4.0 partwise schema (element names and meanings), from memory.
"""

from __future__ import annotations

from fractions import Fraction

#: ``<type>`` → quarters.
TYPE_QUARTERS: dict[str, Fraction] = {
    "maxima": Fraction(32),
    "long": Fraction(16),
    "breve": Fraction(8),
    "whole": Fraction(4),
    "half": Fraction(2),
    "quarter": Fraction(1),
    "eighth": Fraction(1, 2),
    "16th": Fraction(1, 4),
    "32nd": Fraction(1, 8),
    "64th": Fraction(1, 16),
    "128th": Fraction(1, 32),
    "256th": Fraction(1, 64),
    "512th": Fraction(1, 128),
    "1024th": Fraction(1, 256),
}

STEP_SEMITONES: dict[str, int] = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}

#: Children of ``<note>`` that are read.
NOTE_READ = frozenset(
    [
        "grace",
        "chord",
        "pitch",
        "unpitched",
        "rest",
        "duration",
        "tie",
        "voice",
        "type",
        "dot",
        "time-modification",
        "staff",
        "cue",
    ]
)

#: Children of ``<note>`` that only say how it looks or sounds on a device.
NOTE_LOOKS = frozenset(
    ["stem", "notehead", "notehead-text", "beam", "accidental", "instrument", "play", "footnote", "level"]
)

#: Children of ``<measure>`` that are read.
MEASURE_READ = frozenset(["attributes", "note", "backup", "forward", "direction", "sound", "print", "barline"])

#: Children of ``<attributes>`` that are read, and those that only concern the look of the page.
ATTRIBUTES_READ = frozenset(["divisions", "time", "staves"])
ATTRIBUTES_LOOKS = frozenset(["key", "clef", "staff-details", "instruments", "part-symbol", "footnote", "level"])

#: Children of ``<notations>`` that are read (ties and tuplets through the note's own elements) …
NOTATIONS_READ = frozenset(["tied", "tuplet"])

#: … and those that are kept in the file but not used yet, in a teacher's words.
UNUSED_WORDS: dict[str, str] = {
    "slur": "slurs",
    "fermata": "fermatas (the beat is not bent there yet)",
    "arpeggiate": "rolled chords (taken as struck at once)",
    "articulations": "articulations",
    "ornaments": "ornaments (only the written note is counted)",
    "technical": "fingerings and other technical marks",
    "dynamics": "dynamics",
    "glissando": "glissandos",
    "slide": "slides",
    "lyric": "lyrics",
    "notations": "other notations",
    "words": "words in the score",
    "wedge": "hairpins",
    "pedal": "pedal marks",
    "octave-shift": "octave lines (pitches are taken as the file gives them)",
    "dashes": "dashed lines",
    "bracket": "brackets",
    "rehearsal": "rehearsal marks",
    "segno": "segno signs (bars are taken in written order)",
    "coda": "coda signs (bars are taken in written order)",
    "repeat": "repeats (bars are taken in written order)",
    "ending": "repeat endings (bars are taken in written order)",
    "harmony": "chord symbols",
    "figured-bass": "figured bass",
    "transpose": "transposition (pitches are taken as written)",
    "measure-style": "bar styles such as multiple rests",
    "metronome": "a tempo mark that gives no number",
    "fine": "“Fine” (bars are taken in written order)",
    "jump": "jumps such as D.C. and D.S. (bars are taken in written order)",
    "directive": "directives",
    "for-part": "part transpositions",
}
