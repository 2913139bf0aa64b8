"""What a student answered to questions about a piece."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

from laptick.db.engine.connect import Connection


@dataclass(frozen=True)
class NewAnswer:
    kind: str
    question: str
    given: Sequence[str]
    is_right: bool


def add_answer(connection: Connection, studio_id: int, piece_id: int, new: NewAnswer) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO answer (studio_id, piece_id, kind, question, given, is_right) VALUES (%s, %s, %s, %s, %s, %s)",
            (studio_id, piece_id, new.kind, new.question[:100], json.dumps(list(new.given)), new.is_right),
        )


def last_answers(connection: Connection, studio_id: int, piece_id: int) -> dict[str, dict[str, tuple[bool, int]]]:
    """Kind → question → whether its last answer was right, and a number that is greater for later answers."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT id, kind, question, is_right FROM answer WHERE id IN (SELECT MAX(a.id) FROM answer a"
            " WHERE a.studio_id = %s AND a.piece_id = %s GROUP BY a.kind, a.question) AND studio_id = %s",
            (studio_id, piece_id, studio_id),
        )
        found: dict[str, dict[str, tuple[bool, int]]] = {}
        for row in cursor.fetchall():
            found.setdefault(row["kind"], {})[row["question"]] = (bool(row["is_right"]), int(row["id"]))
        return found
