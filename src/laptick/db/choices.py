"""Counting choices: one document for the studio, one for each piece that has its own."""

from __future__ import annotations

import json
from typing import Any

from laptick.db.engine.connect import Connection


def get_choices(connection: Connection, studio_id: int, piece_id: int | None) -> dict[str, Any]:
    """The stored document of a piece, or of the studio (``None``); empty where nobody chose."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT document FROM count_choice WHERE studio_id = %s AND piece_key = %s", (studio_id, piece_id or 0)
        )
        row = cursor.fetchone()
    return json.loads(row["document"]) if row else {}


def put_choices(connection: Connection, studio_id: int, piece_id: int | None, document: dict[str, Any]) -> None:
    """Stores a document in place of the one before."""
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO count_choice (studio_id, piece_id, document) VALUES (%s, %s, %s)"
            " ON DUPLICATE KEY UPDATE document = VALUES(document), changed_at = UTC_TIMESTAMP(6)",
            (studio_id, piece_id, json.dumps(document)),
        )
