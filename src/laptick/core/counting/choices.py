"""How to count: the teacher's choices in layers, and the one order in which they are resolved.

Later layers win, field by field: default, studio, level, piece, hand, bar; a single syllable wins over
everything. A field that a layer leaves open (``None``) is taken from the layer before.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from enum import StrEnum
from fractions import Fraction

from laptick.core.base.units import LengthNaming, Quarters
from laptick.core.counting.word_tables import System, WordTable, word_table
from laptick.core.score.meter import Grouping


class Density(StrEnum):
    BEAT = "beat"
    BAR = "bar"
    STEADY = "steady"


#: How much is said, in a teacher's words (common practice, no source).
DENSITY_WORDS: dict[Density, str] = {
    Density.BEAT: "only where a beat is divided",
    Density.BAR: "“ands” through the whole bar",
    Density.STEADY: "“ands” through the whole piece",
}


class Compound(StrEnum):
    AUTO = "auto"
    BEATS = "beats"
    UNITS = "units"
    GROUPS = "groups"
    GROUPS_RESTART = "groups-restart"


#: How a compound bar is counted, in a teacher's words.
COMPOUND_WORDS: dict[Compound, str] = {
    Compound.AUTO: "chosen by the tempo",
    Compound.BEATS: "in beats: 1 la li 2 la li",
    Compound.UNITS: "in units: 1 2 3 4 5 6",
    Compound.GROUPS: "in threes: 1 2 3 2 2 3",
    Compound.GROUPS_RESTART: "in threes: 1 2 3 1 2 3",
}


class RestWords(StrEnum):
    """What is said in a silence, in any system."""

    NUMBER = "number"
    REST = "rest"
    OFF = "off"
    SILENCE = "silence"


#: The same in a teacher's words (docs/trade.md 2.4, common practice).
REST_WORDS: dict[RestWords, str] = {
    RestWords.NUMBER: "the number of its place",
    RestWords.REST: "“rest”",
    RestWords.OFF: "“off” where the hand lifts",
    RestWords.SILENCE: "nothing",
}


#: Changed word entries (``system:entry``), each with all its words.
WordChanges = tuple[tuple[str, tuple[str, ...]], ...]


@dataclass(frozen=True)
class CountChoice:
    """One layer. ``beat`` is a key of ``meter.BEAT_CHOICES``; ``words`` are changed entries."""

    system: System | None = None
    density: Density | None = None
    compound: Compound | None = None
    beat: str | None = None
    grouping: Grouping | None = None
    words: WordChanges | None = None
    rests: RestWords | None = None

    def over(self, lower: CountChoice) -> CountChoice:
        """This layer laid on a lower one: fields it leaves open shine through, words entry by entry."""
        chosen = {f.name: getattr(self, f.name) for f in fields(self) if getattr(self, f.name) is not None}
        if self.words and lower.words:
            chosen["words"] = tuple({**dict(lower.words), **dict(self.words)}.items())
        return replace(lower, **chosen)


#: What holds where nobody chose.
DEFAULT_CHOICE = CountChoice(System.NUMBERS, Density.BEAT, Compound.AUTO, rests=RestWords.NUMBER)

#: Key of the composite line, beside ``right`` and ``left``.
BOTH = "both"

#: The layers in the order in which they are laid on each other.
LAYERS: tuple[str, ...] = ("default", "studio", "level", "piece", "hand", "bar", "syllable")


@dataclass(frozen=True)
class Syllable:
    """A single word said otherwise. ``hand`` is right or left; both: in every line that has no own."""

    measure: str
    offset_quarters: Quarters
    hand: str
    say: str


@dataclass(frozen=True)
class Resolved:
    """How one bar of one line is counted, every field decided; ``origins`` name the layer of each."""

    system: System
    density: Density
    compound: Compound
    beat: str | None
    grouping: Grouping | None
    table: WordTable
    rests: RestWords
    origins: tuple[tuple[str, str], ...]


@dataclass(frozen=True)
class CountChoices:
    """All layers that bear on a piece. ``hands`` by right, left, both; ``bars`` by the bar's name; ``naming``: what the
    studio calls lengths."""

    studio: CountChoice = field(default_factory=CountChoice)
    level: CountChoice = field(default_factory=CountChoice)
    piece: CountChoice = field(default_factory=CountChoice)
    hands: Mapping[str, CountChoice] = field(default_factory=dict)
    bars: Mapping[str, CountChoice] = field(default_factory=dict)
    syllables: tuple[Syllable, ...] = ()
    naming: LengthNaming = LengthNaming.AMERICAN

    def layers(self, hand: str, measure: str | None) -> list[tuple[str, CountChoice]]:
        """The layers for one bar of one line (``measure`` ``None``: any bar without its own)."""
        return [
            ("default", DEFAULT_CHOICE),
            ("studio", self.studio),
            ("level", self.level),
            ("piece", self.piece),
            ("hand", self.hands.get(hand, CountChoice())),
            ("bar", self.bars.get(measure, CountChoice()) if measure is not None else CountChoice()),
        ]

    def resolve(self, hand: str, measure: str | None = None) -> Resolved:
        """How a bar of a line is counted."""
        if not hasattr(self, "_resolved"):
            object.__setattr__(self, "_resolved", {})
        known: dict[tuple[str, str | None], Resolved] = self._resolved  # type: ignore[attr-defined]
        key = (hand, measure if measure in self.bars else None)
        if key not in known:
            known[key] = self._resolve(*key)
        return known[key]

    def _resolve(self, hand: str, measure: str | None) -> Resolved:
        choice, origins = CountChoice(), {}
        for name, layer in self.layers(hand, measure):
            choice = layer.over(choice)
            origins.update({f.name: name for f in fields(layer) if getattr(layer, f.name) is not None})
        assert choice.system
        assert choice.density
        assert choice.compound
        assert choice.rests
        return Resolved(
            choice.system,
            choice.density,
            choice.compound,
            choice.beat,
            choice.grouping,
            word_table(choice.system, choice.words or ()),
            choice.rests,
            tuple(origins.items()),
        )

    def syllables_of(self, hand: str) -> dict[tuple[str, Fraction], str]:
        """(bar, offset) → word said otherwise in a line: its own, over what holds for both hands."""
        return {
            (s.measure, s.offset_quarters): s.say for which in (BOTH, hand) for s in self.syllables if s.hand == which
        }


def choose(
    *,
    system: System | None = None,
    density: Density | None = None,
    compound: Compound | None = None,
    beat: str | None = None,
    grouping: Grouping | None = None,
    words: WordChanges | None = None,
    rests: RestWords | None = None,
) -> CountChoices:
    """Choices for a piece alone, as a shell gives them."""
    return CountChoices(piece=CountChoice(system, density, compound, beat, grouping, words, rests))
