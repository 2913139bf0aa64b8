"""The studio itself: what it is called, and where its days are."""

from __future__ import annotations

from laptick.db.engine.connect import Connection, Row


def get_studio(connection: Connection, studio_id: int) -> Row:
    """``name``, ``time_zone`` (empty: this machine's), ``sound_days`` (how long sound is kept, ``None``: until it is
    deleted)."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT name, time_zone, sound_days FROM studio WHERE id = %s", (studio_id,))
        return cursor.fetchone() or {"name": "", "time_zone": "", "sound_days": None}


def put_studio(connection: Connection, studio_id: int, name: str, time_zone: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE studio SET name = %s, time_zone = %s WHERE id = %s", (name, time_zone, studio_id))


def put_sound_days(connection: Connection, studio_id: int, days: int | None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE studio SET sound_days = %s WHERE id = %s", (days, studio_id))


def add_studio(connection: Connection, name: str) -> int:
    """A studio, with the student that every one has."""
    with connection.cursor() as cursor:
        cursor.execute("INSERT INTO studio (name) VALUES (%s)", (name,))
        studio_id = int(cursor.lastrowid or 0)
        cursor.execute(
            "INSERT INTO student (studio_id, name, is_built_in) VALUES (%s, 'The student', TRUE)", (studio_id,)
        )
        return studio_id
