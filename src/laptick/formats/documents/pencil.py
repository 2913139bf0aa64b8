"""Pencilled changes as documents, as they are stored and sent.

``{"key": "3", "kind": "pitch", "note": {"id": "n12", "measure": "4", "offset": "1/2", "name": "F4"}, "pitch": "F♯4"}``:
the fields of the change's class, positions as fractions, hands and marks by name.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import fields
from enum import StrEnum
from fractions import Fraction
from typing import Any, get_args, get_type_hints

from laptick.core.base.errors import OptionError
from laptick.core.base.units import parse_quarters
from laptick.core.editing.changes import Change, NoteRef, PencilChange, Spot
from laptick.core.score.score import Hand, MarkKind

Document = Mapping[str, Any]

#: Kind → class of change.
KINDS: dict[str, type[Change]] = {kind.kind: kind for kind in get_args(Change)}

#: Stated limit on any one text in a change.
MAX_TEXT = 200


def changes_of(documents: Sequence[Document]) -> tuple[PencilChange, ...]:
    """Stored changes, in order.

    Raises:
        OptionError: one that is not understood; ``where`` names its place.
    """
    return tuple(change_of(document, where=f"pencil[{index}]") for index, document in enumerate(documents))


def change_of(document: Document, *, where: str = "change") -> PencilChange:
    kind = KINDS.get(str(document.get("kind")))
    if kind is None:
        raise OptionError(
            f"“{str(document.get('kind'))[:20]}” is no change the pencil can make.", where=f"{where}.kind"
        )
    hints = get_type_hints(kind)
    given = {}
    for field in fields(kind):
        if document.get(field.name) is not None:
            try:
                given[field.name] = _read(hints[field.name], document[field.name])
            except (KeyError, ValueError, TypeError, AttributeError, ZeroDivisionError):
                raise OptionError(f"“{field.name}” is not as it should be.", where=f"{where}.{field.name}") from None
    try:
        return PencilChange(str(document.get("key") or ""), kind(**given))
    except TypeError:
        missing = next(f.name for f in fields(kind) if f.name not in given)
        raise OptionError(f"“{missing}” is missing.", where=f"{where}.{missing}") from None


def _read(kind: Any, value: Any) -> Any:
    if kind is NoteRef:
        return NoteRef(
            _text(value["id"]),
            _text(value.get("measure")),
            parse_quarters(value.get("offset") or "0"),
            _text(value.get("name")),
        )
    if kind is Spot:
        return Spot(_text(value["measure"]), parse_quarters(value["offset"]))
    if kind is Fraction:
        return parse_quarters(value)
    if kind in (bool, int):
        if not isinstance(value, kind):
            raise ValueError(value)
        return value
    if kind is MarkKind:
        return MarkKind(value)
    if kind is Hand or kind == (Hand | None):
        return Hand(value)
    if kind == tuple[str, ...]:
        return tuple(_text(one) for one in value)
    return _text(value)


def _text(value: Any) -> str:
    return str(value or "")[:MAX_TEXT]


def document_of(change: PencilChange) -> dict[str, Any]:
    """The change as it is stored."""
    inner = change.change
    values = {field.name: _write(getattr(inner, field.name)) for field in fields(inner)}
    return {"key": change.key, "kind": inner.kind, **values}


def _write(value: Any) -> Any:
    if isinstance(value, NoteRef):
        return {"id": value.id, "measure": value.measure, "offset": str(value.offset_quarters), "name": value.name}
    if isinstance(value, Spot):
        return {"measure": value.measure, "offset": str(value.offset_quarters)}
    if isinstance(value, Fraction):
        return str(value)
    if isinstance(value, StrEnum):
        return value.value
    return list(value) if isinstance(value, tuple) else value
