"""What was made of pieces and is kept, bounded: sheets, engraved pages, sound."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.db.engine.connect import Connection

#: As much is kept for a studio; and a single thing larger than this is not kept at all.
MOST_BYTES, MOST_BYTES_EACH = 256 * 2**20, 48 * 2**20


@dataclass(frozen=True)
class Made:
    media_type: str
    body: bytes


def get_made(connection: Connection, studio_id: int, key: str) -> Made | None:
    """What was made of exactly that, if it is still here."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT media_type, body, used_at < UTC_TIMESTAMP() - INTERVAL 1 HOUR AS is_old FROM made"
            " WHERE studio_id = %s AND made_key = %s",
            (studio_id, key),
        )
        row = cursor.fetchone()
        if row is None:
            return None
        if row["is_old"]:  # written at most once an hour
            cursor.execute(
                "UPDATE made SET used_at = UTC_TIMESTAMP() WHERE studio_id = %s AND made_key = %s", (studio_id, key)
            )
        return Made(row["media_type"], row["body"])


def add_made(connection: Connection, studio_id: int, key: str, made: Made) -> None:
    """Keeps a thing; what was not used for longest makes room for it."""
    if len(made.body) > MOST_BYTES_EACH:
        return
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO made (studio_id, made_key, media_type, body, size) VALUES (%s, %s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE used_at = UTC_TIMESTAMP()",
            (studio_id, key, made.media_type, made.body, len(made.body)),
        )
        # How much all that is as new as each row takes: from where that is too much on, they go.
        cursor.execute(
            "DELETE made FROM made JOIN (SELECT id, SUM(size) OVER (ORDER BY used_at DESC, id DESC) AS upto FROM made"
            " WHERE studio_id = %s) AS newest ON newest.id = made.id WHERE newest.upto > %s",
            (studio_id, MOST_BYTES),
        )
