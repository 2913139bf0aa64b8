"""The pencil as the API gives it: the written notes, rests and marks, and what was changed."""

from __future__ import annotations

from fractions import Fraction

from laptick.api.schemas.writing import pencil as schemas
from laptick.api.views.places import place_text
from laptick.core.base.units import LENGTH_NAMES, LengthNaming, Quarters, length_name
from laptick.core.editing.changes import DYNAMICS, ERASABLE, HAIRPINS, SHOWN_BY_TEXT, PencilChange, Spot, noted
from laptick.core.editing.pencil import Outcome
from laptick.core.score.score import MarkKind, Note, Rest, Score
from laptick.studio.pieces.pencil import ShownPencil


def pencil_public(shown: ShownPencil) -> schemas.PencilPublic:
    piece = shown.piece
    score, naming, changes = piece.score, piece.naming, piece.changes
    return schemas.PencilPublic(
        version=piece.pencil_version_id,
        can_undo=shown.can_undo,
        can_redo=shown.can_redo,
        changes=[_change(score, one, outcome) for one, outcome in zip(changes, piece.pencilled.outcomes, strict=True)],
        items=_items(score, naming, {name for one in changes for name in noted(one)}),
        marks=[
            _mark(score, mark.kind, mark.onset_quarters, mark.text, mark.note_id)
            for mark in score.marks
            if mark.kind in ERASABLE
        ],
        lengths=[schemas.LengthPublic(quarters=str(each), name=length_name(each, naming)) for each in LENGTH_NAMES],
        dynamics=list(DYNAMICS),
        hairpins=list(HAIRPINS),
    )


def _change(score: Score, one: PencilChange, outcome: Outcome) -> schemas.PencilledChange:
    onset = _onset(score, outcome.at)
    return schemas.PencilledChange(
        key=one.key,
        kind=one.change.kind,  # type: ignore[arg-type]
        words=outcome.words,
        place_text=f"bar {outcome.at.measure}" if onset is None else place_text(score, onset),
        onset_quarters=float(onset or 0),
        problem=outcome.problem,
    )


def _onset(score: Score, at: Spot) -> Quarters | None:
    measure = next((m for m in score.measures if m.number == at.measure), None)
    return None if measure is None else measure.start_quarters + at.offset_quarters


def _items(score: Score, naming: LengthNaming, pencilled: set[str]) -> list[schemas.WrittenItem]:
    """Every note and rest in reading order: by time, the right hand first, the highest note first."""
    fingerings: dict[str, list[str]] = {}
    for mark in score.marks:
        if mark.kind is MarkKind.FINGERING and mark.note_id is not None:
            fingerings.setdefault(mark.note_id, []).append(mark.text)
    starts = {(n.hand, n.pitch, n.onset_quarters) for n in score.notes if not n.is_grace}
    texts: dict[Quarters, str] = {}

    def item(one: Note | Rest) -> schemas.WrittenItem:
        measure = score.measures[one.measure_index]
        onset = one.onset_quarters
        if onset not in texts:
            texts[onset] = place_text(score, onset)
        note = one if isinstance(one, Note) else None
        return schemas.WrittenItem(
            id=one.id,
            is_rest=note is None,
            is_grace=note is not None and note.is_grace,
            is_pencilled=one.id.partition("+")[0] in pencilled,
            hand=one.hand,
            name=note.name if note else "",
            measure=measure.number,
            offset=str(onset - measure.start_quarters),
            end_offset=str(one.end_quarters - measure.start_quarters),
            onset_quarters=float(onset),
            length_quarters=str(one.duration_quarters),
            length_name=length_name(one.duration_quarters, naming),
            is_tied=note is not None and note.tied_onward,
            can_tie=note is not None and not note.is_grace and (note.hand, note.pitch, note.end_quarters) in starts,
            fingerings=sorted(fingerings.get(one.id, []), key=lambda text: text.startswith("/")),
            place_text=texts[onset],
        )

    every: list[Note | Rest] = [*score.notes, *score.rests]
    every.sort(key=_reading_order)
    return [item(one) for one in every]


def _reading_order(one: Note | Rest) -> tuple[Quarters, bool, bool, int]:
    is_grace, pitch = (one.is_grace, one.pitch or 0) if isinstance(one, Note) else (False, 0)
    return one.onset_quarters, one.hand != "right", not is_grace, -pitch


def _mark(score: Score, kind: MarkKind, onset: Quarters, text: str, note_id: str | None) -> schemas.WrittenMark:
    measure = score.measure_at(onset)
    shown = f" {text.lstrip('/')}" if kind in SHOWN_BY_TEXT else ""
    return schemas.WrittenMark(
        mark=kind,
        text=text,
        words=f"{ERASABLE[kind]}{shown}",
        measure=measure.number,
        offset=str(Fraction(onset - measure.start_quarters)),
        note_id=note_id,
        place_text=place_text(score, onset),
        onset_quarters=float(onset),
    )
