"""The words of counting, as tables.

A table belongs to a system and maps an *entry* (what is being divided) to the words of its parts.
``{n}`` stands for the number of the beat, ``{m}`` for that of the next one. Teachers change entries
(``triplet=la-li``); a changed table is a table like any other.

Sources: docs/trade.md 2.2 (common practice); *function*: Hoffman, Pelto & White, "Takadimi: a beat-oriented
system of rhythm pedagogy", Journal of Music Theory Pedagogy 10, 1996 (from memory).
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache

from laptick.core.base.errors import OptionError
from laptick.core.base.units import LengthNaming, Quarters, length_name, length_plural


class System(StrEnum):
    """Ways to count."""

    NUMBERS = "numbers"
    BEATS = "beats"
    DURATION = "duration"
    FUNCTION = "function"
    LENGTH = "length"
    HANDS = "hands"
    NAMES = "names"


#: One entry of a word table: what it is for, in a teacher's words, and the words of its parts.
Entry = tuple[str, tuple[str, ...]]

_FILLER: Entry = ("any other part of a beat", ("ta",))

#: System → entry → (meaning, words); lengths in a meaning are in braces, in quarters.
#: The order is the order in which settings show them.
TABLES: dict[System, dict[str, Entry]] = {
    System.NUMBERS: {
        "beat": ("the beat", ("{n}",)),
        "half": ("a beat in two", ("{n}", "&")),
        "triplet": ("a beat in three", ("{n}", "trip", "let")),
        "quarters": ("a beat in four", ("{n}", "e", "&", "a")),
        "over-two": ("a triplet over two beats", ("{n}", "trip", "{m}", "let")),
        "compound": ("a compound beat in its three units", ("{n}", "la", "li")),
        "duplet": ("a compound beat in two", ("{n}", "&")),
        "quadruplet": ("a compound beat in four", ("{n}", "e", "&", "a")),
        "compound-sixths": ("a compound beat in six", ("{n}", "ta", "la", "ta", "li", "ta")),
        "other": _FILLER,
    },
    System.BEATS: {"beat": ("the beat", ("{n}",))},
    System.FUNCTION: {
        "beat": ("the beat", ("ta",)),
        "half": ("a beat in two", ("ta", "di")),
        "triplet": ("a beat in three", ("ta", "ki", "da")),
        "quarters": ("a beat in four", ("ta", "ka", "di", "mi")),
        "over-two": ("a triplet over two beats", ("ta", "da", "ta", "ki")),
        "compound": ("a compound beat in its three units", ("ta", "ki", "da")),
        "duplet": ("a compound beat in two", ("ta", "di")),
        "quadruplet": ("a compound beat in four", ("ta", "ka", "di", "mi")),
        "compound-sixths": ("a compound beat in six", ("ta", "va", "ki", "di", "da", "ma")),
        "fifths": ("a beat in five", ("ta", "ka", "di", "mi", "ti")),
        "other": ("any other part of a beat", ("ti",)),
    },
    System.DURATION: {
        "quarter": ("{1} or longer", ("ta",)),
        "held": ("a held beat that is not divided", ("a",)),
        "held-divided": ("a held place in a divided beat", ("i",)),
        "eighth": ("{1/2}", ("ti",)),
        "sixteenth": ("{1/4} off the {1/2}", ("ri",)),
        "triplet": ("a triplet", ("tri", "o", "la")),
        "syncopa": ("{1/2}, {1}, {1/2}", ("syn", "co", "pa")),
        "rest": ("a rest", ("sh",)),
    },
    System.LENGTH: {
        "long": ("the longer of the two commonest lengths", ("long",)),
        "short": ("the shorter of the two", ("short",)),
        "rest": ("a rest", ("rest",)),
    },
    System.HANDS: {
        "together": ("both hands", ("together",)),
        "left": ("the left hand", ("left",)),
        "right": ("the right hand", ("right",)),
        "rest": ("a rest", ("rest",)),
    },
    System.NAMES: {"rest": ("a rest", ("rest",))},
}


def meaning_of(system: System, entry: str, naming: LengthNaming = LengthNaming.AMERICAN) -> str:
    """What an entry is for, its lengths by name."""
    return re.sub(r"\{([\d/]+)\}", lambda m: length_name(Fraction(m.group(1)), naming), TABLES[system][entry][0])


#: What each system is, one sentence.
SYSTEM_NAMES: dict[System, str] = {
    System.NUMBERS: "numbers: 1 e & a",
    System.BEATS: "the beats alone: 1 2 3",
    System.DURATION: "a syllable for each length: ta ti sh",
    System.FUNCTION: "a syllable for each place: ta ka di mi",
    System.LENGTH: "long and short",
    System.HANDS: "which hand: together, left, right",
    System.NAMES: "the letters of the notes",
}

SYSTEM_WORDS: dict[System, str] = {
    System.NUMBERS: "Numbers: 1 e & a.",
    System.BEATS: "The beats alone: 1 2 3 4.",
    System.DURATION: "A syllable for each length: ta, ti, sh.",
    System.FUNCTION: "A syllable for each place in the beat: ta ka di mi.",
    System.LENGTH: "Long and short.",
    System.HANDS: "Which hand: together, left, right.",
    System.NAMES: "The letters of the notes, in rhythm.",
}

#: Systems that say a word for each place of the meter; the others one for each thing that happens.
PLACE_SYSTEMS = frozenset({System.NUMBERS, System.BEATS, System.FUNCTION, System.DURATION})

#: Published variants of entries (docs/trade.md 2.2), offered beside the defaults.
VARIANTS: dict[System, dict[str, tuple[tuple[str, ...], ...]]] = {
    System.NUMBERS: {
        "triplet": (("{n}", "la", "li"), ("{n}", "&", "a")),
        "compound": (("{n}", "&", "a"),),
    }
}

#: The last two counts of a count-in of three or more beats.
READY_GO: tuple[str, str] = ("ready", "go")

#: The word for the half of a beat in a count-in.
AND = "&"

#: A place in the beat → (entry, part) whose word it has, for simple and for compound beats; finer places
#: of a compound beat are those of its sixths.
_SIMPLE_PLACES: dict[Fraction, tuple[str, int]] = {
    Fraction(1, 2): ("half", 1),
    Fraction(1, 3): ("triplet", 1),
    Fraction(2, 3): ("triplet", 2),
    Fraction(1, 4): ("quarters", 1),
    Fraction(3, 4): ("quarters", 3),
}
_COMPOUND_PLACES: dict[Fraction, tuple[str, int]] = {
    Fraction(1, 3): ("compound", 1),
    Fraction(2, 3): ("compound", 2),
    Fraction(1, 2): ("duplet", 1),
    Fraction(1, 4): ("quadruplet", 1),
    Fraction(3, 4): ("quadruplet", 3),
    Fraction(1, 6): ("compound-sixths", 1),
    Fraction(5, 6): ("compound-sixths", 5),
}

#: Entry by the number of equal parts that a beat is said in.
SIMPLE_ENTRIES: dict[int, str] = {1: "beat", 2: "half", 3: "triplet", 4: "quarters"}
COMPOUND_ENTRIES: dict[int, str] = {1: "beat", 2: "duplet", 3: "compound", 4: "quadruplet", 6: "compound-sixths"}

#: A changed word is at most this long, and holds no line break.
MAX_WORD = 16


@dataclass(frozen=True, eq=False)
class WordTable:
    """The words of one system as they are said in one bar. Equal tables are one object (``word_table``)."""

    system: System
    entries: tuple[tuple[str, tuple[str, ...]], ...]

    def words(self, entry: str) -> tuple[str, ...]:
        for name, words in self.entries:
            if name == entry:
                return words
        return TABLES[self.system].get(entry, _FILLER)[1]

    def __contains__(self, entry: str) -> bool:
        return any(name == entry for name, _ in self.entries)

    def parts(self, parts: int, is_compound: bool) -> tuple[str, ...]:
        """The words of a beat said in equal parts; ``{n}`` still in them."""
        entry = (COMPOUND_ENTRIES if is_compound else SIMPLE_ENTRIES).get(parts, "fifths" if parts == 5 else "")
        if entry in self:
            return self.words(entry)
        return self.words("beat") + self.words("other") * (parts - 1)

    def place(self, inside: Fraction, is_compound: bool) -> str:
        """The word of any place in a beat (0 is the beat itself)."""
        if inside == 0:
            return self.words("beat")[0]
        found = (_COMPOUND_PLACES if is_compound else _SIMPLE_PLACES).get(inside)
        if found is None or found[0] not in self:
            return self.words("other")[0]
        return self.words(found[0])[found[1]]


@lru_cache(maxsize=256)
def word_table(system: System, changes: tuple[tuple[str, tuple[str, ...]], ...] = ()) -> WordTable:
    """The system's table with ``changes``: ``system:entry`` and all its words; those of other systems are
    passed over, so that one layer can hold the words of several."""
    entries = {name: words for name, (_, words) in TABLES[system].items()}
    for key, words in changes:
        owner, _, name = key.partition(":")
        if owner == system and name in entries and len(words) == len(entries[name]):
            entries[name] = words
    return WordTable(system, tuple(entries.items()))


def parse_words(texts: Iterable[str], system: System) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """``["triplet=la-li"]`` → changed entries of a system. The beat's own word may be left out: ``la-li`` are the
    words after the number.

    Raises:
        OptionError: an entry that the system does not have, or too few or too many words.
    """
    return tuple(read_change(*_split(text), system) for text in texts)


def _split(text: str) -> tuple[str, list[str]]:
    name, equals, value = text.partition("=")
    if not equals or not value:
        raise OptionError(f"“{text[:40]}” should read like triplet=la-li.", where="words")
    return name.strip(), value.split("-")


def read_change(name: str, words: list[str], system: System) -> tuple[str, tuple[str, ...]]:
    """One changed entry (``system:entry``), its first word put before it where only the others are given."""
    table = TABLES[system]
    if name not in table:
        raise OptionError(f"“{system}” has no words for “{name[:40]}”; it has {', '.join(table)}.", where="words")
    own = table[name][1]
    given = [" ".join(word.split()) for word in words]
    if any(not word or len(word) > MAX_WORD for word in given):
        raise OptionError(f"each word of “{name}” should have 1 to {MAX_WORD} letters.", where="words")
    if len(given) == len(own) - 1:
        given = [own[0], *given]
    if len(given) != len(own):
        rest = f", or {len(own) - 1} after the first" if len(own) > 1 else ""
        raise OptionError(f"“{name}” takes {len(own)} word(s){rest}; {len(given)} are given.", where="words")
    return f"{system}:{name}", tuple(_guarded(word) for word in given)


def _guarded(word: str) -> str:
    """Braces only as the number's place: a typed word is text, not a pattern."""
    if word in ("{n}", "{m}"):
        return word
    return word.replace("{", "").replace("}", "") or "–"


