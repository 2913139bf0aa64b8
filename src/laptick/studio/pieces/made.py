"""A piece as the drill that it was made as: where its hands meet."""

from __future__ import annotations

from laptick.core.base.errors import LapTickError
from laptick.core.drills.drill import Drill
from laptick.formats.drills import make_drill
from laptick.studio.pieces.open_piece import Piece


def ratio_of(piece: Piece) -> Drill | None:
    """The ratio scale that a piece is; ``None`` where it is another piece, was changed since it was made, or what is
    stored of it is damaged."""
    made = piece.drill_document
    if not isinstance(made, dict) or made.get("kind") != "ratio" or piece.pencil:
        return None
    try:
        return make_drill("ratio", {n: str(value) for n, value in made.items() if n != "kind"}, lambda _: piece.score)
    except LapTickError:
        return None
