"""All that happened in a studio, so many days later: every instant and day of what travels (``facts``)."""

from __future__ import annotations

from laptick.db.engine.connect import Connection
from laptick.db.moving.facts import MOVED, RUNG_EVENT, Kind


def newest_day(connection: Connection, studio_id: int) -> int | None:
    """The last day on which something happened at a rung."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT MAX(day) AS day FROM rung_event WHERE studio_id = %s", (studio_id,))
        row = cursor.fetchone()
    return None if row is None or row["day"] is None else int(row["day"])


def move_days(connection: Connection, studio_id: int, days: int) -> None:
    """Moves them; nothing happened later than now. What rungs have come to (``rung_state``) is not moved: its days
    stand in documents that are not this module's."""
    with connection.cursor() as cursor:
        for moved in MOVED:
            later = [
                f"{one.name} = LEAST({one.name} + INTERVAL %(days)s DAY, UTC_TIMESTAMP(6))"
                if one.kind is Kind.INSTANT
                else f"{one.name} = {one.name} + INTERVAL %(days)s DAY"
                for one in moved.columns
                if one.kind in (Kind.INSTANT, Kind.DAY)
            ]
            if moved is RUNG_EVENT:
                later.append("day = day + %(days)s")
            if later:
                whose = "id" if moved.table == "studio" else "studio_id"
                cursor.execute(
                    f"UPDATE {moved.table} SET {', '.join(later)} WHERE {whose} = %(studio)s",
                    {"days": days, "studio": studio_id},
                )
