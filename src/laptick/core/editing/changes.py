"""What the teacher's pencil can change, as data: one frozen class a kind of change, and the tables of what may be
written.

Conventions: places are a bar's name and quarters from its start, in written order. ``pencil`` makes the changes.
Source: docs/trade.md 5 (pencil layer).
"""

from __future__ import annotations

import re
from dataclasses import dataclass, fields, replace
from fractions import Fraction
from typing import ClassVar, TypeAlias

from laptick.core.base.errors import OptionError
from laptick.core.base.units import Quarters
from laptick.core.score.score import Hand, MarkKind, Note, Rest, Score

#: Dynamics that can be pencilled in, soft to loud, and the accents among them.
DYNAMICS: tuple[str, ...] = ("ppp", "pp", "p", "mp", "mf", "f", "ff", "fff", "fp", "sf", "sfz")

#: The two hairpins, as the score names them.
HAIRPINS: tuple[str, ...] = ("crescendo", "diminuendo")

#: Marks of a file that can be rubbed out, with what they are called.
ERASABLE: dict[MarkKind, str] = {
    MarkKind.DYNAMIC: "dynamic",
    MarkKind.WEDGE: "hairpin",
    MarkKind.PEDAL: "pedal",
    MarkKind.WORDS: "words",
    MarkKind.TEMPO_WORDS: "tempo words",
    MarkKind.SLOWER: "slowing down",
    MarkKind.FASTER: "speeding up",
    MarkKind.A_TEMPO: "a tempo",
    MarkKind.FERMATA: "fermata",
    MarkKind.BREATH: "lift",
    MarkKind.CAESURA: "caesura",
    MarkKind.SLUR: "phrase mark",
    MarkKind.ARTICULATION: "articulation",
    MarkKind.ORNAMENT: "ornament",
    MarkKind.ARPEGGIO: "rolled chord",
    MarkKind.FINGERING: "fingering",
    MarkKind.CHORD_SYMBOL: "chord symbol",
    MarkKind.CUE: "cue word",
}

#: Marks whose text is what stands on the page.
SHOWN_BY_TEXT: frozenset[MarkKind] = frozenset(
    {
        MarkKind.DYNAMIC,
        MarkKind.WORDS,
        MarkKind.TEMPO_WORDS,
        MarkKind.FINGERING,
        MarkKind.CHORD_SYMBOL,
        MarkKind.CUE,
        MarkKind.ARTICULATION,
        MarkKind.ORNAMENT,
    }
)

#: Stated limits: letters of a cue word and of a chord symbol; options of one fingering; changes of one piece.
MAX_CUE, MAX_CHORD, MAX_FINGERINGS, MAX_CHANGES = 24, 24, 6, 500

FINGER = re.compile(r"[1-5](-[1-5])?")
_CHORD = re.compile(r"[A-G](♭♭|♭|♯|𝄪)?([^/]|/(?=\d))*(/[A-G](♭♭|♭|♯|𝄪)?)?")


@dataclass(frozen=True)
class NoteRef:
    """A note by its id, and where it stood and what it was called in the file when it was pencilled."""

    id: str
    measure: str = ""
    offset_quarters: Quarters = Fraction(0)
    name: str = ""


@dataclass(frozen=True)
class Spot:
    """A place of the written score."""

    measure: str
    offset_quarters: Quarters


# -- what can be changed ---------------------------------------------------------------------------------


@dataclass(frozen=True)
class ChangePitch:
    kind: ClassVar[str] = "pitch"
    note: NoteRef
    pitch: str


@dataclass(frozen=True)
class ChangeLength:
    """Of a note with its chord, or of a rest; ``to_next``: what it gives up goes to what follows it."""

    kind: ClassVar[str] = "length"
    note: NoteRef
    length_quarters: Quarters
    to_next: bool = False


@dataclass(frozen=True)
class RemoveNote:
    kind: ClassVar[str] = "remove"
    note: NoteRef


@dataclass(frozen=True)
class AddNote:
    kind: ClassVar[str] = "add"
    at: Spot
    hand: Hand
    pitch: str
    length_quarters: Quarters


@dataclass(frozen=True)
class ChangeTie:
    kind: ClassVar[str] = "tie"
    note: NoteRef
    is_tied: bool


@dataclass(frozen=True)
class GiveHand:
    kind: ClassVar[str] = "hand"
    note: NoteRef
    hand: Hand


@dataclass(frozen=True)
class SetFingering:
    """Fingers to try, the chosen one among them; none: no fingering. In place of what the note had."""

    kind: ClassVar[str] = "fingering"
    note: NoteRef
    options: tuple[str, ...]
    chosen: int = 0


@dataclass(frozen=True)
class AddPhrase:
    kind: ClassVar[str] = "phrase"
    first: NoteRef
    last: NoteRef


