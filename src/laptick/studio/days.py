"""Days, as they are where the studio is: one more every day, whatever the clock does in spring and autumn.

Stored instants are UTC; a day is a date's ordinal in the studio's time zone.
"""

from __future__ import annotations

from datetime import UTC, datetime, tzinfo
from zoneinfo import ZoneInfo, available_timezones

from laptick.core.base.errors import OptionError
from laptick.studio.use_case import Studio


def today(studio: Studio) -> int:
    """The day as a number."""
    return local_day(datetime.now(UTC), studio.zone)


def day_of(studio: Studio, at: datetime) -> int:
    """The day of a stored instant."""
    return local_day(at, studio.zone)


def local_day(at: datetime, zone: tzinfo | None) -> int:
    """The day of an instant (UTC where it does not say) in a zone, ``None``: of this machine."""
    return (at if at.tzinfo else at.replace(tzinfo=UTC)).astimezone(zone).date().toordinal()


def start_of(day: int, zone: tzinfo | None) -> datetime:
    """When a day begins, in UTC, as instants are stored."""
    begins = datetime.fromordinal(day)
    aware = begins.replace(tzinfo=zone) if zone is not None else begins.astimezone()
    return aware.astimezone(UTC).replace(tzinfo=None)


def zone_named(name: str) -> ZoneInfo | None:
    """A time zone by its name; empty: this machine's.

    Raises:
        OptionError: there is none of that name.
    """
    if not name:
        return None
    if name not in available_timezones():
        raise OptionError(f"there is no time zone “{name[:64]}”.", where="time_zone", kept="Nothing was changed.")
    return ZoneInfo(name)
