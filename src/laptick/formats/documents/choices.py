"""Counting choices as documents, as they are stored and sent: layers by name, every field optional.

``{"system", "density", "compound", "beat", "grouping": "3+2", "rests",
"words": {"numbers:triplet": ["{n}", "la", "li"]}}``.
A studio's document holds ``studio``, ``levels`` and ``length_names``; a piece's ``piece``, ``hands``, ``bars`` and
``syllables``.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum
from typing import Any, TypeVar

from laptick.core.base.errors import OptionError
from laptick.core.base.units import LengthNaming, parse_quarters
from laptick.core.counting.choices import (
    BOTH,
    Compound,
    CountChoice,
    CountChoices,
    Density,
    RestWords,
    Syllable,
    WordChanges,
)
from laptick.core.counting.word_tables import MAX_WORD, TABLES, System, read_change
from laptick.core.score.meter import BEAT_CHOICES, parse_grouping

Document = Mapping[str, Any]
_Named = TypeVar("_Named", bound=StrEnum)

#: Stated limits on one piece's own choices.
MAX_SYLLABLES, MAX_BARS = 4000, 4000


def choice_of(document: Document | None, *, where: str = "choice") -> CountChoice:
    """One layer.

    Raises:
        OptionError: an unknown value; ``where`` names its place in the document.
    """
    if not document:
        return CountChoice()
    system = _named(System, document, "system", where)
    grouping = document.get("grouping")
    beat = document.get("beat")
    if beat is not None and beat not in BEAT_CHOICES:
        raise OptionError(f"the beat “{str(beat)[:20]}” is unknown.", where=f"{where}.beat")
    return CountChoice(
        system,
        _named(Density, document, "density", where),
        _named(Compound, document, "compound", where),
        beat,
        parse_grouping(grouping) if grouping else None,
        _words(document.get("words"), system, where),
        _named(RestWords, document, "rests", where),
    )


def _named(kind: type[_Named], document: Document, name: str, where: str) -> _Named | None:
    value = document.get(name)
    if value is None:
        return None
    try:
        return kind(value)
    except ValueError:
        known = ", ".join(kind)
        raise OptionError(f"“{str(value)[:20]}” is not one of {known}.", where=f"{where}.{name}") from None


def _words(words: Any, system: System | None, where: str) -> WordChanges | None:
    """Changed entries, ``system:entry`` or plain: then of the layer's own system, or the first that has it."""
    if not words:
        return None
    changes = []
    for key, value in words.items():
        owner, _, entry = str(key).rpartition(":")
        try:
            changes.append(read_change(entry, list(value), _owner(owner, entry, system)))
        except OptionError as error:
            raise OptionError(error.what, where=f"{where}.words.{key}") from None
    return tuple(changes)


def _owner(named: str, entry: str, system: System | None) -> System:
    if named in set(System):
        return System(named)
    if system is not None:
        return system
    return next((one for one in System if entry in TABLES[one]), System.NUMBERS)


def choices_of(studio: Document | None, piece: Document | None, level: str) -> CountChoices:
    """All layers that bear on a piece, from the two stored documents."""
    of_studio, of_piece = studio or {}, piece or {}
    syllables = of_piece.get("syllables") or ()
    bars = of_piece.get("bars") or {}
    if len(syllables) > MAX_SYLLABLES or len(bars) > MAX_BARS:
        raise OptionError(f"a piece takes up to {MAX_SYLLABLES} changed syllables.", where="syllables")
    return CountChoices(
        choice_of(of_studio.get("studio"), where="studio"),
        choice_of((of_studio.get("levels") or {}).get(level), where=f"levels.{level}"),
        choice_of(of_piece.get("piece"), where="piece"),
        {hand: choice_of(value, where=f"hands.{hand}") for hand, value in (of_piece.get("hands") or {}).items()},
        {bar: choice_of(value, where=f"bars.{bar}") for bar, value in bars.items()},
        tuple(_syllable(value, index) for index, value in enumerate(syllables)),
        naming_of(of_studio),
    )


def naming_of(studio: Document | None) -> LengthNaming:
    """What a studio calls lengths; American where nobody chose."""
    return _named(LengthNaming, studio or {}, "length_names", "studio") or LengthNaming.AMERICAN


def _syllable(value: Document, index: int) -> Syllable:
    where = f"syllables[{index}]"
    try:
        offset = parse_quarters(value["offset"], where=f"{where}.offset")
        hand, say = str(value.get("hand") or BOTH), " ".join(str(value["say"]).split())
        measure = str(value["measure"])
    except (KeyError, ValueError, ZeroDivisionError):
        raise OptionError("a changed syllable needs a bar, an offset and a word.", where=where) from None
    if not 1 <= len(say) <= MAX_WORD:
        raise OptionError(f"a word should have 1 to {MAX_WORD} letters.", where=f"{where}.say")
    return Syllable(measure, offset, hand, say)