def numbered(word: str, number: str, following: str = "") -> str:
    """``{n}`` and ``{m}`` filled in."""
    return word.replace("{n}", number).replace("{m}", following)


def division_name(
    part_quarters: Quarters, parts: int, beat_division: int, naming: LengthNaming = LengthNaming.AMERICAN
) -> str:
    """What a division of the beat is called when a change of it is announced.

    ``part_quarters`` is the length of one part, ``parts`` their number in a beat that by itself
    divides in ``beat_division``.
    """
    if beat_division == 2 and parts == 3:
        return "triplets"
    if beat_division == 3 and parts in (2, 4):
        return "duplets" if parts == 2 else "quadruplets"
    if part_quarters in NAMED_PARTS:
        return length_plural(part_quarters, naming)
    return TUPLET_NAMES.get(parts, f"{parts} to the beat")


#: Parts of a beat that are called by their length alone.
NAMED_PARTS: frozenset[Quarters] = frozenset(
    {Fraction(2), Fraction(3, 2), Fraction(1), Fraction(1, 2), Fraction(1, 4), Fraction(1, 8), Fraction(1, 16)}
)

TUPLET_NAMES: dict[int, str] = {5: "quintuplets", 6: "sextuplets", 7: "septuplets", 9: "nonuplets"}

#: Two divisions in one beat at once.
MIXED_NAMES: dict[tuple[int, ...], str] = {
    (2, 3): "three against two",
    (3, 4): "four against three",
    (2, 5): "five against two",
    (3, 5): "five against three",
}