@dataclass(frozen=True)
class AddLift:
    kind: ClassVar[str] = "lift"
    note: NoteRef


@dataclass(frozen=True)
class AddPedal:
    kind: ClassVar[str] = "pedal"
    at: Spot
    end: Spot


@dataclass(frozen=True)
class AddDynamic:
    kind: ClassVar[str] = "dynamic"
    at: Spot
    text: str
    hand: Hand | None = None


@dataclass(frozen=True)
class AddHairpin:
    kind: ClassVar[str] = "hairpin"
    at: Spot
    end: Spot
    text: str
    hand: Hand | None = None


@dataclass(frozen=True)
class AddCue:
    kind: ClassVar[str] = "cue"
    at: Spot
    text: str


@dataclass(frozen=True)
class SetChord:
    """A chord symbol in place of the one that stands there; an empty text takes it away."""

    kind: ClassVar[str] = "chord"
    at: Spot
    text: str


@dataclass(frozen=True)
class EraseMark:
    """A mark of the score rubbed out: by its kind, place and text, and the note it hangs on."""

    kind: ClassVar[str] = "erase"
    mark: MarkKind
    at: Spot
    text: str = ""
    note_id: str | None = None


Change: TypeAlias = (
    ChangePitch
    | ChangeLength
    | RemoveNote
    | AddNote
    | ChangeTie
    | GiveHand
    | SetFingering
    | AddPhrase
    | AddLift
    | AddPedal
    | AddDynamic
    | AddHairpin
    | AddCue
    | SetChord
    | EraseMark
)


@dataclass(frozen=True)
class PencilChange:
    """A change with the key it is known by; a note it adds has the id ``p`` and that key."""

    key: str
    change: Change


#: What a change is called before its note is found.
KIND_WORDS: dict[str, str] = {
    "pitch": "another note",
    "length": "another length",
    "remove": "a note taken out",
    "add": "a note put in",
    "tie": "a tie",
    "hand": "a note for the other hand",
    "fingering": "fingering",
    "phrase": "a phrase mark",
    "lift": "a lift",
    "pedal": "pedal",
    "dynamic": "a dynamic",
    "hairpin": "a hairpin",
    "cue": "a cue word",
    "chord": "a chord symbol",
    "erase": "a mark rubbed out",
}


def spot_of(change: Change) -> Spot:
    """Where a change was meant to be."""
    if isinstance(change, AddPhrase):
        return Spot(change.first.measure, change.first.offset_quarters)
    if isinstance(change, (AddNote, AddPedal, AddDynamic, AddHairpin, AddCue, SetChord, EraseMark)):
        return change.at
    return Spot(change.note.measure, change.note.offset_quarters)


def noted(one: PencilChange) -> tuple[str, ...]:
    """Ids of the notes and rests that a change names, and of the note it puts in."""
    values = [getattr(one.change, field.name) for field in fields(one.change)]
    return (f"p{one.key}", *(value.id for value in values if isinstance(value, NoteRef)))


def with_witness(change: Change, score: Score) -> Change:
    """The change with what its notes and rests are in ``score`` (the file's own): bar, place and name, by which they
    are found again where the file comes to be read otherwise."""
    refs = {field.name: getattr(change, field.name) for field in fields(change)}
    seen = {name: _witness(score, ref) for name, ref in refs.items() if isinstance(ref, NoteRef)}
    return replace(change, **seen) if seen else change  # type: ignore[arg-type]


def _witness(score: Score, ref: NoteRef) -> NoteRef:
    every: list[Note | Rest] = [*score.notes, *score.rests]
    for item in every:
        if item.id == ref.id:
            measure = score.measures[item.measure_index]
            name = item.name if isinstance(item, Note) else ""
            return NoteRef(ref.id, measure.number, item.onset_quarters - measure.start_quarters, name)
    return NoteRef(ref.id)


def chord_symbol(text: str) -> str:
    """A chord symbol as it is shown: ``Bb7/d`` is refused, ``Bb7/D`` is B♭7/D; ``b`` and ``#`` right after a letter
    are accidentals.

    Raises:
        OptionError: it does not begin with the name of a note, or is too long.
    """
    shown = re.sub(r"(?<![A-Za-z])([A-G])(bb|##|b|#)", lambda m: m.group(1) + _SIGNS[m.group(2)], text.strip())
    if not shown:
        return ""
    if len(shown) > MAX_CHORD or not _CHORD.fullmatch(shown):
        raise OptionError(
            f"“{text.strip()[:MAX_CHORD]}” is no chord symbol.", where="text", todo="Write it like Am, F♯7 or C/G."
        )
    return shown


_SIGNS = {"b": "♭", "bb": "♭♭", "#": "♯", "##": "𝄪"}
