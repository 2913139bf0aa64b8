"""Edits of a ladder, and what its rungs have come to, as documents, as they are stored and sent.

``{"kind": "move", "rung": "join:1-2:both", "above": null}``: the fields of the edit's class by name.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import MISSING, fields
from enum import StrEnum
from typing import Any, cast, get_type_hints

from laptick.core.base.errors import OptionError
from laptick.core.base.units import MAX_BPM, MIN_BPM
from laptick.core.practice.ladder.edits import EDIT_KINDS, MOST_TOUCH, Edit
from laptick.core.practice.ladder.events import Standing
from laptick.core.practice.ladder.gates import RungState
from laptick.core.practice.ladder.stages import GateKind, Stage
from laptick.core.practice.ladder.tempo_steps import Move, Tempo

Document = Mapping[str, Any]

HANDS = ("right", "left", "both")


def edits_of(documents: Sequence[Document]) -> tuple[Edit, ...]:
    """Stored edits, in order.

    Raises:
        OptionError: one that is not understood; ``where`` names its place.
    """
    return tuple(edit_of(document, where=f"edits[{index}]") for index, document in enumerate(documents))


def edit_of(document: Document, *, where: str = "edit") -> Edit:
    kind = EDIT_KINDS.get(str(document.get("kind")))
    if kind is None:
        raise OptionError(f"“{str(document.get('kind'))[:20]}” is no change of a ladder.", where=f"{where}.kind")
    hints, given = get_type_hints(kind), {}
    for field in fields(kind):
        value = document.get(field.name)
        if value is None:
            if field.default is MISSING:
                raise OptionError(f"“{field.name}” is missing.", where=f"{where}.{field.name}")
            continue
        try:
            given[field.name] = _read(field.name, hints[field.name], value)
        except (ValueError, TypeError):
            raise OptionError(f"“{field.name}” is not as it should be.", where=f"{where}.{field.name}") from None
    return cast(Edit, kind(**given))


def _read(name: str, kind: Any, value: Any) -> Any:
    if kind in (Stage, GateKind):
        return kind(value)
    if kind is int:
        if isinstance(value, bool) or not isinstance(value, int) or not MIN_BPM <= value <= MAX_BPM:
            raise ValueError(value)
        return value
    if not isinstance(value, str) or len(value) > MOST_TOUCH or (name == "hands" and value not in HANDS):
        raise ValueError(value)
    return value


def edit_document(edit: Edit) -> dict[str, Any]:
    """The edit as it is stored."""
    values = {field.name: getattr(edit, field.name) for field in fields(edit)}
    return {"kind": edit.kind} | {n: v.value if isinstance(v, StrEnum) else v for n, v in values.items()}


def standing_document(standing: Standing) -> dict[str, Any]:
    """What a rung has come to, as it is stored."""
    state, tempo = standing.state, standing.tempo
    return {
        "passed": None if state.passed_day is None else [state.passed_day, state.passed_by, state.passed_why],
        "tries": state.tries,
        "last": list(state.last),
        "clean_days": sorted(state.clean_days),
        "today": list(state.today),
        "tempo": None if tempo is None else [tempo.bpm, tempo.target, tempo.failures, tempo.towards],
        "move": standing.move and standing.move.value,
        "fastest_bpm": standing.fastest_bpm,
    }


def standing_of_document(document: Document) -> Standing:
    """What was stored of a rung.

    Raises:
        ValueError, TypeError, KeyError: it is damaged.
    """
    passed, tempo = document["passed"], document["tempo"]
    today, tries_today = document["today"]
    passed_day, passed_by, passed_why = (None, "", "") if passed is None else _passed(*passed)
    state = RungState(
        passed_day,
        passed_by,
        passed_why,
        int(document["tries"]),
        tuple(bool(one) for one in document["last"]),
        frozenset(int(day) for day in document["clean_days"]),
        (int(today), int(tries_today)),
    )
    move = None if document["move"] is None else Move(document["move"])
    fastest = None if document["fastest_bpm"] is None else float(document["fastest_bpm"])
    return Standing(state, None if tempo is None else _tempo(tempo), move, fastest)


def _passed(day: Any, by: Any, why: Any = "") -> tuple[int, str, str]:
    """Rows from before there were reasons have none."""
    return int(day), str(by), str(why)


def _tempo(parts: Sequence[Any]) -> Tempo:
    bpm, target, failures, towards = parts
    return Tempo(int(bpm), int(target), int(failures), None if towards is None else int(towards))
