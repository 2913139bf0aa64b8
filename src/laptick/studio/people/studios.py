"""The studio itself: what it is called, and where its days are."""

from __future__ import annotations

from dataclasses import dataclass

from laptick.core.base.errors import OptionError
from laptick.db.people import studios as db
from laptick.studio.days import zone_named
from laptick.studio.use_case import Studio, use_case


@dataclass(frozen=True)
class StudioFacts:
    """``time_zone``: a name of the time zone database; empty: this machine's; ``sound_days``: sound that is kept goes
    after so many days, ``None``: not by itself."""

    name: str
    time_zone: str
    sound_days: int | None = None


@use_case
def get_studio(studio: Studio) -> StudioFacts:
    return StudioFacts(**db.get_studio(studio.connection, studio.id))


@use_case
def update_studio(studio: Studio, facts: StudioFacts) -> StudioFacts:
    """
    Raises:
        OptionError: it has no name, or there is no such time zone.
    """
    if not facts.name.strip():
        raise OptionError("a studio has a name.", where="name", kept="Nothing was changed.")
    zone_named(facts.time_zone)
    db.put_studio(studio.connection, studio.id, facts.name.strip(), facts.time_zone)
    db.put_sound_days(studio.connection, studio.id, facts.sound_days)
    return facts
