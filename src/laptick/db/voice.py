"""A studio's own recordings of counted words."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import NotFoundError
from laptick.db.engine.connect import Connection, Row

_COLUMNS = "id, reading, spoken, audio, vowel_s, is_used"


@dataclass(frozen=True)
class NewWord:
    """A recording of one word; ``reading``: how it is looked up, ``spoken``: what was said."""

    reading: str
    spoken: str
    audio: bytes
    vowel_s: float


def add_word(connection: Connection, studio_id: int, new: NewWord) -> int:
    """Stores a recording; it is used in place of those before it."""
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE voice_word SET is_used = FALSE WHERE studio_id = %s AND reading = %s", (studio_id, new.reading)
        )
        cursor.execute(
            "INSERT INTO voice_word (studio_id, reading, spoken, audio, vowel_s) VALUES (%s, %s, %s, %s, %s)",
            (studio_id, new.reading, new.spoken, new.audio, new.vowel_s),
        )
        return int(cursor.lastrowid)


def used_words(connection: Connection, studio_id: int) -> list[Row]:
    """The recordings that are heard, one a reading."""
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM voice_word WHERE studio_id = %s AND is_used ORDER BY id", (studio_id,))
        return list({row["reading"]: row for row in cursor.fetchall()}.values())


def own_readings(connection: Connection, studio_id: int) -> dict[str, int]:
    """Reading → the recording of it that is heard."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT reading, MAX(id) AS id FROM voice_word WHERE studio_id = %s AND is_used GROUP BY reading",
            (studio_id,),
        )
        return {row["reading"]: int(row["id"]) for row in cursor.fetchall()}


def latest_ids(connection: Connection, studio_id: int) -> dict[str, int]:
    """Reading → its newest recording, used or not."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT reading, MAX(id) AS id FROM voice_word WHERE studio_id = %s GROUP BY reading", (studio_id,)
        )
        return {row["reading"]: int(row["id"]) for row in cursor.fetchall()}


def get_word(connection: Connection, studio_id: int, word_id: int) -> Row:
    """
    Raises:
        NotFoundError: the studio has no such recording.
    """
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM voice_word WHERE studio_id = %s AND id = %s", (studio_id, word_id))
        row = cursor.fetchone()
    if row is None:
        raise NotFoundError("there is no such recording.", kept="Nothing was changed.")
    return row


def change_word(
    connection: Connection, studio_id: int, word_id: int, *, vowel_s: float | None = None, is_used: bool | None = None
) -> None:
    """Moves a recording's vowel, or takes the recording out of use and back into it."""
    row = get_word(connection, studio_id, word_id)
    with connection.cursor() as cursor:
        if is_used:
            cursor.execute(
                "UPDATE voice_word SET is_used = FALSE WHERE studio_id = %s AND reading = %s",
                (studio_id, row["reading"]),
            )
        cursor.execute(
            "UPDATE voice_word SET vowel_s = %s, is_used = %s WHERE studio_id = %s AND id = %s",
            (
                row["vowel_s"] if vowel_s is None else vowel_s,
                row["is_used"] if is_used is None else is_used,
                studio_id,
                word_id,
            ),
        )
