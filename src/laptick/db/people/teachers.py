"""Teachers, how often a wrong password was given for them, and who is signed in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from laptick.db.engine.connect import Connection, Row

_COLUMNS = "id, studio_id, name, password_hash, recovery_hash, totp_secret, totp_step, is_demo"


def hold_studio(connection: Connection, studio_id: int) -> bool:
    """Until the transaction ends nobody else holds it; is there such a studio?"""
    with connection.cursor() as cursor:
        cursor.execute("SELECT id FROM studio WHERE id = %s FOR UPDATE", (studio_id,))
        return cursor.fetchone() is not None


def has_teacher(connection: Connection) -> bool:
    """Is there any who has a password, in any studio?"""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM teacher WHERE NOT is_demo LIMIT 1")
        return cursor.fetchone() is not None


def add_teacher(connection: Connection, studio_id: int, name: str, password_hash: str, *, is_demo: bool = False) -> int:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO teacher (studio_id, name, password_hash, is_demo) VALUES (%s, %s, %s, %s)",
            (studio_id, name, password_hash, is_demo),
        )
        return int(cursor.lastrowid or 0)


def teacher_named(connection: Connection, name: str, *, hold: bool = False) -> Row | None:
    """Of any studio: names are nobody else's. ``hold``: nobody else's tries are counted meanwhile."""
    with connection.cursor() as cursor:
        lock = " FOR UPDATE" if hold else ""
        cursor.execute(f"SELECT {_COLUMNS} FROM teacher WHERE name = %s{lock}", (name,))
        return cursor.fetchone()


def demo_teacher(connection: Connection, studio_id: int) -> Row | None:
    with connection.cursor() as cursor:
        cursor.execute(f"SELECT {_COLUMNS} FROM teacher WHERE studio_id = %s AND is_demo LIMIT 1", (studio_id,))
        return cursor.fetchone()


def get_teacher(connection: Connection, studio_id: int, teacher_id: int, *, hold: bool = False) -> Row | None:
    with connection.cursor() as cursor:
        lock = " FOR UPDATE" if hold else ""
        cursor.execute(
            f"SELECT {_COLUMNS} FROM teacher WHERE studio_id = %s AND id = %s{lock}", (studio_id, teacher_id)
        )
        return cursor.fetchone()


def set_password(connection: Connection, teacher_id: int, password_hash: str) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE teacher SET password_hash = %s WHERE id = %s", (password_hash, teacher_id))


def set_recovery(connection: Connection, teacher_id: int, recovery_hash: str | None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE teacher SET recovery_hash = %s WHERE id = %s", (recovery_hash, teacher_id))


def set_second_factor(connection: Connection, teacher_id: int, secret: str | None) -> None:
    with connection.cursor() as cursor:
        cursor.execute("UPDATE teacher SET totp_secret = %s, totp_step = 0 WHERE id = %s", (secret, teacher_id))


def use_step(connection: Connection, teacher_id: int, step: int) -> None:
    """That step of the second factor, and every one before it, is of no use any more."""
    with connection.cursor() as cursor:
        cursor.execute("UPDATE teacher SET totp_step = %s WHERE id = %s", (step, teacher_id))


# -- wrong passwords -------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Tries:
    """``fails`` in a row, and ``until`` when no more is tried."""

    fails: int = 0
    until: datetime | None = None


def get_device(connection: Connection, studio_id: int, teacher_id: int, device_hash: str) -> Tries | None:
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT fails, until FROM sign_in_device WHERE studio_id = %s AND teacher_id = %s AND device_hash = %s",
            (studio_id, teacher_id, device_hash),
        )
        row = cursor.fetchone()
    return None if row is None else Tries(row["fails"], row["until"])


def set_device(connection: Connection, studio_id: int, teacher_id: int, device_hash: str, tries: Tries) -> None:
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO sign_in_device (studio_id, teacher_id, device_hash, fails, until) VALUES (%s, %s, %s, %s, %s)"
            " ON DUPLICATE KEY UPDATE fails = VALUES(fails), until = VALUES(until)",
            (studio_id, teacher_id, device_hash, tries.fails, tries.until),
        )


def forget_devices(connection: Connection, studio_id: int, teacher_id: int) -> None:
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM sign_in_device WHERE studio_id = %s AND teacher_id = %s", (studio_id, teacher_id))
