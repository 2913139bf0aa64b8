"""Days where the studio is: hand-worked instants about midnight and on the days on which clocks are changed.

Source: the time zone database's rules for Europe/Helsinki (+2, +3 from the last Sunday of March to that of October),
America/St_Johns (−3:30, −2:30 in summer) and Pacific/Apia (+13), worked out by hand.
"""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from hypothesis import given
from hypothesis import strategies as st

from laptick.core.base.errors import OptionError
from laptick.studio.days import local_day, start_of, zone_named

HELSINKI = ZoneInfo("Europe/Helsinki")


@pytest.mark.parametrize(
    ("instant", "zone", "day"),
    [
        ("2026-01-14T21:59:59", "Europe/Helsinki", "2026-01-14"),
        ("2026-01-14T22:00:00", "Europe/Helsinki", "2026-01-15"),
        ("2026-07-14T20:59:59", "Europe/Helsinki", "2026-07-14"),
        ("2026-07-14T21:00:00", "Europe/Helsinki", "2026-07-15"),
        ("2026-03-28T22:00:00", "Europe/Helsinki", "2026-03-29"),  # the day of 23 hours begins in winter time …
        ("2026-03-29T20:59:59", "Europe/Helsinki", "2026-03-29"),  # … and ends in summer time
        ("2026-03-29T21:00:00", "Europe/Helsinki", "2026-03-30"),
        ("2026-10-24T21:00:00", "Europe/Helsinki", "2026-10-25"),  # the day of 25 hours
        ("2026-10-25T21:59:59", "Europe/Helsinki", "2026-10-25"),
        ("2026-10-25T22:00:00", "Europe/Helsinki", "2026-10-26"),
        ("2026-01-15T03:29:59", "America/St_Johns", "2026-01-14"),
        ("2026-01-15T03:30:00", "America/St_Johns", "2026-01-15"),
        ("2026-01-14T11:00:00", "Pacific/Apia", "2026-01-15"),
    ],
)
def test_a_day_is_that_of_the_place(instant, zone, day):
    assert local_day(datetime.fromisoformat(instant), ZoneInfo(zone)) == date.fromisoformat(day).toordinal()


@pytest.mark.parametrize(("day", "hours"), [("2026-03-29", 23), ("2026-03-30", 24), ("2026-10-25", 25)])
def test_a_day_is_as_long_as_it_is(day, hours):
    number = date.fromisoformat(day).toordinal()
    assert start_of(number + 1, HELSINKI) - start_of(number, HELSINKI) == timedelta(hours=hours)


@given(st.datetimes(datetime(1980, 1, 1), datetime(2080, 1, 1)), st.sampled_from(["Europe/Helsinki", "Pacific/Apia"]))
def test_an_instant_lies_in_its_day(at, name):
    zone = ZoneInfo(name)
    day = local_day(at, zone)
    assert start_of(day, zone) <= at < start_of(day + 1, zone)
    assert local_day(at.replace(tzinfo=UTC), zone) == day


def test_zones_go_by_their_names():
    assert zone_named("") is None
    assert zone_named("Europe/Helsinki") == HELSINKI
    for wrong in ("Middle-earth/Shire", "../../etc/passwd", "Europe/Helsinki\0"):
        with pytest.raises(OptionError):
            zone_named(wrong)
