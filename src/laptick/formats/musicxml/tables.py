"""Facts about the MusicXML score format as tables: lengths, pitches, and what becomes of each element.

Source: the W3C MusicXML 4.0 partwise schema (element names and meanings), from memory.
"""

from __future__ import annotations

from fractions import Fraction

from laptick.core.score.pitch import ALTERATIONS
from laptick.core.score.score import MarkKind

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


#: Semitones → accidental as shown.
ALTER_SIGNS: dict[int, str] = {semitones: sign for sign, semitones in ALTERATIONS.items()}

#: Children of ``<note>`` that are read.
NOTE_READ = frozenset(
    [
        "grace", "chord", "pitch", "unpitched", "rest", "duration", "tie", "voice", "type", "dot", "time-modification",
        "staff", "cue", "beam", "notations", "lyric",
    ]
)  # fmt: skip

#: What an unpitched note sounds like (``<play><other-play>``) that is a clap.
HAND_CLAP = "hand-clap"

#: Children of ``<note>`` that only say how it looks or sounds on a device.
NOTE_LOOKS = frozenset(
    ["stem", "notehead", "notehead-text", "accidental", "instrument", "play", "listen", "footnote", "level"]
)

#: Children of ``<measure>`` that are read, and those that only concern the look of the page.
MEASURE_READ = frozenset(
    ["attributes", "note", "backup", "forward", "direction", "sound", "print", "barline", "harmony"]
)
MEASURE_LOOKS = frozenset(["bookmark", "link", "grouping", "listening"])

ATTRIBUTES_LOOKS = frozenset(["staff-details", "instruments", "part-symbol", "footnote", "level"])

#: Children of ``<direction-type>`` that are read (tempo marks and words in other places) or only look.
DIRECTIONS_READ = frozenset(
    ["words", "metronome", "dynamics", "wedge", "pedal", "octave-shift", "dashes", "rehearsal", "segno", "coda"]
)

#: Children of ``<notations>`` that are read (ties and tuplets through the note's own elements).
NOTATIONS_READ = frozenset(["tied", "tuplet", "fermata", "slur", "arpeggiate", "dynamics", "articulations",
                            "ornaments", "technical", "footnote", "level"])  # fmt: skip

#: Children of ``<barline>`` that only look.
BARLINE_LOOKS = frozenset(["bar-style", "footnote", "level", "wavy-line"])

#: Articulations that stop the sound or the beat.
BREATHS: dict[str, MarkKind] = {"breath-mark": MarkKind.BREATH, "caesura": MarkKind.CAESURA}

#: Chord kinds as they are printed (common practice); others show nothing beside the root.
CHORD_KINDS: dict[str, str] = {
    "major": "", "minor": "m", "augmented": "+", "diminished": "°", "dominant": "7", "major-seventh": "maj7",
    "minor-seventh": "m7", "diminished-seventh": "°7", "augmented-seventh": "+7", "half-diminished": "ø",
    "major-minor": "m(maj7)", "major-sixth": "6", "minor-sixth": "m6", "dominant-ninth": "9", "major-ninth": "maj9",
    "minor-ninth": "m9", "dominant-11th": "11", "dominant-13th": "13", "suspended-second": "sus2",
    "suspended-fourth": "sus4", "power": "5", "none": "N.C.",
}  # fmt: skip

#: Kept in the file but not used yet, in a teacher's words.
UNUSED_WORDS: dict[str, str] = {
    "glissando": "glissandos",
    "slide": "slides",
    "technical": "technical marks other than fingerings",
    "non-arpeggiate": "chords marked not to be rolled",
    "bracket": "brackets",
    "figured-bass": "figured bass",
    "transpose": "transposition (pitches are taken as written)",
    "measure-style": "bar styles such as multiple rests",
    "metronome": "a tempo mark that gives no number",
    "directive": "directives",
    "for-part": "part transpositions",
    "harmony": "a chord symbol without a root",
    "accordion-registration": "accordion registrations",
    "harp-pedals": "harp pedals",
    "percussion": "pictures of percussion",
    "image": "pictures",
    "eyeglasses": "a pair of glasses",
    "damp": "damping marks",
    "damp-all": "damping marks",
    "string-mute": "mutes",
    "scordatura": "scordatura",
    "staff-divide": "staff divisions",
    "other-notation": "other notations",
    "other-direction": "other directions",
    "principal-voice": "voice brackets",
}
